"""The light of a scene: scales to pick from, the sun through the sky, and what white it has."""

from __future__ import annotations

import math
from dataclasses import dataclass

from morphe.core.registry import Registry

__all__ = ["LIGHTS", "SKIES", "Light", "Sky", "daylight_ev", "ev100", "sun_white"]

INCIDENT_CONSTANT = 2.5  # lux at EV 0: C = 250 lx s over ISO 100 (ISO 2720, flat receptor)


def ev100(aperture: float, shutter_s: float, iso: float) -> float:
    """Exposure value of settings, referred to ISO 100: log2(N²/t) − log2(ISO/100)."""
    return math.log2(aperture**2 / shutter_s) - math.log2(iso / 100)


@dataclass(frozen=True, slots=True, kw_only=True)
class Light:
    """One entry of the scale: EV at ISO 100, white with its range in kelvin, contrast in stops."""

    key: str
    label: str
    ev: float
    kelvin: float
    kelvin_low: float
    kelvin_high: float
    contrast_stops: float
    is_mains: bool = False


LIGHTS: Registry[Light] = Registry("light")

# Exposure values and contrasts are the usual guide figures; whites by kind of light.
for _key, _label, _ev, _kelvin, _low, _high, _contrast, _mains in (
    ("sand", "Sun on snow or bright sand", 16.0, 5500, 5200, 5800, 10.0, False),
    ("sun", "Sun", 15.0, 5500, 5200, 5800, 9.5, False),
    ("deep-shade", "Sun with deep shade in the frame", 14.5, 5600, 5200, 6500, 11.5, False),
    ("hazy", "Hazy sun", 14.0, 5800, 5500, 6200, 8.5, False),
    ("cloudy", "Bright cloud", 13.0, 6200, 5800, 6500, 8.0, False),
    ("overcast", "Overcast", 12.0, 6500, 6200, 7500, 7.0, False),
    ("shade", "Open shade", 11.5, 7500, 6500, 9000, 7.5, False),
    ("low-sun", "Low sun", 10.5, 4000, 3200, 4800, 11.0, False),
    ("blue-hour", "Blue hour", 3.5, 9000, 7500, 10000, 8.0, False),
    ("window", "Room with a window", 8.0, 5000, 4200, 6000, 13.0, False),
    ("room", "Room, warm lamps", 6.5, 3000, 2700, 3200, 8.0, True),
    ("mixed", "Evening, mixed lamps", 6.0, 3800, 3000, 4800, 10.0, True),
    ("street", "Street at night, warm lamps", 5.0, 2500, 2000, 3000, 12.0, True),
):
    LIGHTS.register(_key)(
        Light(
            key=_key, label=_label, ev=_ev, kelvin=_kelvin, kelvin_low=_low, kelvin_high=_high,
            contrast_stops=_contrast, is_mains=_mains,
        )
    )  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Sky:
    """A sky for the daylight model; `extinction` None means that no direct sun comes through."""

    key: str
    label: str
    extinction: float | None
    base_klx: float
    zenith_klx: float
    power: float
    contrast_stops: float


SKIES: Registry[Sky] = Registry("sky")
SOLAR_KLX = 127.5

# The three skies of the IES daylight availability model; hazy lies half-way.
for _key, _label, _extinction, _base, _zenith, _power, _contrast in (
    ("clear", "Clear", 0.21, 0.8, 15.5, 0.5, 9.5),
    ("hazy", "Hazy", 0.45, 0.55, 30.0, 0.75, 8.5),
    ("cloudy", "Partly cloudy", 0.80, 0.3, 45.0, 1.0, 8.0),
    ("overcast", "Overcast", None, 0.3, 21.0, 1.0, 7.0),
):
    SKIES.register(_key)(
        Sky(key=_key, label=_label, extinction=_extinction, base_klx=_base, zenith_klx=_zenith,
            power=_power, contrast_stops=_contrast)
    )  # fmt: skip

TWILIGHT_END_DEG, TWILIGHT_LUX = -6.0, 3.4  # civil twilight ends at about this much light


def daylight_ev(sky: Sky, elevation_deg: float) -> float:
    """Exposure value at ISO 100 of a grey card lying in daylight.

    Illuminance by the IES model above the horizon, falling evenly in stops through civil twilight below;
    after it the value of its end is given, since lamps decide from there.
    """
    horizon = sky.base_klx * 1000
    if elevation_deg <= 0:
        share = min(elevation_deg / TWILIGHT_END_DEG, 1.0)
        lux = horizon * (TWILIGHT_LUX / horizon) ** share
    else:
        height = math.sin(math.radians(elevation_deg))
        direct = SOLAR_KLX * math.exp(-sky.extinction / height) * height if sky.extinction else 0.0
        lux = 1000 * (direct + sky.base_klx + sky.zenith_klx * height**sky.power)
    return math.log2(lux / INCIDENT_CONSTANT)


def sun_white(sky: Sky, elevation_deg: float) -> tuple[float, float, float]:
    """White of daylight in kelvin, with its range (low, high)."""
    if elevation_deg < -1:
        return 9000, 7500, 10000
    if sky.extinction is None:
        return 6500, 6200, 7500
    if sky.key != "clear":
        return (5800, 5500, 6200) if elevation_deg > 10 else (5000, 4200, 5800)
    if elevation_deg > 25:
        return 5500, 5200, 5800
    warm = 3500 + 2000 * max(elevation_deg, 0) / 25
    return round(warm, -2), round(warm - 500, -2), round(warm + 500, -2)

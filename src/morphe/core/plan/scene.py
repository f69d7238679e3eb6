"""The scene as the plan takes it: every question answered, by the person or by a default."""

from __future__ import annotations

import math
from dataclasses import dataclass

from morphe.core.plan import sun
from morphe.core.plan.kit import Kit
from morphe.core.plan.light import LIGHTS, SKIES, daylight_ev, sun_white
from morphe.core.plan.questions import MEASURED, SKY, Questions
from morphe.core.plan.shots import MOTIONS, SHOTS, Motion, Shot
from morphe.core.plan.wording import clock, stops
from morphe.core.water.daylight import (
    WATER_TYPES,
    DepthLight,
    depth_light,
    path_factor,
    surface_reflection,
)

__all__ = ["DIM_EV", "Scene", "scene_of"]

DIM_EV = 9.0  # below this the light is dim for a small sensor
WATER_CONTRAST_STOPS = 5.0  # clear, shallow water


@dataclass(frozen=True, slots=True, kw_only=True)
class Scene:
    """What the camera will stand before. `ev` is the exposure value at ISO 100 where the subject is."""

    shot: Shot
    ev: float
    light_sentence: str
    kelvin: float
    kelvin_low: float
    kelvin_high: float
    is_mains: bool
    contrast_stops: float
    motion: Motion
    skin: bool
    sun_deg: float | None
    water: DepthLight | None

    @property
    def is_dim(self) -> bool:
        return self.ev < DIM_EV


@dataclass(frozen=True, slots=True, kw_only=True)
class _Surface:
    ev: float
    sentence: str
    white: tuple[float, float, float]
    is_mains: bool
    contrast_stops: float
    sun_deg: float | None = None
    is_overcast: bool = False


def scene_of(questions: Questions, kit: Kit) -> Scene:
    """Fill in what was left open and work out the light at the subject."""
    shot = SHOTS.get(questions.shot)
    above = _surface(questions, shot)
    water = _under_water(questions, shot, kit, above)
    ev, sentence, contrast = above.ev, above.sentence, above.contrast_stops
    if water is not None:
        lost = water.lost_stops + _reflection_stops(above)
        ev, contrast = ev - lost, WATER_CONTRAST_STOPS
        sentence += (
            f" {water.depth_m:g} m down and {water.distance_m:g} m away in {water.water.label.lower()} water "
            f"take {stops(lost)}: EV {ev:.1f}."
        )
    low, high = above.white[1:]
    return Scene(
        shot=shot,
        ev=ev,
        light_sentence=sentence,
        kelvin=above.white[0],
        kelvin_low=low,
        kelvin_high=high,
        is_mains=above.is_mains,
        contrast_stops=questions.contrast_stops or contrast,
        motion=MOTIONS.get(questions.motion or shot.motion),
        skin=shot.skin if questions.skin is None else questions.skin,
        sun_deg=above.sun_deg,
        water=water,
    )


def _surface(questions: Questions, shot: Shot) -> _Surface:
    """The light in air."""
    key = questions.light or shot.light
    if key == SKY:
        return _sky(questions)
    if key == MEASURED:
        scale = LIGHTS.get(shot.light)
        assert questions.measured_ev is not None  # questions see to it
        return _Surface(
            ev=questions.measured_ev,
            sentence=f"Measured: EV {questions.measured_ev:g}.",
            white=(scale.kelvin, scale.kelvin_low, scale.kelvin_high),
            is_mains=scale.is_mains,
            contrast_stops=scale.contrast_stops,
        )
    light = LIGHTS.get(key)
    return _Surface(
        ev=light.ev,
        sentence=f"{light.label}: EV {light.ev:g} by the usual scale.",
        white=(light.kelvin, light.kelvin_low, light.kelvin_high),
        is_mains=light.is_mains,
        contrast_stops=light.contrast_stops,
        is_overcast=key == "overcast",
        sun_deg=_height(questions),
    )


def _height(questions: Questions) -> float | None:
    """Height of the sun: typed, or worked out from place, day and hour."""
    if questions.sun_deg is not None:
        return questions.sun_deg
    if questions.place is None or questions.day is None:
        return None
    return sun.elevation(questions.place, sun.moment(questions.place, questions.day, questions.hour))


def _sky(questions: Questions) -> _Surface:
    sky = SKIES.get(questions.sky)
    height = _height(questions)
    if height is None:  # a place without a day
        height = 45.0
    ev = daylight_ev(sky, height)
    when = f" at {clock(questions.hour)}" if questions.sun_deg is None and questions.day else ""
    return _Surface(
        ev=ev,
        sentence=f"{sky.label} sky, sun at {height:.0f}°{when}: EV {ev:.1f}.",
        white=sun_white(sky, height),
        is_mains=False,
        contrast_stops=sky.contrast_stops + (1.5 if 0 < height < 15 and sky.extinction else 0),
        sun_deg=height,
        is_overcast=sky.extinction is None,
    )


def _under_water(questions: Questions, shot: Shot, kit: Kit, above: _Surface) -> DepthLight | None:
    if not shot.is_under_water:
        return None
    high_sun = above.is_overcast or above.sun_deg is None or above.sun_deg <= 0
    return depth_light(
        WATER_TYPES.get(questions.water),
        depth_m=questions.depth_m or shot.depth_m,
        distance_m=questions.distance_m or shot.distance_m,
        slant=1.0 if high_sun else path_factor(above.sun_deg or 90.0),
        has_lamp=kit.lamp and shot.key == "dive" if questions.lamp is None else questions.lamp,
    )


def _reflection_stops(above: _Surface) -> float:
    """Stops lost at the surface: the direct sun's mirror loss, or a fifteenth of a grey sky."""
    if above.is_overcast or above.sun_deg is None or above.sun_deg <= 0:
        return -math.log2(1 - 0.066)
    return -math.log2(1 - surface_reflection(above.sun_deg))

"""Shutter times: the angle, the blur it leaves, and lamps that flicker with the mains."""

from __future__ import annotations

import math
from dataclasses import dataclass

__all__ = [
    "NOMINAL_DENOMINATORS",
    "AngleChoice",
    "angle_of",
    "band_beat_hz",
    "blur_share",
    "choose_angle",
    "flicker_residual",
    "flicker_safe",
    "time_of",
]

# Times that cameras offer, in thirds of a stop and the usual halves of frame intervals.
NOMINAL_DENOMINATORS = (
    1, 1.3, 1.6, 2, 2.5, 3, 4, 5, 6, 8, 10, 13, 15, 20, 24, 25, 30, 40, 48, 50, 60, 80, 100, 120, 125, 160,
    200, 240, 250, 320, 400, 500, 640, 800, 1000, 1250, 1600, 2000, 2500, 3200, 4000, 5000, 6400, 8000,
    10000, 12800, 16000, 32000,
)  # fmt: skip

DETAIL_SHARE = 0.015  # of the width; longer blur costs detail


def time_of(angle_deg: float, fps: float) -> float:
    """Shutter time in seconds: angle / (360 · fps)."""
    return angle_deg / (360 * fps)


def angle_of(shutter_s: float, fps: float) -> float:
    """Shutter angle in degrees."""
    return 360 * fps * shutter_s


def blur_share(widths_per_s: float, shutter_s: float) -> float:
    """Length of the motion blur as a share of the frame's width."""
    return widths_per_s * shutter_s


def flicker_residual(shutter_s: float, mains_hz: float) -> float:
    """Share of a lamp's modulation (twice the mains) that a shutter leaves: |sinc(f·t)|."""
    x = math.pi * 2 * mains_hz * shutter_s
    return abs(math.sin(x) / x)


def flicker_safe(shutter_s: float, mains_hz: float) -> bool:
    """Whether the shutter spans whole pulses of the light; the cameras' nominal times are rounded."""
    pulses = shutter_s * 2 * mains_hz
    return round(pulses) >= 1 and abs(pulses - round(pulses)) < 0.04 * pulses


def band_beat_hz(fps: float, mains_hz: float) -> float:
    """How fast bands would wander through the picture: |f − round(f / fps)·fps|."""
    f = 2 * mains_hz
    return abs(f - round(f / fps) * fps)


@dataclass(frozen=True, slots=True, kw_only=True)
class AngleChoice:
    """A shutter angle with its reason and the next best one."""

    angle_deg: float
    reason: str
    other_deg: float
    other_reason: str


def choose_angle(steadying: str, *, is_dim: bool, is_fast: bool, surplus_stops: float) -> AngleChoice:
    """Choose the shutter angle by how the picture is steadied.

    `surplus_stops` is the light beyond what 180° takes at base ISO; a school for recorded motion data spends
    it on a faster shutter, down to 90°.
    """
    natural = "half the frame interval gives natural blur"
    if steadying == "in-camera" and (is_dim or is_fast):
        both = is_dim and is_fast
        why = "in dim light" if is_dim else "with fast movement"
        return AngleChoice(
            angle_deg=45 if both else 90,
            reason=f"In-camera stabilisation smears {why} unless the shutter is {'four' if both else 'two'} "
            "times faster than 180°.",
            other_deg=180,
            other_reason=f"on a gimbal: {natural} and needs less light",
        )
    if steadying == "motion-data" and not is_dim and surplus_stops > 0.1:
        return AngleChoice(
            angle_deg=180 / 2 ** min(surplus_stops, 1.0),
            reason="Blur is baked in before the picture is steadied later; there is light to spare for a "
            "faster shutter.",
            other_deg=180,
            other_reason="the school that keeps natural blur and steadies less",
        )
    if steadying == "motion-data":
        reason = f"In dim light {natural}; steady it later with care."
    else:
        reason = f"{natural[0].upper()}{natural[1:]} (180°)."
    return AngleChoice(
        angle_deg=180, reason=reason, other_deg=90, other_reason="crisper single frames, choppier motion"
    )

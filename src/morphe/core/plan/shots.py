"""Kinds of shot: what each assumes when nothing else is said."""

from __future__ import annotations

from dataclasses import dataclass

from morphe.core.registry import Registry

__all__ = ["MOTIONS", "SHOTS", "Motion", "Shot"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Motion:
    """How fast the picture moves: shares of the frame's width that things cross in a second."""

    key: str
    label: str
    widths_per_s: float


MOTIONS: Registry[Motion] = Registry("motion")
for _key, _label, _speed in (
    ("still", "Still", 0.02),
    ("calm", "Calm: the frame is crossed in ten seconds", 0.1),
    ("brisk", "Brisk: crossed in three seconds", 0.33),
    ("fast", "Fast: crossed in one second", 1.0),
):
    MOTIONS.register(_key)(Motion(key=_key, label=_label, widths_per_s=_speed))


@dataclass(frozen=True, slots=True, kw_only=True)
class Shot:
    """A kind of shot with its usual light, motion and subject."""

    key: str
    label: str
    light: str
    motion: str
    skin: bool
    lens: str  # "wide" or "narrow"
    moves: bool  # whether the camera is carried along
    depth_m: float = 0.0
    distance_m: float = 0.0

    @property
    def is_under_water(self) -> bool:
        return self.depth_m > 0


SHOTS: Registry[Shot] = Registry("kind of shot")
for _shot in (
    Shot(key="flight", label="Flight", light="sun", motion="calm", skin=False, lens="wide", moves=True),
    Shot(key="ride", label="Ride", light="sun", motion="fast", skin=False, lens="wide", moves=True),
    Shot(key="walk", label="Walk", light="cloudy", motion="brisk", skin=True, lens="wide", moves=True),
    Shot(key="talk", label="Talk", light="shade", motion="still", skin=True, lens="narrow", moves=False),
    Shot(key="snorkel", label="Snorkel", light="sun", motion="brisk", skin=False, lens="wide", moves=True,
         depth_m=1.5, distance_m=1.5),
    Shot(key="dive", label="Dive", light="sun", motion="calm", skin=False, lens="wide", moves=True,
         depth_m=9.0, distance_m=1.5),
    Shot(key="night", label="Night", light="street", motion="calm", skin=True, lens="wide", moves=True),
):  # fmt: skip
    SHOTS.register(_shot.key)(_shot)

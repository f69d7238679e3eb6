"""A wander of light taken back: its track over time, and how much of it is undone."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.grade.light import Light
from morphe.core.grade.moments import LATEST_S
from morphe.core.grade.param import Param
from morphe.core.grade.step import ColourStep, InHdr
from morphe.core.signal.arrays import Linear

__all__ = ["EvenOut"]

MOST_POINTS = 4000
WIDEST_STOPS = 40.0  # that a track may hold
LIMIT_STOPS = 2.0  # more than this is not undone
FADE = (0.85, 0.98)  # shares of the ceiling between which a darkening fades: clipped light stays as it is
HELD = np.float32(0.5)  # of a darkening, where light clipped: what it was lies anywhere up to white
Point = tuple[float, float, float, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class EvenOut(ColourStep):
    """Undo `amount` percent of a wander of light.

    `track` holds (seconds, red, green, blue) in stops about the clip's mean. Held at a moment it has one
    point; a track with more belongs to no moment and changes nothing. `ceiling` is the brightest light that
    the camera keeps.
    """

    key: ClassVar[str] = "even"
    label: ClassVar[str] = "Light over time"
    in_hdr: ClassVar[InHdr] = InHdr.AS_IS
    works_in: ClassVar[Light] = Light.LINEAR
    params: ClassVar[dict[str, Param]] = {
        "amount": Param(
            low=0, high=100, unit="%", label="Even out", up="evened out", down="", nudge=5, may_move=False
        ),
        "ceiling": Param(low=0.2, high=100, neutral=1, label="Ceiling", up="", down="", may_move=False),
    }

    amount: float = 0.0
    ceiling: float = 1.0
    track: tuple[Point, ...] = ()

    def __post_init__(self) -> None:
        ColourStep.__post_init__(self)
        if len(self.track) > MOST_POINTS:
            raise ColourError(f"A track of light has at most {MOST_POINTS} points.")
        table = np.array(self.track, float).reshape(-1, 4) if self._is_table() else None
        if table is None or not np.isfinite(table).all() or (np.diff(table[:, 0]) <= 0).any():
            raise ColourError("A track of light needs rising seconds with three numbers each.")
        if np.abs(table).max(initial=0) > LATEST_S or np.abs(table[:, 1:]).max(initial=0) > WIDEST_STOPS:
            raise ColourError("A track of light reaches further than any clip is long, or light wanders.")

    def _is_table(self) -> bool:
        return all(isinstance(p, tuple) and len(p) == 4 for p in self.track)

    @property
    def is_neutral(self) -> bool:
        return self.amount == 0 or not self.track

    @property
    def moves(self) -> bool:
        """Whether it does something else at every moment."""
        return self.at_work and len(self.track) > 1

    @property
    def summary(self) -> str:
        return f"{self.amount:g} % evened out" if self.at_work else ""

    def at(self, time_s: float) -> EvenOut:
        """The same, held at a moment."""
        if len(self.track) < 2:
            return self
        table = np.array(self.track)
        values = [float(np.interp(time_s, table[:, 0], table[:, c])) for c in (1, 2, 3)]
        return replace(self, track=((time_s, values[0], values[1], values[2]),))

    def apply(self, picture: Linear) -> Linear:
        if len(self.track) != 1:
            return picture
        stops = -self.amount / 100 * np.clip(self.track[0][1:], -LIMIT_STOPS, LIMIT_STOPS)
        gain = np.exp2(stops).astype(np.float32)
        if gain.max() <= 1e-6 or (gain >= 1).all():
            return picture * gain
        return picture * (gain + (1 - gain) * self._clipped(picture))

    def _clipped(self, picture: Linear) -> Linear:
        """How far each pixel is clipped in the source, 0..1 (..., 1)."""
        low, high = (share * self.ceiling for share in FADE)
        share = np.clip((picture.max(axis=-1, keepdims=True) - low) / (high - low), 0, 1).astype(np.float32)
        return HELD * share * share * (3 - 2 * share)

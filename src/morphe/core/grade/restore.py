"""Water taken back: the veil before things is removed, the light that the water took is given again, and far
water keeps its colour."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum
from typing import ClassVar

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.grade.light import Light
from morphe.core.grade.moments import LATEST_S
from morphe.core.grade.param import Param
from morphe.core.grade.step import ColourStep, InHdr
from morphe.core.signal.arrays import Float, Linear, Plane
from morphe.core.signal.primaries import LUMINANCE_709, Primaries, rgb_to_rgb
from morphe.core.signal.profiles import PROFILES

__all__ = ["CHANNEL_LIMIT", "Restore", "Way"]

_STD = PROFILES.get("std-709")
LUMA = LUMINANCE_709.astype(np.float32)
CHANNEL_LIMIT = 8.0  # stops that a channel may be raised or lowered by
LEAST = np.float32(2.0**-10)  # of light: darker, a colour says nothing
SURE, NOTHING = (
    4.0,
    1.0,
)  # red above the veil, in deviations of noise: from where it is trusted, till where not
WIDEST_TRACK = 2000
_TO_709 = rgb_to_rgb(Primaries.BT2020, Primaries.BT709).T.astype(np.float32)
_TO_2020 = rgb_to_rgb(Primaries.BT709, Primaries.BT2020).T.astype(np.float32)
Channels = tuple[float, float, float]
# Seconds, stops that give back what the water took (R, G, B), light of the veil before the subject (R, G, B).
Moment = tuple[float, float, float, float, float, float, float]


class Way(StrEnum):
    """How colour is brought back. Each has those who swear by it."""

    PHYSICAL = "physical"
    PUSHED = "pushed"
    LEVELS = "levels"
    TONES = "tones"

    @property
    def by_code(self) -> bool:
        """Whether channels are bent by their codes, not by light."""
        return self in (Way.LEVELS, Way.TONES)


@dataclass(frozen=True, slots=True, kw_only=True)
class Restore(ColourStep):
    """Give back what water took.

    Physical: (I - veil) · 2^gains in linear light; where red lies in the `noise`, it is taken from green.
    Colours within `spread` stops of the water's own (`colour`: log2 of R/G and B/G) keep their colour as far
    as `background` says. Other ways bend each channel's code through `tones`: three codes in, three codes
    out. `track` holds more than one moment where the depth changes; held at a moment it has one.
    """

    key: ClassVar[str] = "restore"
    label: ClassVar[str] = "Water"
    in_hdr: ClassVar[InHdr] = InHdr.AS_IS
    works_in: ClassVar[Light] = Light.LINEAR
    params: ClassVar[dict[str, Param]] = {
        "strength": Param(low=0, high=100, unit="%", label="Strength", up="taken back", down="", nudge=5,
            may_move=False),
        "veil": Param(
            low=0, high=150, neutral=100, unit="%", label="Veil removed", up="more",
            down="less", nudge=5, may_move=False,
        ),
        "red": Param(
            low=0, high=150, neutral=100, unit="%", label="Red brought back", up="more",
            down="less", nudge=5, may_move=False,
        ),
        "background": Param(
            low=0, high=100, unit="%", label="Far water keeps its colour", up="of far water kept", down="",
            nudge=5, may_move=False,
        ),
    }  # fmt: skip

    strength: float = 0.0
    veil: float = 100.0
    red: float = 100.0
    background: float = 0.0
    way: str = Way.PHYSICAL
    track: tuple[Moment, ...] = ()
    colour: tuple[float, float] = (0.0, 0.0)
    spread: float = 0.8
    vivid: float = 1.0
    noise: float = 0.0
    tones: tuple[tuple[Channels, Channels], ...] = ()

    def __post_init__(self) -> None:
        ColourStep.__post_init__(self)
        if self.way not in tuple(Way):
            raise ColourError(f"Water is taken back in one of the ways {', '.join(Way)}, not {self.way!r}.")
        self._check_track()
        limits = {"spread": (0.05, 4.0), "vivid": (0.2, 4.0), "noise": (0.0, 1.0)}
        for name, (low, high) in limits.items():
            if not low <= getattr(self, name) <= high:
                raise ColourError(f"Water: {name} must lie between {low:g} and {high:g}.")
        if len(self.colour) != 2 or not all(abs(c) <= 2 * CHANNEL_LIMIT for c in self.colour):
            raise ColourError("The colour of water is two numbers in stops.")
        self._check_tones()

    def _check_track(self) -> None:
        if len(self.track) > WIDEST_TRACK or not all(
            isinstance(m, tuple) and len(m) == 7 for m in self.track
        ):
            raise ColourError(f"A track of water has at most {WIDEST_TRACK} moments of seven numbers.")
        table = np.array(self.track, float).reshape(-1, 7)
        if not np.isfinite(table).all() or (np.diff(table[:, 0]) <= 0).any():
            raise ColourError("A track of water needs rising seconds with three gains and three veils each.")
        if (
            np.abs(table[:, 0]).max(initial=0) > LATEST_S
            or np.abs(table[:, 1:4]).max(initial=0) > CHANNEL_LIMIT
        ):
            raise ColourError(
                f"A track of water reaches further than a clip, or than {CHANNEL_LIMIT:g} stops."
            )
        if not ((table[:, 4:] >= 0) & (table[:, 4:] <= 1)).all():
            raise ColourError("The veil of water is light between 0 and 1.")

    def _check_tones(self) -> None:
        if self.tones and len(self.tones) != 3:
            raise ColourError("Tones of water need a curve for each channel.")
        for come, go in self.tones:
            codes = np.array([come, go], float)
            if codes.shape != (2, 3) or not np.isfinite(codes).all() or np.abs(codes).max() > 8:
                raise ColourError("A curve of water is three codes in and three codes out.")
            if (np.diff(codes[0]) < 1e-3).any() or (np.diff(codes[1]) < 0).any():
                raise ColourError("The codes of a curve of water rise.")

    @property
    def is_neutral(self) -> bool:
        return self.strength == 0 or not (self.tones if Way(self.way).by_code else self.track)

    @property
    def moves(self) -> bool:
        return self.at_work and len(self.track) > 1

    @property
    def summary(self) -> str:
        return f"{self.strength:g} % taken back" if self.at_work else ""

    def at(self, time_s: float) -> Restore:
        if len(self.track) < 2:
            return self
        table = np.array(self.track)
        now = [float(np.interp(time_s, table[:, 0], table[:, c])) for c in range(1, 7)]
        return replace(self, track=((time_s, now[0], now[1], now[2], now[3], now[4], now[5]),))

    def apply(self, picture: Linear) -> Linear:
        share = np.float32(self.strength / 100)
        if Way(self.way).by_code:
            codes = np.asarray(_STD.encode(picture), np.float32)
            return np.asarray(_STD.decode(codes + share * (self._bent(codes) - codes)), np.float32)
        if len(self.track) != 1:
            return picture
        near = self._near(picture, share)
        return near if self.background == 0 else self._with_far_water(picture, near, share)

    def apply_wide(self, picture: Linear) -> Linear:
        return np.asarray(self.apply(picture @ _TO_709) @ _TO_2020, np.float32)

    def _near(self, picture: Linear, share: np.float32) -> Linear:
        """The near subject without water."""
        gains, veil = np.array(self.track[0][1:4]), np.array(self.track[0][4:], np.float32)
        gains[0] = gains[1] + (gains[0] - gains[1]) * self.red / 100
        gain = np.exp2(share * gains).astype(np.float32)
        seen = picture - share * np.float32(self.veil / 100) * veil
        if self.noise > 0 and gain[0] > gain[1]:
            from_green = seen[..., 1] * (gain[1] / gain[0])
            red = seen[..., 0]
            seen = np.concatenate(
                [(red + self.invented(red) * (from_green - red))[..., None], seen[..., 1:]], -1
            )
        near = seen * gain
        luma = (near @ LUMA)[..., None]
        return np.asarray(luma + np.float32(self.vivid**share) * (near - luma), np.float32)

    def invented(self, red: Plane) -> Plane:
        """Share of red (...) above the veil that is taken from green, since it lies in the noise."""
        if self.noise <= 0:
            return np.zeros_like(red)
        share = np.clip((SURE - red / np.float32(self.noise)) / (SURE - NOTHING), 0, 1)
        return np.asarray(share * share * (3 - 2 * share), np.float32)

    def likeness(self, picture: Linear) -> Plane:
        """How much every pixel (..., 3) is of the water's own colour, 0..1."""
        stops = np.log2(np.maximum(picture, 0) + LEAST)
        away = [
            stops[..., c] - stops[..., 1] - np.float32(w) for c, w in zip((0, 2), self.colour, strict=True)
        ]
        return np.exp(-0.5 * (away[0] ** 2 + away[1] ** 2) / np.float32(self.spread**2))

    def _with_far_water(self, picture: Linear, near: Linear, share: np.float32) -> Linear:
        kept = share * np.float32(self.background / 100) * self.likeness(picture)
        bright = np.maximum(near @ LUMA, 0) / np.maximum(picture @ LUMA, LEAST)
        return np.asarray(near + kept[..., None] * (picture * bright[..., None] - near), np.float32)

    def _bent(self, codes: Float) -> Float:
        """Codes (..., 3) through the curves of the channels, each straight beyond its ends."""
        bent = []
        for channel, (come, go) in enumerate(self.tones):
            x = codes[..., channel]
            low, high = ((go[i + 1] - go[i]) / (come[i + 1] - come[i]) for i in (0, 1))
            upper = x > come[1]
            bent.append(go[1] + (x - come[1]) * np.where(upper, high, low))
        return np.stack(bent, axis=-1).astype(np.float32)

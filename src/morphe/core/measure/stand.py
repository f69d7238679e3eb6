"""How clips stand beside each other: which of two is darker or warmer, as far as they show alike things.

Two clips are compared rank by rank of their tones: where the two match after a shift, the shift is a
difference of exposure or balance; where they do not, the clips show other things, and nothing can be said.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from morphe.core.measure.drift import STOPS_PER_MIRED
from morphe.core.signal.arrays import Encoded, Float, Linear, highest
from morphe.core.signal.primaries import LUMINANCE_709
from morphe.core.signal.profiles import PROFILES

__all__ = [
    "TOGETHER_MIRED",
    "TOGETHER_STOPS",
    "Apart",
    "Stand",
    "apart_from_others",
    "bring_together",
    "stand_of",
]

BINS = 20  # by rank of luminance: the same bins hold the same things, however the two were exposed
LEAST_BINS = 5  # that tell, in both of two clips
DARK, BRIGHT = 0.004, 0.93  # of light: beyond, a tone is noise or clipped
LEAST_LIT, LEAST_COLOURED = 0.9, 0.6  # of a bin that must lie between: with less it tells nothing
ALIKE_STOPS, ALIKE_MIRED = 0.2, 10.0  # mean mismatch of two spreads at which they count half
TOGETHER_STOPS, TOGETHER_MIRED = 0.15, 8.0  # differences that nobody sees in a cut
STAY = 0.05  # pull back to where a clip is, beside the pull of one clip that is alike
LEAST_LIKE = 0.2  # of all others: with less, nothing is said about a clip

_STD = PROFILES.get("std-709")


@dataclass(frozen=True, slots=True, kw_only=True)
class Stand:
    """A clip's tones as corrected, from dark to bright in bins of equal size; None where a bin tells nothing.

    light : median log2 of luminance; warmth : mean log2(R/B) in mired
    """

    light: tuple[float | None, ...]
    warmth: tuple[float | None, ...]

    def as_json(self) -> dict[str, list[float | None]]:
        return {
            "light": [None if v is None else round(v, 3) for v in self.light],
            "warmth": [None if v is None else round(v, 1) for v in self.warmth],
        }

    @classmethod
    def from_json(cls, data: dict[str, Any]) -> Stand:
        return cls(light=tuple(data["light"]), warmth=tuple(data["warmth"]))

    def moved(self, by: Apart) -> Stand:
        """The same, brighter and warmer by so much."""
        return Stand(
            light=tuple(None if v is None else v + by.stops for v in self.light),
            warmth=tuple(None if v is None else v + by.mired for v in self.warmth),
        )

    def apart_from(self, other: Stand) -> Apart:
        """How much brighter and warmer this picture is than another of the same things."""
        stops, mired, _ = _compared([self, other])
        return Apart(stops=float(stops[0, 1]), mired=float(mired[0, 1]))


@dataclass(frozen=True, slots=True, kw_only=True)
class Apart:
    """How much brighter and warmer one clip is than what it is compared with."""

    stops: float = 0.0
    mired: float = 0.0

    @property
    def words(self) -> str:
        """The difference as a person says it; empty where nobody would see it."""
        return self.words_from(TOGETHER_STOPS, TOGETHER_MIRED)

    def words_from(self, stops: float, mired: float) -> str:
        """As `words`, for eyes that see differences from so much on."""
        said = []
        if abs(self.stops) >= stops:
            said.append(
                f"{abs(self.stops):.1f} stop{'' if abs(self.stops) < 1.05 else 's'} "
                f"{'brighter' if self.stops > 0 else 'darker'}"
            )
        if abs(self.mired) >= mired:
            said.append(f"{abs(self.mired):.0f} mired {'warmer' if self.mired > 0 else 'cooler'}")
        return ", ".join(said)

    @property
    def is_together(self) -> bool:
        return abs(self.stops) < TOGETHER_STOPS and abs(self.mired) < TOGETHER_MIRED


def stand_of(pictures: Sequence[Encoded]) -> Stand:
    """Measure pictures (H, W, 3) of a clip as corrected, BT.709-encoded."""
    pixels = _STD.decode(np.concatenate([p.reshape(-1, 3) for p in pictures])).astype(np.float32)
    luminance = pixels @ LUMINANCE_709.astype(np.float32)
    ranked = np.array_split(np.argsort(luminance), BINS)
    rows = [_bin(pixels[rank], luminance[rank]) for rank in ranked]
    return Stand(light=tuple(row[0] for row in rows), warmth=tuple(row[1] for row in rows))


def _bin(pixels: Linear, luminance: Float) -> tuple[float | None, float | None]:
    unclipped = highest(pixels) < BRIGHT
    lit = unclipped & (luminance > DARK)
    coloured = lit & (pixels[:, 0] > DARK) & (pixels[:, 2] > DARK)
    light = float(np.log2(np.median(luminance[lit]))) if lit.mean() >= LEAST_LIT else None
    if coloured.mean() < LEAST_COLOURED:
        return light, None
    told = pixels[coloured]
    return light, float(np.log2(told[:, 0] / told[:, 2]).mean() / STOPS_PER_MIRED)


def _shifts(rows: Float, limit: float) -> tuple[Float, Float]:
    """By how much each clip (row) lies above each other (column), and how alike the two are, 0..1."""
    apart = rows[:, None, :] - rows[None, :, :]
    enough = np.isfinite(apart).sum(axis=-1) >= LEAST_BINS
    apart = np.where(enough[..., None], apart, 0.0)
    shift = np.nanmedian(apart, axis=-1)
    mismatch = np.nanmean(np.abs(apart - shift[..., None]), axis=-1)
    return shift, np.where(enough, np.exp2(-((mismatch / limit) ** 2)), 0.0)


def _compared(stands: Sequence[Stand]) -> tuple[Float, Float, Float]:
    """Shifts in stops and in mired (n, n), and weights (n, n) with nothing on the diagonal."""
    stops, alike = _shifts(np.array([s.light for s in stands], float), ALIKE_STOPS)
    mired, alike_too = _shifts(np.array([s.warmth for s in stands], float), ALIKE_MIRED)
    weight = alike * alike_too
    np.fill_diagonal(weight, 0)
    return stops, mired, weight


def apart_from_others(stands: Sequence[Stand]) -> list[Apart | None]:
    """What sets each clip apart from those of its light that show alike things; None where none does."""
    if len(stands) < 2:
        return [None] * len(stands)
    stops, mired, weight = _compared(stands)
    total = weight.sum(axis=1)
    return [
        Apart(stops=_middle(stops[n], weight[n]), mired=_middle(mired[n], weight[n]))
        if total[n] >= LEAST_LIKE
        else None
        for n in range(len(stands))
    ]


def _middle(values: Float, weights: Float) -> float:
    """Weighted median: one clip that is far off does not make the others seem so."""
    order = np.argsort(values)
    reached = np.cumsum(weights[order])
    at = np.searchsorted(reached, reached[-1] / 2)
    if at + 1 < len(values) and np.isclose(reached[at], reached[-1] / 2):
        return float(values[order][at : at + 2].mean())
    return float(values[order][at])


def bring_together(stands: Sequence[Stand], fixed: Sequence[bool] | None = None) -> list[Apart]:
    """The changes (stops brighter, mired warmer) that bring clips of one light together.

    Each pair pulls as much as the two are alike; clips that are `fixed` stay, the others move to them. Least
    squares on the graph of pairs, with a weak pull of every clip to where it is.
    """
    if len(stands) < 2:
        return [Apart()] * len(stands)
    held = np.array(fixed or [False] * len(stands))
    stops, mired, weight = _compared(stands)
    pull = np.where(held, 1e6, STAY)
    system = np.diag(weight.sum(axis=1) + pull) - weight
    moves = [np.linalg.solve(system, -(weight * shift).sum(axis=1)) for shift in (stops, mired)]
    return [Apart(stops=float(s), mired=float(m)) for s, m in zip(*moves, strict=True)]

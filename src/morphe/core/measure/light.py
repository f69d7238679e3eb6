"""The light of a clip in five numbers, how far two lights lie apart, and which clips share one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

import numpy as np

from morphe.core.signal.arrays import Linear
from morphe.core.signal.perception import linear_to_oklab
from morphe.core.signal.primaries import LUMINANCE_709

__all__ = ["LightOfClip", "apart", "group_by_light", "light_of", "nearness", "reason_apart"]

# What counts as one step of difference, in the order of the numbers.
STEPS = {"middle": 0.5, "warmth": 15.0, "tint": 3.0, "contrast": 1.0, "colour": 0.3}
SAME, SMALL, LARGE = 1.0, 2.0, 4.0
SAME_GROUP = 2.0  # mean distance up to which clips share a light
HOUR_S = 3600.0  # time between two clips that counts as one step


@dataclass(frozen=True, slots=True, kw_only=True)
class LightOfClip:
    """Stops of the middle, warmth in mired, tint in Duv x 1000, contrast in stops, log2 of mean chroma."""

    middle: float
    warmth: float
    tint: float
    contrast: float
    colour: float

    def as_json(self) -> dict[str, float]:
        return {name: round(getattr(self, name), 3) for name in STEPS}

    @classmethod
    def from_json(cls, data: dict[str, Any]) -> LightOfClip:
        return cls(**{name: float(data[name]) for name in STEPS})

    @property
    def words(self) -> str:
        """The light as a person would call it."""
        bright = "bright" if self.middle > -1.8 else "dim" if self.middle < -3.4 else "even"
        side = "warm" if self.warmth > 12 else "cool" if self.warmth < -12 else "neutral"
        hard = "hard" if self.contrast > 4.5 else "soft" if self.contrast < 2.5 else ""
        return ", ".join(word for word in (bright, side, hard) if word)


def light_of(pictures: Sequence[Linear], *, warmth: float, tint: float) -> LightOfClip:
    """Describe the light of scene-linear pictures; warmth and tint are those of the estimated illuminant."""
    pixels = np.concatenate([p.reshape(-1, 3) for p in pictures])
    luminance = np.maximum(pixels @ LUMINANCE_709.astype(pixels.dtype), 1e-4)
    low, middle, high = np.log2(np.percentile(luminance, [10, 50, 90]))
    lab = linear_to_oklab(np.clip(pixels, 0, 1))
    chroma = float(np.hypot(lab[:, 1], lab[:, 2]).mean())
    return LightOfClip(
        middle=float(middle), warmth=warmth, tint=tint, contrast=float(high - low),
        colour=float(np.log2(max(chroma, 1e-3))),
    )  # fmt: skip


def _terms(one: LightOfClip, two: LightOfClip) -> dict[str, float]:
    return {name: (getattr(two, name) - getattr(one, name)) / step for name, step in STEPS.items()}


def apart(one: LightOfClip, two: LightOfClip) -> float:
    """Distance of two lights: below 1 the same, to 2 a small fix, to 4 a match, beyond another light."""
    return float(np.sqrt(sum(v * v for v in _terms(one, two).values())))


def nearness(distance: float) -> str:
    """The distance in words."""
    if distance < SAME:
        return "same light"
    if distance < SMALL:
        return "a small trim"
    return "needs a match" if distance < LARGE else "another light"


def reason_apart(one: LightOfClip, two: LightOfClip) -> str:
    """The largest difference from one to two, in words and numbers."""
    terms = _terms(one, two)
    name = max(terms, key=lambda n: abs(terms[n]))
    change = getattr(two, name) - getattr(one, name)
    return {
        "middle": f"{abs(change):.1f} stops {'brighter' if change > 0 else 'darker'}",
        "warmth": f"{abs(change):.0f} mired {'warmer' if change > 0 else 'cooler'}",
        "tint": f"{abs(change):.0f} {'greener' if change > 0 else 'more magenta'}",
        "contrast": f"{abs(change):.1f} stops {'harder' if change > 0 else 'softer'}",
        "colour": f"{'more' if change > 0 else 'less'} colourful by {abs(100 * (2.0**change - 1)):.0f} %",
    }[name]


def group_by_light(lights: Sequence[LightOfClip], times: Sequence[datetime | None]) -> list[int]:
    """Number the light that each clip belongs to, from 1 in the order of first appearance."""
    if len(lights) < 2:
        return [1] * len(lights)
    known = sorted(t.timestamp() for t in times if t is not None)
    usual = known[len(known) // 2] if known else 0.0
    hours = [(usual if t is None else t.timestamp()) / HOUR_S for t in times]
    placed = [
        [*(getattr(x, n) / step for n, step in STEPS.items()), h] for x, h in zip(lights, hours, strict=True)
    ]
    from scipy.cluster.hierarchy import fcluster, linkage  # heavy: late, as one clip needs no groups
    from scipy.spatial.distance import pdist

    flat = pdist(np.array(placed))
    raw = fcluster(linkage(flat, "average"), SAME_GROUP, "distance")
    order: dict[int, int] = {}
    return [order.setdefault(int(number), len(order) + 1) for number in raw]

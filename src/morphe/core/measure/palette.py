"""The palette of a picture: which colour families it holds, how much of each, and how far they go."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from morphe.core.measure.readings import SAFE_HIGH, SAFE_LOW, oklab_of
from morphe.core.signal.arrays import Encoded, Float, Mask
from morphe.core.signal.hues import FAMILIES, Hue, coloured, within_reach

__all__ = ["LEAST_SHARE", "Member", "members_of", "palette_of"]

LEAST_SHARE = 0.004  # of the picture: smaller families are specks
BELONGS = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class Member:
    """A family as a picture holds it.

    share : of the picture's pixels
    colour : the mean of its members, encoded (R, G, B)
    hue : their mean hue in degrees
    chroma : Oklab chroma that half of them stay below; `strong` for nine of ten
    beyond : share of its members outside the safe outline
    """

    family: Hue
    share: float
    colour: tuple[float, float, float]
    hue: float
    chroma: float
    strong: float
    beyond: float


def members_of(lab: Float) -> Mapping[str, Mask]:
    """Which pixels of Oklab (n, 3) belong to which family, by key; what has no hue belongs to none."""
    hue = np.degrees(np.arctan2(lab[:, 2], lab[:, 1])) % 360
    has_hue = coloured(np.hypot(lab[:, 1], lab[:, 2])) > BELONGS
    return {f.key: has_hue & (within_reach(hue, f.at, f.below, f.above) > BELONGS) for f in FAMILIES.values()}


def palette_of(pixels: Encoded) -> tuple[Member, ...]:
    """The families of pixels (n, 3), the largest first."""
    lab = oklab_of(pixels)
    outside: Mask = np.any((pixels < SAFE_LOW) | (pixels > SAFE_HIGH), axis=1)
    found = [
        _member(FAMILIES.get(key), pixels[mask], lab[mask], outside[mask], float(mask.mean()))
        for key, mask in members_of(lab).items()
        if mask.mean() >= LEAST_SHARE
    ]
    return tuple(sorted(found, key=lambda member: -member.share))


def _member(family: Hue, pixels: Encoded, lab: Float, outside: Mask, share: float) -> Member:
    red, green, blue = (float(v) for v in np.clip(pixels.mean(axis=0), 0, 1))
    middle = lab.mean(axis=0)
    half, strong = np.percentile(np.hypot(lab[:, 1], lab[:, 2]), [50, 90])
    return Member(
        family=family, share=share, colour=(red, green, blue),
        hue=float(np.degrees(np.arctan2(middle[2], middle[1])) % 360),
        chroma=float(half), strong=float(strong), beyond=float(outside.mean()),
    )  # fmt: skip

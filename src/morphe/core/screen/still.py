"""A graded still for the screen: the picture, its scopes, and where the marks of the instruments lie."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from morphe.core.advise.aims import Aims
from morphe.core.advise.rungs import RUNGS
from morphe.core.advise.seen import Seen
from morphe.core.bands import beside
from morphe.core.grade.steps import Families
from morphe.core.measure.readings import luma_of, oklab_of
from morphe.core.measure.scopes import vector_angle_deg
from morphe.core.measure.skin import skin_of_pixels
from morphe.core.screen.pictures import jpeg
from morphe.core.screen.scopes import ScopePictures, scope_pictures
from morphe.core.signal.arrays import Encoded, Mask, highest
from morphe.core.signal.ycbcr import rgb_to_ycbcr

__all__ = ["Mark", "Shown", "frame_state", "marks", "pixel_reading", "shown"]

MARK_COLUMNS = 120
EDGE, LOST_SHARE = 0.002, 0.01


@dataclass(frozen=True, slots=True, kw_only=True)
class Mark:
    """A rung's reading on a still: where it lies on its scope, in percent or (Cb, Cr), and the zone there."""

    at: tuple[float, ...]
    zone: tuple[float, float] | None
    value: float | None
    unit: str
    inside: bool


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Shown:
    """All that the screen shows of a graded still: JPEG, scopes and marks."""

    jpeg: bytes
    scopes: ScopePictures
    marks: dict[str, Mark]


def shown(
    graded: Encoded, part: Mask | None = None, *, aims: Aims | None = None, skin: Mask | None = None
) -> Shown:
    """Prepare a graded still (H, W, 3) for the screen; scopes and marks may be those of a part (H, W).

    `skin` says which pixels of a smaller picture are skin; `aims` where readings are wanted.
    """
    picture = beside(lambda: jpeg(graded))
    places = beside(lambda: marks(graded, part, aims=aims, skin=skin))
    return Shown(scopes=scope_pictures(graded, part), jpeg=picture.result(), marks=places.result())


def marks(
    encoded: Encoded, part: Mask | None = None, *, aims: Aims | None = None, skin: Mask | None = None
) -> dict[str, Mark]:
    """Where the instruments' marks lie, read as the rungs read the clip, in a still or a part of it."""
    step = max(1, encoded.shape[1] // MARK_COLUMNS)
    sampled = np.ascontiguousarray(encoded[::step, ::step])
    if part is not None and part[::step, ::step].any():
        sampled = sampled[part[::step, ::step]][None]
    sample = Seen(pictures=(sampled,), aims=aims or Aims())
    sample.skin = None if skin is None else skin_of_pixels(_at_size(encoded, skin)[skin])
    found = {key: rule.read(sample) for key, rule in RUNGS.items() if rule.read and key != Families.key}
    return {
        key: Mark(
            at=reading.marks, zone=reading.marked_zone,
            value=None if reading.value is None else round(reading.value, 2), unit=reading.zone.unit,
            inside=reading.is_inside,
        )
        for key, reading in found.items()
    }  # fmt: skip


def _at_size(encoded: Encoded, mask: Mask) -> Encoded:
    """The picture at the size of a mask."""
    if encoded.shape[:2] == mask.shape:
        return encoded
    return cv2.resize(encoded, mask.shape[::-1], interpolation=cv2.INTER_AREA).astype(np.float32, copy=False)


def frame_state(graded: Encoded) -> str:
    """Whether a graded still fits: "fits", "lights clip" or "shadows sink" (more than 1 % of it)."""
    peak = highest(graded)
    if float((peak > 1 - EDGE).mean()) > LOST_SHARE:
        return "lights clip"
    if float((peak < EDGE).mean()) > LOST_SHARE:
        return "shadows sink"
    return "fits"


def pixel_reading(encoded: Encoded, x: float, y: float) -> dict[str, float]:
    """Read a small patch under the pointer: percent, hue, chroma, and distance from neutral."""
    height, width = encoded.shape[:2]
    cx, cy = int(np.clip(x, 0, 1) * (width - 1)), int(np.clip(y, 0, 1) * (height - 1))
    patch = encoded[max(cy - 2, 0) : cy + 3, max(cx - 2, 0) : cx + 3].reshape(-1, 3).mean(axis=0)
    _, cb, cr = rgb_to_ycbcr(patch)
    lab = oklab_of(patch)
    return {
        "r": float(patch[0] * 100),
        "g": float(patch[1] * 100),
        "b": float(patch[2] * 100),
        "luma": float(luma_of(patch) * 100),
        "cb": float(cb),
        "cr": float(cr),
        "angle": float(vector_angle_deg(np.asarray(cb), np.asarray(cr))),
        "chroma": float(np.hypot(lab[1], lab[2])),
        "from_neutral": float(np.hypot(cb, cr) * 100),
        "x": float(x),
    }

"""A graded still for the screen: the picture, its scopes, and where the marks of the instruments lie."""

from __future__ import annotations

import base64
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np

from morphe.core.advise.aims import Aims
from morphe.core.advise.rungs import RUNGS
from morphe.core.advise.seen import Seen
from morphe.core.bands import beside
from morphe.core.errors import ColourError
from morphe.core.grade.steps import Families
from morphe.core.measure.readings import luma_of, oklab_of
from morphe.core.measure.scopes import (
    PERCENT_HIGH,
    PERCENT_LOW,
    VECTOR_REACH,
    brightness,
    scopes,
    vector_angle_deg,
)
from morphe.core.measure.skin import skin_of_pixels
from morphe.core.signal.arrays import Encoded, Mask, Plane, highest
from morphe.core.signal.ycbcr import rgb_to_ycbcr

__all__ = [
    "Mark",
    "ScopePictures",
    "Shown",
    "frame_state",
    "jpeg",
    "light_up",
    "marks",
    "only_lit",
    "pixel_reading",
    "scope_pictures",
    "shown",
]

JPEG_QUALITY = 88
TALL = 480
MARK_COLUMNS = 120
EDGE, LOST_SHARE = 0.002, 0.01


def jpeg(encoded: Encoded) -> bytes:
    """Encode a still for the browser."""
    lit = encoded if cv2.minMaxLoc(encoded.reshape(len(encoded), -1))[0] >= 0 else np.maximum(encoded, 0)
    picture = cv2.convertScaleAbs(lit, alpha=255)  # rounds and saturates
    done, data = cv2.imencode(
        ".jpg", cv2.cvtColor(picture, cv2.COLOR_RGB2BGR), [cv2.IMWRITE_JPEG_QUALITY, JPEG_QUALITY]
    )
    if not done:
        raise ColourError("The picture could not be encoded.")
    return data.tobytes()


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class ScopePictures:
    """Scopes as uint8 brightness: luma (rows, columns), parade (3, …), histogram (4, bins), vector."""

    luma: Plane
    parade: Plane
    histogram: Plane
    vector: Plane

    def as_json(self) -> dict[str, Any]:
        """All four, each with its shape and its bytes in base64."""
        return {name: _packed(getattr(self, name)) for name in self.__slots__}


def _packed(plane: Plane) -> dict[str, Any]:
    return {"shape": list(plane.shape), "data": base64.b64encode(plane.tobytes()).decode()}


def scope_pictures(encoded: Encoded, part: Mask | None = None) -> ScopePictures:
    """Make the scopes of a still, or of a part (H, W) of it, at the size the screen draws."""
    step = 2 if encoded.shape[0] >= TALL else 1  # a gauge has fewer rows than half of such a still
    rows = encoded[::step]
    counts = scopes(rows, rows=232, columns=240, vector_size=192, part=None if part is None else part[::step])
    peak = np.sqrt(np.maximum(np.percentile(counts.histogram, 99.5, axis=1, keepdims=True), 1))
    histogram = np.clip(np.sqrt(counts.histogram) / peak, 0, 1) * 255
    return ScopePictures(
        luma=brightness(counts.luma),
        parade=np.stack([brightness(c) for c in counts.parade]),
        histogram=histogram.astype(np.uint8),
        vector=brightness(counts.vector),
    )


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


def light_up(encoded: Encoded, scope: str, region: tuple[float, float, float, float]) -> bytes:
    """A transparent PNG that lights the pixels which a scope shows inside a region.

    Parameters
    ----------
    region : left, top, right, bottom as shares 0..1 of the scope's drawing
    """
    left, top, right, bottom = region
    width = encoded.shape[1]
    span = PERCENT_HIGH - PERCENT_LOW
    if scope == "vector":
        ycbcr = rgb_to_ycbcr(encoded)
        h = (ycbcr[..., 1] + VECTOR_REACH) / (2 * VECTOR_REACH)
        v = (VECTOR_REACH - ycbcr[..., 2]) / (2 * VECTOR_REACH)
        lit = (h >= left) & (h <= right) & (v >= top) & (v <= bottom)
    elif scope == "histogram":
        level = (luma_of(encoded) * 100 - PERCENT_LOW) / span
        lit = (level >= left) & (level <= right)
    elif scope in ("luma", "parade"):
        position = np.arange(width) / width
        values = encoded
        if scope == "parade":
            channel = min(int(3 * (left + right) / 2), 2)
            left, right = 3 * left - channel, 3 * right - channel
            level = encoded[..., channel]
        else:
            level = luma_of(values)
        row = (PERCENT_HIGH - level * 100) / span
        column = (position >= left) & (position <= right)
        lit = (row >= top) & (row <= bottom) & column[None, :]
    else:
        raise ColourError(f"There is no scope {scope!r}.")
    return only_lit(lit)


def only_lit(lit: Mask) -> bytes:
    """A PNG that darkens all but some pixels (H, W)."""
    overlay = np.zeros((*lit.shape, 4), np.uint8)
    overlay[..., :3] = 20
    overlay[..., 3] = 170
    overlay[lit] = (255, 255, 255, 0)
    done, data = cv2.imencode(".png", overlay, [cv2.IMWRITE_PNG_COMPRESSION, 1])
    if not done:
        raise ColourError("The picture could not be encoded.")
    return data.tobytes()

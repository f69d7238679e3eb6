"""What of a frame is picture: bars about it, and writing that stands still over it, are told from it.

Everything that is read, estimated or matched goes by the picture alone. All places are shares of the upright
frame.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np

from morphe.core.measure.laid_over import Box, boxes_over
from morphe.core.measure.surround import NOTHING, Surround, surround_of
from morphe.core.signal.arrays import Encoded, Mask, Plane

__all__ = ["WHOLE", "PictureArea", "area_of", "filled"]

FIND_WIDTH = 480  # pixels across in which bars and writing are looked for
FILL_WIDTH = 256  # pixels across at which a gap is filled; nothing fine is made up in it


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureArea:
    """The bars about a picture, and the boxes in which something is laid over it."""

    surround: Surround = NOTHING
    laid_over: tuple[Box, ...] = ()

    @property
    def is_whole(self) -> bool:
        """Whether all of the frame is picture."""
        return not self.surround.kind and not self.laid_over

    @property
    def names(self) -> tuple[str, ...]:
        """What is no picture, in words."""
        over = ("writing",) if self.laid_over else ()
        return (self.surround.label, *over) if self.surround.kind else over

    def mask(self, width: int, height: int) -> Mask | None:
        """The pixels (height, width) that are picture; None where all are."""
        if self.is_whole:
            return None
        left, top, right, bottom = self.surround.window(width, height)
        mask = np.zeros((height, width), bool)
        mask[top:bottom, left:right] = True
        for box in self.laid_over:
            x, y = (np.array([box[0], box[2]]) * width, np.array([box[1], box[3]]) * height)
            mask[int(y[0]) : int(np.ceil(y[1])), int(x[0]) : int(np.ceil(x[1]))] = False
        return mask

    def as_json(self) -> dict[str, Any]:
        return {"surround": self.surround.as_json(), "laid_over": [list(box) for box in self.laid_over]}

    @classmethod
    def from_json(cls, data: Mapping[str, Any]) -> PictureArea:
        boxes = tuple((float(a), float(b), float(c), float(d)) for a, b, c, d in data.get("laid_over", ()))
        return cls(surround=Surround.from_json(data.get("surround", {})), laid_over=boxes)


WHOLE = PictureArea()


def area_of(pictures: Sequence[Encoded]) -> PictureArea:
    """Tell the picture from what is about and over it.

    Parameters
    ----------
    pictures : (H, W, 3) encoded, of moments spread over a clip; writing is found from four of them on
    """
    if not pictures:
        return PictureArea()
    small = [_small(picture) for picture in pictures]
    surround = surround_of(small)
    return PictureArea(surround=surround, laid_over=boxes_over(small, surround))


def _small(picture: Encoded) -> Encoded:
    height, width = picture.shape[:2]
    scale = min(1.0, FIND_WIDTH / width)
    size = (round(width * scale), max(1, round(height * scale)))
    small = picture if scale == 1 else cv2.resize(picture, size, interpolation=cv2.INTER_AREA)
    return np.ascontiguousarray(small, np.float32)


def filled(picture: Encoded, mask: Mask | None, surround: Surround = NOTHING) -> Encoded:
    """A picture (H, W, 3) in which what is no picture looks as if it went on.

    The shares of all colours stay as they are in the picture: bars show it mirrored, gaps what is about
    them.
    """
    if mask is None:
        return picture
    height, width = mask.shape
    left, top, right, bottom = surround.window(width, height)
    inside, meant = picture[top:bottom, left:right], mask[top:bottom, left:right]
    if not meant.all():
        inside = _smoothed_over(inside, meant)
    if (left, top, right, bottom) == (0, 0, width, height):
        return inside
    rows, columns = (_mirrored(n, *ends) for n, ends in ((height, (top, bottom)), (width, (left, right))))
    return np.ascontiguousarray(inside[rows[:, None], columns[None, :]])


def _mirrored(count: int, first: int, end: int) -> np.ndarray[Any, np.dtype[np.int64]]:
    """For each of `count` pixels the one of `first` to `end` that it mirrors, counted from `first`."""
    length = end - first
    there = (np.arange(count) - first) % (2 * length)
    return np.asarray(np.where(there < length, there, 2 * length - 1 - there))


def _smoothed_over(picture: Encoded, meant: Mask) -> Encoded:
    """Gaps filled from ever wider surroundings, at a small size."""
    if not meant.any():
        return picture
    height, width = meant.shape
    scale = min(1.0, FILL_WIDTH / width)
    size = (max(1, round(width * scale)), max(1, round(height * scale)))
    weight = cv2.resize(meant.astype(np.float32), size, interpolation=cv2.INTER_AREA)
    known = cv2.resize(picture * meant[..., None], size, interpolation=cv2.INTER_AREA)
    spread = _spread(np.asarray(known, np.float32), np.asarray(weight, np.float32))
    gaps = cv2.resize(spread, (width, height), interpolation=cv2.INTER_LINEAR)
    return np.where(meant[..., None], picture, gaps).astype(np.float32, copy=False)


def _spread(known: Encoded, weight: Plane) -> Encoded:
    """Weighted colours (h, w, 3), where there are none those of halves of the size, and so on."""
    here = known / np.maximum(weight, 1e-6)[..., None]
    if weight.min() > 0 or min(weight.shape) < 2:
        return np.asarray(here, np.float32)
    size = (weight.shape[1] // 2, weight.shape[0] // 2)
    fewer, lighter = (
        np.asarray(cv2.resize(a, size, interpolation=cv2.INTER_AREA), np.float32) for a in (known, weight)
    )
    wide = cv2.resize(_spread(fewer, lighter), weight.shape[::-1], interpolation=cv2.INTER_LINEAR)
    return np.where(weight[..., None] > 0, here, wide).astype(np.float32, copy=False)

"""Where faces are in a picture: a cascade of local binary patterns (scikit-image), nothing more than boxes.

Nobody is recognised. It also answers to things that only look like faces; what has not the colour of skin is
left out by who asks.
"""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING

import cv2
import numpy as np

from morphe.core.signal.arrays import Encoded

if TYPE_CHECKING:
    from skimage.feature import Cascade

__all__ = ["WIDTH", "Box", "faces_in", "searched"]

Box = tuple[float, float, float]  # left, top and side, all as shares of the picture's width
WIDTH = 320  # pixels across of the picture that is searched
SMALLEST, LARGEST = 18, 0.6  # pixels, and of the picture's shorter side
SCALE, NEIGHBOURS = 1.12, 1  # between sizes that are looked for; boxes that must agree


@lru_cache(maxsize=1)
def _cascade() -> Cascade:
    from skimage import data  # heavy: late, as it is only needed where skin is looked for
    from skimage.feature import Cascade

    return Cascade(data.lbp_frontal_face_cascade_filename())  # type: ignore[no-untyped-call]


def faces_in(picture: Encoded) -> list[Box]:
    """Boxes about faces in a picture (H, W, 3), the largest first."""
    small = searched(picture)
    codes = np.clip(small * 255, 0, 255).astype(np.uint8)
    most = int(LARGEST * min(codes.shape[:2]))
    if most <= SMALLEST:
        return []
    found = _cascade().detect_multi_scale(
        img=codes, scale_factor=SCALE, step_ratio=1, min_size=(SMALLEST, SMALLEST), max_size=(most, most),
        min_neighbor_number=NEIGHBOURS,
    )  # fmt: skip
    boxes = [(f["c"] / WIDTH, f["r"] / WIDTH, f["width"] / WIDTH) for f in found]
    return sorted(boxes, key=lambda box: -box[2])


def searched(picture: Encoded) -> Encoded:
    """The picture at searching size."""
    height, width = picture.shape[:2]
    if width == WIDTH:
        return picture
    size = (WIDTH, max(2, round(height * WIDTH / width)))
    way = cv2.INTER_AREA if width > WIDTH else cv2.INTER_CUBIC
    return cv2.resize(picture, size, interpolation=way).astype(np.float32, copy=False)

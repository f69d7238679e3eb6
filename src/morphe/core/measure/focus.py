"""How wide the edges of a picture are where they are steepest: sharp ones take two pixels, soft ones many.

After Marziliano et al. 2002: along rows and columns, the rise of an edge over its steepest step.
"""

from __future__ import annotations

import cv2
import numpy as np

from morphe.core.signal.arrays import Float, Plane

__all__ = ["edge_width_of"]

WIDTH = 1280  # larger pictures are judged at this width: what a viewer sees of them
REACH = 21  # pixels along which an edge may rise
LEAST_RISE = 0.12  # of the range: what rises less may be noise
LEAST_EDGES = 200  # pixels
SHARPEST = 5  # percentile of the edges: only a part of a picture has to be in focus


def edge_width_of(luma: Plane) -> float | None:
    """Width of the sharpest edges of encoded luma (H, W), in pixels of a picture at most 1280 wide; None
    where there are hardly any."""
    luma = np.asarray(luma, np.float32)
    height, width = luma.shape
    if width > WIDTH:
        size = (WIDTH, max(round(height * WIDTH / width), 1))
        luma = cv2.resize(luma, size, interpolation=cv2.INTER_AREA)
    widths = np.concatenate([_widths(luma), _widths(luma.T.copy())])
    if widths.size < LEAST_EDGES:
        return None
    return float(np.percentile(widths, SHARPEST))


def _widths(luma: Plane) -> Float:
    """Rise over steepest step, of every edge that crosses a row."""
    steps = np.abs(cv2.filter2D(luma, cv2.CV_32F, np.array([[-0.5, 0, 0.5]], np.float32)))
    along = np.ones((1, REACH), np.uint8)
    rise = cv2.dilate(luma, along) - cv2.erode(luma, along)
    steepest = (steps >= cv2.dilate(steps, along)) & (rise > LEAST_RISE)
    return np.asarray(rise[steepest] / np.maximum(steps[steepest], 1e-4))

"""Writing and lines that stand still over a moving picture: a date, numbers of a flight, a logo.

An edge is laid over when it lies at the same place, as hard and in the same direction, in all moments, while
most other edges have moved on. Where most stand still the camera did, and nothing can be told: thin strokes
of one colour are in most photographs of anything.
"""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np

from morphe.core.measure.surround import Surround
from morphe.core.signal.arrays import Encoded, Float, Mask, Plane

__all__ = ["Box", "boxes_over"]

Box = tuple[float, float, float, float]  # left, top, right, bottom as shares of the frame
GREY = np.full((1, 3), 1 / 3, np.float32)
LEAST_MOMENTS = 4
HARD = 0.08  # change of an edge, encoded, over two pixels
AGREES = 0.8  # of the edges' strength, that is left when all moments are laid over each other
THROUGH = 0.6  # of its usual strength that an edge has in nearly every moment
ALL_ELSE, MOVED = 0.9, 0.85  # this quantile of all edges counts elsewhere, and agrees less than so
SCATTERED = 0.1  # of the still edges, that lie beside what was found at most
NEAR = 0.018  # of the frame's width: strokes so near belong together
LEAST_STROKE = 0.05  # of the frame's width, all of an object's edges together in pixels of that
MARGIN = 0.006  # of the frame's width, about what was found
MOST = 0.22  # of the frame: more than this is no writing


def boxes_over(pictures: Sequence[Encoded], surround: Surround) -> tuple[Box, ...]:
    """Boxes about what stands still over a moving picture, in moments (H, W, 3) of a clip."""
    if len(pictures) < LEAST_MOMENTS:
        return ()
    height, width = pictures[0].shape[:2]
    left, top, right, bottom = surround.window(width, height)
    right_ways, down_ways = zip(*(_slopes(p) for p in pictures), strict=True)
    strengths = [cv2.magnitude(a, b) for a, b in zip(right_ways, down_ways, strict=True)]
    mean, together = _mean(strengths), cv2.magnitude(_mean(right_ways), _mean(down_ways))
    outside = np.ones((height, width), bool)
    outside[top + 1 : bottom - 1, left + 1 : right - 1] = False
    agrees = together / np.maximum(mean, 1e-6)
    still = (mean > HARD) & (agrees > AGREES) & ~outside
    nearly_least = np.partition(np.stack([s[still] for s in strengths]), 1, axis=0)[1]
    still[still] = nearly_least > THROUGH * mean[still]
    boxes, inside = _boxes(still)
    elsewhere = ~(inside | outside)
    if not boxes or still[~inside].sum() > SCATTERED * still.sum():
        return ()
    return boxes if _moved(mean[elsewhere], agrees[elsewhere]) else ()


def _moved(strength: Float, agrees: Float) -> bool:
    """Whether edges have moved on; in a dark picture the hardest of them are soft."""
    edges = strength >= max(float(np.quantile(strength, ALL_ELSE)), 1e-3)
    return bool(edges.any()) and float(np.average(agrees[edges], weights=strength[edges])) < MOVED


def _slopes(picture: Encoded) -> tuple[Plane, Plane]:
    """How luma changes (H, W) to the right and down, encoded over two pixels."""
    luma = np.clip(cv2.transform(picture, GREY), 0, 1)
    across, down = (cv2.Sobel(luma, cv2.CV_32F, dx, 1 - dx, ksize=3, scale=0.25) for dx in (1, 0))
    return np.asarray(across), np.asarray(down)


def _mean(planes: Sequence[Plane]) -> Plane:
    total = planes[0].copy()
    for plane in planes[1:]:
        total += plane
    return np.asarray(total / np.float32(len(planes)))


def _boxes(still: Mask) -> tuple[tuple[Box, ...], Mask]:
    """Boxes about edges that lie near each other, and the pixels in them."""
    height, width = still.shape
    near = max(3, round(NEAR * width)) | 1
    joined = cv2.dilate(still.astype(np.uint8), cv2.getStructuringElement(cv2.MORPH_RECT, (near, near)))
    count, labels, stats, _ = cv2.connectedComponentsWithStats(joined, connectivity=8)
    strokes = np.bincount(labels[still], minlength=count)
    margin = round(MARGIN * width) - near // 2
    inside, found = np.zeros(still.shape, bool), []
    for label in np.flatnonzero(strokes[1:] >= LEAST_STROKE * width) + 1:
        x, y, wide, tall = (int(v) for v in stats[label, :4])
        left, right = max(x - margin, 0), min(x + wide + margin, width)
        top, bottom = max(y - margin, 0), min(y + tall + margin, height)
        inside[top:bottom, left:right] = True
        found.append((left / width, top / height, right / width, bottom / height))
    return (tuple(found), inside) if inside.mean() <= MOST else ((), inside)

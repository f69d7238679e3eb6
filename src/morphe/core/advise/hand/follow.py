"""Where a part of the picture goes: points inside it are followed, and their common movement is what counts.

Sparse optical flow (Lucas & Kanade in pyramids) there and back, and a similarity fitted to it with outliers
left out (RANSAC), both OpenCV's. Where too few points agree, the part is lost, and the following ends there.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np

from morphe.core.grade.moments import thinned
from morphe.core.grade.region import Place, Region
from morphe.core.signal.arrays import Float, Plane

__all__ = ["Followed", "follow_region"]

MOST_POINTS = 160
FEWEST = 8  # points that must agree
THERE_AND_BACK_PX = 1.0  # a point that does not come back to its place was not followed
AGREE = 0.5  # share of points that must move together
INSIDE = 0.5  # share of the mask from which a pixel counts as inside
WITHIN = (0.003, 0.003, 0.01, 0.5)  # shares of the frame, of the size, degrees: below what a soft edge shows
MOST_KEPT = 1000  # moments of a way: some 40 kB of a recipe


@dataclass(frozen=True, slots=True, kw_only=True)
class Followed:
    """Where the region went: (seconds, x, y, size, turn), as few as tell it; when it was lost, if it was."""

    moments: tuple[tuple[float, float, float, float, float], ...]
    lost_s: float | None = None


def follow_region(
    region: Region, frames: Iterable[tuple[float, Plane]], *, start_s: float, every_s: float = 0.2
) -> Followed:
    """Follow what lies under a region from a moment on.

    Parameters
    ----------
    frames : rising (seconds, luma (H, W) uint8), from about `start_s` on
    every_s : spacing of the moments that are looked at
    """
    place = region.place(start_s)
    moments = [(start_s, place.x, place.y, place.size, place.turn)]
    before: Plane | None = None
    points: Float = np.zeros((0, 1, 2), np.float32)
    last_s = start_s
    for time_s, luma in frames:
        if time_s < start_s - 1e-6:
            continue
        height, width = luma.shape
        if before is not None:
            moved = _moved(before, luma, points)
            if moved is None:
                return Followed(moments=_kept(moments, every_s), lost_s=last_s)
            place, points = _carried(place, moved[0], width, height), moved[1]
            moments.append((time_s, place.x, place.y, place.size, place.turn))
        if len(points) < 4 * FEWEST:
            points = _points_in(region.put(place), luma)
            if len(points) < FEWEST:
                return Followed(moments=_kept(moments, every_s), lost_s=time_s)
        before, last_s = luma, time_s
    return Followed(moments=_kept(moments, every_s))


def _points_in(region: Region, luma: Plane) -> Float:
    """Corners inside the region, whatever its inverse says."""
    height, width = luma.shape
    mask = region.mask(width, height)
    inside = (1 - mask if region.inverse else mask) > INSIDE
    found: Any = cv2.goodFeaturesToTrack(luma, MOST_POINTS, 0.01, 4, mask=inside.astype(np.uint8))
    return np.zeros((0, 1, 2), np.float32) if found is None else found


def _moved(before: Plane, after: Plane, points: Float) -> tuple[Float, Float] | None:
    """The 2x3 similarity between two frames and the points that followed it; None if they do not agree."""
    there, ok = _flowed(before, after, points)
    back, ok_back = _flowed(after, before, there)
    near = np.abs(back - points).max(axis=(1, 2)) < THERE_AND_BACK_PX
    good = near & ok & ok_back
    if good.sum() < FEWEST or good.mean() < AGREE:
        return None
    matrix, agreed = cv2.estimateAffinePartial2D(points[good], there[good], ransacReprojThreshold=2.0)
    if matrix is None or agreed.sum() < FEWEST or agreed.mean() < AGREE:
        return None
    return matrix, there[good][agreed.ravel() == 1]


def _flowed(before: Plane, after: Plane, points: Float) -> tuple[Float, Plane]:
    found: Any = cv2.calcOpticalFlowPyrLK(before, after, points, None)  # type: ignore[call-overload]
    return np.asarray(found[0], np.float32), np.asarray(found[1]).ravel() == 1


def _carried(place: Place, matrix: Float, width: int, height: int) -> Place:
    """A place after a movement in pixels."""
    middle = matrix @ np.array([place.x * width, place.y * height, 1.0])
    scale, turn = float(np.hypot(matrix[0, 0], matrix[1, 0])), float(np.arctan2(matrix[1, 0], matrix[0, 0]))
    return Place(
        x=float(middle[0]) / width, y=float(middle[1]) / height,
        size=float(np.clip(place.size * scale, 0.05, 20.0)), turn=place.turn + float(np.rad2deg(turn)),
    )  # fmt: skip


def _kept(
    moments: list[tuple[float, float, float, float, float]], every_s: float
) -> tuple[tuple[float, float, float, float, float], ...]:
    """Of moments about `every_s` apart those that tell the way, the last among them."""
    kept = [moments[0]]
    for row in moments[1:]:
        if row[0] - kept[-1][0] >= every_s - 1e-6:
            kept.append(row)
    told = thinned(kept if kept[-1] is moments[-1] else [*kept, moments[-1]], WITHIN, MOST_KEPT)
    return tuple(
        (at, round(x, 5), round(y, 5), round(size, 4), round(turn, 3)) for at, x, y, size, turn in told
    )

"""Skin in a picture: found where a face is, as a smooth patch of its colour with the shape and the dark
features of one.

Nobody is recognised or described: what is measured is the light on skin, its hue against the line, its luma.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from morphe.core.errors import ColourError
from morphe.core.measure.faces import Box, faces_in, searched
from morphe.core.signal.arrays import Encoded, Float, Mask, Plane
from morphe.core.signal.skin_colour import SKIN_LINE, skin_share
from morphe.core.signal.ycbcr import rgb_to_ycbcr

__all__ = ["LUMA_GUIDE", "SKIN_ZONE_DEG", "Patch", "Skin", "find_skin", "skin_in", "skin_of_pixels"]

SKIN_ZONE_DEG = 5.0  # from the line: good; to twice as far acceptable
LUMA_GUIDE = (45.0, 70.0)  # percent of key-lit faces of every complexion; a low key may lie below
BANDS_DEG = tuple(range(101, 152, 5))  # under an imperfect balance skin may lie well off its line
BAND_DEG, HALF = 9.0, 0.5
SMALLEST, LARGEST = 0.004, 0.25  # of the frame
ASPECT = (0.45, 1.35)  # width over height
ROUND = 0.72  # of its convex hull
ELLIPTIC = 0.86  # overlap with the ellipse of its moments
EVEN_RED = 0.030  # deviation of Cr over one face
DARKER = 0.80  # of the face's luma: eyes, brows and mouth are at most so bright
FEATURES = (0.02, 0.40)  # their share of the face
LEAST_PIXELS = 12
MOST_FRAMES = 100  # judging frames of a clip
NEAR, SIZES = 0.4, (0.55, 1.9)  # of a face's box: how far off, and how large beside, its skin may lie
SIDES = 0.12  # of the features that lie in each half at least


@dataclass(frozen=True, slots=True, kw_only=True)
class Skin:
    """Light on skin: its angle in the plane of Cb and Cr and its luma in percent, both medians; its share of
    the frame, and where its middle lies (x, y of 0..1)."""

    angle_deg: float
    luma: float
    share: float
    middle: tuple[float, float]
    chroma: float

    @property
    def off_deg(self) -> float:
        """How far it lies from the line: above 0 towards yellow, below towards red."""
        return self.angle_deg - SKIN_LINE


@dataclass(frozen=True, slots=True, kw_only=True)
class Patch:
    """Skin as a person points to it: the number of a judging frame, and a place there (0..1)."""

    frame: int
    x: float
    y: float
    radius: float = 0.015  # of the frame's width

    def __post_init__(self) -> None:
        inside = 0 <= self.x <= 1 and 0 <= self.y <= 1 and 0 < self.radius <= 0.5
        if not inside or not 0 <= self.frame < MOST_FRAMES:
            raise ColourError("Skin is pointed to inside a judging frame.")

    def pixels(self, picture: Encoded) -> Encoded:
        """The pixels (n, 3) of the patch in a picture (H, W, 3)."""
        height, width = picture.shape[:2]
        half = max(round(self.radius * width), 1)
        column, row = (min(int(at * size), size - 1) for at, size in ((self.x, width), (self.y, height)))
        part = picture[max(row - half, 0) : row + half + 1, max(column - half, 0) : column + half + 1]
        return part.reshape(-1, 3)


def find_skin(picture: Encoded, faces: Sequence[Box] | None = None) -> tuple[Skin, Mask] | None:
    """The most face-like patch of skin in a picture (H, W, 3), with its pixels (h, w) at searching size.

    Hues about the line are looked through one narrow band after another, so that a scarf or a hat of another
    hue does not run together with the face. `faces` are looked for where they are not given.
    """
    boxes = faces_in(picture) if faces is None else faces
    if not boxes:
        return None
    small = searched(picture)
    ycc = rgb_to_ycbcr(np.clip(small, 0, 1)).astype(np.float32)
    best, patch = 0.0, None
    could_be = skin_share(ycc, SKIN_LINE, 1000.0) > HALF  # of any hue
    hue = np.degrees(np.arctan2(ycc[..., 2], ycc[..., 1])) % 360
    for centre in BANDS_DEG:
        like = (could_be & (np.abs(hue - centre) < BAND_DEG)).astype(np.uint8)
        for one in _patches(cv2.morphologyEx(like, cv2.MORPH_OPEN, np.ones((2, 2), np.uint8))):
            score = float(one.mean()) * _face_like(one, ycc)
            if score > best and any(_agrees(one, box) for box in boxes):
                best, patch = score, one
    if patch is None:
        return None
    height, width = patch.shape
    rows, columns = np.nonzero(patch)
    at = (float(columns.mean() + 0.5) / width, float(rows.mean() + 0.5) / height)
    return skin_of_pixels(small[patch], share=float(patch.mean()), middle=at), patch


def skin_in(
    pictures: tuple[Encoded, ...], patch: Patch | None = None,
    faces: Sequence[Sequence[Box]] | None = None,
) -> Skin | None:  # fmt: skip
    """Skin over a clip's pictures (H, W, 3): at the patch a person pointed to, or else the median of those in
    which it is found; `faces` by picture, where they are known."""
    if patch is not None and patch.frame < len(pictures):
        return skin_of_pixels(patch.pixels(pictures[patch.frame]), middle=(patch.x, patch.y))
    known = faces if faces is not None and len(faces) == len(pictures) else [None] * len(pictures)
    looked = (find_skin(p, boxes) for p, boxes in zip(pictures, known, strict=True))
    found = [one[0] for one in looked if one is not None]
    if not found:
        return None
    return sorted(found, key=lambda skin: skin.angle_deg)[len(found) // 2]


def skin_of_pixels(pixels: Encoded, *, share: float = 0.0, middle: tuple[float, float] = (0.5, 0.5)) -> Skin:
    """Measure pixels (n, 3) that are skin."""
    ycc = rgb_to_ycbcr(np.clip(pixels, 0, 1))
    luma = np.median(ycc[:, 0])
    lit = ycc[ycc[:, 0] >= 0.7 * luma] if len(ycc) > LEAST_PIXELS else ycc  # its shadows take other light
    blue, red = np.median(lit[:, 1]), np.median(lit[:, 2])
    return Skin(
        angle_deg=float(np.degrees(np.arctan2(red, blue))), luma=100 * float(np.median(lit[:, 0])),
        share=share, middle=middle, chroma=float(np.hypot(blue, red)),
    )  # fmt: skip


def _patches(like: Plane) -> Iterator[Mask]:
    """Connected patches of a fair size, the largest first."""
    _, labels, about, _ = cv2.connectedComponentsWithStats(like, connectivity=4)
    areas = about[:, cv2.CC_STAT_AREA] / like.size
    for number in np.argsort(-areas):
        if number and SMALLEST <= areas[number] <= LARGEST:
            yield labels == number


def _face_like(patch: Mask, ycc: Float) -> float:
    """How much of an ellipse a patch is; 0 unless it has the outline of a face, even colour, and dark
    features in both of its halves."""
    outline = max(
        cv2.findContours(patch.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)[0], key=len
    )
    x, y, wide, tall = (int(side) for side in cv2.boundingRect(outline))
    box = x, y, wide, tall
    hull = np.zeros(patch.shape, np.uint8)
    cv2.fillConvexPoly(hull, cv2.convexHull(outline), 1)
    inside = hull.astype(bool)
    ellipse = _ellipticity(inside)
    is_face = (
        ASPECT[0] <= wide / tall <= ASPECT[1]
        and _touches(patch, box) <= 1
        and patch.sum() >= ROUND * inside.sum()
        and ellipse >= ELLIPTIC
        and float(ycc[patch][:, 2].std()) <= EVEN_RED
        and _has_features(inside, ycc[..., 0], box)
    )
    return ellipse if is_face else 0.0


def _agrees(patch: Mask, box: Box) -> bool:
    """Whether a face's box and a patch of skin are about the same place and size."""
    left, top, side = (share * patch.shape[1] for share in box)
    rows, columns = np.nonzero(patch)
    wide = float(columns.max() - columns.min() + 1)
    middle = ((columns.min() + columns.max()) / 2, (rows.min() + rows.max()) / 2)
    apart = np.hypot(middle[0] - left - side / 2, middle[1] - top - side / 2)
    return bool(apart <= NEAR * side and SIZES[0] <= side / wide <= SIZES[1])


def _touches(patch: Mask, box: tuple[int, int, int, int]) -> int:
    """How many edges of the frame a box reaches."""
    x, y, wide, tall = box
    return (x == 0) + (y == 0) + (x + wide == patch.shape[1]) + (y + tall == patch.shape[0])


def _ellipticity(inside: Mask) -> float:
    """Overlap of a filled shape with the ellipse of the same moments (intersection over union)."""
    moments = cv2.moments(inside.astype(np.uint8), binaryImage=True)
    middle = (moments["m10"] / moments["m00"], moments["m01"] / moments["m00"])
    spread = np.array([[moments["mu20"], moments["mu11"]], [moments["mu11"], moments["mu02"]]])
    values, axes = np.linalg.eigh(spread / moments["m00"])
    turn = float(np.degrees(np.arctan2(axes[1, 1], axes[0, 1])))
    size = tuple(float(4 * np.sqrt(max(v, 0.25))) for v in values[::-1])
    drawn = np.zeros(inside.shape, np.uint8)
    cv2.ellipse(drawn, (middle, size, turn), 1, -1)
    ellipse = drawn.astype(bool)
    return float((ellipse & inside).sum() / max((ellipse | inside).sum(), 1))


def _has_features(inside: Mask, luma: Plane, box: tuple[int, int, int, int]) -> bool:
    """Dark spots within the upper two thirds of a face, in its left and its right half."""
    x, y, wide, tall = box
    core = cv2.erode(inside.astype(np.uint8), np.ones((3, 3), np.uint8)).astype(bool)
    face = luma[core]
    if face.size < LEAST_PIXELS:
        return False
    around = cv2.GaussianBlur(luma, (0, 0), max(wide / 8, 1.5))
    dark = core & (luma < DARKER * around) & (luma < DARKER * np.median(face) * 1.15)
    rows, columns = np.nonzero(dark)
    upper = rows < y + 0.7 * tall
    share = float(dark.sum() / core.sum())
    if not FEATURES[0] <= share <= FEATURES[1] or not upper.any():
        return False
    left = float((columns[upper] < x + wide / 2).mean())
    return min(left, 1 - left) >= SIDES

"""What lies about a picture within its frame: black or even bars, or a blurred copy of the picture itself.

Bars are even, alike at both sides, still, and end at a straight hard line. A copy has no detail, ends at such
a line, and looks like the picture, enlarged and blurred.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np

from morphe.core.signal.arrays import Encoded, Float

__all__ = ["NOTHING", "Surround", "Window", "surround_of"]

Window = tuple[int, int, int, int]  # left, top, right, bottom in pixels
SMALLEST = 64  # pixels of a side in which bars can be told
LEAST, MOST = 0.012, 0.46  # of the frame's width or height that one bar takes
UNEVEN_SIDES = 0.012  # of it by which two bars may differ
BLACK = 0.075  # no channel of a black bar is brighter
EVEN = 0.02  # deviation within a bar, noise included
STILL = 0.02  # change over time of a bar's colour
STEP = 0.02  # between bar and picture, in a line that shows
SHOWN_ALONG = 0.2  # of the line's length
WITHIN = 0.01  # of a frame is left out beside bars, where a coder smears the line
GREY = np.full((1, 3), 1 / 3, np.float32)
ACROSS = 96  # samples along a bar
COPY_WIDTH = 320
COPY_DETAIL = 0.35  # of the picture's detail that a blurred copy has at most
COPY_ALIKE = 0.7  # correlation with the picture, enlarged and blurred
COPY_LINE = 2.5  # times as much change across the line as about it


@dataclass(frozen=True, slots=True, kw_only=True)
class Surround:
    """Shares of the frame, from each side, that are no picture; `kind` is "black", "even" or "copy"."""

    kind: str = ""
    left: float = 0.0
    top: float = 0.0
    right: float = 0.0
    bottom: float = 0.0

    @property
    def is_black(self) -> bool:
        return self.kind == "black"

    @property
    def label(self) -> str:
        """It in words."""
        return {"black": "black bars", "even": "even bars", "copy": "a blurred copy"}.get(self.kind, "")

    def window(self, width: int, height: int) -> Window:
        """The picture in pixels; a little within the bars."""
        if not self.kind:
            return 0, 0, width, height
        left, right = (int(np.ceil((s + WITHIN * bool(s)) * width)) for s in (self.left, self.right))
        top, bottom = (int(np.ceil((s + WITHIN * bool(s)) * height)) for s in (self.top, self.bottom))
        return left, top, max(width - right, left + 1), max(height - bottom, top + 1)

    def as_json(self) -> dict[str, Any]:
        places = {n: round(getattr(self, n), 5) for n in ("left", "top", "right", "bottom")}
        return {"kind": self.kind, **places} if self.kind else {}

    @classmethod
    def from_json(cls, data: Mapping[str, Any]) -> Surround:
        return cls(**{str(name): value for name, value in data.items()})


NOTHING = Surround()


def surround_of(pictures: Sequence[Encoded]) -> Surround:
    """Find what lies about the picture in all of some moments (H, W, 3) of a clip."""
    height, width = pictures[0].shape[:2]
    if min(height, width) < SMALLEST:
        return NOTHING
    found = _even_bars(_sized(pictures, ACROSS, height)), _even_bars(_turned(_sized(pictures, width, ACROSS)))
    if any(size for size, _ in found):
        (tall, tall_black), (wide, wide_black) = found
        kinds = [black for size, black in ((tall, tall_black), (wide, wide_black)) if size]
        kind = "black" if all(kinds) else "even"
        return Surround(kind=kind, left=wide, right=wide, top=tall, bottom=tall)
    scale = min(1.0, COPY_WIDTH / max(height, width))
    small = _sized(pictures, max(8, round(width * scale)), max(8, round(height * scale)))
    if wide := _copies(_turned(small)):
        return Surround(kind="copy", left=wide, right=wide)
    if tall := _copies(small):
        return Surround(kind="copy", top=tall, bottom=tall)
    return NOTHING


def _sized(pictures: Sequence[Encoded], width: int, height: int) -> Float:
    """Pictures (n, height, width, 3)."""
    sized = [cv2.resize(p, (width, height), interpolation=cv2.INTER_AREA) for p in pictures]
    return np.stack(sized).astype(np.float32, copy=False)


def _turned(stack: Float) -> Float:
    return np.ascontiguousarray(stack.transpose(0, 2, 1, 3))


def _even_bars(stack: Float) -> tuple[float, bool]:
    """Share of the height that a bar above and one below take each, and whether they are black."""
    height = stack.shape[1]
    means = np.stack([cv2.reduce(p, 1, cv2.REDUCE_AVG)[:, 0] for p in stack])  # (n, H, 3)
    squares = np.stack([cv2.reduce(p * p, 1, cv2.REDUCE_AVG)[:, 0] for p in stack])
    spread = np.sqrt(np.maximum(squares - means**2, 0)).max(axis=-1)  # (n, H)
    first = means[0]
    is_black = (means.max(axis=(0, 2)) < BLACK) & (spread.max(axis=0) < EVEN)
    is_even = (np.ptp(means, axis=0).max(axis=-1) < STILL) & (spread.max(axis=0) < EVEN)
    for rows in (is_black, is_even):
        above, below = _run(rows), _run(rows[::-1])
        size = min(above, below)
        if not max(LEAST * height, 2) <= size <= MOST * height or abs(above - below) > max(
            UNEVEN_SIDES * height, 2
        ):
            continue
        sides = np.abs(first[: size - 1].mean(axis=0) - first[height - size + 1 :].mean(axis=0)).max()
        flat = max(np.ptp(first[: size - 1], axis=0).max(), np.ptp(first[height - size + 1 :], axis=0).max())
        if max(sides, flat) < STILL and all(_ends_hard(side, size) for side in (stack, stack[:, ::-1])):
            return size / height, bool(is_black[: size - 1].all())
    return 0.0, False


def _run(rows: np.ndarray[Any, np.dtype[np.bool_]]) -> int:
    """How many of the first are true."""
    return int(rows.argmin()) if not rows.all() else 0


def _ends_hard(stack: Float, size: int) -> bool:
    """Whether the picture begins at once below `size` rows, along enough of the line."""
    reach = max(1, round(0.008 * stack.shape[1]))
    bar = stack[:, max(size - reach, 0)]
    inside = stack[:, min(size + reach, stack.shape[1] - 1)]
    shown = np.abs(inside - bar).max(axis=(0, 2)) > STEP
    return bool(shown.mean() > SHOWN_ALONG)


def _copies(stack: Float) -> float:
    """Share of the height that a blurred copy takes above, and as much below; 0 without one."""
    luma = [cv2.transform(one, GREY) for one in stack]  # (H, W) each
    height = luma[0].shape[0]
    across = np.mean([cv2.reduce(cv2.absdiff(y[1:], y[:-1]), 1, cv2.REDUCE_AVG)[:, 0] for y in luma], axis=0)
    lines = across + across[::-1]  # both edges show
    low, high = max(2, int(LEAST * height)), int(MOST * height)
    at = low + int(np.argmax(lines[low:high]))
    about = np.median(np.concatenate([lines[max(at - 8, 0) : at - 1], lines[at + 2 : at + 9]]))
    if lines[at] < COPY_LINE * max(about, 1e-4):
        return 0.0
    size = at + 1
    detail = np.stack([np.abs(cv2.Laplacian(y, cv2.CV_32F)) for y in luma])
    outer = np.concatenate([detail[:, 1 : size - 1], detail[:, height - size + 1 : -1]], axis=1).mean()
    inner = detail[:, size + 1 : height - size - 1].mean()
    if outer > COPY_DETAIL * inner or inner <= 0:
        return 0.0
    return size / height if _is_copy(stack, size) else 0.0


def _is_copy(stack: Float, size: int) -> bool:
    """Whether what lies above and below looks like the picture between, enlarged until it fills the frame."""
    height, width = stack.shape[1:3]
    inside = stack[:, size + 1 : height - size - 1]
    grown = height / max(inside.shape[1], 1)
    wide = round(width * grown)
    cut = (wide - width) // 2
    found = []
    for frame, part in zip(stack, inside, strict=True):
        copy = cv2.resize(part, (wide, height), interpolation=cv2.INTER_LINEAR)[:, cut : cut + width]
        copy = cv2.GaussianBlur(copy, (0, 0), 0.03 * height)
        rows = np.r_[1 : size - 1, height - size + 1 : height - 1]
        one, other = frame[rows].mean(axis=-1).ravel(), copy[rows].mean(axis=-1).ravel()
        if one.std() > 1e-3 and other.std() > 1e-3:
            found.append(float(np.corrcoef(one, other)[0, 1]))
    return bool(found) and float(np.median(found)) > COPY_ALIKE

"""Flashes that may harm: counted by WCAG 2.2 (SC 2.3.1) and, with the same numbers, ITU-R BT.1702.

A guide, not a certificate: screens, rooms and people differ.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from morphe.core.signal.arrays import Float

__all__ = ["CELLS", "FlashMeter", "Flashes"]

CELLS = (64, 36)  # across, down: what a frame is averaged to, in linear light
WINDOW = (22, 12)  # a third of it each way: ten degrees of sight on a usual screen
SHARE = 0.25  # of a window that has to change
STEP, DARK = 0.10, 0.80  # of relative luminance: how far it changes, below what the darker state lies
RED, RED_STEP = 0.8, 0.2  # R / (R + G + B); distance in u'v' (CIE 1976)
ALLOWED, FAILING = 6, 8  # transitions within a second: three flashes pass, four do not
LUMINANCE = np.array([0.2126, 0.7152, 0.0722], np.float32)  # BT.709
TO_XYZ = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]], np.float32)
GREY = np.array([0.1978, 0.4683], np.float32)  # u'v' of D65, for what has no colour
FAINT = 1e-4


@dataclass(frozen=True, slots=True, kw_only=True)
class Flashes:
    """What was found: the most transitions within a second, when that second begins, and of which sort."""

    most: int
    at_s: float = 0.0
    is_red: bool = False

    @property
    def state(self) -> str:
        """`good`, `caution` or `bad`."""
        return "good" if self.most <= ALLOWED else "bad" if self.most >= FAILING else "caution"


class _Cells:
    """Transitions of cells in two directions, and those of frames that follow from them."""

    def __init__(self) -> None:
        self._rows: list[tuple[float, np.ndarray]] = []  # of the last frames: time, (H, W) of -1, 0, 1
        self._direction = 0
        self.events: list[float] = []

    def push(self, time_s: float, turned: np.ndarray) -> None:
        """A frame's transitions; what is judged is the frame before it, with both its neighbours."""
        self._rows.append((time_s, turned))
        if len(self._rows) >= 2:
            self._judge(self._rows[-3:], self._rows[-2][0])
        self._rows = self._rows[-2:]

    def end(self) -> None:
        if self._rows:
            self._judge(self._rows[-2:], self._rows[-1][0])

    def _judge(self, rows: Sequence[tuple[float, np.ndarray]], time_s: float) -> None:
        for direction in (1, -1):
            near = np.any([turned == direction for _, turned in rows], axis=0)
            if direction != self._direction and near.any() and _is_large(near):
                self._direction = direction
                self.events.append(time_s)


def _is_large(cells: np.ndarray) -> bool:
    """Whether more than a quarter of some window, or of the whole, is marked."""
    if cells.mean() > SHARE:
        return True
    across, down = WINDOW
    sums = cv2.integral(cells.astype(np.uint8))
    inside = sums[down:, across:] - sums[:-down, across:] - sums[down:, :-across] + sums[:-down, :-across]
    return bool(inside.max() > SHARE * across * down)


class FlashMeter:
    """Takes the frames of a film in their order; a flash is two transitions that oppose each other."""

    def __init__(self) -> None:
        shape = CELLS[1], CELLS[0]
        self._low, self._high = np.full(shape, np.inf, np.float32), np.full(shape, -np.inf, np.float32)
        self._last = np.zeros(shape, np.int8)  # direction of each cell's last transition
        self._place: np.ndarray | None = None  # u'v' from which red is counted
        self._was_red = np.zeros(shape, bool)
        self._general, self._red = _Cells(), _Cells()

    def push(self, linear: Float, time_s: float) -> None:
        """A frame, averaged to `CELLS`: (36, 64, 3) linear light of BT.709, 0..1."""
        picture = np.asarray(linear, np.float32)
        self._general.push(time_s, self._turned(picture @ LUMINANCE))
        self._red.push(time_s, self._turned_red(picture))

    def _turned(self, luminance: np.ndarray) -> np.ndarray:
        np.minimum(self._low, luminance, out=self._low)
        np.maximum(self._high, luminance, out=self._high)
        up = (luminance - self._low >= STEP - 1e-6) & (self._low < DARK) & (self._last <= 0)
        down = (self._high - luminance >= STEP - 1e-6) & (luminance < DARK) & (self._last >= 0) & ~up
        turned = up.astype(np.int8) - down.astype(np.int8)
        moved = turned != 0
        self._last = np.where(moved, turned, self._last)
        self._low = np.where(moved, luminance, self._low)
        self._high = np.where(moved, luminance, self._high)
        return turned

    def _turned_red(self, picture: np.ndarray) -> np.ndarray:
        place = _uv(picture)
        total = picture.sum(axis=-1)
        is_red = (total > FAINT) & (picture[..., 0] >= RED * total)
        if self._place is None:
            self._place, self._was_red = place, is_red
        away = np.hypot(*np.moveaxis(place - self._place, -1, 0)) > RED_STEP
        moved = away & (is_red | self._was_red)
        turned = np.where(moved, np.where(is_red, 1, -1), 0).astype(np.int8)
        self._place = np.where(moved[..., None], place, self._place)
        self._was_red = np.where(moved, is_red, self._was_red)
        return turned

    def result(self) -> Flashes:
        """What was found up to here, with nothing more to come."""
        found = Flashes(most=0)
        for cells, is_red in ((self._general, False), (self._red, True)):
            cells.end()
            for number, begin in enumerate(cells.events):
                most = sum(1 for t in cells.events[number:] if t < begin + 1.0 - 1e-6)
                if most > found.most:
                    found = Flashes(most=most, at_s=begin, is_red=is_red)
        return found


def _uv(linear: np.ndarray) -> np.ndarray:
    """CIE 1976 u'v' (H, W, 2)."""
    x, y, z = np.moveaxis(linear @ TO_XYZ.T, -1, 0)
    weight = x + 15 * y + 3 * z
    safe = np.maximum(weight, FAINT)
    return np.where((weight > FAINT)[..., None], np.stack([4 * x / safe, 9 * y / safe], axis=-1), GREY)

"""Regions: where in the picture a layer works. A shape, its soft edge, and its place at every moment.

A place is (x, y, size, turn): the middle as shares of the frame's width and height, a factor on the shape's
own size, and degrees clockwise. Lengths of a shape are shares of the frame's height, so that a region lies on
the same things in proxy and master.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import ClassVar

import cv2
import numpy as np

from morphe.core.errors import ColourError
from morphe.core.grade.moments import check_moments, smooth_way
from morphe.core.signal.arrays import Float, Plane

__all__ = ["SHAPES", "Ellipse", "Line", "Outline", "Place", "Region", "Shape", "Window"]

MOST_POINTS = 64
FEATHER = (0.01, 1.0)
SIZE = (0.05, 20.0)
Window = tuple[int, int, int, int]
FIELD = 192  # samples a side of a distance field


@dataclass(frozen=True, slots=True)
class Place:
    """Where a shape lies: middle in shares of the frame, size as a factor, turn in degrees clockwise."""

    x: float = 0.5
    y: float = 0.5
    size: float = 1.0
    turn: float = 0.0


class Shape:
    """A shape about (0, 0), in shares of the frame's height; y points down."""

    kind: ClassVar[str] = ""

    @property
    def reach(self) -> float:
        """Half the side of a square about the middle that holds it."""
        raise NotImplementedError

    def distance(self, x: Float, y: Float) -> Float:
        """Distance of points to the edge, negative inside."""
        raise NotImplementedError


@dataclass(frozen=True, slots=True, kw_only=True)
class Ellipse(Shape):
    """An ellipse of half axes `wide` and `tall`."""

    kind: ClassVar[str] = "ellipse"

    wide: float = 0.25
    tall: float = 0.25

    def __post_init__(self) -> None:
        _check_length("An ellipse's half axis", self.wide)
        _check_length("An ellipse's half axis", self.tall)

    @property
    def reach(self) -> float:
        return max(self.wide, self.tall)

    def distance(self, x: Float, y: Float) -> Float:
        # Exact on the axes and at the edge, to first order elsewhere; the middle has no direction.
        out = np.hypot(x / self.wide, y / self.tall)
        slope = np.hypot(x / self.wide**2, y / self.tall**2)
        near = out * (out - 1) / np.maximum(slope, 1e-9)
        least = np.where(out < 1, -min(self.wide, self.tall), np.hypot(x, y) - self.reach)
        return np.asarray(np.maximum(near, least))


@dataclass(frozen=True, slots=True, kw_only=True)
class Line(Shape):
    """All that lies above a line through the middle."""

    kind: ClassVar[str] = "line"

    @property
    def reach(self) -> float:
        return 4.0

    def distance(self, x: Float, y: Float) -> Float:
        return np.asarray(y + 0 * x)


@dataclass(frozen=True, slots=True, kw_only=True)
class Outline(Shape):
    """A closed outline through points (x, y), drawn by hand."""

    kind: ClassVar[str] = "outline"

    points: tuple[tuple[float, float], ...] = ()

    def __post_init__(self) -> None:
        table = np.array(self.points, float) if all(len(p) == 2 for p in self.points) else np.zeros(0)
        if not 3 <= len(table) <= MOST_POINTS or not np.isfinite(table).all() or np.abs(table).max() > 4:
            raise ColourError(f"An outline goes through 3 to {MOST_POINTS} points in or near the frame.")

    @property
    def reach(self) -> float:
        return max(0.02, float(np.abs(np.array(self.points)).max()))

    def distance(self, x: Float, y: Float) -> Float:
        here = np.stack(np.broadcast_arrays(x, y), axis=-1)[..., None, :]
        start = np.array(self.points, float)
        along = np.roll(start, -1, axis=0) - start
        share = ((here - start) * along).sum(-1) / np.maximum((along**2).sum(-1), 1e-12)
        nearest = start + np.clip(share, 0, 1)[..., None] * along
        away = np.sqrt(((here - nearest) ** 2).sum(-1)).min(-1)
        ax, ay = start[:, 0], start[:, 1]
        bx, by = ax + along[:, 0], ay + along[:, 1]
        px, py = here[..., 0], here[..., 1]
        crosses = (ay > py) != (by > py)
        where = ax + (py - ay) * (bx - ax) / np.where(by == ay, 1e-12, by - ay)
        inside = (crosses & (px < where)).sum(-1) % 2 == 1
        return np.where(inside, -away, away)


SHAPES: dict[str, type[Shape]] = {kind.kind: kind for kind in (Ellipse, Line, Outline)}


def _check_length(what: str, value: float) -> None:
    if isinstance(value, bool) or not isinstance(value, (int, float)) or not 0.01 <= value <= 4:
        raise ColourError(f"{what} must lie between 0.01 and 4 heights of the frame, not {value!r}.")


@dataclass(frozen=True, slots=True, kw_only=True)
class Region:
    """A shape with a soft edge, and its places: ((seconds, x, y, size, turn), …); one place holds throughout.

    `feather` is the width of the soft edge in shares of the frame's height; `inverse` means all but the
    inside.
    """

    shape: Shape
    feather: float = 0.1
    inverse: bool = False
    moments: tuple[tuple[float, float, float, float, float], ...] = ((0.0, 0.5, 0.5, 1.0, 0.0),)

    def __post_init__(self) -> None:
        if isinstance(self.feather, bool) or not FEATHER[0] <= self.feather <= FEATHER[1]:
            raise ColourError("The soft edge of a region is 1 to 100 % of the frame's height.")
        check_moments(self.moments, 5)
        table = np.array(self.moments, float)
        if (
            (np.abs(table[:, 1:3]) > 4).any()
            or (table[:, 3] < SIZE[0]).any()
            or (table[:, 3] > SIZE[1]).any()
        ):
            raise ColourError("A region must lie in or near the frame.")

    @property
    def moves(self) -> bool:
        return len(self.moments) > 1

    def place(self, time_s: float = 0.0) -> Place:
        """Where it lies at a moment."""
        return Place(*(float(v) for v in smooth_way(self.moments, time_s)))

    def at(self, time_s: float) -> Region:
        """The same, held at a moment."""
        if not self.moves:
            return self
        place = self.place(time_s)
        return replace(self, moments=((time_s, place.x, place.y, place.size, place.turn),))

    def put(self, place: Place, time_s: float | None = None) -> Region:
        """The same at another place: at a moment, or throughout where it does not move."""
        row = (time_s or 0.0, place.x, place.y, place.size, place.turn)
        if time_s is None or not self.moments:
            return replace(self, moments=(row,))
        others = [m for m in self.moments if abs(m[0] - time_s) > 1e-3]
        return replace(self, moments=tuple(sorted([*others, row])))

    def share_at(self, x: Float, y: Float, aspect: float, time_s: float = 0.0) -> Float:
        """How far points (shares of the frame) belong to it, 0..1; aspect is width over height."""
        place = self.place(time_s)
        right, down = (x - place.x) * aspect, y - place.y
        turn = np.deg2rad(place.turn)
        along = (np.cos(turn) * right + np.sin(turn) * down) / place.size
        across = (-np.sin(turn) * right + np.cos(turn) * down) / place.size
        return self._soft(self.shape.distance(along, across) * place.size)

    def _soft(self, distance: Float) -> Float:
        share = np.clip(0.5 - distance / self.feather, 0, 1)
        share = share * share * (3 - 2 * share)
        return 1 - share if self.inverse else share

    def window(self, width: int, height: int, time_s: float = 0.0) -> Window:
        """The even part of a frame that holds all of it: (left, top, right, bottom) in px."""
        if self.inverse or isinstance(self.shape, Line):
            return 0, 0, width, height
        place = self.place(time_s)
        # A turned shape may reach into the corners of its square.
        reach = (self.shape.reach * np.sqrt(2) * place.size + 0.5 * self.feather) * height + 2
        x, y = place.x * width, place.y * height
        left, top = (int(np.clip(v - reach, 0, n)) // 2 * 2 for v, n in ((x, width), (y, height)))
        right, bottom = (
            min(int(np.clip(v + reach, 0, n)) // 2 * 2 + 2, n) for v, n in ((x, width), (y, height))
        )
        return left, top, max(right, left), max(bottom, top)

    def mask(self, width: int, height: int, time_s: float = 0.0, window: Window | None = None) -> Plane:
        """How far each pixel of a frame, or of a window of it, belongs to it, (h, w) float32.

        The shape's distances are laid where it is; `share_at` is the exact way.
        """
        place = self.place(time_s)
        field, half = self.distance_field
        left, top, right, bottom = window or (0, 0, width, height)
        to_field = np.array(self._to_field(place, width, height, half))
        to_field[:, 2] += to_field[:, :2] @ (left, top)
        distance = cv2.warpAffine(
            field, to_field.astype(np.float32), (right - left, bottom - top),
            flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_REPLICATE,
        )  # fmt: skip
        return np.asarray(self._soft(distance * np.float32(place.size)), np.float32)

    @property
    def distance_field(self) -> tuple[Plane, float]:
        """Distances (n, n) float32 over a square about the shape, and half its side in frame heights."""
        return _distance_field(self.shape, self.feather / min(m[3] for m in self.moments))

    def _to_field(self, place: Place, width: int, height: int, half: float) -> Sequence[Sequence[float]]:
        """The 2x3 from a pixel's number to samples of the field."""
        turn = np.deg2rad(place.turn)
        c, s = np.cos(turn) / place.size / height, np.sin(turn) / place.size / height
        scale, middle = (FIELD - 1) / (2 * half), (FIELD - 1) / 2
        right = 0.5 - place.x * width
        down = 0.5 - place.y * height
        return (
            (scale * c, scale * s, middle + scale * (c * right + s * down)),
            (-scale * s, scale * c, middle + scale * (-s * right + c * down)),
        )


@lru_cache(maxsize=64)
def _distance_field(shape: Shape, soft: float) -> tuple[Plane, float]:
    """The field reaches beyond the shape as far as its soft edge does."""
    half = 1.05 * shape.reach + 0.6 * soft
    axis = np.linspace(-half, half, FIELD)
    return np.asarray(shape.distance(axis[None, :], axis[:, None]), np.float32), half

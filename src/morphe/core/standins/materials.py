"""Things whose colour is that of skin and which are none: a beach, planks, log ends, pots and bricks."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache

import cv2
import numpy as np

from morphe.core.signal.arrays import Float, Linear, Plane
from morphe.core.standins.noise import fractal

__all__ = ["MATERIALS", "render_material"]

SAND, WET_SAND = (0.46, 0.36, 0.23), (0.28, 0.21, 0.13)
WOOD, DARK_WOOD = (0.34, 0.20, 0.11), (0.17, 0.09, 0.05)
TERRACOTTA, SHADE = (0.42, 0.16, 0.09), 0.35
SKY, WALL, MORTAR = (0.55, 0.66, 0.82), (0.52, 0.50, 0.46), (0.50, 0.47, 0.42)


@lru_cache(maxsize=1)
def _textures() -> tuple[Float, Float]:
    rng = np.random.default_rng(53)
    return fractal(512, 1.5, rng), fractal(512, 0.7, rng)


def _axes(width: int, height: int) -> tuple[Plane, Plane]:
    y, x = np.mgrid[0:height, 0:width].astype(np.float32)
    return (x + 0.5) / width, (y + 0.5) / height


def _read(texture: Float, u: Plane, v: Plane) -> Plane:
    size = texture.shape[0]
    found: Plane = cv2.remap(
        texture.astype(np.float32), np.mod(u * size, size).astype(np.float32),
        np.mod(v * size, size).astype(np.float32), cv2.INTER_LINEAR, borderMode=cv2.BORDER_WRAP,
    )  # fmt: skip
    return found


def _mix(one: tuple[float, ...], other: tuple[float, ...], share: Plane) -> Linear:
    low, high = np.array(one, np.float32), np.array(other, np.float32)
    return np.asarray(low + share[..., None] * (high - low), np.float32)


def _beach(x: Plane, y: Plane) -> Linear:
    clouds, grain = _textures()
    damp = np.clip(0.5 + 0.6 * _read(clouds, 0.4 * x, 0.9 * y), 0, 1)
    ripple = 1 + 0.10 * np.sin(70 * y + 6 * _read(clouds, x, y)) + 0.12 * _read(grain, 2 * x, 2 * y)
    ground = _mix(SAND, WET_SAND, damp) * ripple[..., None]
    return np.where((y < 0.3)[..., None], np.array(SKY, np.float32), ground)


def _planks(x: Plane, y: Plane) -> Linear:
    clouds, grain = _textures()
    board = np.floor(x * 7)
    along = np.sin(60 * (x * 7 - board) + 9 * _read(clouds, 0.3 * y + 0.17 * board, x))
    tone = np.clip(0.45 + 0.22 * along + 0.25 * _read(grain, 0.2 * y, 3 * x), 0, 1)
    for n in range(9):  # knots
        at = ((n * 0.137 + 0.06) % 1, (n * 0.293 + 0.11) % 1)
        tone = np.maximum(tone, 1.1 * np.exp(-(((x - at[0]) / 0.012) ** 2) - ((y - at[1]) / 0.022) ** 2))
    gap = np.abs(x * 7 - board - 0.5) > 0.485
    return _mix(WOOD, DARK_WOOD, np.where(gap, 1.0, np.minimum(tone, 1)))


def _logs(x: Plane, y: Plane) -> Linear:
    clouds, _ = _textures()
    light = np.full((*x.shape, 3), 0.06, np.float32)
    for row in range(3):
        for column in range(5):
            at = (0.1 + 0.2 * column + 0.09 * (row % 2), 0.2 + 0.3 * row)
            radius = np.hypot((x - at[0]) / 0.09, (y - at[1]) / 0.16)
            rings = np.sin(34 * radius + 2 * _read(clouds, x, y)) * 0.5 + 0.5
            crack = np.abs(np.sin(1.5 * np.arctan2(y - at[1], x - at[0]) + row + column)) < 0.02
            tone = np.clip(0.15 + 0.45 * rings + 0.5 * (radius > 0.9) + 0.6 * crack, 0, 1)
            light = np.where((radius < 1)[..., None], _mix(WOOD, DARK_WOOD, tone), light)
    return light


def _pots(x: Plane, y: Plane) -> Linear:
    _, grain = _textures()
    light = _mix(WALL, MORTAR, np.clip(0.5 + 0.4 * _read(grain, x, y), 0, 1))
    for at, size in ((0.2, 0.20), (0.5, 0.26), (0.8, 0.17)):
        top, bottom = 0.85 - 2.2 * size, 0.85
        down = (y - top) / (bottom - top)
        half = size * (0.62 - 0.18 * np.clip(down, 0, 1))
        across = (x - at) / np.maximum(half, 1e-3)
        body = (np.abs(across) < 1) & (down > 0) & (down < 1)
        rim = (np.abs(x - at) < 0.68 * size) & (down > -0.05) & (down < 0.12)
        lit = np.clip(1 - 0.75 * np.clip(across + 0.35, -1, 1) ** 2, SHADE, 1)
        colour = np.array(TERRACOTTA, np.float32) * (lit * (1 + 0.05 * _read(grain, x, y)))[..., None]
        light = np.where((body | rim)[..., None], colour, light)
    return light


def _bricks(x: Plane, y: Plane) -> Linear:
    _, grain = _textures()
    row = np.floor(y * 12)
    column = np.floor(x * 8 + 0.5 * (row % 2))
    inner = (np.abs(x * 8 + 0.5 * (row % 2) - column - 0.5) < 0.46) & (np.abs(y * 12 - row - 0.5) < 0.42)
    tone = 0.75 + 0.25 * np.sin(12.9 * column + 78.2 * row) + 0.12 * _read(grain, 2 * x, 2 * y)
    return np.where(inner[..., None], np.array(TERRACOTTA, np.float32) * tone[..., None], MORTAR)


MATERIALS: dict[str, Callable[[Plane, Plane], Linear]] = {
    "beach": _beach, "planks": _planks, "logs": _logs, "pots": _pots, "bricks": _bricks,
}  # fmt: skip


def render_material(name: str, *, width: int, height: int) -> Linear:
    """Render a scene without anybody in it as scene-linear BT.709 (height, width, 3)."""
    return np.clip(MATERIALS[name](*_axes(width, height)), 0, 1.2).astype(np.float32)

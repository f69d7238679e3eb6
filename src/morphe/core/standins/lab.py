"""Simulated series for the profile lab: a made-up camera films a grey card in steps, and a target once."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import cv2
import numpy as np

from morphe.core.measure.target import COLUMNS, MADE_UP, ROWS
from morphe.core.signal.arrays import Linear
from morphe.core.standins.cameras import Exposure, film, record

__all__ = [
    "CARD_REGION",
    "CARD_STEPS",
    "TARGET_CORNERS",
    "UNKNOWN_MATRIX",
    "card_scene",
    "card_series",
    "target_scene",
    "write_series",
]

CARD_STEPS = tuple(range(-6, 6))
CARD_REGION = (0.36, 0.34, 0.64, 0.66)
TARGET_CORNERS = ((0.16, 0.14), (0.86, 0.18), (0.83, 0.84), (0.18, 0.88))
SIZE = (320, 180)
FRAMES = 12
# How the unknown camera sees colour: light of the scene, BT.709, to its own three channels.
UNKNOWN_MATRIX = np.array([[0.86, 0.11, 0.03], [0.06, 0.88, 0.06], [0.02, 0.13, 0.85]])


def card_scene(width: int = SIZE[0], height: int = SIZE[1]) -> Linear:
    """A grey card of 18 % in front of a darker wall, a little darker towards the corners of the frame."""
    y, x = np.mgrid[0:height, 0:width].astype(np.float32)
    fall = 1 - 0.12 * (((x / width - 0.5) * 2) ** 2 + ((y / height - 0.5) * 2) ** 2) / 2
    grey = np.full((height, width), 0.07, np.float32)
    grey[int(0.22 * height) : int(0.78 * height), int(0.26 * width) : int(0.74 * width)] = 0.18
    return np.repeat((grey * np.where(grey > 0.1, 1.0, fall))[..., None], 3, axis=2).astype(np.float32)


def target_scene(width: int = 640, height: int = 360) -> Linear:
    """The made-up target, held a little askew, as linear light."""
    cell = 60
    sheet = np.full((ROWS * cell, COLUMNS * cell, 3), 0.03, np.float32)
    colours = np.clip(MADE_UP.linear, 0.001, None)
    for index, colour in enumerate(colours):
        row, column = divmod(index, COLUMNS)
        sheet[row * cell + 4 : (row + 1) * cell - 4, column * cell + 4 : (column + 1) * cell - 4] = colour
    flat = np.array(
        [(0, 0), (COLUMNS * cell, 0), (COLUMNS * cell, ROWS * cell), (0, ROWS * cell)], np.float32
    )
    placed = (np.array(TARGET_CORNERS) * (width, height)).astype(np.float32)
    matrix = cv2.getPerspectiveTransform(flat, placed)
    background = np.full((height, width, 3), 0.10, np.float32)
    cv2.warpPerspective(sheet, matrix, (width, height), dst=background, borderMode=cv2.BORDER_TRANSPARENT)
    return background


def card_series(exposure: Exposure, generator: np.random.Generator) -> Iterator[tuple[int, list[np.ndarray]]]:
    """(step in stops, frames as filmed) for every step of the series."""
    scene = card_scene()
    for step in CARD_STEPS:
        shot = replace(exposure, exposure_stops=exposure.exposure_stops + step)
        yield step, [film(scene, shot, generator) for _ in range(FRAMES)]


def write_series(folder: Path, exposure: Exposure, seed: int = 11) -> list[Path]:
    """Record the series and the target as clips: card-minus-6.mp4 to card-plus-5.mp4, and target.mp4."""
    folder.mkdir(parents=True, exist_ok=True)
    generator = np.random.default_rng(seed)
    paths = []
    for step, frames in card_series(exposure, generator):
        name = f"card-{'minus' if step < 0 else 'plus'}-{abs(step)}.mp4"
        paths.append(record(iter(frames), folder / name, exposure))
    warm = replace(exposure, warm_mired=exposure.warm_mired + 20)
    seen = (target_scene() @ UNKNOWN_MATRIX.T).astype(np.float32)
    paths.append(record((film(seen, warm, generator) for _ in range(FRAMES)), folder / "target.mp4", warm))
    return paths

"""What files carry beside the picture, laid over by chance: bars, a blurred copy, writing, fades, covers.

Everything is drawn from a generator; the truth stays the picture alone.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np

__all__ = ["KINDS", "Laid", "lay"]

KINDS = ("letterbox", "pillarbox", "noisy", "copy", "writing", "fade", "covered")
FONTS = (
    cv2.FONT_HERSHEY_SIMPLEX,
    cv2.FONT_HERSHEY_DUPLEX,
    cv2.FONT_HERSHEY_TRIPLEX,
    cv2.FONT_HERSHEY_COMPLEX,
)
WORDS = ("2026-08-14 17:02:31", "H 31.2 m  D 118 m", "VOLUNTEER DAY", "REC 00:12", "54.1 N 12.3 E", "by Fern")


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Laid:
    """Frames with something about or over them, and the pixels (H, W) that are picture."""

    frames: list[np.ndarray]
    picture: np.ndarray


def lay(frames: Sequence[np.ndarray], kind: str, generator: np.random.Generator) -> Laid:
    """Lay one kind over frames (H, W, 3) encoded."""
    height, width = frames[0].shape[:2]
    everywhere = np.ones((height, width), bool)
    if kind in ("fade", "covered"):
        return Laid(frames=_dimmed(frames, kind, generator), picture=everywhere)
    if kind == "writing":
        return _written(frames, generator)
    upright = kind == "pillarbox" or (kind != "letterbox" and generator.random() < 0.5)
    ratio = generator.choice([9 / 16, 1.0, 4 / 3]) if upright else generator.choice([1.85, 2.0, 2.35, 2.39])
    if upright:
        kept = round(height * ratio / 2) * 2
        left, top = (width - kept) // 2, 0
    else:
        kept = round(width / ratio / 2) * 2
        left, top = 0, (height - kept) // 2
    picture = np.zeros((height, width), bool)
    picture[top : height - top, left : width - left] = True
    level = np.float32(generator.uniform(0, 0.04)) if kind == "noisy" else np.float32(0)
    made = []
    for frame in frames:
        about = np.full_like(frame, level)
        if kind == "noisy":
            about += generator.normal(0, 0.006, frame.shape).astype(np.float32)
        if kind == "copy":
            about = _copy(frame[top : height - top, left : width - left], width, height)
        made.append(np.where(picture[..., None], frame, about).astype(np.float32))
    return Laid(frames=made, picture=picture)


def _copy(part: np.ndarray, width: int, height: int) -> np.ndarray:
    """A part of a frame, enlarged until it fills it, blurred and dimmed."""
    grown = max(width / part.shape[1], height / part.shape[0])
    size = (max(width, round(part.shape[1] * grown)), max(height, round(part.shape[0] * grown)))
    large = cv2.resize(part, size, interpolation=cv2.INTER_LINEAR)
    x, y = (size[0] - width) // 2, (size[1] - height) // 2
    return 0.7 * cv2.GaussianBlur(large[y : y + height, x : x + width], (0, 0), 0.04 * width)


def _written(frames: Sequence[np.ndarray], generator: np.random.Generator) -> Laid:
    height, width = frames[0].shape[:2]
    mask = np.zeros((height, width), np.uint8)
    plate = np.zeros((height, width), np.float32)
    for _ in range(int(generator.integers(1, 4))):
        words, font = WORDS[generator.integers(len(WORDS))], int(generator.choice(FONTS))
        size = generator.uniform(0.04, 0.09) * height / 22
        thick = max(1, round(size * generator.uniform(1.2, 2.5)))
        (wide, tall), _ = cv2.getTextSize(words, font, size, thick)
        x = int(generator.uniform(0.02, max(0.03, 0.97 - wide / width)) * width)
        y = int(generator.choice([generator.uniform(0.1, 0.2), generator.uniform(0.85, 0.96)]) * height)
        cv2.putText(mask, words, (x, y), font, size, 255, thick, cv2.LINE_AA)
        if generator.random() < 0.3:
            plate[max(y - tall - 4, 0) : y + 6, max(x - 4, 0) : x + wide + 4] = 0.5
    colour = np.array(generator.choice([[1, 1, 1], [1, 1, 1], [1, 0.9, 0.1], [0, 0, 0]]), np.float32)
    strength = np.float32(generator.choice([1.0, 1.0, 0.8])) * mask.astype(np.float32)[..., None] / 255
    made = []
    for frame in frames:
        under = frame * (1 - plate[..., None])
        made.append((under + strength * (colour - under)).astype(np.float32))
    return Laid(frames=made, picture=(mask == 0) & (plate == 0))


def _dimmed(frames: Sequence[np.ndarray], kind: str, generator: np.random.Generator) -> list[np.ndarray]:
    count = len(frames)
    share = np.ones(count)
    length = int(generator.integers(min(8, count // 4), max(9, count // 3)))
    if kind == "fade":
        share[:length] = np.linspace(0, 1, length)
    else:
        begin = int(generator.integers(0, count - length))
        share[begin : begin + length] = 0.01
    return [(frame * np.float32(s)).astype(np.float32) for frame, s in zip(frames, share, strict=True)]

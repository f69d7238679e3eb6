"""Small samples of a clip over its whole length, for what changes with time."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np

from morphe.core.footage.info import SignalInfo
from morphe.core.footage.planes import planes_from_frame
from morphe.core.footage.probe import open_clip
from morphe.core.footage.reader import clock
from morphe.core.signal.arrays import Encoded, Float
from morphe.core.signal.ycbcr import range_scale

__all__ = ["Samples", "sample_clip"]

PER_SECOND = 6.0
WIDTH = 128
MOST_SAMPLES = 1200  # a long clip is sampled more sparsely
LUMA_CODES = 4096


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Samples:
    """Sampled frames (n of (h, w, 3) encoded) and the mean luma of every frame, each with its times."""

    times_s: Float
    pictures: tuple[Encoded, ...]
    frame_times_s: Float
    frame_luma: Float


def sample_clip(info: SignalInfo) -> Samples:
    """Decode a clip (best: its proxy) once and keep what is needed of it."""
    spacing = max(1 / PER_SECOND, info.duration_s / MOST_SAMPLES)
    times, pictures, frame_times, frame_luma = [], [], [], []
    wanted = 0.0
    with open_clip(info.path) as container:
        stream = container.streams.video[0]
        stream.thread_type = "AUTO"
        for frame in container.decode(stream):
            at = clock(info, stream.time_base, frame)
            frame_times.append(at)
            frame_luma.append(_mean_luma(frame, info))
            if at + 1e-6 >= wanted:
                times.append(at)
                pictures.append(_small(planes_from_frame(frame, info).encoded(width=WIDTH)))
                wanted = at + spacing
    return Samples(
        times_s=np.array(times), pictures=tuple(pictures), frame_times_s=np.array(frame_times),
        frame_luma=np.array(frame_luma),
    )  # fmt: skip


def _mean_luma(frame: Any, info: SignalInfo) -> float:
    """Mean of a few thousand luma codes, as a fraction of the range."""
    plane = frame.planes[0]
    codes = np.frombuffer(plane, np.uint8 if info.bit_depth == 8 else np.uint16)
    scale = range_scale(info.effective_range, info.bit_depth)
    return float((codes[:: max(codes.size // LUMA_CODES, 1)].mean() - scale.luma_offset) / scale.luma_scale)


def _small(encoded: Encoded) -> Encoded:
    height, width = encoded.shape[:2]
    if width <= WIDTH:
        return encoded
    size = (WIDTH, max(1, round(height * WIDTH / width)))
    return cv2.resize(encoded, size, interpolation=cv2.INTER_AREA).astype(np.float32, copy=False)

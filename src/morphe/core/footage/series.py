"""Small samples of a clip over its whole length, for what changes with time."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from morphe.core.footage.info import SignalInfo
from morphe.core.footage.planes import planes_from_frame
from morphe.core.footage.probe import open_clip
from morphe.core.footage.proxy import without_chroma_gain
from morphe.core.footage.reader import clock
from morphe.core.pulse import alive
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


def sample_clip(info: SignalInfo, chroma_gain: float = 1.0) -> Samples:
    """Decode a clip once and keep what is needed of it; a proxy's colour was spread by `chroma_gain`."""
    spacing = max(1 / PER_SECOND, info.duration_s / MOST_SAMPLES)
    times, pictures, frame_times, frame_luma = [], [], [], []
    wanted = 0.0
    with open_clip(info.path) as container:
        stream = container.streams.video[0]
        stream.thread_type = "AUTO"
        for frame in alive(container.decode(stream)):
            at = clock(info, stream.time_base, frame)
            frame_times.append(at)
            frame_luma.append(_mean_luma(frame, info))
            if at + 1e-6 >= wanted:
                times.append(at)
                small = planes_from_frame(frame, info).encoded(width=WIDTH)
                pictures.append(without_chroma_gain(small, chroma_gain) if chroma_gain != 1.0 else small)
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

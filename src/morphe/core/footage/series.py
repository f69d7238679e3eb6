"""Small samples of a clip over its whole length, for what changes with time."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np

from morphe.core.footage.info import SignalInfo
from morphe.core.footage.planes import planes_from_frame
from morphe.core.footage.probe import open_clip
from morphe.core.footage.proxy import without_chroma_gain
from morphe.core.footage.reader import clock
from morphe.core.footage.shot_finder import GRID, ShotFinder
from morphe.core.footage.shots import Shots
from morphe.core.pulse import alive
from morphe.core.signal.arrays import Encoded, Float
from morphe.core.signal.ycbcr import range_scale

__all__ = ["Samples", "sample_clip"]

PER_SECOND = 6.0
WIDTH = 128
MOST_SAMPLES = 1200  # a long clip is sampled more sparsely
LUMA_WIDTH = 256  # samples across of which the cells are made


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Samples:
    """Sampled frames (n of (h, w, 3) encoded), the mean luma of every frame, and the shots."""

    times_s: Float
    pictures: tuple[Encoded, ...]
    frame_times_s: Float
    frame_luma: Float
    shots: Shots | None = None


def sample_clip(info: SignalInfo, chroma_gain: float = 1.0) -> Samples:
    """Decode a clip once and keep what is needed of it; a proxy's colour was spread by `chroma_gain`."""
    finder = ShotFinder(float(info.fps))
    spacing = max(1 / PER_SECOND, info.duration_s / MOST_SAMPLES)
    times, pictures, frame_times, frame_luma = [], [], [], []
    wanted = 0.0
    with open_clip(info.path) as container:
        stream = container.streams.video[0]
        stream.thread_type = "AUTO"
        for frame in alive(container.decode(stream)):
            at = clock(info, stream.time_base, frame)
            frame_times.append(at)
            cells = _cells(frame, info)
            frame_luma.append(float(cells.mean()))
            finder.add(at, cells)
            if at + 1e-6 >= wanted:
                times.append(at)
                small = planes_from_frame(frame, info).encoded(width=WIDTH)
                pictures.append(without_chroma_gain(small, chroma_gain) if chroma_gain != 1.0 else small)
                wanted = at + spacing
    return Samples(
        times_s=np.array(times), pictures=tuple(pictures), frame_times_s=np.array(frame_times),
        frame_luma=np.array(frame_luma), shots=finder.shots(),
    )  # fmt: skip


def _cells(frame: Any, info: SignalInfo) -> Float:
    """Luma (36, 64) of a frame as it is stored, as a fraction of the range."""
    plane = frame.planes[0]
    codes = np.frombuffer(plane, np.uint8 if info.bit_depth == 8 else np.uint16).reshape(plane.height, -1)
    step = max(1, frame.width // LUMA_WIDTH)
    small = np.ascontiguousarray(codes[: frame.height : step, : frame.width : step])
    scale = range_scale(info.effective_range, info.bit_depth)
    cells = cv2.resize(small, GRID, interpolation=cv2.INTER_AREA).astype(np.float32)
    return np.asarray((cells - np.float32(scale.luma_offset)) / np.float32(scale.luma_scale))

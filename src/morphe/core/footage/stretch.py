"""A short stretch out of the middle of a clip, every frame of it, small: for what happens between frames."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import islice

import numpy as np

from morphe.core.footage.info import SignalInfo
from morphe.core.footage.planes import planes_from_frame
from morphe.core.footage.probe import open_clip
from morphe.core.footage.reader import clock
from morphe.core.pulse import alive
from morphe.core.signal.arrays import Encoded, Float

__all__ = ["Stretch", "stretch_of"]

LENGTH_S = 3.0
MOST_FRAMES = 100
PER_SECOND = 60  # of quicker clips every second, fourth, … frame: their hundred would be over at once
WIDTH = 192


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Stretch:
    """Frames (n of (h, w, 3) encoded, 192 wide) that follow each other, and their times."""

    times_s: Float
    pictures: tuple[Encoded, ...]


def stretch_of(info: SignalInfo) -> Stretch:
    """Decode three seconds from the middle, at most 100 frames and about 60 a second."""
    begin = max(info.start_s + (info.duration_s - LENGTH_S) / 2, info.start_s)
    every = max(1, round(float(info.fps) / PER_SECOND))
    times: list[float] = []
    pictures: list[Encoded] = []
    with open_clip(info.path) as container:
        stream = container.streams.video[0]
        stream.thread_type = "AUTO"
        container.seek(int(begin / stream.time_base), stream=stream, backward=True)
        for frame in islice(alive(container.decode(stream)), 0, None, every):
            at = clock(info, stream.time_base, frame)
            times.append(at)
            pictures.append(planes_from_frame(frame, info).encoded(width=WIDTH))
            if len(times) >= MOST_FRAMES or at - times[0] >= LENGTH_S:
                break
    return Stretch(times_s=np.array(times), pictures=tuple(pictures))

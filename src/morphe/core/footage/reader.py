"""Frames of a clip: one at a time, in order, or all through."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from morphe.core.errors import NoPicture, OutsideClip
from morphe.core.footage.info import SignalInfo
from morphe.core.footage.planes import Planes, planes_from_frame
from morphe.core.footage.probe import open_clip

__all__ = ["frame_at", "frames_at"]

# Seeking pays only when the wanted time lies further ahead than decoding on would take.
SEEK_AHEAD_S = 1.0
ROUNDED_S = 5e-4  # containers may keep times in milliseconds


def frame_at(info: SignalInfo, time_s: float) -> Planes:
    """Give the frame shown at `time_s` seconds from the clip's start.

    Raises
    ------
    OutsideClip
        If the time lies before the start or at or beyond the end.
    """
    if not 0 <= time_s < info.duration_s:
        raise OutsideClip(
            f"{info.path.name} runs from 0 to {info.duration_s:.2f} s; there is no frame at {time_s:g} s."
        )
    for _, planes in frames_at(info, [time_s]):
        return planes
    raise NoPicture(f"{info.path.name} has no frame that can be decoded at {time_s:g} s.")


def frames_at(
    info: SignalInfo, times_s: list[float], *, key_frames: bool = False
) -> Iterator[tuple[float, Planes]]:
    """Give (time, planes) for rising times; with `key_frames` the nearest cheap frame before each."""
    with open_clip(info.path) as container:
        stream = container.streams.video[0]
        stream.thread_type = "AUTO"
        if key_frames:
            stream.codec_context.skip_frame = "NONKEY"
        base = stream.time_base
        current: Any = None
        frames = container.decode(stream)

        def clock(frame: Any) -> float:
            return float((frame.pts or 0) * base) - info.start_s

        last_given = -1.0
        for wanted in sorted(times_s):
            if key_frames or current is None or wanted - clock(current) > SEEK_AHEAD_S:
                container.seek(int((wanted + info.start_s) / base), stream=stream, backward=True)
                frames = container.decode(stream)
                current = None
            chosen = current
            for frame in frames:
                current = frame
                if chosen is None or clock(frame) <= wanted + ROUNDED_S:
                    chosen = frame
                if key_frames or clock(frame) >= wanted - 1e-6:
                    break
            if chosen is None:
                continue
            at = max(clock(chosen), 0.0)
            if key_frames and at == last_given:
                continue
            last_given = at
            yield at, planes_from_frame(chosen, info)

"""Frames of a clip: one at a time, in order, or all through."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from morphe.core.errors import NoPicture, OutsideClip
from morphe.core.footage.info import SignalInfo
from morphe.core.footage.planes import Planes, planes_from_frame
from morphe.core.footage.probe import open_clip
from morphe.core.pulse import alive

__all__ = ["clock", "frame_at", "frames_at", "key_frames_at"]

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


def frames_at(info: SignalInfo, times_s: list[float]) -> Iterator[tuple[float, Planes]]:
    """Give (time, planes) of the frames shown at rising times."""
    with open_clip(info.path) as container:
        stream = container.streams.video[0]
        stream.thread_type = "AUTO"
        base = stream.time_base
        current: Any = None
        frames = alive(container.decode(stream))
        for wanted in sorted(times_s):
            if current is None or wanted - clock(info, base, current) > SEEK_AHEAD_S:
                container.seek(int((wanted + info.start_s) / base), stream=stream, backward=True)
                frames = alive(container.decode(stream))
                current = None
            chosen = current
            for frame in frames:
                current = frame
                if chosen is None or clock(info, base, frame) <= wanted + ROUNDED_S:
                    chosen = frame
                if clock(info, base, frame) >= wanted - 1e-6:
                    break
            if chosen is not None:
                yield max(clock(info, base, chosen), 0.0), planes_from_frame(chosen, info)


def key_frames_at(info: SignalInfo, times_s: list[float]) -> Iterator[tuple[float, Planes]]:
    """Give (time, planes) of the key frame before each of some rising times, each once.

    Only key frames are decoded, and none twice, so that it is quick however long the clip is.
    """
    with open_clip(info.path) as container:
        stream = container.streams.video[0]
        stream.thread_type = "SLICE"  # threads by frame would ask for more frames than there are
        base = stream.time_base
        last_pts = None
        for wanted in sorted(times_s):
            container.seek(int((wanted + info.start_s) / base), stream=stream, backward=True)
            packet = next((p for p in alive(container.demux(stream)) if p.is_keyframe and p.size), None)
            if packet is None or packet.pts == last_pts:
                continue
            last_pts = packet.pts
            # The decoder holds a frame back until it knows that none comes before it: tell it so.
            frames = [*packet.decode(), *stream.codec_context.decode(None)]
            stream.codec_context.flush_buffers()
            if frames:
                yield max(clock(info, base, frames[0]), 0.0), planes_from_frame(frames[0], info)


def clock(info: SignalInfo, base: Any, frame: Any) -> float:
    """Seconds of a frame from the clip's start."""
    return float((frame.pts or 0) * base) - info.start_s

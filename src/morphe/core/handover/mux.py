"""The one step that makes a file: pictures one behind another, and what goes along; none is encoded anew."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from heapq import merge
from pathlib import Path
from typing import Any

import av

from morphe.core.errors import OutputError
from morphe.core.footage.probe import open_clip
from morphe.core.handover.along import Along, mark
from morphe.core.handover.film import Film
from morphe.core.handover.target import opened
from morphe.core.pulse import alive

__all__ = ["mux"]


def mux(film: Film, pictures: Sequence[Path], out: Path) -> int:
    """Write a film's file from the files of its pictures; the number of frames.

    Raises
    ------
    OutputError
        If the file cannot hold something that belongs into it.
    """
    frames = 0
    try:
        with opened(out) as target:
            with open_clip(pictures[0]) as first:
                stream = target.add_stream_from_template(first.streams.video[0], opaque=True)
                stream.time_base = first.streams.video[0].time_base
            mark(target, stream, film)
            along = Along(film, target)
            target.set_chapters(along.chapters)
            for packet in merge(_pictures_of(pictures, stream), along.packets(), key=_when):
                frames += packet.stream is stream
                target.mux(packet)
    except av.error.FFmpegError as error:  # of the file alone: what is read tells of itself
        if isinstance(error, OSError):
            raise
        name = film.orders[0].info.path.name
        raise OutputError(
            f"{name} could not be put together ({error.strerror}); deliver it again."
        ) from error
    return frames


def _pictures_of(paths: Sequence[Path], stream: Any) -> Iterator[Any]:
    """The packets of pictures, one file behind another, each with its time in the whole."""
    last = -(2**62)
    for path in paths:
        with open_clip(path) as source:
            for packet in alive(source.demux(source.streams.video[0])):
                if packet.size == 0 or packet.pts is None:
                    continue
                # Encoders count from before their first frame: what would fall back is held.
                packet.dts = last = max(packet.pts if packet.dts is None else packet.dts, last + 1)
                packet.stream = stream
                yield packet


def _when(packet: Any) -> float:
    """Seconds at which a packet is decoded."""
    return float(packet.dts * packet.time_base)

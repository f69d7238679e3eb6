"""Sound on its way through a render: copied where MP4 can hold it, else encoded as AAC."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import av

__all__ = ["Sound"]

COPIED = {"aac", "mp3", "ac3", "eac3", "alac", "opus", "flac"}


class Sound:
    """All sound tracks of a source, each with its track in the target."""

    def __init__(self, source: Any, target: Any) -> None:
        self.inputs = [s for s in source.streams.audio if s.codec_context is not None]
        self._copied: dict[int, Any] = {}
        self._encoded: dict[int, Any] = {}
        for stream in self.inputs:
            if stream.codec_context.codec.canonical_name in COPIED:
                self._copied[stream.index] = target.add_stream_from_template(stream)
            else:
                track = target.add_stream("aac", rate=stream.codec_context.sample_rate)
                track.codec_context.layout = stream.codec_context.layout
                self._encoded[stream.index] = track

    def pass_on(self, packet: Any) -> Iterator[Any]:
        """Give the target's packets for one packet of the source."""
        index = packet.stream.index
        if index in self._copied:
            if packet.dts is not None:
                packet.stream = self._copied[index]
                yield packet
            return
        track = self._encoded[index]
        for frame in packet.decode():
            yield from self._encode(track, frame)

    def flush(self) -> Iterator[Any]:
        """Give what the encoders still hold."""
        for track in self._encoded.values():
            yield from self._encode(track, None)

    def _encode(self, track: Any, frame: Any) -> Iterator[Any]:
        if isinstance(frame, av.AudioFrame):
            frame.pts = None  # the encoder counts samples itself
        yield from track.encode(frame)

"""Sound on its way through a render: copied where MP4 can hold it, else encoded; left out or levelled."""

from __future__ import annotations

from collections.abc import Iterator
from enum import StrEnum
from typing import Any

import av
from av.filter import Graph

__all__ = ["Heard", "Sound"]

COPIED = {"aac", "mp3", "ac3", "eac3", "alac", "opus", "flac"}
LEVEL = "I=-23:TP=-1:LRA=7"  # EBU R 128: -23 LUFS, true peak at most -1 dB
RATE = 48_000


class Heard(StrEnum):
    """What becomes of the sound."""

    KEPT = "kept"
    LEFT_OUT = "left-out"
    LEVELLED = "levelled"


class Sound:
    """All sound tracks of a source, each with its track in the target."""

    def __init__(self, source: Any, target: Any, heard: Heard = Heard.KEPT) -> None:
        there = [] if heard is Heard.LEFT_OUT else source.streams.audio
        self.inputs = [s for s in there if s.codec_context is not None]
        self._copied: dict[int, Any] = {}
        self._encoded: dict[int, Any] = {}
        self._levelled: dict[int, Any] = {}
        for stream in self.inputs:
            codec = stream.codec_context
            if heard is Heard.LEVELLED:
                self._levelled[stream.index] = _leveller(stream)
            elif codec.codec.canonical_name in COPIED:
                self._copied[stream.index] = target.add_stream_from_template(stream)
                continue
            track = target.add_stream("aac", rate=RATE if heard is Heard.LEVELLED else codec.sample_rate)
            track.codec_context.layout = codec.layout
            self._encoded[stream.index] = track

    def pass_on(self, packet: Any) -> Iterator[Any]:
        """Give the target's packets for one packet of the source."""
        index = packet.stream.index
        if index in self._copied:
            if packet.dts is not None:
                packet.stream = self._copied[index]
                yield packet
            return
        for frame in packet.decode():
            yield from self._treated(index, frame)

    def flush(self) -> Iterator[Any]:
        """Give what filters and encoders still hold."""
        for index, track in self._encoded.items():
            if index in self._levelled:
                yield from self._treated(index, None)
            yield from self._encode(track, None)

    def _treated(self, index: int, frame: Any) -> Iterator[Any]:
        """A frame on its way to the encoder; None brings out what the filter holds."""
        track, graph = self._encoded[index], self._levelled.get(index)
        if graph is None:
            yield from self._encode(track, frame)
            return
        graph.push(frame)
        for levelled in _pulled(graph):
            yield from self._encode(track, levelled)

    def _encode(self, track: Any, frame: Any) -> Iterator[Any]:
        if isinstance(frame, av.AudioFrame):
            frame.pts = None  # the encoder counts samples itself
        yield from track.encode(frame)


def _leveller(stream: Any) -> Any:
    """A graph that brings a track to one loudness (FFmpeg's loudnorm), at a rate that every player takes."""
    graph = Graph()
    taken = graph.add_abuffer(template=stream)
    level = graph.add("loudnorm", LEVEL)
    layout = stream.codec_context.layout.name
    shape = graph.add("aformat", f"sample_fmts=fltp:sample_rates={RATE}:channel_layouts={layout}")
    given = graph.add("abuffersink")
    taken.link_to(level)
    level.link_to(shape)
    shape.link_to(given)
    graph.configure()
    return graph


def _pulled(graph: Any) -> Iterator[Any]:
    while True:
        try:
            yield graph.pull()
        except (av.error.BlockingIOError, av.error.EOFError):
            return

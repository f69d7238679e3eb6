"""Sound on its way through a render: copied where MP4 can hold it, else encoded; left out or levelled."""

from __future__ import annotations

from collections.abc import Iterator
from enum import StrEnum
from fractions import Fraction
from typing import Any

import av
import numpy as np
from av.filter import Graph

__all__ = ["Heard", "Sound"]

COPIED = {"aac", "mp3", "ac3", "eac3", "alac", "opus", "flac"}
LEVEL = "I=-23:TP=-1:LRA=7"  # EBU R 128: -23 LUFS, true peak at most -1 dB
RATE = 48_000
RATES = (96_000, 88_200, 48_000, 44_100, 32_000, 24_000, 22_050, 16_000, 11_025, 8_000)  # of AAC
LAYOUTS = {1: "mono", 2: "stereo", 3: "3.0", 4: "4.0", 5: "5.0", 6: "5.1", 8: "7.1"}  # that AAC names
ROUNDED_S, LONGEST_SILENCE_S = 0.004, 60  # of time stamps; of a gap that is filled


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
        self._encoded: dict[int, _Encoded] = {}
        for stream in self.inputs:
            if heard is Heard.KEPT and stream.codec_context.codec.canonical_name in COPIED:
                self._copied[stream.index] = target.add_stream_from_template(stream)
            else:
                self._encoded[stream.index] = _Encoded(stream, target, is_levelled=heard is Heard.LEVELLED)

    def pass_on(self, packet: Any) -> Iterator[Any]:
        """Give the target's packets for one packet of the source."""
        index = packet.stream.index
        if index in self._encoded:
            for frame in packet.decode():
                yield from self._encoded[index].take(frame)
        elif packet.dts is not None:
            packet.stream = self._copied[index]
            yield packet

    def flush(self) -> Iterator[Any]:
        """Give what filters and encoders still hold."""
        for track in self._encoded.values():
            yield from track.end()


class _Encoded:
    """A track that is encoded anew: every sample stands where its time says, what is missing is silent."""

    def __init__(self, stream: Any, target: Any, *, is_levelled: bool) -> None:
        codec = stream.codec_context
        self.rate = codec.sample_rate if codec.sample_rate in RATES and not is_levelled else RATE
        self.layout = LAYOUTS.get(codec.layout.nb_channels, codec.layout.name)
        self.track = target.add_stream("aac", rate=self.rate)
        self.track.codec_context.layout = self.layout
        self._shaped = av.AudioResampler(format="fltp", layout=self.layout, rate=self.rate)
        self._leveller: Any = _leveller(self.rate, self.layout) if is_levelled else None
        self._next: int | None = None  # the sample that comes next

    def take(self, frame: Any) -> Iterator[Any]:
        """The packets that a decoded frame makes."""
        for shaped in self._shaped.resample(frame):
            yield from self._placed(shaped)

    def end(self) -> Iterator[Any]:
        """The packets of what is still held."""
        for shaped in self._shaped.resample(None):
            yield from self._placed(shaped)
        if self._leveller is not None:
            yield from self._levelled(None)
        yield from self.track.encode(None)

    def _placed(self, frame: Any) -> Iterator[Any]:
        """Samples by their times; times that are merely rounded part nothing."""
        samples = frame.to_ndarray()  # (channels, n)
        at = self._next if frame.pts is None else round(float(frame.pts * frame.time_base) * self.rate)
        self._next = at or 0 if self._next is None else self._next
        away = (at or 0) - self._next
        if abs(away) > ROUNDED_S * self.rate:
            silence = np.zeros((len(samples), min(max(away, 0), LONGEST_SILENCE_S * self.rate)), np.float32)
            samples = np.concatenate([silence, samples[:, max(-away, 0) :]], axis=1)
        if not samples.shape[1]:
            return
        made = av.AudioFrame.from_ndarray(np.ascontiguousarray(samples), format="fltp", layout=self.layout)
        made.sample_rate, made.pts, made.time_base = self.rate, self._next, Fraction(1, self.rate)
        self._next += samples.shape[1]
        yield from self.track.encode(made) if self._leveller is None else self._levelled(made)

    def _levelled(self, frame: Any) -> Iterator[Any]:
        self._leveller.push(frame)
        for levelled in _pulled(self._leveller):
            yield from self.track.encode(levelled)


def _leveller(rate: int, layout: str) -> Any:
    """A graph that brings a track to one loudness (FFmpeg's loudnorm), at a rate that every player takes."""
    graph = Graph()
    taken = graph.add_abuffer(sample_rate=rate, format="fltp", layout=layout, time_base=Fraction(1, rate))
    level = graph.add("loudnorm", LEVEL)
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

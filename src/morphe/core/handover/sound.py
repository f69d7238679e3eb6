"""Sound on its way into a file: copied where MP4 holds it and nothing is cut, else encoded; or levelled."""

from __future__ import annotations

from collections.abc import Iterator
from enum import StrEnum
from fractions import Fraction
from math import inf, isinf
from typing import Any

import av
import numpy as np
from av.filter import Graph

from morphe.core.footage.info import SignalInfo
from morphe.core.handover.parts import Cut

__all__ = ["Copied", "Encoded", "Heard", "is_copied"]

COPIED = {"aac", "mp3", "ac3", "eac3", "alac", "opus", "flac"}
LEVEL = "I=-23:TP=-1:LRA=7"  # EBU R 128: -23 LUFS, true peak at most -1 dB
RATE = 48_000
RATES = (96_000, 88_200, 48_000, 44_100, 32_000, 24_000, 22_050, 16_000, 11_025, 8_000)  # of AAC
LAYOUTS = {1: "mono", 2: "stereo", 3: "3.0", 4: "4.0", 5: "5.0", 6: "5.1", 8: "7.1"}  # that AAC names
BITS_PER_CHANNEL = 96_000  # a second
PRIMED_S = 0.085  # that a decoder wants to have heard before: four packets of Opus, two of AAC
ROUNDED_S = 0.0012  # by which time stamps that were rounded to milliseconds lie apart
BEHIND_S = 1.0  # that sound may go on after its picture


class Heard(StrEnum):
    """What becomes of the sound."""

    KEPT = "kept"
    LEFT_OUT = "left-out"
    LEVELLED = "levelled"


def is_copied(stream: Any, heard: Heard, *, is_one_stretch: bool) -> bool:
    """Whether packets go over as they are: a cut between two of them lies where no packet ends."""
    named = stream.codec_context.codec.canonical_name in COPIED
    return heard is Heard.KEPT and is_one_stretch and named


class Copied:
    """A track whose packets go over as they are; of sound, some from before a cut too, for the decoder."""

    def __init__(self, track: Any) -> None:
        self.track = track
        self._primed_s = PRIMED_S if track.type == "audio" else 0.0

    def begin(self, cut: Cut, info: SignalInfo) -> None:
        self._cut, self._start_s = cut, info.start_s

    def take(self, packet: Any) -> Iterator[Any]:
        """The packet at its time in the file; one from just before the beginning is there, and not heard."""
        if packet.dts is None or packet.pts is None or not packet.size:
            return
        at_s = float(packet.pts * packet.time_base) - self._start_s
        if max(self._cut.begin_s, 0.0) - self._primed_s <= at_s < self._cut.end_s:
            self._cut.moved(packet).stream = self.track
            yield packet

    def end_cut(self) -> Iterator[Any]:
        return iter(())

    def end(self) -> Iterator[Any]:
        return iter(())


class Encoded:
    """A track that is encoded anew: every sample stands where its time says, what is missing is silent."""

    def __init__(
        self, target: Any, *, rate: int = RATE, channels: int = 2, is_levelled: bool = False,
        is_trimmed: bool = False,
    ) -> None:  # fmt: skip
        self._is_trimmed = is_trimmed  # to the end of the picture, where another clip follows
        self.rate = rate if rate in RATES and not is_levelled else RATE
        self.layout = LAYOUTS.get(channels, "stereo")
        self.track = target.add_stream("aac", rate=self.rate)
        context = self.track.codec_context
        context.layout = self.layout
        self._channels = len(context.layout.channels)
        context.bit_rate = min(BITS_PER_CHANNEL * self._channels, 4 * self.rate * self._channels)
        self._leveller: Any = _leveller(self.rate, self.layout) if is_levelled else None
        self._next = 0  # the sample of the file that comes next

    def begin(self, cut: Cut, info: SignalInfo) -> None:
        """What comes from here on belongs to a cut."""
        _, end_s = cut.ends_in(info)
        self._shift_s = Fraction(cut.shift_s)
        is_open = isinf(cut.end_s) and not self._is_trimmed
        self._last = inf if is_open else round(end_s * self.rate)
        self._most = round((end_s + BEHIND_S) * self.rate)  # a stamp behind it is none
        self._expected: int | None = None
        self._shaped: Any = None

    def take(self, packet: Any) -> Iterator[Any]:
        """The packets that one of the source makes."""
        try:
            frames = packet.decode()
        except av.error.InvalidDataError:
            return  # one damaged packet does not end a clip
        for frame in frames:
            for shaped in self._shape(frame):
                yield from self._placed(shaped)

    def end_cut(self) -> Iterator[Any]:
        """The packets of what is still held, and of silence up to the end of the cut."""
        for shaped in self._shape(None):
            yield from self._placed(shaped)
        if not isinf(self._last):
            yield from self._silence(int(self._last))

    def fill(self, end_s: float) -> Iterator[Any]:
        """Silence up to a moment of the file."""
        yield from self._silence(round(end_s * self.rate))

    def end(self) -> Iterator[Any]:
        """The packets that filter and encoder still hold."""
        if self._leveller is not None:
            yield from self._levelled(None)
        yield from self.track.encode(None)

    def _shape(self, frame: Any) -> list[Any]:
        """A frame in the track's rate and layout; one unlike those before begins anew."""
        if frame is None:
            return self._shaped.resample(None) if self._shaped else []
        if self._shaped is not None:
            try:
                return list(self._shaped.resample(frame))
            except ValueError:
                pass
        self._shaped = av.AudioResampler(format="fltp", layout=self.layout, rate=self.rate)
        return list(self._shaped.resample(frame))

    def _placed(self, frame: Any) -> Iterator[Any]:
        """Samples by their times; times that are merely rounded part nothing."""
        samples = frame.to_ndarray()  # (channels, n)
        at = self._expected if frame.pts is None else self._sample_at(frame)
        if at is None or (self._expected is not None and abs(at - self._expected) <= ROUNDED_S * self.rate):
            at = self._next if self._expected is None else self._expected
        if at > max(self._most, self._expected or 0):
            return
        self._expected = at + samples.shape[1]
        yield from self._silence(int(min(at, self._last)))
        room = self._last - self._next
        samples = samples[:, max(self._next - at, 0) :]
        yield from self._given(samples if room >= samples.shape[1] else samples[:, : int(max(room, 0))])

    def _sample_at(self, frame: Any) -> int:
        return round((frame.pts * frame.time_base + self._shift_s) * self.rate)

    def _silence(self, until: int) -> Iterator[Any]:
        while self._next < until:
            length = min(until - self._next, self.rate)
            yield from self._given(np.zeros((self._channels, length), np.float32))

    def _given(self, samples: np.ndarray) -> Iterator[Any]:
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

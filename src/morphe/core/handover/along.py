"""What goes along with the pictures of a film: sound, motion data, chapters, timecode, when it was filmed."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from typing import Any

from morphe.core.footage.info import SignalInfo
from morphe.core.footage.motion import motion_tracks
from morphe.core.footage.probe import open_clip
from morphe.core.handover.film import Film
from morphe.core.handover.parts import Cut
from morphe.core.handover.sound import Copied, Encoded, Heard, is_copied
from morphe.core.handover.timecode import counting_rate, later
from morphe.core.pulse import alive

__all__ = ["Along", "mark"]

AHEAD_S = 1.0  # that sound and picture of one moment may lie apart in a file
Track = Copied | Encoded


class Along:
    """The tracks of a film beside its picture, in a target; several clips have one track of sound."""

    def __init__(self, film: Film, target: Any) -> None:
        self.film, self.heard = film, film.orders[0].delivery.sound
        self._tracks: dict[int, Track] = {}  # by the source's number of the stream
        self._joined: Encoded | None = None
        self.chapters = _named(film)
        is_levelled = self.heard is Heard.LEVELLED
        if film.is_joined:
            if self.heard is not Heard.LEFT_OUT and any(order.info.audio for order in film.orders):
                self._joined = Encoded(target, is_levelled=is_levelled, is_trimmed=True)
            return
        with open_clip(film.orders[0].info.path) as source:
            self.chapters = _kept(film, source.chapters())
            for stream in self._sounds_of(source):
                if is_copied(stream, self.heard, is_one_stretch=film.is_one_stretch):
                    track: Track = Copied(target.add_stream_from_template(stream, opaque=True))
                else:
                    codec = stream.codec_context
                    rate, channels = codec.sample_rate, codec.layout.nb_channels
                    track = Encoded(target, rate=rate, channels=channels, is_levelled=is_levelled)
                self._tracks[stream.index] = track
            for stream in motion_tracks(source):
                self._tracks[stream.index] = Copied(_data(stream, target))

    def packets(self) -> Iterator[Any]:
        """All packets, as they come."""
        if not self._tracks and not self._joined:
            return
        spans = self.film.spans_s()
        for order, cuts, (_, end_s) in zip(self.film.orders, self.film.cuts, spans, strict=True):
            with open_clip(order.info.path) as source:
                tracks = self._tracks
                if self._joined:
                    tracks = {stream.index: self._joined for stream in self._sounds_of(source)[:1]}
                for cut in cuts if tracks else ():
                    yield from _of_cut(source, tracks, cut, order.info)
            if self._joined:
                yield from self._joined.fill(end_s)
        for track in [self._joined] if self._joined else self._tracks.values():
            yield from track.end()

    def _sounds_of(self, source: Any) -> list[Any]:
        """The tracks of sound that are wanted and can be read."""
        there = [] if self.heard is Heard.LEFT_OUT else source.streams.audio
        return [stream for stream in there if stream.codec_context is not None]


def _of_cut(source: Any, tracks: dict[int, Track], cut: Cut, info: SignalInfo) -> Iterator[Any]:
    """What the tracks of a source make of a cut."""
    streams = [source.streams[index] for index in tracks]
    if cut.begin_s > 0:
        source.seek(int((max(cut.begin_s - AHEAD_S, 0.0) + info.start_s) * 1e6), backward=True)
        for stream in streams:
            if stream.type == "audio":
                stream.codec_context.flush_buffers()
    for track in tracks.values():
        track.begin(cut, info)
    past: set[int] = set()
    for packet in alive(source.demux(streams)):
        index = packet.stream.index
        if packet.pts is not None and packet.pts * packet.time_base - info.start_s > cut.end_s + AHEAD_S:
            past.add(index)
            if len(past) == len(tracks):
                break
        yield from tracks[index].take(packet)
    for track in tracks.values():
        yield from track.end_cut()


def _data(stream: Any, target: Any) -> Any:
    track = target.add_data_stream(stream.name)
    track.time_base = stream.time_base
    return track


def mark(target: Any, picture: Any, film: Film) -> None:
    """Keep when it was filmed, and the timecode of its first frame where it is one clip's."""
    first = film.orders[0]
    if first.info.creation_time:
        target.metadata["creation_time"] = first.info.creation_time
        picture.metadata["creation_time"] = first.info.creation_time
    if first.info.timecode and not film.is_joined:
        own, fps = float(first.info.fps), first.delivery.fps or first.info.fps
        begin_s = max(film.cuts[0][0].begin_s, 0.0)
        picture.metadata["timecode"] = later(first.info.timecode, round(begin_s * own), own)
        picture.codec_context.framerate = counting_rate(Fraction(fps))  # the track of timecode takes its own


def _named(film: Film) -> list[dict[str, Any]]:
    return [_chapter(name, *span) for name, span in zip(film.names, film.spans_s(), strict=False)]


def _kept(film: Film, there: list[Any]) -> list[dict[str, Any]]:
    """The source's own chapters, as far as they lie in what goes out."""
    found, info = [], film.orders[0].info
    for cut in film.cuts[0]:
        first, last = cut.ends_in(info)
        for one in there:
            begin, end = (float(one[at] * one["time_base"]) + cut.shift_s for at in ("start", "end"))
            if max(begin, first) < min(end, last):
                name = one["metadata"].get("title", "")
                found.append(_chapter(name, max(begin, first), min(end, last)))
    return found


def _chapter(name: str, begin_s: float, end_s: float) -> dict[str, Any]:
    at = {"start": round(begin_s * 1000), "end": round(end_s * 1000), "time_base": Fraction(1, 1000)}
    return {"id": at["start"], **at, "metadata": {"title": name}}

"""One run through the pictures of a clip: a thread decodes, the caller paints, a thread encodes."""

from __future__ import annotations

import queue
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import av

from morphe.core.errors import MorpheError, NoPicture, OutputError
from morphe.core.footage.info import SignalInfo
from morphe.core.footage.reader import clock
from morphe.core.handover.painter import Painter
from morphe.core.handover.parts import Cut
from morphe.core.handover.presets import Preset
from morphe.core.handover.rhythm import Rhythm
from morphe.core.handover.target import tag
from morphe.core.pulse import alive

__all__ = ["Cancelled", "Progress", "Pump"]

DEPTH = 6  # frames that may wait between two stages
AHEAD = 128e6  # bytes of decoded pictures that may wait: decoding goes on while the first tables are baked
TELL_S = 0.5

Progress = Callable[[int, int], bool]  # (frames done, frames in all); False cancels


class Cancelled(MorpheError):
    """The person stopped the render."""

    code = "cancelled"


@dataclass(frozen=True, slots=True)
class _Shown:
    """A decoded frame on its way: its time in the clip, its tick in the file, its number for chance."""

    frame: Any
    time_s: float
    pts: int
    number: int


class Pump:
    """Brings the pictures of some cuts of a clip into a file that is open.

    `total` is told as the number there will be; `fps` lays them on even ticks.
    """

    def __init__(
        self, info: SignalInfo, painter: Painter, cuts: Sequence[Cut], total: int, *,
        fps: Fraction | None = None, progress: Progress = lambda done, total: True,
    ) -> None:  # fmt: skip
        self.info, self.painter, self.cuts, self.fps = info, painter, cuts, fps
        self.total, self.progress = total, progress
        self.preset: Preset = painter.preset
        self.decoded: queue.Queue[Any] = queue.Queue(max(DEPTH, int(AHEAD / _bytes_of(info))))
        self.graded: queue.Queue[Any] = queue.Queue(DEPTH)
        self.stop = threading.Event()
        self.failure: BaseException | None = None

    def run(self, source: Any, target: Any, stream: Any) -> int:
        """Do it; the number of frames."""
        video = source.streams.video[0]
        video.thread_type = "AUTO"
        threads = [
            threading.Thread(target=self._guard, args=(work, *args), daemon=True)
            for work, args in ((self._decode, (source, video)), (self._encode, (target, stream)))
        ]
        for thread in threads:
            thread.start()
        try:
            count = self._paint_all()
        except BaseException as error:
            self.failure = self.failure or error
            self.stop.set()
            count = 0
        for thread in threads:
            thread.join()
        if self.failure:
            raise self._explained(self.failure)
        if count == 0:
            raise NoPicture(f"{self.info.path.name} has no frame that can be decoded.")
        return count

    def _guard(self, work: Callable[..., None], *args: Any) -> None:
        try:
            work(*args)
        except BaseException as error:
            self.failure = self.failure or error
            self.stop.set()

    def _explained(self, error: BaseException) -> BaseException:
        if isinstance(error, av.error.FFmpegError) and not isinstance(error, OSError):
            problem = OutputError(f"{self.info.path.name} could not be encoded ({error.strerror}).")
            problem.__cause__ = error
            return problem
        return error

    # -- decoding ----------------------------------------------------------------------------------

    def _decode(self, source: Any, video: Any) -> None:
        for cut in self.cuts:
            if cut.begin_s > 0:
                self._go_to(source, video, cut.begin_s)
            shown = self._decoded(source, video, cut)
            for one in shown if self.fps is None else self._even(shown, cut):
                self._put(self.decoded, one)
        self._put(self.decoded, None)

    def _go_to(self, source: Any, video: Any, time_s: float) -> None:
        """On to the key frame before a moment, with a decoder that remembers nothing."""
        source.seek(round((time_s + self.info.start_s) / video.time_base), stream=video, backward=True)
        video.codec_context.flush_buffers()

    def _decoded(self, source: Any, video: Any, cut: Cut) -> Iterator[_Shown]:
        """The frames of a cut."""
        fps = float(self.info.fps)
        half = 0.5 / fps
        for packet in alive(source.demux(video)):
            if self.stop.is_set():
                return
            try:
                frames = packet.decode()
            except av.error.InvalidDataError:
                continue  # one damaged packet does not end a clip; the count of frames tells
            for frame in frames:
                time_s = clock(self.info, frame.time_base, frame)
                if time_s >= cut.end_s - half:
                    return
                if cut.holds(time_s, half):
                    yield _Shown(frame, time_s, cut.moved(frame).pts, round(time_s * fps))

    def _even(self, shown: Iterator[_Shown], cut: Cut) -> Iterator[_Shown]:
        """A cut's frames on even ticks; the first is shown from its beginning."""
        rhythm: Rhythm[_Shown] = Rhythm(self.fps or Fraction(25))
        offset, (begin_s, end_s) = cut.shift_s + self.info.start_s, cut.ends_in(self.info)
        for number, one in enumerate(shown):
            at_s = one.time_s + offset if number else begin_s
            yield from (_ticked(*pair) for pair in rhythm.push(one, at_s))
        yield from (_ticked(*pair) for pair in rhythm.flush(end_s))

    # -- painting and encoding ---------------------------------------------------------------------

    def _paint_all(self) -> int:
        count, told, untouched = 0, 0.0, self.painter.untouched
        for one in self._take_all(self.decoded):
            frame = one.frame if untouched else self.painter.paint(one.frame, one.time_s, one.number)
            self._put(self.graded, (frame, one.pts, 1 / self.fps if self.fps else one.frame.time_base))
            count += 1
            now = time.monotonic()
            if now - told > TELL_S:
                told = now
                if not self.progress(count, self.total):
                    raise Cancelled("The render was stopped.")
        self._put(self.graded, None)
        return count

    def _encode(self, target: Any, stream: Any) -> None:
        untouched, count = self.painter.untouched, 0
        for frame, pts, base in alive(self._take_all(self.graded)):
            frame.pts, frame.time_base = pts, base  # only here: one that is shown twice is the same frame
            tag(frame, self.preset)
            target.mux(stream.encode(frame))
            count += 1
            if not untouched:
                self.painter.take_back(frame)
        if self.stop.is_set():
            return
        for packet in alive(stream.codec_context.encode_lazy(None)):
            if count == 1:
                packet.dts = packet.pts  # x265 leaves the time of a frame that is alone to chance
            packet.stream = stream
            target.mux(packet)

    def _put(self, line: queue.Queue[Any], item: Any) -> None:
        while not self.stop.is_set():
            try:
                line.put(item, timeout=0.2)
                return
            except queue.Full:
                continue

    def _take_all(self, line: queue.Queue[Any]) -> Iterator[Any]:
        while not self.stop.is_set():
            try:
                item = line.get(timeout=0.2)
            except queue.Empty:
                continue
            if item is None:
                return
            yield item


def _bytes_of(info: SignalInfo) -> int:
    """About what a decoded picture takes."""
    return info.width * info.height * 3 * (2 if info.bit_depth > 8 else 1) // 2


def _ticked(shown: _Shown, tick: int) -> _Shown:
    return _Shown(shown.frame, shown.time_s, tick, tick)

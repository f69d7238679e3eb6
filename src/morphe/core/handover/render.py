"""Render a clip: decode, grade and encode overlap in threads; sound, times and marks are kept."""

from __future__ import annotations

import os
import queue
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any, cast

import av
import cv2
import numpy as np

from morphe.core.errors import MorpheError, NoPicture, OutputError
from morphe.core.footage.info import SignalInfo
from morphe.core.footage.planes import planes_from_frame
from morphe.core.footage.probe import open_clip
from morphe.core.footage.reader import clock
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Scope
from morphe.core.grade.steps.bars import Crop, Window
from morphe.core.handover.output import check_output, whole_file
from morphe.core.handover.parts import WHOLE, Cut, Part, cuts_of
from morphe.core.handover.presets import PRESETS, Preset
from morphe.core.handover.size_kept import AIMED, TwoPass, budget_of, fitted_size
from morphe.core.handover.sound import Heard, Sound
from morphe.core.handover.timecode import later
from morphe.core.pipeline.passes import compile_grade
from morphe.core.pipeline.planes import Grader, to_420
from morphe.core.pipeline.tables import CodesIn
from morphe.core.pulse import alive
from morphe.core.signal.arrays import Codes

__all__ = ["Cancelled", "Rendered", "delivered_size", "render"]

TRIES, NEAR = 4, 0.97  # encodings that aim at a size, each by what the last one missed it by
AHEAD_S = 1.0  # that sound and picture of one moment may lie apart in a file
USUAL_SOUND = 160_000  # bits a second, where a file does not say
DEPTH = 6  # frames that may wait between two stages
os.environ.setdefault("SVT_LOG", "1")  # of the AV1 encoder: errors alone
BT709_TAG, NARROW_TAG = 1, 1  # ITU-T H.273


class Cancelled(MorpheError):
    """The person stopped the render."""

    code = "cancelled"


@dataclass(frozen=True, slots=True, kw_only=True)
class Rendered:
    """What a render produced."""

    out: Path
    frames: int
    seconds: float
    width: int
    height: int
    dropped: str | None = None

    @property
    def fps(self) -> float:
        return self.frames / max(self.seconds, 1e-6)


Progress = Callable[[int, int], bool]


def _go_on(done: int, total: int) -> bool:
    return True


def render(
    info: SignalInfo, grade: Grade, out: Path, *, preset: str = "web", megabytes: float = 0.0,
    sound: Heard = Heard.KEPT, parts: Sequence[Part] = (), progress: Progress = _go_on,
) -> Rendered:  # fmt: skip
    """Apply a grade to every frame and write `out`.

    Parameters
    ----------
    megabytes : a size that is kept; 0 leaves that to the preset
    sound : whether it is kept as filmed, left out, or levelled
    parts : what alone is delivered, with straight cuts; none for the whole clip
    progress : called with (frames done, frames in all) about every half second; returning False cancels

    Raises
    ------
    OutputError
        If the output is the source, cannot be written, or the disk fills up.
    Cancelled
        If `progress` said so; nothing is left behind.
    """
    chosen = PRESETS.get(preset)
    check_output(out, info.path)
    started = time.monotonic()
    grade = _shaped(grade, chosen.ratio)
    job = _Job(info, grade, chosen, progress)
    job.heard, job.cuts = sound, cuts_of(parts, info)
    with whole_file(out) as part:
        limit = megabytes or chosen.megabytes
        frames = _within(job, part, limit) if limit else job.run(part)
    width, height = info.upright_size
    dropped = None
    if width % 2 or height % 2:
        sides = [name for name, odd in (("column", width % 2), ("row", height % 2)) if odd]
        dropped = f"last {' and '.join(sides)}"
    wide, tall = job.size
    return Rendered(
        out=out, frames=frames, seconds=time.monotonic() - started, width=wide, height=tall, dropped=dropped
    )


def _shaped(grade: Grade, ratio: float) -> Grade:
    """The grade with a crop of that shape; one that is there keeps its place."""
    if not ratio:
        return grade
    there = [(layer_id, step) for layer_id, step in grade.steps() if isinstance(step, Crop)]
    layer_id, crop = there[-1] if there else (Scope.FINISH, Crop())
    return grade.with_step(replace(crop, ratio=ratio, on=True), layer_id)


def _within(job: _Job, part: Path, megabytes: float) -> int:
    """Encode so that the file stays within a size: as Web does if that fits, else in two passes at a rate,
    with a smaller picture where the rate would not serve it well."""
    budget = budget_of(megabytes, job.frames / float(job.info.fps), job.sound_bits())
    told, whole, most = job.progress, job.size, 0

    def second(done: int, total: int) -> bool:
        nonlocal most
        most = max(most, total + done)  # encoded once more, it does not go back
        return told(most, 2 * total)

    with TemporaryDirectory(dir=part.parent) as folder:
        job.two_pass = TwoPass(number=1, stats=Path(folder) / "stats")
        job.progress = lambda done, total: told(done, 2 * total)
        frames = job.run(part)
        job.progress = second
        if part.stat().st_size <= megabytes * 1e6:
            return frames
        job.size = fitted_size(*whole, float(job.info.fps), budget.rate)
        if job.size != whole:
            job.run(Path(os.devnull))
        rate = budget.rate
        for _ in range(TRIES):
            job.two_pass = replace(job.two_pass, number=2, rate=rate)
            frames = job.run(part)
            over = part.stat().st_size / (megabytes * 1e6)
            if NEAR <= over <= 1:
                break
            rate = int(rate * AIMED / over)
    return frames


def delivered_size(info: SignalInfo, grade: Grade) -> tuple[int, int]:
    """Width and height of the file that is delivered: even, and cropped where the grade says so."""
    width, height = (n // 2 * 2 for n in info.upright_size)
    if grade.crop is None:
        return width, height
    left, top, right, bottom = grade.crop.window(width, height)
    return right - left, bottom - top


class _Job:
    """One run: a thread decodes, the caller grades, a thread encodes."""

    def __init__(self, info: SignalInfo, grade: Grade, preset: Preset, progress: Progress) -> None:
        self.info, self.grade, self.preset, self.progress = info, grade, preset, progress
        self.bits = preset.bits_for(info.bit_depth)
        self.crop, self.size = grade.crop, delivered_size(info, grade)
        self.cropped = self.size  # before it is made smaller
        self.heard, self.two_pass = Heard.KEPT, cast("TwoPass | None", None)
        self.cuts: tuple[Cut, ...] = WHOLE
        self.half_height = preset.chroma == "4:2:0"
        name = preset.chroma.replace(":", "")
        self.pixel_format = f"yuv{name}p" if self.bits == 8 else f"yuv{name}p10le"

    def _begin(self) -> None:
        self.decoded: queue.Queue[Any] = queue.Queue(DEPTH)
        self.graded: queue.Queue[Any] = queue.Queue(DEPTH)
        self.spare: queue.SimpleQueue[Any] = (
            queue.SimpleQueue()
        )  # frames that were encoded, to be filled again
        self.stop = threading.Event()
        self.failure: BaseException | None = None

    @property
    def untouched(self) -> bool:
        """Whether decoded frames may be handed to the encoder as they are."""
        info = self.info
        return (
            not self.grade.at_work
            and info.is_ordinary
            and info.rotation == 0
            and info.chroma == self.preset.chroma == "4:2:0"
            and self.size == self.cropped
            and info.bit_depth == self.bits
            and info.width % 2 == 0
            and info.height % 2 == 0
        )

    @property
    def frames(self) -> int:
        """How many there will be, as far as the file tells."""
        if self.cuts is WHOLE:
            return self.info.frames
        return sum(round((cut.end_s - cut.begin_s) * float(self.info.fps)) for cut in self.cuts)

    def sound_bits(self) -> float:
        """Bits a second that the sound takes."""
        if self.heard is Heard.LEFT_OUT:
            return 0.0
        with open_clip(self.info.path) as source:
            return float(sum(s.bit_rate or USUAL_SOUND for s in source.streams.audio))

    def run(self, part: Path) -> int:
        self._begin()
        with open_clip(self.info.path) as source:
            try:
                target = self._opened(part)
            except (av.error.FFmpegError, OSError) as error:
                raise OutputError(f"{part.parent} cannot be written to; choose another folder.") from error
            with target:
                return self._pump(source, target)

    def _opened(self, part: Path) -> Any:
        if part == Path(os.devnull):
            return av.open(str(part), "w", format="null")
        return av.open(str(part), "w", format="mp4", options={"movflags": "+faststart+use_metadata_tags"})

    def _grader(self) -> Grader:
        info = self.info
        codes = CodesIn(
            bit_depth=min(info.bit_depth, 10), range=info.effective_range, matrix=info.effective_matrix
        )
        return Grader(compile_grade(self.grade), codes, self.bits)

    # -- stages ------------------------------------------------------------------------------------

    def _pump(self, source: Any, target: Any) -> int:
        video = source.streams.video[0]
        video.thread_type = "AUTO"
        stream = self._video_stream(target, video)
        self.sound = Sound(source, target, Heard.LEFT_OUT if target.format.name == "null" else self.heard)
        self._marks(source, target, stream)
        threads = [
            threading.Thread(target=self._guard, args=(self._decode, source, video), daemon=True),
            threading.Thread(
                target=self._guard, args=(self._encode, target, stream, not self.untouched), daemon=True
            ),
        ]
        for thread in threads:
            thread.start()
        try:
            count = self._grade_all(None if self.untouched else self._grader())
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
            name = self.info.path.name
            problem = OutputError(f"{name} could not be encoded ({error.strerror}).")
            problem.__cause__ = error
            return problem
        return error

    def _decode(self, source: Any, video: Any) -> None:
        for cut in self.cuts:
            if cut not in WHOLE:
                self._go_to(source, video, cut.begin_s)
            self._decode_cut(source, video, cut)
        self._put(self.decoded, None)

    def _go_to(self, source: Any, video: Any, time_s: float) -> None:
        """On to the key frame before a moment, with decoders that remember nothing."""
        at = max(time_s - AHEAD_S, 0.0) + self.info.start_s
        source.seek(int(at / video.time_base), stream=video, backward=True)
        for stream in (video, *self.sound.inputs):
            stream.codec_context.flush_buffers()

    def _decode_cut(self, source: Any, video: Any, cut: Cut) -> None:
        half, past = 0.5 / float(self.info.fps), False
        for packet in alive(source.demux([video, *self.sound.inputs])):
            if self.stop.is_set():
                return
            if packet.pts is not None:
                at = float(packet.pts * packet.time_base) - self.info.start_s
                if past and at > cut.end_s + AHEAD_S:  # sound lies up to so much behind its picture
                    return
            if packet.stream.index != video.index:
                if packet.pts is None or cut.holds(at):
                    self._put(self.graded, cut.moved(packet))
                continue
            try:
                frames = packet.decode()
            except av.error.InvalidDataError:
                continue  # one damaged packet does not end a clip; the count of frames tells
            for frame in frames:
                time_s = clock(self.info, frame.time_base, frame)
                past = past or time_s >= cut.end_s - half
                if cut.holds(time_s, half):
                    self._put(self.decoded, (cut.moved(frame), time_s))

    def _grade_all(self, grader: Grader | None) -> int:
        count, told = 0, 0.0
        for frame, time_s in self._take_all(self.decoded):
            graded = frame if grader is None else self._graded(frame, time_s, grader, count)
            self._put(self.graded, graded)
            count += 1
            now = time.monotonic()
            if now - told > 0.5:
                told = now
                if not self.progress(count, self.frames):
                    raise Cancelled("The render was stopped.")
        self._put(self.graded, None)
        return count

    def _graded(self, frame: Any, time_s: float, grader: Grader, number: int) -> Any:
        planes = to_420(planes_from_frame(frame, self.info), bits=min(self.info.bit_depth, 10))
        out = self._empty_frame(*self.size)
        target = _writable_planes(out, 8 if self.bits == 8 else 16)
        if self.crop is None and self.half_height and self.size == self.cropped:
            grader.grade(planes, time_s, target, frame=number)
        else:
            made = tuple(np.empty(p.shape, target[0].dtype) for p in planes)
            grader.grade(planes, time_s, (made[0], made[1], made[2]), frame=number)
            if self.crop is not None:
                made = _cut(made, self.crop.at(time_s).window(planes[0].shape[1], planes[0].shape[0]))
            _laid(made, target)
        out.pts, out.time_base = frame.pts, frame.time_base
        return out

    def _empty_frame(self, width: int, height: int) -> Any:
        try:
            frame = self.spare.get_nowait()
        except queue.Empty:
            return av.VideoFrame(width, height, self.pixel_format)
        frame.make_writable()  # gives it memory of its own again, should the encoder still hold it
        return frame

    def _encode(self, target: Any, stream: Any, keep: bool) -> None:
        for item in alive(self._take_all(self.graded)):
            if isinstance(item, av.Packet):
                for packet in self.sound.pass_on(item):
                    target.mux(packet)
                continue
            item.color_range, item.colorspace = NARROW_TAG, BT709_TAG
            item.color_primaries = item.color_trc = BT709_TAG
            item.pict_type = 0  # the encoder chooses its own
            target.mux(stream.encode(item))
            if keep:
                self.spare.put(item)
        if self.stop.is_set():
            return
        for packet in alive(stream.codec_context.encode_lazy(None)):
            packet.stream = stream
            target.mux(packet)
        for packet in self.sound.flush():
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

    # -- target ------------------------------------------------------------------------------------

    def _video_stream(self, target: Any, video: Any) -> Any:
        stream = target.add_stream(self.preset.codec, rate=Fraction(self.info.fps).limit_denominator(100000))
        stream.width, stream.height = self.size
        stream.pix_fmt = self.pixel_format
        stream.options = dict(self.preset.options)
        context = stream.codec_context
        if self.two_pass is not None:
            stream.options = self.two_pass.options(self.preset.options)
            if self.two_pass.rate:
                context.bit_rate = self.two_pass.rate
        if self.preset.tag:
            context.codec_tag = self.preset.tag
        context.thread_type = "FRAME"  # slices would cost a tenth of the speed and some of the quality
        context.time_base = stream.time_base = video.time_base
        context.color_range, context.colorspace = NARROW_TAG, BT709_TAG
        context.color_primaries = context.color_trc = BT709_TAG
        aspect = self.info.pixel_aspect
        if aspect != 1:
            context.sample_aspect_ratio = 1 / aspect if self.info.rotation in (90, 270) else aspect
        return stream

    def _marks(self, source: Any, target: Any, stream: Any) -> None:
        if self.info.creation_time:
            target.metadata["creation_time"] = self.info.creation_time
            stream.metadata["creation_time"] = self.info.creation_time
        if self.info.timecode:
            fps, begin = float(self.info.fps), max(self.cuts[0].begin_s, 0.0)
            stream.metadata["timecode"] = later(self.info.timecode, round(begin * fps), fps)


def _cut(planes: Sequence[Codes], window: Window) -> tuple[Codes, ...]:
    """A window of planes, luma first."""
    left, top, right, bottom = window
    by = (1, 2, 2)
    return tuple(
        plane[top // n : bottom // n, left // n : right // n] for plane, n in zip(planes, by, strict=True)
    )


def _laid(planes: Sequence[Codes], out: Sequence[Codes]) -> None:
    """Write planes to others of another size: smaller by the mean of what they cover, larger in between."""
    for plane, target in zip(planes, out, strict=True):
        if plane.shape == target.shape:
            target[:] = plane
        else:
            way = cv2.INTER_AREA if plane.shape[0] > target.shape[0] else cv2.INTER_LINEAR
            target[:] = cv2.resize(np.ascontiguousarray(plane), target.shape[::-1], interpolation=way)


def _writable_planes(frame: Any, bits: int) -> tuple[Codes, Codes, Codes]:
    """Views (h, w) of a new frame's planes."""
    dtype = np.uint8 if bits == 8 else np.uint16
    views = []
    for number, plane in enumerate(frame.planes):
        rows = np.frombuffer(plane, dtype).reshape(plane.height, -1)
        views.append(rows[:, : frame.width if number == 0 else frame.width // 2])
    return views[0], views[1], views[2]

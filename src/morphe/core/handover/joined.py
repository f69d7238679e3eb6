"""One file of an outing: its clips in the order of filming, straight cuts, chapters with their names."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from contextlib import ExitStack
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import av
import numpy as np

from morphe.core.errors import OutputError
from morphe.core.footage.info import SignalInfo
from morphe.core.footage.probe import open_clip
from morphe.core.grade.grade import Grade
from morphe.core.grade.reel import Reel
from morphe.core.handover.delivery import Delivery
from morphe.core.handover.output import check_output, whole_file
from morphe.core.handover.parts import Cut, Part, cuts_of
from morphe.core.handover.pump import Progress, counted
from morphe.core.handover.render import Rendered, render
from morphe.core.handover.rhythm import usual_rate
from morphe.core.handover.segments import SegmentMaker, one_after_another, pictures_of, when
from morphe.core.handover.sound import Heard
from morphe.core.handover.target import opened
from morphe.core.pulse import alive

__all__ = ["Piece", "joined_delivery", "render_joined"]

SOUND_RATE = 48_000
BLOCK = 1024  # samples of a frame of AAC
MOST = 200  # pieces


@dataclass(frozen=True, slots=True, kw_only=True)
class Piece:
    """One clip of the file: what it is, how it is graded and the chapter's name."""

    info: SignalInfo
    grade: Grade | Reel
    title: str
    parts: tuple[Part, ...] = ()


def joined_delivery(pieces: Sequence[Piece], delivery: Delivery) -> Delivery:
    """A delivery with the one size, depth and rate that all pieces take: that of most of their length."""
    if not pieces or len(pieces) > MOST:
        raise OutputError(f"A joined file has 1 to {MOST} clips; tick some of them.")
    size = delivery.size or _commonest(pieces, lambda i: tuple(n // 2 * 2 for n in i.upright_size))
    fps = delivery.fps or usual_rate(_commonest(pieces, lambda i: Fraction(i.fps).limit_denominator(1001)))
    if delivery.preset.ratio and delivery.size is None:
        size = _of_shape(size, delivery.preset.ratio)
    bits = delivery.preset.bit_depth or max(delivery.preset.bits_for(p.info.bit_depth) for p in pieces)
    preset = replace(delivery.preset, bit_depth=bits, megabytes=0.0)
    return replace(delivery, preset=preset, size=size, fps=fps, parts=(), megabytes=0.0)


def _of_shape(size: tuple[int, int], ratio: float) -> tuple[int, int]:
    wide, tall = size
    return (round(tall * ratio / 2) * 2, tall) if wide / tall > ratio else (wide, round(wide / ratio / 2) * 2)


def _commonest(pieces: Sequence[Piece], of: Callable[[SignalInfo], Any]) -> Any:
    lengths: dict[Any, float] = {}
    for piece in pieces:
        key = of(piece.info)
        lengths[key] = lengths.get(key, 0.0) + piece.info.duration_s
    return max(lengths, key=lambda key: lengths[key])


def render_joined(
    pieces: Sequence[Piece], out: Path, delivery: Delivery, *, progress: Progress,
    make: SegmentMaker = one_after_another, workshop: Path | None = None,
) -> Rendered:  # fmt: skip
    """Render every piece alike and put them one behind another; sound is one track without a seam.

    Raises
    ------
    OutputError, Cancelled
        As `render` does.
    """
    wanted = joined_delivery(pieces, delivery)
    for piece in pieces:
        check_output(out, piece.info.path)
    total = sum(counted(p.info, cuts_of(p.parts, p.info), wanted.fps) for p in pieces)
    seconds, done = 0.0, 0
    with ExitStack() as held:
        part = held.enter_context(whole_file(out))
        folder = workshop or Path(held.enter_context(TemporaryDirectory(dir=out.parent, prefix=".segments-")))
        folder.mkdir(parents=True, exist_ok=True)
        files: list[tuple[Piece, Path, int]] = []
        for number, piece in enumerate(pieces):
            path, before = folder / f"piece-{number:03d}.mp4", done

            def told(n: int, _: int, before: int = before) -> bool:
                return progress(before + n, total)

            silent = replace(wanted, sound=Heard.LEFT_OUT, parts=piece.parts)
            if not path.exists():
                shop = folder / f"of-{number:03d}"
                made = render(piece.info, piece.grade, path, silent, progress=told, make=make, workshop=shop)
                seconds += made.seconds
            frames = _frames_in(path)
            files.append((piece, path, frames))
            done += frames
        count = _joined(files, part, wanted)
    width, height = wanted.size or (0, 0)
    return Rendered(out=out, frames=count, seconds=seconds, width=width, height=height)


def _frames_in(path: Path) -> int:
    with open_clip(path) as source:
        return sum(1 for packet in source.demux(source.streams.video[0]) if packet.size)


def _joined(files: Sequence[tuple[Piece, Path, int]], part: Path, wanted: Delivery) -> int:
    fps = wanted.fps or Fraction(25)
    with ExitStack() as held:
        model = held.enter_context(open_clip(files[0][1])).streams.video[0]
        target = held.enter_context(opened(part))
        stream = target.add_stream_from_template(model, opaque=True)
        stream.time_base = 1 / fps
        sound = None
        if wanted.sound is not Heard.LEFT_OUT and any(p.info.audio for p, _, _ in files):
            sound = target.add_stream("aac", rate=SOUND_RATE)
            sound.codec_context.layout = "stereo"
        begins, at = [], 0
        for _, _, frames in files:
            begins.append(at)
            at += frames
        _chapters(target, files, begins, fps)
        first = files[0][0].info
        if first.creation_time:
            target.metadata["creation_time"] = first.creation_time
        heard = _sounds(files, begins, at, fps, sound) if sound is not None else iter(())
        waiting = next(heard, None)
        for packet in pictures_of([path for _, path, _ in files], stream, [b / fps for b in begins]):
            while waiting is not None and when(waiting) <= when(packet):
                target.mux(waiting)
                waiting = next(heard, None)
            target.mux(packet)
        while waiting is not None:
            target.mux(waiting)
            waiting = next(heard, None)
    return at


def _chapters(
    target: Any, files: Sequence[tuple[Piece, Path, int]], begins: Sequence[int], fps: Fraction
) -> None:
    marks = [
        {
            "id": number, "start": round(begin / fps * 1000), "end": round((begin + frames) / fps * 1000),
            "time_base": Fraction(1, 1000), "metadata": {"title": piece.title},
        }
        for number, (begin, (piece, _, frames)) in enumerate(zip(begins, files, strict=True))
    ]  # fmt: skip
    target.set_chapters(marks)


def _sounds(
    files: Sequence[tuple[Piece, Path, int]], begins: Sequence[int], end: int, fps: Fraction, track: Any
) -> Iterator[Any]:
    """One track of sound: each piece's own for exactly as long as its picture, silence where it has none."""
    samples = _Blocks()
    ends = [*begins[1:], end]
    for (piece, _, _), begin, stop in zip(files, begins, ends, strict=True):
        wanted = round(stop / fps * SOUND_RATE) - round(begin / fps * SOUND_RATE)
        samples.add(_sound_of(piece, wanted))
        yield from _encoded(samples, track)
    samples.pad()
    yield from _encoded(samples, track)
    yield from track.encode(None)


def _encoded(samples: _Blocks, track: Any) -> Iterator[Any]:
    for block, at in samples.take():
        frame = av.AudioFrame.from_ndarray(block, format="fltp", layout="stereo")
        frame.sample_rate, frame.pts, frame.time_base = SOUND_RATE, at, Fraction(1, SOUND_RATE)
        yield from track.encode(frame)


class _Blocks:
    """Samples (2, n) cut into the blocks that an encoder takes."""

    def __init__(self) -> None:
        self._held, self._at = np.zeros((2, 0), np.float32), 0

    def add(self, samples: np.ndarray) -> None:
        self._held = np.concatenate([self._held, samples], axis=1)

    def pad(self) -> None:
        self.add(np.zeros((2, -self._held.shape[1] % BLOCK), np.float32))

    def take(self) -> Iterator[tuple[np.ndarray, int]]:
        while self._held.shape[1] >= BLOCK:
            block, self._held = self._held[:, :BLOCK], self._held[:, BLOCK:]
            yield np.ascontiguousarray(block), self._at
            self._at += BLOCK


def _sound_of(piece: Piece, wanted: int) -> np.ndarray:
    """A piece's sound in stereo, cut or filled up to so many samples: (2, wanted)."""
    out = np.zeros((2, wanted), np.float32)
    if piece.info.audio is None:
        return out
    at = 0
    for cut in cuts_of(piece.parts, piece.info):
        length = wanted - at if np.isinf(cut.end_s) else round((cut.end_s - cut.begin_s) * SOUND_RATE)
        heard = _heard(piece.info, cut, min(length, wanted - at))
        out[:, at : at + heard.shape[1]] = heard
        at += length
    return out


def _heard(info: SignalInfo, cut: Cut, wanted: int) -> np.ndarray:
    """The samples of a cut, by their times; what is missing is silent."""
    out = np.zeros((2, max(wanted, 0)), np.float32)
    begin_s = max(cut.begin_s, 0.0) + info.start_s
    with open_clip(info.path) as source:
        track = source.streams.audio[0]
        if begin_s > info.start_s:
            source.seek(int(max(begin_s - 0.5, 0) * 1e6), backward=True)
        shaped = av.AudioResampler(format="fltp", layout="stereo", rate=SOUND_RATE)
        for decoded in alive(source.decode(track)):
            for frame in shaped.resample(decoded):
                at = round((float((frame.pts or 0) * (frame.time_base or 0)) - begin_s) * SOUND_RATE)
                if at >= wanted:
                    return out
                samples = frame.to_ndarray()[:, max(-at, 0) :]
                at = max(at, 0)
                room = samples[:, : wanted - at]
                out[:, at : at + room.shape[1]] = room
    return out

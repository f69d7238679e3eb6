"""Render a clip: decode, grade and encode overlap in threads; sound, times and marks are kept."""

from __future__ import annotations

import os
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from tempfile import TemporaryDirectory

from morphe.core.errors import OutputError
from morphe.core.footage.info import SignalInfo
from morphe.core.footage.probe import open_clip
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Scope
from morphe.core.grade.reel import Reel
from morphe.core.grade.steps.bars import Crop
from morphe.core.handover.along import Along
from morphe.core.handover.delivery import Delivery, Order
from morphe.core.handover.hdr import why_not_hdr
from morphe.core.handover.light_level import light_level
from morphe.core.handover.output import check_output, whole_file
from morphe.core.handover.painter import Painter, delivered_size
from morphe.core.handover.parts import Cut, cuts_of
from morphe.core.handover.pump import Cancelled, Progress, Pump, counted
from morphe.core.handover.segments import (
    SegmentMaker,
    can_be_joined,
    join,
    one_after_another,
    rest_alone,
    segments_of,
)
from morphe.core.handover.size_kept import AIMED, TwoPass, budget_of, fitted_size
from morphe.core.handover.sound import Heard
from morphe.core.handover.target import add_picture, mark, opened

__all__ = ["Cancelled", "Rendered", "delivered_size", "graded_for", "render"]

TRIES, NEAR = 4, 0.97  # encodings that aim at a size, each by what the last one missed it by
USUAL_SOUND = 160_000  # bits a second, where a file does not say


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


def _go_on(done: int, total: int) -> bool:
    return True


def render(
    info: SignalInfo, grade: Grade | Reel, out: Path, delivery: Delivery | None = None, *,
    progress: Progress = _go_on, make: SegmentMaker = one_after_another, workshop: Path | None = None,
) -> Rendered:  # fmt: skip
    """Apply a grade, or those of its shots, to every frame that is wanted and write `out`.

    Parameters
    ----------
    progress : called with (frames done, frames in all) about every half second; returning False cancels
    make     : has the segments of a long render made; here, one after another, if nothing else is said
    workshop : a folder that keeps finished segments, so that a later attempt goes on with them; it is the
               caller's to delete

    Raises
    ------
    OutputError
        If the output is the source, cannot be written, or the disk fills up, or HDR is wanted of a clip that
        has none.
    Cancelled
        If `progress` said so; nothing is left behind.
    """
    wanted = delivery or Delivery()
    check_output(out, info.path)
    if wanted.preset.hdr and (reason := why_not_hdr(info, *Reel.of(grade).grades)):
        raise OutputError(f"{info.path.name} cannot go out as HDR. {reason} Choose an ordinary preset.")
    started = time.monotonic()
    order, cuts = (
        Order(info=info, grade=graded_for(grade, wanted), delivery=wanted),
        cuts_of(wanted.parts, info),
    )
    limit = wanted.limit_megabytes
    with whole_file(out) as part, _folder(workshop, part) as folder:
        whole = bool(limit) or not can_be_joined(order)
        segments = [] if whole else segments_of(order, cuts, folder)
        if limit:
            frames, size = _Sized(order, cuts, progress).within(part, limit)
        elif segments and (len(segments) > len(cuts) or make is not one_after_another):
            make(order, segments, progress)
            beside = folder / "beside"
            beside_is_there = rest_alone(order, cuts, beside)
            frames = join(order, segments, part, beside if beside_is_there else None)
            size = Painter(order).shape.size
        else:
            frames, size = _straight(order, cuts, part, progress)
    return Rendered(
        out=out, frames=frames, seconds=time.monotonic() - started, width=size[0], height=size[1],
        dropped=_dropped(info),
    )  # fmt: skip


@contextmanager
def _folder(workshop: Path | None, part: Path) -> Iterator[Path]:
    if workshop is not None:
        workshop.mkdir(parents=True, exist_ok=True)
        yield workshop
        return
    with TemporaryDirectory(dir=part.parent, prefix=".segments-") as folder:
        yield Path(folder)


def _dropped(info: SignalInfo) -> str | None:
    width, height = info.upright_size
    sides = [name for name, odd in (("column", width % 2), ("row", height % 2)) if odd]
    return f"last {' and '.join(sides)}" if sides else None


def graded_for(grade: Grade | Reel, delivery: Delivery) -> Reel:
    """The grades with the crop that a preset asks for; one that is there keeps its place."""
    ratio = delivery.preset.ratio
    reel = Reel.of(grade)
    return reel.each(lambda one: _cropped(one, ratio)) if ratio else reel


def _cropped(grade: Grade, ratio: float) -> Grade:
    there = [(layer_id, step) for layer_id, step in grade.steps() if isinstance(step, Crop)]
    layer_id, crop = there[-1] if there else (Scope.FINISH, Crop())
    return grade.with_step(replace(crop, ratio=ratio, on=True), layer_id)


def _straight(
    order: Order, cuts: Sequence[Cut], part: Path, progress: Progress, *,
    two_pass: TwoPass | None = None, size: tuple[int, int] | None = None,
) -> tuple[int, tuple[int, int]]:  # fmt: skip
    """Everything in one go; the number of frames, and the size of the picture."""
    painter, fps = Painter(order, size), order.delivery.fps
    is_first_pass = part == Path(os.devnull)
    with (
        open_clip(order.info.path) as source,
        opened(part, "null" if is_first_pass else "mp4") as target,
    ):
        base = source.streams.video[0].time_base
        level = light_level(order) if order.delivery.preset.hdr == "pq" else None
        stream = add_picture(target, painter, base=base, fps=fps, two_pass=two_pass, level=level)
        along = None if is_first_pass else Along(source, target, order.delivery.sound)
        mark(target, stream, order.info, cuts[0])
        pump = Pump(order.info, painter, cuts, fps=fps, progress=progress)
        return pump.run(source, target, stream, along), painter.shape.size


class _Sized:
    """A render that keeps a size: as Web does if that fits, else in two passes at a rate, with a smaller
    picture where the rate would not serve it well."""

    def __init__(self, order: Order, cuts: Sequence[Cut], progress: Progress) -> None:
        self.order, self.cuts, self.told = order, cuts, progress
        self.info, self.delivery = order.info, order.delivery
        self.fps = float(order.delivery.fps or order.info.fps)
        self.most = 0

    def within(self, part: Path, megabytes: float) -> tuple[int, tuple[int, int]]:
        seconds = counted(self.info, self.cuts, self.delivery.fps) / self.fps
        budget = budget_of(megabytes, seconds, self._sound_bits())
        with TemporaryDirectory(dir=part.parent) as folder:
            passed = TwoPass(number=1, stats=Path(folder) / "stats")
            frames, whole = self._run(part, passed, lambda done, total: self.told(done, 2 * total))
            if part.stat().st_size <= megabytes * 1e6:
                return frames, whole
            size = fitted_size(*whole, self.fps, budget.rate)
            if size != whole:
                self._run(Path(os.devnull), passed, self._second, size)
            rate = budget.rate
            for _ in range(TRIES):
                frames, size = self._run(part, replace(passed, number=2, rate=rate), self._second, size)
                over = part.stat().st_size / (megabytes * 1e6)
                if NEAR <= over <= 1:
                    break
                rate = int(rate * AIMED / over)
        return frames, size

    def _second(self, done: int, total: int) -> bool:
        self.most = max(self.most, total + done)  # encoded once more, it does not go back
        return self.told(self.most, 2 * total)

    def _run(
        self, part: Path, passed: TwoPass, progress: Progress, size: tuple[int, int] | None = None
    ) -> tuple[int, tuple[int, int]]:
        return _straight(self.order, self.cuts, part, progress, two_pass=passed, size=size)

    def _sound_bits(self) -> float:
        """Bits a second that the sound takes."""
        if self.delivery.sound is Heard.LEFT_OUT:
            return 0.0
        with open_clip(self.info.path) as source:
            return float(sum(s.bit_rate or USUAL_SOUND for s in source.streams.audio))

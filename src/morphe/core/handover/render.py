"""Render orders into a file: pictures in segments, then everything put together once."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from tempfile import TemporaryDirectory

from morphe.core.errors import OutputError
from morphe.core.footage.info import SignalInfo
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Scope
from morphe.core.grade.reel import Reel
from morphe.core.grade.steps.bars import Crop
from morphe.core.handover.delivery import Delivery, Order
from morphe.core.handover.film import Film, film_of
from morphe.core.handover.hdr import why_not_hdr
from morphe.core.handover.light_level import LightLevel, light_level
from morphe.core.handover.mux import mux
from morphe.core.handover.output import check_output, whole_file
from morphe.core.handover.painter import Painter, delivered_size
from morphe.core.handover.pump import Cancelled, Progress
from morphe.core.handover.segments import SegmentMaker, make_pictures, one_after_another, segments_of
from morphe.core.handover.size_kept import AIMED, TwoPass, fitted_size, rate_for

__all__ = ["Cancelled", "Rendered", "delivered_size", "graded_for", "render", "render_film"]

TRIES, NEAR = 4, 0.97  # encodings that aim at a size, each by what the last one missed it by


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

    Parameters, errors: see `render_film`.
    """
    wanted = delivery or Delivery()
    order = Order(info=info, grade=graded_for(grade, wanted), delivery=wanted)
    return render_film(film_of([order]), out, progress=progress, make=make, workshop=workshop)


def render_film(
    film: Film, out: Path, *,
    progress: Progress = _go_on, make: SegmentMaker = one_after_another, workshop: Path | None = None,
) -> Rendered:  # fmt: skip
    """Write a film.

    Parameters
    ----------
    progress : called with (frames done, frames in all) about every half second; returning False cancels
    make     : has the segments made; here, one after another, if nothing else is said
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
    check_output(out, *(order.info.path for order in film.orders))
    for order in film.orders:
        _check_hdr(order)
    started, first = time.monotonic(), film.orders[0]
    with whole_file(out) as part, _folder(workshop, part) as folder:
        if first.delivery.limit_megabytes and not film.is_joined:
            frames, size = _Sized(film, progress, folder).within(part, first.delivery.limit_megabytes)
        else:
            segments = segments_of(film, folder, _light_of(film))
            make(segments, progress)
            frames = mux(film, [segment.out for segment in segments], part)
            size = Painter(first).shape.size
    return Rendered(
        out=out, frames=frames, seconds=time.monotonic() - started, width=size[0], height=size[1],
        dropped=_dropped(first.info),
    )  # fmt: skip


def _check_hdr(order: Order) -> None:
    if order.delivery.preset.hdr and (reason := why_not_hdr(order.info, *Reel.of(order.grade).grades)):
        name = order.info.path.name
        raise OutputError(f"{name} cannot go out as HDR. {reason} Choose an ordinary preset.")


def _light_of(film: Film) -> LightLevel | None:
    """What a PQ file says of its light, of all its clips."""
    if film.orders[0].delivery.preset.hdr != "pq":
        return None
    levels = [light_level(order) for order in film.orders]
    return LightLevel(pixel=max(one.pixel for one in levels), frame=max(one.frame for one in levels))


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


class _Sized:
    """A render that keeps a size: as Web does if that fits, else in two passes at a rate, with a smaller
    picture where the rate would not serve it well."""

    def __init__(self, film: Film, progress: Progress, folder: Path) -> None:
        self.film, self.order, self.told = film, film.orders[0], progress
        self.pictures, self.stats = folder / "sized.seg", folder / "stats"
        self.fps = float(self.order.delivery.fps or self.order.info.fps)
        self.most = 0

    def within(self, part: Path, megabytes: float) -> tuple[int, tuple[int, int]]:
        whole = Painter(self.order).shape.size
        passed = TwoPass(number=1, stats=self.stats)
        self._encode(passed, whole, lambda done, total: self.told(done, 2 * total))
        frames = mux(self.film, [self.pictures], part)
        size = whole
        if part.stat().st_size <= megabytes * 1e6:
            return frames, size
        beside = 8.0 * (part.stat().st_size - self.pictures.stat().st_size)
        rate = rate_for(megabytes, frames / self.fps, beside)
        size = fitted_size(*whole, self.fps, rate)
        if size != whole:
            self._encode(passed, size, self._second, is_kept=False)
        for _ in range(TRIES):
            self._encode(replace(passed, number=2, rate=rate), size, self._second)
            frames = mux(self.film, [self.pictures], part)
            over = part.stat().st_size / (megabytes * 1e6)
            if NEAR <= over <= 1:
                break
            rate = int(rate * AIMED / over)
        return frames, size

    def _second(self, done: int, total: int) -> bool:
        self.most = max(self.most, total + done)  # encoded once more, it does not go back
        return self.told(self.most, 2 * total)

    def _encode(
        self, passed: TwoPass, size: tuple[int, int], progress: Progress, *, is_kept: bool = True
    ) -> None:
        out = self.pictures if is_kept else None
        make_pictures(
            self.order, Painter(self.order, size), self.film.cuts[0], out, progress, two_pass=passed
        )

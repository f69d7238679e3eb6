"""Carry out one hand-over in the worker."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from django.conf import settings

from morphe.core.errors import MorpheError
from morphe.core.footage.info import SignalInfo
from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frames_at
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.handover.delivery import Order
from morphe.core.handover.joined import Piece, joined
from morphe.core.handover.output import whole_file, write_text
from morphe.core.handover.output_check import Checked, check_output_file
from morphe.core.handover.parts import cuts_of, parts_from_json
from morphe.core.handover.render import Cancelled, Rendered, graded_for, render, render_film
from morphe.core.handover.stills import STILLS, write_still
from morphe.core.interchange.cube import cube_of, cube_text
from morphe.web.clips.models import Clip, JudgingFrame
from morphe.web.clips.services.reading.kept import strength_of
from morphe.web.handover.models import HandOver
from morphe.web.handover.services.link_page import write_link_page
from morphe.web.handover.services.outing_report import report_of, write_pdf
from morphe.web.jobs.services.machines import segment_maker
from morphe.web.jobs.services.run import Run
from morphe.web.shell.notes import note

__all__ = ["keep_failure", "work"]

PICTURE_WIDTH = 480
MOMENTS = 5  # of a joined file at which banding and blocks are measured


def work(run: Run) -> None:
    """Make a hand-over's files and offer them when whole."""
    order = HandOver.objects.select_related("clip__outing").filter(pk=run.subject).first()
    if order is None:
        return
    made = {
        HandOver.What.CLIP: _clip, HandOver.What.JOINED: _joined, HandOver.What.STILL: _still,
        HandOver.What.LINK: _link, HandOver.What.REPORT: _report,
    }  # fmt: skip
    folder = Path(settings.MEDIA_ROOT) / "results" / str(order.pk)
    folder.mkdir(parents=True, exist_ok=True)
    make: Callable[[Run, HandOver, Path], str] = made[HandOver.What(order.what)]
    try:
        sentence = make(run, order, folder)
    except Gone:
        shutil.rmtree(folder, ignore_errors=True)
        return
    except Cancelled:
        run.check()  # stopped by a person, or lost to somebody else
        return
    except MorpheError as error:
        raise MorpheError(str(error).replace(order.clip.path.name, order.clip.title)) from error
    shutil.rmtree(_workshop(order), ignore_errors=True)
    size = Path(order.result.path).stat().st_size
    note(
        order.clip, "handed-over", f"Handed over {Path(order.result.path).name}: {sentence}, {_sized(size)}.",
        bytes=size, preset=order.preset, grade=order.grade, measured=order.measured, what=order.what,
        seconds=order.seconds, verdicts=order.verdicts,
    )  # fmt: skip


def _sized(size: int) -> str:
    return f"{size / 1e6:.1f} MB" if size > 1e6 else f"{size / 1e3:.0f} kB"


def _workshop(order: HandOver) -> Path:
    """Where finished segments lie until the whole is done, so that a later attempt goes on with them."""
    return Path(settings.MEDIA_ROOT) / "results" / str(order.pk) / ".workshop"


def _stem(order: HandOver) -> str:
    return order.name or f"{Path(order.shown_title).stem}-{order.pk}"


def _clip(run: Run, order: HandOver, folder: Path) -> str:
    reel, wanted, out = recipe.reel_from_json(order.grade), order.wanted, folder / f"{_stem(order)}.mp4"
    info = probe(order.clip.path)
    done = render(
        info, reel, out, wanted, progress=run.progress, workshop=_workshop(order), make=segment_maker()
    )
    also: tuple[str, ...] = ("json",)
    if len(reel.grades) == 1:
        lut = cube_of(reel.first, outside_nominal=order.clip.outside_nominal)
        write_text(out.with_suffix(".cube"), cube_text(lut, title=Path(order.clip.title).stem))
        also = ("cube", "json")
    write_text(out.with_suffix(".json"), recipe.to_text(reel))
    run.progress(done.frames, done.frames)
    shots = Clip.everything.filter(file=order.clip.file.name, aside=False)
    times = sorted(JudgingFrame.objects.filter(clip__in=shots).values_list("time_s", flat=True)) or [0.0]
    if wanted.parts:  # their judging frames, where they lie in the file
        cuts = cuts_of(wanted.parts, info)
        times = [t + c.shift_s + info.start_s for c in cuts for t in times if c.holds(t)] or [0.0]
    checked = _checked(
        done, Order(info=info, grade=graded_for(reel, wanted), delivery=wanted), order.clip, times
    )
    _keep(run, order, out, done, checked, times[len(times) // 2], also=also)
    return f"{done.frames} frames in {done.seconds:.1f} s ({done.fps:.0f} fps)"


def _joined(run: Run, order: HandOver, folder: Path) -> str:
    out, pieces = folder / f"{_stem(order)}.mp4", []
    clips = Clip.everything.in_bulk([other["clip"] for other in order.others])
    for other in order.others:
        clip = clips.get(other["clip"])
        if clip is None:
            raise MorpheError("A clip of this file has been removed since; hand the rest over anew.")
        pieces.append(
            Piece(
                info=probe(clip.path), grade=recipe.reel_from_json(other["grade"]),
                title=clip.title.rsplit(".", 1)[0], parts=parts_from_json(other["parts"]),
            )
        )  # fmt: skip
    film = joined(pieces, order.wanted)
    done = render_film(film, out, progress=run.progress, workshop=_workshop(order), make=segment_maker())
    length = probe(out).duration_s
    times = [length * (i + 0.5) / MOMENTS for i in range(MOMENTS)]
    sounds = next((p.info for p in pieces if p.info.audio), pieces[0].info)
    order_of = Order(
        info=replace(pieces[0].info, audio=sounds.audio), grade=Grade(), delivery=film.orders[0].delivery
    )
    checked = check_output_file(done.out, order_of, done.frames, None, times)
    _keep(run, order, out, done, checked, times[0])
    return f"{len(pieces)} clips, {done.frames} frames in {done.seconds:.1f} s"


def _checked(done: Rendered, order: Order, clip: Clip, times_s: list[float]) -> Checked:
    return check_output_file(done.out, order, done.frames, strength_of(clip), times_s)


def _still(run: Run, order: HandOver, folder: Path) -> str:
    kind = STILLS[order.preset]
    out = folder / f"{_stem(order)}{kind.ending}"
    time_s = order.time_s or 0.0
    width, height = write_still(
        probe(order.clip.path), recipe.from_json(order.grade), time_s, out, order.preset
    )
    picture = cv2.imread(str(out))
    if picture is None:
        raise MorpheError("The still could not be read back; hand it over again.")
    small = _small(picture, out.with_name(f"{out.stem}-small.jpg"))
    _save(run, order, result=_key(out), picture=_key(small))
    return f"a still at {time_s:.2f} s, {width} × {height}"


def _link(run: Run, order: HandOver, folder: Path) -> str:
    out = folder / f"{_stem(order)}.html"
    count = write_link_page(order, out, run.progress)
    _save(run, order, result=_key(out))
    return f"a page with {count} clips before and after"


def _report(run: Run, order: HandOver, folder: Path) -> str:
    out = folder / f"{_stem(order)}.pdf"
    wanted = [other["clip"] for other in order.others]
    outing = order.clip.outing
    pages = write_pdf(outing, report_of(outing, wanted), out, run.progress)
    _save(run, order, result=_key(out))
    return f"a report of {pages} pages"


def _keep(
    run: Run, order: HandOver, out: Path, done: Rendered, checked: Checked, time_s: float,
    also: tuple[str, ...] = (),
) -> None:  # fmt: skip
    small = _picture_of(out, time_s)
    beside = {
        {"cube": "cube", "json": "recipe"}[ending]: _key(out.with_suffix(f".{ending}")) for ending in also
    }
    _save(
        run, order, result=_key(out), picture=_key(small), seconds=round(done.seconds, 2),
        measured=checked.measured, verdicts=[v.as_json() for v in checked.verdicts], **beside,
    )  # fmt: skip


class Gone(Exception):
    """The order was taken away, with its clip, while its file was made."""


def _save(run: Run, order: HandOver, **found: Any) -> None:
    """Keep what was made; the clip that an order hangs on may have become another meanwhile."""
    with run.keeping():
        if not HandOver.objects.filter(pk=order.pk).update(**found):
            raise Gone
    order.refresh_from_db()


def _picture_of(out: Path, time_s: float) -> Path:
    """A small picture of what came out, from the file itself."""
    info: SignalInfo = probe(out)
    for _, planes in frames_at(info, [min(time_s, info.duration_s * 0.9)]):
        codes = np.rint(np.clip(planes.encoded(width=PICTURE_WIDTH), 0, 1) * 255).astype(np.uint8)
        return _small(codes[..., ::-1], out.with_name(f"{out.stem}-small.jpg"))
    raise MorpheError("The file has no frame that can be decoded; hand it over again.")


def _small(picture: np.ndarray, out: Path) -> Path:
    height, width = picture.shape[:2]
    if width > PICTURE_WIDTH:
        size = PICTURE_WIDTH, max(round(height * PICTURE_WIDTH / width), 1)
        picture = cv2.resize(picture, size, interpolation=cv2.INTER_AREA)
    with whole_file(out) as part:
        part.write_bytes(cv2.imencode(".jpg", np.ascontiguousarray(picture))[1].tobytes())
    return out


def _key(path: Path) -> str:
    return str(path.relative_to(settings.MEDIA_ROOT))


def keep_failure(hand_over_id: int, sentence: str) -> None:
    order = HandOver.objects.select_related("clip").filter(pk=hand_over_id).first()
    if order is not None:
        note(order.clip, "failed", sentence, preset=order.preset)

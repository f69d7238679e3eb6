"""Carry out one hand-over in the worker."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings

from morphe.core.errors import MorpheError
from morphe.core.footage.probe import probe
from morphe.core.grade import recipe
from morphe.core.handover.measured import measured_in
from morphe.core.handover.output import write_text
from morphe.core.handover.parts import cuts_of, parts_from_json
from morphe.core.handover.render import Cancelled, Rendered, render
from morphe.core.handover.sound import Heard
from morphe.core.interchange.cube import cube_of, cube_text
from morphe.web.clips.services.kept import strength_of
from morphe.web.handover.models import HandOver
from morphe.web.jobs.services.run import Run
from morphe.web.shell.notes import note

__all__ = ["keep_failure", "work"]


def work(run: Run) -> None:
    """Render a hand-over and offer its files when whole."""
    order = HandOver.objects.select_related("clip").filter(pk=run.subject).first()
    if order is None:
        return
    try:
        done = _deliver(run, order)
    except Cancelled:
        run.check()  # stopped by a person, or lost to somebody else
        return
    except MorpheError as error:
        raise MorpheError(str(error).replace(order.clip.path.name, order.clip.title)) from error
    _note_delivery(order, done)


def _deliver(run: Run, order: HandOver) -> Rendered:
    folder = Path(settings.MEDIA_ROOT) / "results"
    folder.mkdir(parents=True, exist_ok=True)
    stem = f"{Path(order.clip.title).stem}-{order.pk}"
    grade = recipe.from_json(order.grade)
    out = folder / f"{stem}.mp4"
    info, parts = probe(order.clip.path), parts_from_json(order.parts)
    done = render(
        info, grade, out, preset=order.preset, megabytes=order.megabytes,
        sound=Heard(order.sound), parts=parts, progress=run.progress,
    )  # fmt: skip
    lut = cube_of(grade, outside_nominal=order.clip.outside_nominal)
    write_text(folder / f"{stem}.cube", cube_text(lut, title=Path(order.clip.title).stem))
    write_text(folder / f"{stem}.json", recipe.to_text(grade))
    run.progress(done.frames, done.frames)
    times = list(order.clip.frames.values_list("time_s", flat=True)) or [0.0]
    if parts:  # their judging frames, where they lie in the file
        cuts = cuts_of(parts, info)
        times = [t + c.shift_s + info.start_s for c in cuts for t in times if c.holds(t)] or [0.0]
    order.measured = measured_in(done.out, strength_of(order.clip), times)
    with run.keeping():
        order.result, order.cube, order.recipe = (f"results/{stem}.{e}" for e in ("mp4", "cube", "json"))
        order.seconds = round(done.seconds, 2)
        order.save(update_fields=["result", "cube", "recipe", "seconds", "measured"])
    return done


def _note_delivery(order: HandOver, done: Rendered) -> None:
    size = done.out.stat().st_size
    note(
        order.clip,
        "handed-over",
        f"Handed over {done.out.name}: {done.frames} frames in {done.seconds:.1f} s ({done.fps:.0f} fps), "
        f"{size / 1e6:.1f} MB.",
        frames=done.frames,
        seconds=round(done.seconds, 2),
        bytes=size,
        preset=order.preset,
        grade=order.grade,
        measured=order.measured,
    )


def keep_failure(hand_over_id: int, sentence: str) -> None:
    order = HandOver.objects.select_related("clip").filter(pk=hand_over_id).first()
    if order is not None:
        note(order.clip, "failed", sentence, preset=order.preset)

"""Clips to mend: made by the worker, brought in as any clip is, mended on the Bench, and scored."""

from __future__ import annotations

import io
import secrets
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np
from django.core.files.base import ContentFile
from django.utils import timezone

from morphe.core.errors import MorpheError
from morphe.core.pipeline.screen import graded_still
from morphe.core.practice.mending import (
    KINDS,
    TOLERANCE,
    distance,
    mending,
    remains,
    score,
    spoil_of,
    write_spoiled,
)
from morphe.core.screen.pictures import jpeg
from morphe.core.signal.arrays import Encoded
from morphe.core.signal.profiles import PROFILES
from morphe.core.stored import read_array
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.intake.bring_in import bring_in_path
from morphe.web.clips.services.reading.storage import load_picture
from morphe.web.clips.services.space.remove import remove_clip
from morphe.web.jobs.services.ask import ask
from morphe.web.jobs.services.run import Run
from morphe.web.outings.models import Outing
from morphe.web.practice.models import Mend, Wish
from morphe.web.practice.services.eyes import thresholds
from morphe.web.practice.services.record import GOOD_SCORE, answered, level_of
from morphe.web.practice.services.topics import OWN

__all__ = [
    "KIND",
    "aside_of",
    "ask_ahead",
    "begin",
    "end",
    "keep_failure",
    "of_clip",
    "tolerance",
    "truth_jpeg",
    "work",
]

KIND = "practice-mend"
OUTING = "Practice"
OWN_WIDTH = 640
KEPT = 5  # mendings whose clips stay
_STD = PROFILES.get("std-709")


def ask_ahead() -> None:
    """Have one clip ready of each kind that was begun before, and of the first: reading clips costs the
    person's own clips time."""
    begun = set(Mend.objects.values_list("kind", flat=True)) | {next(iter(KINDS))}
    for kind in begun & set(KINDS):
        if not Mend.objects.filter(kind=kind, state__in=(Mend.State.WAITING, Mend.State.READY)).exists():
            _ask(kind)


def begin(kind: str) -> Mend:
    """The next clip of a kind: one that is ready, else one that is being made.

    Raises
    ------
    MorpheError
        If a clip of one's own is wanted and none has been corrected yet.
    """
    ready = Mend.objects.filter(kind=kind, state=Mend.State.READY, clip__state=Clip.State.READY).first()
    if ready is not None:
        _let_old_go()
        ready.state = Mend.State.OPEN
        ready.save(update_fields=["state"])
        if kind != OWN:
            ask_ahead()
        return ready
    making = (Mend.State.WAITING, Mend.State.READY)
    return Mend.objects.filter(kind=kind, state__in=making).first() or _ask(kind)


def _let_old_go() -> None:
    """Keep the clips of the last few mendings; the record keeps what came of all."""
    over = (Mend.State.ENDED, Mend.State.OPEN)
    for old in Mend.objects.filter(state__in=over).exclude(clip=None).order_by("-id")[KEPT:]:
        old.truth.delete(save=False)
        if old.clip is not None:
            remove_clip(old.clip)  # and with it the mending


def _ask(kind: str) -> Mend:
    own = _own_clip() if kind == OWN else None
    made = Mend.objects.create(kind=kind, seed=secrets.randbelow(2**31), level=level_of(kind), own=own)
    ask(KIND, made.pk)
    return made


def _own_clip() -> Clip:
    clips = Clip.objects.ready().with_grades().exclude(outing__is_practice=True).prefetch_related("frames")
    corrected = [clip for clip in clips.order_by("-pk")[:60] if clip.is_corrected and clip.poster]
    if not corrected:
        raise MorpheError("No clip of yours is corrected yet; correct one on the Bench, then come back.")
    return corrected[secrets.randbelow(len(corrected))]


def work(run: Run) -> None:
    """Make the clip, keep its truth, and bring it in."""
    made = Mend.objects.select_related("own").filter(pk=run.subject).first()
    if made is None or made.state != Mend.State.WAITING:
        return
    if made.kind == OWN:
        if made.own is None:
            raise MorpheError("The clip that it was to be made of is gone; try again.")
        right = _own_truth(Clip.everything.with_grades().get(pk=made.own.pk))
        light = _STD.decode(right).astype(np.float32)
        exposure = spoil_of("mend-colour-and-light", np.random.default_rng((made.seed, 9)), made.level)
        name = f"{Path(made.own.title).stem}-spoiled.mp4"
    else:
        exercise = mending(made.kind, made.seed, made.level)
        right, light, exposure = exercise.truth(), exercise.light(), exercise.exposure
        name = f"to-mend-{made.pk}.mp4"
    with TemporaryDirectory() as folder:
        path = write_spoiled(light, exposure, Path(folder) / name, made.seed)
        buffer = io.BytesIO()
        np.save(buffer, right.astype(np.float16))
        with run.keeping():
            made.clip = bring_in_path(_outing(), path)
            made.truth.save(f"{made.pk}.npy", ContentFile(buffer.getvalue()), save=False)
            made.state = Mend.State.READY
            made.save()


def keep_failure(mend_id: int, sentence: str) -> None:
    """A clip that cannot be made says why."""
    Mend.objects.filter(pk=mend_id).update(state=Mend.State.FAILED, problem=sentence[:300])


def _outing() -> Outing:
    found = Outing.everything.filter(is_practice=True).first()
    return found or Outing.everything.create(name=OUTING, date=timezone.localdate(), is_practice=True)


def _own_truth(clip: Clip) -> Encoded:
    frame = clip.poster
    if frame is None:
        raise MorpheError("This clip is being read anew; try again in a moment.")
    picture = load_picture(frame.picture.path)
    step = max(round(picture.shape[1] / OWN_WIDTH), 1)
    small = np.ascontiguousarray(picture[::step, ::step])
    graded = graded_still(small, grade_of(clip), frame.time_s)
    height, width = (n // 2 * 2 for n in graded.shape[:2])
    return np.clip(graded[:height, :width], 0, 1).astype(np.float32)


# --- beside the clip on the Bench ------------------------------------------------------------------


def of_clip(clip: Clip) -> Mend | None:
    """The mending that a clip is for."""
    return Mend.objects.filter(clip=clip).first()


def tolerance() -> float:
    """The distance that counts as mended; by the person's own eyes, where that is wished."""
    own = thresholds() if Wish.objects.filter(own_thresholds=True).exists() else {}
    usual = {"exposure": 0.1, "warmth": 6.0}
    shares = [own[key] / usual[key] for key in usual if key in own]
    share = sum(shares) / len(shares) if shares else 1.0
    return round(TOLERANCE * min(max(share, 0.5), 2.0), 1)


def truth_of(made: Mend) -> Encoded:
    return read_array(made.truth.path).astype(np.float32)


def truth_jpeg(made: Mend) -> bytes:
    """The truth, once it may be seen."""
    return jpeg(truth_of(made))


def aside_of(clip: Clip, graded: Encoded) -> dict[str, Any]:
    """The distance that falls, for a clip that is being mended."""
    if not clip.outing.is_practice:
        return {}
    made = of_clip(clip)
    if made is None or made.state == Mend.State.ENDED:
        return {}
    now = distance(graded, truth_of(made))
    if not made.begun:
        made.begun = now
        made.save(update_fields=["begun"])
    return {"distance": round(now, 1), "begun": round(made.begun, 1), "tolerance": tolerance()}


def end(made: Mend) -> Mend:
    """Look at what was reached, say what remains, and keep the score once."""
    clip = Clip.everything.with_grades().get(mend=made)
    frame = clip.poster
    if made.state == Mend.State.ENDED or frame is None:
        return made
    picture, right = load_picture(frame.picture.path), truth_of(made)
    graded = graded_still(picture, grade_of(clip), frame.time_s)
    now = distance(graded, right)
    begun = made.begun or distance(picture, right)
    changes = clip.versions.count() - 1
    made.score, made.state = score(begun, now, changes), Mend.State.ENDED
    made.left = {
        "distance": round(now, 1), "begun": round(begun, 1), "changes": changes,
        "sentence": remains(graded, right).sentence, "is_mended": now <= tolerance(),
    }  # fmt: skip
    made.save()
    is_right = made.score >= GOOD_SCORE or now <= tolerance()
    answered(made.kind, made.seed, made.level, right=is_right, score=made.score)
    return made

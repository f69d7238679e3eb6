"""Takes checked on the spot: a file comes in, the worker looks at it, the finding stays with the take."""

from __future__ import annotations

import io
from pathlib import Path

import cv2
import numpy as np
from django.core.files.base import ContentFile
from django.core.files.uploadedfile import UploadedFile

from morphe.core.errors import MediaError, MorpheError
from morphe.core.plan.slate import parse_note
from morphe.core.plan.take_check import check_take
from morphe.core.plan.take_seen import TakeSeen, see_clip, see_still
from morphe.core.reading.reference import read_still
from morphe.core.screen.pictures import jpeg
from morphe.core.signal.arrays import Encoded
from morphe.core.stored import read_array
from morphe.web.clips.services.intake.bring_in import check_room, safe_name
from morphe.web.jobs.services.ask import ask
from morphe.web.jobs.services.run import Lost, Run
from morphe.web.plan.models import Take, TakeCheck
from morphe.web.plan.services.current import questions_of

__all__ = ["KIND", "begin_check", "forget_check", "keep_failure", "picture_of", "work"]

KIND = "take-check"
MOST_BYTES = 500_000_000
STILLS = (".jpg", ".jpeg", ".png", ".tif", ".tiff", ".webp")
WIDTH = 1280  # pixels, of the picture that is judged and kept


def begin_check(take: Take, file: UploadedFile[bytes] | None) -> TakeCheck:
    """Keep a file until the worker has looked at it.

    Raises
    ------
    MediaError
        If there is none, or it is too large for a glance.
    """
    if file is None or not file.size:
        raise MediaError("No clip or still arrived; film a few seconds, or choose one.")
    name = safe_name(Path(str(file.name)).name)
    if file.size > MOST_BYTES:
        raise MediaError(f"{name} is larger than {MOST_BYTES // 10**6} MB; film a few seconds for a check.")
    check_room(name, file.size)
    check = TakeCheck(take=take, name=name)
    check.file.save(name, file, save=True)
    ask(KIND, check.pk)
    return check


def work(run: Run) -> None:
    """The worker's part."""
    check = TakeCheck.objects.select_related("take__planned__plan__outing").filter(pk=run.subject).first()
    if check is None or not check.is_waiting:
        return
    seen = _seen(check)
    take = check.take
    planned = take.planned
    found = check_take(
        seen, planned=planned.settings or None, note=parse_note(take.note) if take.note else None,
        mains_hz=questions_of(planned).mains_hz,
    )  # fmt: skip
    middle = _fitted(seen.pictures[len(seen.pictures) // 2])
    buffer = io.BytesIO()
    np.save(buffer, middle.astype(np.float16))
    with run.keeping():
        if not TakeCheck.objects.filter(pk=check.pk).exists():
            raise Lost
        check.picture.save("check.npy", ContentFile(buffer.getvalue()), save=False)
        check.shown.save("check.jpg", ContentFile(jpeg(middle)), save=False)
        check.found, check.state = found.as_json(), TakeCheck.State.READY
        check.save()
    check.file.delete(save=True)


def _seen(check: TakeCheck) -> TakeSeen:
    path = Path(check.file.path)
    try:
        if path.suffix.lower() in STILLS:
            return see_still(_fitted(read_still(path, check.name)), path)
        return see_clip(path)
    except MorpheError as error:
        raise MorpheError(str(error).replace(path.name, check.name)) from error


def _fitted(picture: Encoded) -> Encoded:
    height, width = picture.shape[:2]
    if width <= WIDTH:
        return picture
    size = (WIDTH, max(round(height * WIDTH / width), 2))
    return cv2.resize(picture, size, interpolation=cv2.INTER_AREA).astype(np.float32)


def keep_failure(check_id: int, sentence: str) -> None:
    """A file that cannot be looked at says why."""
    check = TakeCheck.objects.filter(pk=check_id).first()
    if check is not None and check.is_waiting:
        check.state, check.problem = TakeCheck.State.FAILED, sentence[:300]
        check.file.delete(save=False)
        check.save()


def picture_of(check: TakeCheck) -> Encoded:
    """The picture that was judged."""
    return read_array(check.picture.path).astype(np.float32)


def forget_check(check: TakeCheck) -> None:
    """Let a check go, with what is kept of it."""
    for kept in (check.file, check.picture, check.shown):
        kept.delete(save=False)
    check.delete()

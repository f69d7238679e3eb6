"""Uploads: begun, gone on with where they stopped, and made into a clip when whole.

How far one has come, its file says: what was written is there, whatever was answered or who was killed.
"""

from __future__ import annotations

import fcntl
import hashlib
import os
import secrets
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from datetime import UTC, datetime, timedelta
from pathlib import Path

from django.db import transaction
from django.utils import timezone

from morphe.core.errors import MediaError
from morphe.web.clips.models import Upload
from morphe.web.clips.services.intake.arriving import ARRIVING
from morphe.web.clips.services.intake.bring_in import (
    Origin,
    check_room,
    check_size,
    clip_of,
    clips_folder,
    known_as,
    safe_name,
)
from morphe.web.clips.services.reading.storage import sized_for_web
from morphe.web.jobs.services.ask import ask
from morphe.web.jobs.services.run import Run
from morphe.web.outings.models import Outing

__all__ = [
    "KIND",
    "OutOfStep",
    "add",
    "begin_upload",
    "forget_stale",
    "give_up",
    "left_to_send",
    "names_of_parts",
    "offset_of",
    "settle",
    "whole_ones",
    "work",
]  # fmt: skip

KIND = "arrive"
KEPT = timedelta(days=7)  # what has arrived of an upload that nobody goes on with, and how one ended
BLOCK = 2**16  # bytes that are written at once, and at most lost with the line


class OutOfStep(MediaError):
    """What was sent does not follow what has arrived."""

    code = "out-of-step"


def begin_upload(outing: Outing, name: str, size: int, modified_ms: int) -> Upload:
    """Begin an upload, or find the one of the same file: unfinished, or the clip that it became.

    Raises
    ------
    MorpheError
        If the file is empty, too large, or has no room.
    """
    name = Path(name.encode("utf-8", "replace").decode()).name[:200] or "clip"
    check_size(name, size)
    same = {"outing": outing, "name": name, "size_bytes": size, "modified_ms": modified_ms}
    found = Upload.objects.filter(**same).first()
    if found is not None and (found.clip_id or (not found.settled and _place(found).exists())):
        return found
    if found is not None:
        give_up(found)
    check_room(name, size)
    upload = Upload.objects.create(token=secrets.token_hex(16), **same)
    _part(upload).touch()
    return upload


def _part(upload: Upload) -> Path:
    """What has arrived; beside the clips, so that it need not be copied when it is whole."""
    return clips_folder() / _name_of_part(upload.token)


def _stored(upload: Upload) -> Path:
    """Where it stands as a clip."""
    return clips_folder() / f"{upload.token[:8]}-{safe_name(upload.name)}"


def _place(upload: Upload) -> Path:
    """Where its file is: also after a kill between its last name and the clip's row."""
    part, stored = _part(upload), _stored(upload)
    return stored if stored.exists() and not part.exists() else part


def offset_of(upload: Upload) -> int:
    """How many bytes have arrived.

    Raises
    ------
    Upload.DoesNotExist
        If it was given up.
    """
    if upload.settled:
        return upload.size_bytes
    try:
        return _place(upload).stat().st_size
    except FileNotFoundError as error:
        raise Upload.DoesNotExist from error


def add(upload: Upload, at: int, read: Callable[[int], bytes]) -> int:
    """Add what is read, from `at` on; how far it has come then. What came before a line was lost stays.

    Raises
    ------
    OutOfStep
        If the file stops elsewhere; perhaps because another request of its sender goes on with it.
    MediaError
        If more comes than the file has.
    Upload.DoesNotExist
        If it was given up.
    """
    if at != offset_of(upload):
        raise OutOfStep(f"{upload.name} has not arrived up to there; go on from where it stops.")
    if upload.settled:
        return at
    try:
        with _grown(upload) as write:
            while block := read(BLOCK):
                at = write(at, block)
    finally:
        Upload.objects.filter(pk=upload.pk, settled=False).update(received=at, changed=timezone.now())
    return at


@contextmanager
def _grown(upload: Upload) -> Iterator[Callable[[int, bytes], int]]:
    """What writes a block to the part at a place: alone, and only where the file ends."""
    try:
        handle = os.open(_part(upload), os.O_WRONLY | os.O_CLOEXEC)
    except FileNotFoundError as error:
        raise Upload.DoesNotExist from error

    def write(at: int, block: bytes) -> int:
        fcntl.flock(handle, fcntl.LOCK_EX)
        try:
            if at != os.fstat(handle).st_size or not os.fstat(handle).st_nlink:
                raise OutOfStep(f"{upload.name} is gone on with elsewhere.")
            if at + len(block) > upload.size_bytes:
                raise MediaError(f"{upload.name} is longer than it was said to be; choose it again.")
            written = os.pwrite(handle, block, at)
            ARRIVING.add(upload.token, at, block[:written])
        finally:
            fcntl.flock(handle, fcntl.LOCK_UN)
        return write(at + written, block[written:]) if written < len(block) else at + written

    try:
        yield write
    finally:
        os.close(handle)


def settle(upload: Upload) -> Upload:
    """Make the clip of an upload that has arrived whole; where it was not hashed on its way, in the queue."""
    if upload.settled or offset_of(upload) < upload.size_bytes:
        return upload
    sha256 = ARRIVING.digest(upload.token, upload.size_bytes)
    if sha256 is None:
        ask(KIND, upload.pk)
        return upload
    return _settled(upload.pk, sha256)


def work(run: Run) -> None:
    """Hash a file that has arrived whole, and make its clip."""
    upload = Upload.objects.filter(pk=run.subject, settled=False).first()
    if upload is None or offset_of(upload) < upload.size_bytes:
        return
    with _place(upload).open("rb") as stream:
        sha256 = hashlib.file_digest(stream, "sha256").hexdigest()
    with run.keeping():
        _settled(upload.pk, sha256)


def whole_ones() -> Iterator[int]:
    """Uploads that have arrived whole and are no clips yet."""
    for upload in Upload.objects.filter(settled=False):
        with suppress(Upload.DoesNotExist):
            if offset_of(upload) == upload.size_bytes:
                yield upload.pk


def _settled(pk: int, sha256: str) -> Upload:
    """One writer at a time comes this far (SQLite); the second finds it done."""
    with transaction.atomic():
        now = Upload.objects.select_related("outing", "clip").get(pk=pk)
        if now.settled:
            return now
        now.settled, now.received = True, now.size_bytes
        known = known_as(now.outing, sha256)
        if known is not None:
            now.clip, now.problem = known, f"{now.name} is here already, as {known.title}."[:300]
        else:
            filmed = datetime.fromtimestamp(now.modified_ms / 1000, UTC) if now.modified_ms else None
            os.replace(_place(now), _stored(now))
            now.clip = clip_of(now.outing, _stored(now), sha256, Origin(name=now.name, filmed_at=filmed))
        now.save()
    _part(now).unlink(missing_ok=True)
    return now


def give_up(upload: Upload) -> None:
    """Forget an upload and what has arrived of it; a clip that it became stays."""
    part = _part(upload)
    upload.delete()
    part.unlink(missing_ok=True)


def left_to_send(outing: Outing) -> str:
    """What has not arrived yet of this outing's clips, in a sentence; nothing if all has."""
    left = [upload.size_bytes - upload.received for upload in outing.uploads.filter(settled=False)]
    if not left:
        return ""
    clips = "1 clip has" if len(left) == 1 else f"{len(left)} clips have"
    return f"{clips} not arrived whole: {sized_for_web(sum(left))} left to send."


def names_of_parts() -> set[str]:
    """Names of the files that hold what has arrived of uploads."""
    return {_name_of_part(token) for token in Upload.objects.values_list("token", flat=True)}


def _name_of_part(token: str) -> str:
    return f".upload-{token}.part"


def forget_stale() -> None:
    """Give up uploads that nobody has gone on with for a week, and forget how others ended."""
    for upload in Upload.objects.filter(changed__lt=timezone.now() - KEPT):
        give_up(upload)

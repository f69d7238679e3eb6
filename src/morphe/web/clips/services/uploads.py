"""Uploads in pieces: begun, continued where they stopped, and made into a clip when whole."""

from __future__ import annotations

import base64
import fcntl
import hashlib
import re
import secrets
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from pathlib import Path

from django.conf import settings
from django.utils import timezone

from morphe.core.errors import MediaError
from morphe.web.clips.models import Clip, Upload
from morphe.web.clips.services.bring_in import AlreadyHere, Origin, bring_in_part, check_room, check_size
from morphe.web.clips.services.storage import sized_for_web
from morphe.web.outings.models import Outing

__all__ = ["MAX_PIECE", "OutOfStep", "add_piece", "begin_upload", "finish_if_whole",
           "forget_stale", "give_up", "left_to_send", "names_of_parts"]  # fmt: skip

MAX_PIECE = 3 * 10**6
KEPT = timedelta(days=7)  # what has arrived of an upload that nobody goes on with


class OutOfStep(MediaError):
    """A piece does not follow what has arrived, or did not arrive whole; the answer says where to go on."""

    code = "out-of-step"


def begin_upload(outing: Outing, name: str, size: int, modified_ms: int) -> Upload:
    """Begin an upload, or find the one of the same file that was left unfinished."""
    name = Path(name.encode("utf-8", "replace").decode()).name[:200] or "clip"
    check_size(name, size)
    unfinished = Upload.objects.filter(
        outing=outing, name=name, size_bytes=size, modified_ms=modified_ms
    ).first()
    if unfinished is not None and _has_all(unfinished):
        return unfinished
    if unfinished is not None:
        give_up(unfinished)
    check_room(name, size)
    upload = Upload.objects.create(
        outing=outing, token=secrets.token_hex(16), name=name, size_bytes=size, modified_ms=modified_ms
    )
    _part(upload).touch()
    return upload


def _has_all(upload: Upload) -> bool:
    """Whether the bytes that were counted are there."""
    part = _part(upload)
    return part.exists() and part.stat().st_size >= upload.received


def _part(upload: Upload) -> Path:
    """What has arrived; beside the clips, so that it need not be copied when it is whole."""
    folder = Path(settings.MEDIA_ROOT) / "clips"
    folder.mkdir(parents=True, exist_ok=True)
    return folder / _name_of_part(upload.token)


@contextmanager
def _alone(upload: Upload) -> Iterator[Upload]:
    """The upload as it is by now, while nobody else adds to it or finishes it."""
    try:
        stream = _part(upload).open("r+b")
    except FileNotFoundError as error:
        raise Upload.DoesNotExist from error
    with stream:
        fcntl.flock(stream, fcntl.LOCK_EX)
        yield Upload.objects.select_related("outing").get(pk=upload.pk)


def add_piece(upload: Upload, at: int, piece: bytes, digest: str = "") -> Clip | None:
    """Add a piece; the last one makes the clip.

    Parameters
    ----------
    digest : the piece's `Content-Digest` (RFC 9530), if its sender could tell it

    Raises
    ------
    OutOfStep
        If the piece does not begin where the file stops so far, or is not what was sent.
    MediaError
        If it reaches beyond the file's end, or the file is in the outing already.
    Upload.DoesNotExist
        If the upload was given up, or has become a clip.
    """
    with _alone(upload) as now:
        if at != now.received:
            raise OutOfStep(f"{now.name} has arrived up to byte {now.received}; go on from there.")
        if not piece or at + len(piece) > now.size_bytes or len(piece) > MAX_PIECE:
            raise MediaError(f"A piece of {now.name} has the wrong length; bring the clip in again.")
        if digest and not _is_whole(piece, digest):
            raise OutOfStep(f"A piece of {now.name} did not arrive as it was sent; send it again.")
        with _part(now).open("r+b") as stream:
            stream.seek(at)
            stream.write(piece)
            stream.truncate()
        upload.received = now.received = at + len(piece)
        now.save(update_fields=["received", "changed"])
        return _finish(now) if now.received == now.size_bytes else None


def _is_whole(piece: bytes, digest: str) -> bool:
    """Whether a piece is the one that a digest was made of; digests of other kinds are not looked at."""
    found = re.search(r"sha-256=:([A-Za-z0-9+/=]{44}):", digest)
    return found is None or base64.b64encode(hashlib.sha256(piece).digest()).decode() == found[1]


def finish_if_whole(upload: Upload) -> Clip | None:
    """Make the clip of an upload that has arrived whole, but could not become one then."""
    if upload.received != upload.size_bytes:
        return None
    with _alone(upload) as now:
        return _finish(now)


def _finish(upload: Upload) -> Clip:
    """Make the clip; where that fails for want of room, what has arrived stays and can be finished later."""
    filmed = datetime.fromtimestamp(upload.modified_ms / 1000, UTC) if upload.modified_ms else None
    try:
        clip = bring_in_part(upload.outing, _part(upload), Origin(name=upload.name, filmed_at=filmed))
    except AlreadyHere:
        give_up(upload)
        raise
    upload.delete()
    return clip


def give_up(upload: Upload) -> None:
    """Forget an upload and what has arrived of it."""
    part = _part(upload)
    upload.delete()
    part.unlink(missing_ok=True)


def left_to_send(outing: Outing) -> str:
    """What has not arrived yet of this outing's clips, in a sentence; nothing if all has."""
    left = [upload.size_bytes - upload.received for upload in outing.uploads.all()]
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
    """Give up uploads that nobody has gone on with for a week."""
    for upload in Upload.objects.filter(changed__lt=timezone.now() - KEPT):
        give_up(upload)

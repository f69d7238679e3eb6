"""Uploads in pieces: begun, continued where they stopped, and made into a clip when whole."""

from __future__ import annotations

import secrets
from datetime import UTC, datetime, timedelta
from pathlib import Path

from django.conf import settings
from django.utils import timezone

from morphe.core.errors import MediaError
from morphe.web.clips.models import Clip, Upload
from morphe.web.clips.services.bring_in import Origin, bring_in_part, check_room, check_size
from morphe.web.outings.models import Outing

__all__ = ["MAX_PIECE", "OutOfStep", "add_piece", "begin_upload", "forget_stale", "give_up"]

MAX_PIECE = 3 * 10**6
KEPT = timedelta(days=7)  # what has arrived of an upload that nobody goes on with


class OutOfStep(MediaError):
    """A piece does not follow what has arrived; `received` says where to go on."""

    code = "out-of-step"


def begin_upload(outing: Outing, name: str, size: int, modified_ms: int) -> Upload:
    """Begin an upload, or find the one of the same file that was left unfinished."""
    name = Path(name).name[:200] or "clip"
    check_size(name, size)
    unfinished = Upload.objects.filter(
        outing=outing, name=name, size_bytes=size, modified_ms=modified_ms
    ).first()
    if unfinished is not None and _part(unfinished).exists():
        return unfinished
    if unfinished is not None:
        unfinished.delete()
    check_room(name, size)
    upload = Upload.objects.create(
        outing=outing, token=secrets.token_hex(16), name=name, size_bytes=size, modified_ms=modified_ms
    )
    _part(upload).touch()
    return upload


def _part(upload: Upload) -> Path:
    """What has arrived; beside the clips, so that it need not be copied when it is whole."""
    folder = Path(settings.MEDIA_ROOT) / "clips"
    folder.mkdir(parents=True, exist_ok=True)
    return folder / f".upload-{upload.token}.part"


def add_piece(upload: Upload, at: int, piece: bytes) -> Clip | None:
    """Add a piece; the last one makes the clip.

    Raises
    ------
    OutOfStep
        If the piece does not begin where the file stops so far.
    MediaError
        If it reaches beyond the file's end, or the file is in the outing already.
    """
    if at != upload.received:
        raise OutOfStep(f"{upload.name} has arrived up to byte {upload.received}; go on from there.")
    if not piece or at + len(piece) > upload.size_bytes or len(piece) > MAX_PIECE:
        raise MediaError(f"A piece of {upload.name} has the wrong length; bring the clip in again.")
    with _part(upload).open("r+b") as stream:
        stream.seek(at)
        stream.write(piece)
        stream.truncate()
    upload.received = at + len(piece)
    upload.save(update_fields=["received", "changed"])
    return _finish(upload) if upload.received == upload.size_bytes else None


def _finish(upload: Upload) -> Clip:
    filmed = datetime.fromtimestamp(upload.modified_ms / 1000, UTC) if upload.modified_ms else None
    part, outing, origin = _part(upload), upload.outing, Origin(name=upload.name, filmed_at=filmed)
    upload.delete()
    return bring_in_part(outing, part, origin)


def give_up(upload: Upload) -> None:
    """Forget an upload and what has arrived of it."""
    part = _part(upload)
    upload.delete()
    part.unlink(missing_ok=True)


def forget_stale() -> None:
    """Give up uploads that nobody has gone on with for a week."""
    for upload in Upload.objects.filter(changed__lt=timezone.now() - KEPT):
        give_up(upload)

"""Bring a clip in: keep the file untouched, then have it read by the worker."""

from __future__ import annotations

import hashlib
import os
import secrets
import shutil
from datetime import datetime
from pathlib import Path
from typing import BinaryIO

from django.conf import settings
from django.core.files.uploadedfile import TemporaryUploadedFile, UploadedFile
from django.db import transaction
from django.utils.text import get_valid_filename

from morphe.core.errors import MediaError, OutputError
from morphe.web.clips.models import Clip
from morphe.web.clips.services.storage import sized_for_web
from morphe.web.outings.models import Camera, Outing

__all__ = ["bring_in_path", "bring_in_upload"]

CHUNK = 1 << 20
SPARE_BYTES = 200 * 10**6  # room that must stay free on the disk


def bring_in_upload(outing: Outing, upload: UploadedFile, *, filmed_at: datetime | None = None) -> Clip:
    """Keep an uploaded file and have it read; `filmed_at` is the file's time on the card, if it is known.

    Raises
    ------
    MediaError
        If the file is empty, too large, or in this outing already.
    """
    name = Path(upload.name or "clip").name
    if not upload.size:
        raise MediaError(f"{name} is empty; copy it again from the card.")
    if upload.size > settings.UPLOAD_MAX_BYTES:
        raise MediaError(
            f"{name} has {sized_for_web(upload.size)}; at most "
            f"{sized_for_web(settings.UPLOAD_MAX_BYTES)} are accepted."
        )
    if isinstance(upload, TemporaryUploadedFile):
        with open(upload.temporary_file_path(), "rb") as stream:
            return _keep(outing, name, stream, upload.size, filmed_at=filmed_at)
    return _keep(outing, name, upload.file, upload.size, filmed_at=filmed_at)


def bring_in_path(
    outing: Outing, path: Path, *, camera: Camera | None = None, filmed_at: datetime | None = None
) -> Clip:
    """Copy a clip from this computer and have it read."""
    with path.open("rb") as stream:
        return _keep(outing, path.name, stream, path.stat().st_size, camera=camera, filmed_at=filmed_at)


def _keep(
    outing: Outing,
    name: str,
    stream: BinaryIO,
    size: int,
    *,
    camera: Camera | None = None,
    filmed_at: datetime | None = None,
) -> Clip:
    folder = Path(settings.MEDIA_ROOT) / "clips"
    folder.mkdir(parents=True, exist_ok=True)
    if shutil.disk_usage(folder).free < size + SPARE_BYTES:
        raise OutputError(f"There is no room for {name}; free some disk space and bring it in again.")
    stored = f"{secrets.token_hex(4)}-{get_valid_filename(name)[-120:]}"
    part = folder / f".{stored}.part"
    digest = hashlib.sha256()
    try:
        with part.open("wb") as target:
            while chunk := stream.read(CHUNK):
                digest.update(chunk)
                target.write(chunk)
        sha256 = digest.hexdigest()
        known = Clip.objects.filter(outing=outing, sha256=sha256).first()
        if known:
            raise MediaError(f"{name} is here already, as {known.title}.")
        os.replace(part, folder / stored)
    finally:
        part.unlink(missing_ok=True)
    with transaction.atomic():
        clip = Clip.objects.create(
            outing=outing,
            camera=camera,
            filmed_at=filmed_at,
            title=name[:200],
            file=f"clips/{stored}",
            sha256=sha256,
            size_bytes=size,
        )
        transaction.on_commit(lambda: _have_read(clip.pk))
    return clip


def _have_read(clip_id: int) -> None:
    from morphe.web.clips.tasks import read_clip_task

    read_clip_task(clip_id)

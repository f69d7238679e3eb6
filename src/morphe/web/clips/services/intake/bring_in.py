"""Bring a clip in: keep the file untouched, then have it read by the worker."""

from __future__ import annotations

import errno
import hashlib
import os
import re
import secrets
import shutil
import stat
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import BinaryIO, cast

from django.conf import settings
from django.core.files.uploadedfile import TemporaryUploadedFile, UploadedFile
from django.db import transaction

from morphe.core.errors import MediaError, OutputError
from morphe.web.clips.models import Clip
from morphe.web.clips.services.reading.storage import sized_for_web
from morphe.web.jobs.services.ask import ask
from morphe.web.outings.models import Camera, Outing

__all__ = [
    "AlreadyHere",
    "Origin",
    "bring_in_path",
    "bring_in_upload",
    "check_room",
    "check_size",
    "clip_of",
    "clips_folder",
    "known_as",
    "safe_name",
]

CHUNK = 1 << 20
NAME_BYTES, LONGEST_ENDING = 120, 8
SPARE_BYTES = 200 * 10**6  # room that must stay free on the disk


class AlreadyHere(MediaError):
    """The same file is in this outing."""

    code = "already-here"


@dataclass(frozen=True, slots=True, kw_only=True)
class Origin:
    """Where a file comes from: its name, and what is known of it before it is read.

    `filmed_at` is the file's time on the card, `folder` its folder there.
    """

    name: str
    camera: Camera | None = None
    filmed_at: datetime | None = None
    folder: str = ""


def bring_in_upload(
    outing: Outing, upload: UploadedFile[bytes], *, filmed_at: datetime | None = None
) -> Clip:
    """Keep an uploaded file and have it read.

    Raises
    ------
    MediaError
        If the file is empty, too large, or in this outing already.
    """
    origin = Origin(name=Path(upload.name or "clip").name, filmed_at=filmed_at)
    size = upload.size or 0
    check_size(origin.name, size)
    if isinstance(upload, TemporaryUploadedFile):
        with open(upload.temporary_file_path(), "rb") as stream:
            return _keep(outing, stream, size, origin)
    return _keep(outing, cast(BinaryIO, upload.file), size, origin)


def bring_in_path(
    outing: Outing,
    path: Path,
    *,
    camera: Camera | None = None,
    filmed_at: datetime | None = None,
    folder: str = "",
) -> Clip:
    """Copy a clip from this computer and have it read.

    Raises
    ------
    MediaError
        If it is no file but a link, a pipe or a device, or in this outing already.
    """
    origin = Origin(name=path.name, camera=camera, filmed_at=filmed_at, folder=folder)
    with _regular(path) as (stream, size):
        return _keep(outing, stream, size, origin)


@contextmanager
def _regular(path: Path) -> Iterator[tuple[BinaryIO, int]]:
    """A regular file opened for reading, with its size; nothing that could hang is waited for."""
    try:
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_NOFOLLOW | os.O_CLOEXEC)
    except OSError as error:
        if error.errno in (errno.ELOOP, errno.ENXIO):
            raise MediaError(f"{path.name} is a link or a device; choose the file itself.") from error
        raise
    with os.fdopen(handle, "rb") as stream:
        facts = os.fstat(handle)
        if not stat.S_ISREG(facts.st_mode):
            raise MediaError(f"{path.name} is no file; choose a clip.")
        yield stream, facts.st_size


def clips_folder() -> Path:
    """Where clips are kept as they came."""
    folder = Path(settings.MEDIA_ROOT) / "clips"
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def check_room(name: str, size: int) -> Path:
    """The folder for clips, if the disk has room for one more; OutputError if not."""
    folder = clips_folder()
    if shutil.disk_usage(folder).free < size + SPARE_BYTES:
        raise OutputError(f"There is no room for {name}; free some disk space and bring it in again.")
    return folder


def check_size(name: str, size: int) -> None:
    """Refuse what is empty or larger than is accepted."""
    if not size:
        raise MediaError(f"{name} is empty; copy it again from the card.")
    if size > settings.UPLOAD_MAX_BYTES:
        raise MediaError(
            f"{name} has {sized_for_web(size)}; "
            f"at most {sized_for_web(settings.UPLOAD_MAX_BYTES)} are accepted."
        )


def _keep(outing: Outing, stream: BinaryIO, size: int, origin: Origin) -> Clip:
    folder = check_room(origin.name, size)
    part = folder / f".{secrets.token_hex(8)}.part"
    digest = hashlib.sha256()
    try:
        with part.open("wb") as target:
            left = size
            while chunk := stream.read(min(CHUNK, left)):
                digest.update(chunk)
                target.write(chunk)
                left -= len(chunk)
        if (known := known_as(outing, digest.hexdigest())) is not None:
            raise AlreadyHere(f"{origin.name} is here already, as {known.title}.")
        stored = folder / f"{secrets.token_hex(4)}-{safe_name(origin.name)}"
        os.replace(part, stored)
        return clip_of(outing, stored, digest.hexdigest(), origin)
    finally:
        part.unlink(missing_ok=True)


def known_as(outing: Outing, sha256: str) -> Clip | None:
    """The clip of an outing that is the same file, if it has one."""
    return Clip.everything.filter(outing=outing, sha256=sha256, whole=None).first()


def safe_name(name: str) -> str:
    """A file name that every disk takes: plain characters, at most `NAME_BYTES` long, never empty."""
    stem, dot, ending = name.rpartition(".")
    stem, ending = (stem, dot + ending) if dot and 0 < len(ending) <= LONGEST_ENDING else (name, "")
    plain = re.sub(r"[^-\w.]", "", stem.strip().replace(" ", "_")).strip(".")
    ending = re.sub(r"[^\w.]", "", ending, flags=re.ASCII)
    room = NAME_BYTES - len(ending)
    return (plain.encode("utf-8", "ignore")[:room].decode("utf-8", "ignore") or "clip") + ending


def clip_of(outing: Outing, stored: Path, sha256: str, origin: Origin) -> Clip:
    """Make a file that stands in the folder of clips one of them, and have it read."""
    with transaction.atomic():
        clip = Clip.objects.create(
            outing=outing,
            camera=origin.camera,
            filmed_at=origin.filmed_at,
            folder=origin.folder[:200],
            title=origin.name[:200],
            file=f"clips/{stored.name}",
            sha256=sha256,
            size_bytes=stored.stat().st_size,
        )
        ask("read", clip.pk)
    return clip

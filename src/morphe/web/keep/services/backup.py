"""Backups: one file with the database, what it points to, and recipes and profiles that others can read."""

from __future__ import annotations

import json
import sqlite3
import tempfile
import zipfile
from collections.abc import Callable, Iterator
from contextlib import closing, suppress
from importlib.metadata import version
from pathlib import Path
from stat import S_ISREG

from django.conf import settings
from django.utils import timezone
from django.utils.text import slugify

from morphe.core.errors import MorpheError
from morphe.core.grade import recipe
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.jobs.models import Job
from morphe.web.jobs.services.ask import ask
from morphe.web.jobs.services.run import Run
from morphe.web.keep.models import Backup
from morphe.web.keep.services.snapshot import snapshot
from morphe.web.library.models import KeptProfile
from morphe.web.library.services.profiles import hand_out

__all__ = [
    "ALWAYS",
    "DATABASE",
    "HEAD",
    "KIND",
    "MEDIA",
    "begin_backup",
    "keep_failure",
    "work",
    "write_backup",
]

KIND = "backup"
DATABASE, HEAD = "morphe.sqlite3", "morphe.json"
# Small, and not made anew.
ALWAYS = (
    "tables",
    "lab",
    "frames",
    "thumbnails",
    "grain",
    "over-time",
    "looks",
    "pinned",
    "checks",
    "practice",
)
MEDIA = ("clips", "results")  # as large as the footage; what plays is made anew
PART = 2**22
# A backup that is being written is none yet, for whoever brings it back.
UNFINISHED = "DELETE FROM keep_backup WHERE size_bytes = 0; DELETE FROM jobs_job WHERE kind = 'backup';"
Telling = Callable[[int, int], object]


def begin_backup(*, with_media: bool) -> Backup:
    """Have the worker write a backup; one that is being written already is that."""
    under_way = Job.objects.filter(kind=KIND, state__in=(Job.State.WAITING, Job.State.RUNNING))
    for backup in Backup.objects.filter(pk__in=under_way.values("subject"), with_media=with_media):
        return backup
    moment, number = f"morphe-{timezone.localtime():%Y-%m-%d-%H%M%S}", 1
    while Backup.objects.filter(name=(name := f"{moment}{f'-{number}' if number > 1 else ''}.zip")).exists():
        number += 1
    backup = Backup.objects.create(name=name, with_media=with_media)
    ask(KIND, backup.pk)
    return backup


def work(run: Run) -> None:
    """Write one backup."""
    backup = Backup.objects.filter(pk=run.subject, size_bytes=0).first()
    if backup is None:
        return
    backup.path.parent.mkdir(parents=True, exist_ok=True)
    write_backup(backup.path, with_media=backup.with_media, told=run.progress)
    with run.keeping():
        Backup.objects.filter(pk=backup.pk).update(size_bytes=backup.path.stat().st_size, problem="")


def keep_failure(backup_id: int, sentence: str) -> None:
    Backup.objects.filter(pk=backup_id).update(problem=sentence)


def write_backup(target: Path, *, with_media: bool, told: Telling = lambda done, total: True) -> None:
    """Write everything into one file; it stands under its name only when whole.

    Parameters
    ----------
    with_media : with the clips and what was handed over; without them they have to be brought in again
    told : called with how many bytes of how many have been written

    Raises
    ------
    MorpheError
        If there is a file of that name already.
    """
    if target.exists():
        raise MorpheError(f"{target.name} is there already; choose another name.")
    part = target.with_name(f".{target.name}.part")
    try:
        with tempfile.TemporaryDirectory(dir=target.parent) as folder:
            copy = Path(folder) / DATABASE
            snapshot(Path(str(settings.DATABASES["default"]["NAME"])), copy)
            with closing(sqlite3.connect(copy)) as database:
                database.executescript(UNFINISHED)
            with zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
                archive.writestr(HEAD, json.dumps(_head(with_media), indent=2))
                archive.write(copy, DATABASE)
                for name, text in _readable():
                    archive.writestr(name, text)
                _write_media(archive, ALWAYS + (MEDIA if with_media else ()), told)
        part.replace(target)
    finally:
        part.unlink(missing_ok=True)


def _head(with_media: bool) -> dict[str, object]:
    return {"morphe": version("morphe"), "written": timezone.now().isoformat(), "media": with_media}


def _readable() -> Iterator[tuple[str, str]]:
    """Recipes and profiles as files of their own, for whoever has no Morphe."""
    for clip in Clip.objects.ready().with_grades():
        yield f"recipes/{clip.pk}-{slugify(clip.title) or 'clip'}.json", recipe.to_text(grade_of(clip))
    for kept in KeptProfile.objects.all():
        text, name = hand_out(kept.key, "cube" if kept.is_table else "json")
        yield f"profiles/{kept.pk}-{name}", text


def _write_media(archive: zipfile.ZipFile, folders: tuple[str, ...], told: Telling) -> None:
    """Stored as it is: footage is packed already. What goes away meanwhile was unfinished, or removed."""
    root = Path(settings.MEDIA_ROOT)
    files = {path: size for folder in folders for path, size in _finished(root, root / folder)}
    total, done = sum(files.values()), 0
    for path in files:
        try:
            entry = zipfile.ZipInfo.from_file(path, f"media/{path.relative_to(root)}")
            source = path.open("rb")
        except FileNotFoundError:
            continue
        with source, archive.open(entry, "w", force_zip64=True) as kept:
            while chunk := source.read(PART):
                kept.write(chunk)
                done += len(chunk)
                told(done // 1000, max(total // 1000, 1))


def _finished(root: Path, folder: Path) -> Iterator[tuple[Path, int]]:
    """Files of a folder with their sizes, without those that somebody still works on."""
    for path in sorted(folder.rglob("*")):
        if not any(name[0] == "." for name in path.relative_to(root).parts):
            with suppress(FileNotFoundError):
                if S_ISREG((found := path.stat()).st_mode):
                    yield path, found.st_size

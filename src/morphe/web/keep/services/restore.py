"""A backup brought back: looked at first, then put in the place of what is there, which is kept beside it."""

from __future__ import annotations

import json
import os
import shutil
import sqlite3
import subprocess
import sys
import tempfile
import zipfile
import zlib
from collections.abc import Sequence
from contextlib import closing
from datetime import datetime
from importlib.metadata import version
from pathlib import Path, PurePosixPath

from morphe.core.errors import MorpheError
from morphe.web.keep.services.backup import ALWAYS, DATABASE, HEAD, MEDIA

__all__ = ["check", "restore", "take_back_half"]

FORGOTTEN = "UPDATE clips_clip SET proxy = ''"  # what plays is made anew when it is wanted
SPARE = 100 * 10**6
MOVED = (DATABASE, f"{DATABASE}-wal", f"{DATABASE}-shm", "queue.sqlite3")  # a queue begins empty
HALF = ".before-restore-"  # what is laid aside is called so until everything is in its place
FRESH, ALL = ".restored-", "all-aside"  # what is made ready; a mark that nothing of before is in its place
OURS = ("before-restore-", "restored-")
NOT_WHOLE = (
    OSError, KeyError, ValueError, RecursionError, NotImplementedError, zipfile.BadZipFile, zlib.error,
)  # fmt: skip


def check(path: Path, home: Path) -> None:
    """Whether a backup can be brought back here.

    Raises
    ------
    MorpheError
        If it is no whole backup, is newer than this Morphe, or has no room in the data folder.
    """
    try:
        with zipfile.ZipFile(path) as archive, tempfile.TemporaryDirectory(dir=home) as folder:
            head = json.loads(archive.read(HEAD)[:10_000])
            needed = sum(entry.file_size for entry in archive.infolist())
            if needed + SPARE > shutil.disk_usage(home).free:
                raise MorpheError(f"There is no room to bring {path.name} back; free {needed / 1e9:.1f} GB.")
            _look_at(Path(archive.extract(DATABASE, folder)), path.name)
    except NOT_WHOLE as error:
        if isinstance(error, MorpheError):
            raise
        raise MorpheError(f"{path.name} is no whole backup of Morphe; choose another file.") from error
    of = str(head.get("morphe", "")) if isinstance(head, dict) else ""
    if _numbers(of) > _numbers(version("morphe")):
        raise MorpheError(f"{path.name} is of Morphe {of[:20]}, which is newer; update Morphe first.")


def _numbers(text: str) -> tuple[int, ...]:
    return tuple(int(part) for part in text.split(".") if part.isdigit())


def restore(path: Path, home: Path, media: Path) -> Path:
    """Put a backup in the place of the data in `home` and `media`, which nobody uses; where the old lies.

    It is made ready beside them, brought up to date too, and takes their place only then.

    Raises
    ------
    MorpheError
        As `check`, or if it cannot be brought up to date; then nothing has changed.
    """
    take_back_half(home, media)
    check(path, home)
    stamp = f"{datetime.now():%Y-%m-%d-%H%M%S}"
    fresh, fresh_media = home / f"{FRESH}{stamp}", media / f"{FRESH}{stamp}"
    aside, old = home / f"{HALF}{stamp}", home / f"before-restore-{stamp}"
    try:
        media.mkdir(parents=True, exist_ok=True)
        _unpack(path, fresh, fresh_media)
        _forget_proxies(fresh / DATABASE)
        _bring_up_to_date(fresh, path.name)
        aside_media = _aside_media(aside, home, media)
        for folder in (aside, aside_media):
            folder.mkdir()
        _move([home / name for name in MOVED], aside)
        _move(_entries(media), aside_media)
        (aside / ALL).touch()
        _move([fresh / name for name in MOVED[:-1]], home)
        _move(list(fresh_media.iterdir()) if fresh_media.exists() else [], media)
        _keep_footage(aside_media, media)
        aside.rename(old)  # from here on it has come to its end
        (old / ALL).unlink()
        take_back_half(home, media)
    except NOT_WHOLE as error:
        take_back_half(home, media)
        raise MorpheError(f"{path.name} could not be brought back; choose another backup.") from error
    finally:
        _sweep(home, media)
    return old


def _aside_media(aside: Path, home: Path, media: Path) -> Path:
    """Where media are laid aside: with the rest, or on their own disk."""
    return aside / "media" if media.parent == home else media / aside.name


def _entries(media: Path) -> list[Path]:
    return [entry for entry in media.iterdir() if not entry.name.lstrip(".").startswith(OURS)]


def _move(entries: Sequence[Path], folder: Path) -> None:
    for entry in entries:
        if entry.exists():
            entry.rename(folder / entry.name)


def take_back_half(home: Path, media: Path) -> bool:
    """Put back what a restore laid aside that did not come to its end; whether there was one."""
    halves = sorted(home.glob(f"{HALF}*"))
    for aside in halves:
        aside_media, came_far = _aside_media(aside, home, media), (aside / ALL).exists()
        if came_far:  # all that is in its place is the backup's
            _delete([home / name for name in MOVED] + _entries(media))
        _put_back([aside / name for name in MOVED], home)
        _put_back(list(aside_media.iterdir()) if aside_media.exists() else [], media)
        shutil.rmtree(aside)
        shutil.rmtree(aside_media, ignore_errors=True)
    for left in media.glob(f"{HALF}*"):  # of one that came to its end
        left.rename(media / left.name.removeprefix("."))
    _sweep(home, media)
    return bool(halves)


def _delete(entries: Sequence[Path]) -> None:
    for entry in entries:
        if entry.is_dir():
            shutil.rmtree(entry)
        else:
            entry.unlink(missing_ok=True)


def _put_back(entries: Sequence[Path], folder: Path) -> None:
    for entry in entries:
        if entry.exists():
            _delete([folder / entry.name])
            entry.rename(folder / entry.name)


def _sweep(home: Path, media: Path) -> None:
    for fresh in (*home.glob(f"{FRESH}*"), *media.glob(f"{FRESH}*")):
        shutil.rmtree(fresh, ignore_errors=True)


def _bring_up_to_date(fresh: Path, name: str) -> None:
    """Migrate the backup's database where it lies."""
    environment = {
        **os.environ,
        "MORPHE_HOME": str(fresh),
        "DJANGO_SETTINGS_MODULE": "morphe.web.settings.base",
    }
    migrating = [sys.executable, "-m", "morphe.web.manage", "migrate", "--verbosity", "0"]
    if subprocess.run(migrating, env=environment, stderr=subprocess.DEVNULL, check=False).returncode:
        raise MorpheError(f"{name} cannot be brought up to date with this Morphe; choose another backup.")


def _unpack(path: Path, folder: Path, media: Path) -> None:
    kept = {("media", part) for part in ALWAYS + MEDIA}
    with zipfile.ZipFile(path) as archive:
        for entry in archive.infolist():
            place = PurePosixPath(entry.filename)
            inside = place.parts[:2] in kept and ".." not in place.parts and not entry.is_dir()
            if entry.filename == DATABASE:
                archive.extract(entry, folder)
            elif inside:
                entry.filename = str(PurePosixPath(*place.parts[1:]))
                archive.extract(entry, media)


def _keep_footage(old: Path, media: Path) -> None:
    """Clips and results that the backup does not bring stay usable, as second names of what is laid aside."""
    for part in MEDIA:
        for path in (p for p in (old / part).rglob("*") if p.is_file() and not p.is_symlink()):
            place = media / path.relative_to(old)
            place.parent.mkdir(parents=True, exist_ok=True)
            if not place.exists():
                _second_name(path, place)


def _second_name(path: Path, place: Path) -> None:
    try:
        os.link(path, place)
    except OSError:  # a disk without second names
        shutil.copy2(path, place)


def _look_at(database: Path, name: str) -> None:
    try:
        with closing(sqlite3.connect(database)) as found:
            sound = found.execute("PRAGMA quick_check").fetchone() == ("ok",)
            found.execute("SELECT proxy FROM clips_clip LIMIT 1")
    except sqlite3.DatabaseError:
        sound = False
    if not sound:
        raise MorpheError(f"The database in {name} is damaged; choose another backup.")


def _forget_proxies(database: Path) -> None:
    with closing(sqlite3.connect(database)) as found:
        found.execute(FORGOTTEN)
        found.commit()

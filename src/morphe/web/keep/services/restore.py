"""A backup brought back: looked at first, then put in the place of what is there, which is kept beside it."""

from __future__ import annotations

import json
import os
import shutil
import sqlite3
import tempfile
import zipfile
import zlib
from contextlib import closing
from datetime import datetime
from importlib.metadata import version
from pathlib import Path, PurePosixPath

from morphe.core.errors import MorpheError
from morphe.web.keep.services.backup import ALWAYS, DATABASE, HEAD, MEDIA

__all__ = ["check", "restore", "take_back_half"]

FORGOTTEN = "UPDATE clips_clip SET proxy = ''"  # what plays is made anew when it is wanted
SPARE = 100 * 10**6
MOVED = (DATABASE, f"{DATABASE}-wal", f"{DATABASE}-shm", "media", "queue.sqlite3")
HALF = ".before-restore-"  # what is laid aside is called so until everything is in its place
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


def restore(path: Path, home: Path) -> Path:
    """Put a backup in the place of the data in `home`, which nobody uses; where the old data was laid.

    Raises
    ------
    MorpheError
        As `check`; then nothing has changed.
    """
    take_back_half(home)
    check(path, home)
    stamp = f"{datetime.now():%Y-%m-%d-%H%M%S}"
    fresh, aside, old = home / f".restored-{stamp}", home / f"{HALF}{stamp}", home / f"before-restore-{stamp}"
    try:
        _unpack(path, fresh)
        _forget_proxies(fresh / DATABASE)
        (fresh / "media").mkdir(exist_ok=True)
        aside.mkdir()
        for name in MOVED:
            if (home / name).exists():
                (home / name).rename(aside / name)
        (fresh / "media").rename(home / "media")
        (fresh / DATABASE).rename(home / DATABASE)
        _keep_footage(aside / "media", home / "media")
        aside.rename(old)
    except NOT_WHOLE as error:
        take_back_half(home)
        raise MorpheError(f"{path.name} could not be brought back; choose another backup.") from error
    finally:
        shutil.rmtree(fresh, ignore_errors=True)
    return old


def take_back_half(home: Path) -> bool:
    """Put back what a restore laid aside that did not come to its end; whether there was one."""
    halves = sorted(home.glob(f"{HALF}*"))
    for aside in halves:
        for name in (name for name in MOVED if (aside / name).exists()):
            if (home / name).is_dir():
                shutil.rmtree(home / name)
            (aside / name).replace(home / name)
        aside.rmdir()
    for fresh in home.glob(".restored-*"):
        shutil.rmtree(fresh, ignore_errors=True)
    return bool(halves)


def _unpack(path: Path, folder: Path) -> None:
    kept = {("media", part) for part in ALWAYS + MEDIA}
    with zipfile.ZipFile(path) as archive:
        for entry in archive.infolist():
            place = PurePosixPath(entry.filename)
            inside = place.parts[:2] in kept and ".." not in place.parts and not entry.is_dir()
            if entry.filename == DATABASE or inside:
                archive.extract(entry, folder)


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

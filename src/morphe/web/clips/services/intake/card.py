"""A camera card, or any folder of this computer: what is on it, and copying it in with true progress."""

from __future__ import annotations

import os
import stat
import time
import unicodedata
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from django.conf import settings
from django.db import transaction

from morphe.core.errors import MediaError, MorpheError
from morphe.core.footage.there import ENDINGS
from morphe.web.clips.models import CardImport, Clip
from morphe.web.clips.services.intake.bring_in import AlreadyHere, bring_in_path
from morphe.web.clips.services.reading.storage import sized_for_web
from morphe.web.jobs.services.ask import ask, stop
from morphe.web.jobs.services.run import Run
from morphe.web.outings.models import Outing

__all__ = ["Card", "OnCard", "begin_import", "cards_found", "look_at", "stop_import"]

MOST_FILES, DEEPEST, MOST_CARDS = 3000, 6, 12
LONGEST_LOOK_S = 10.0


@dataclass(frozen=True, slots=True, kw_only=True)
class OnCard:
    """One clip on a card: its path below the card's folder, its size, and whether the outing has it."""

    path: str
    size_bytes: int
    filmed_at: datetime
    is_known: bool

    @property
    def size(self) -> str:
        return sized_for_web(self.size_bytes)


@dataclass(frozen=True, slots=True, kw_only=True)
class Card:
    """A folder with clips."""

    folder: str
    clips: tuple[OnCard, ...]

    @property
    def fresh(self) -> int:
        return sum(not c.is_known for c in self.clips)

    @property
    def size(self) -> str:
        return sized_for_web(sum(c.size_bytes for c in self.clips if not c.is_known))


def cards_found() -> list[str]:
    """Folders that look like cards: the demo's, and what is mounted where cards are mounted."""
    found = [str(p) for p in settings.CARD_FOLDERS if p.is_dir() and any(_files(p))]
    for root in settings.CARD_ROOTS:
        if root.is_dir():
            with os.scandir(root) as entries:
                found += [e.path for e in entries if e.is_dir() and (Path(e.path) / "DCIM").is_dir()]
    return found[:MOST_CARDS]


def _files(folder: Path) -> list[Path]:
    """Clips below a folder, in the order of their paths: regular files whose names can be read."""
    found: list[Path] = []
    until = time.monotonic() + LONGEST_LOOK_S
    for where, folders, names in os.walk(folder, followlinks=False):
        depth = len(Path(where).relative_to(folder).parts)
        folders[:] = sorted(f for f in folders if not f.startswith(".")) if depth < DEEPEST else []
        found += [Path(where) / n for n in sorted(names) if _is_clip(Path(where) / n)]
        if len(found) > MOST_FILES:
            raise MediaError(f"{folder} holds more than {MOST_FILES} clips; choose a folder inside it.")
        if time.monotonic() > until:
            raise MediaError(f"{folder} takes too long to look through; choose a folder inside it.")
    return found


def _is_clip(path: Path) -> bool:
    """Whether a name is that of a clip, and what bears it a file: no link, pipe or device."""
    name = path.name
    if path.suffix.lower() not in ENDINGS or name.startswith(".") or not _is_legible(str(path)):
        return False
    try:
        return stat.S_ISREG(path.lstat().st_mode)
    except OSError:  # gone, or on a card that has been pulled out
        return False


def _is_legible(path: str) -> bool:
    """Whether a path can be shown and kept: no control characters, no bytes that are no letters."""
    return not any(unicodedata.category(letter) in ("Cc", "Cs") for letter in path)


def _may_be_read(folder: Path) -> bool:
    """Whether a folder lies in one that clips are brought in from, and not among Morphe's own data."""
    real = folder.resolve()
    if any(real.is_relative_to(card.resolve()) for card in settings.CARD_FOLDERS):
        return True
    if real.is_relative_to(settings.HOME):
        return False
    return any(real.is_relative_to(root.resolve()) for root in settings.IMPORT_ROOTS)


def look_at(outing: Outing, typed: str) -> Card:
    """List the clips of a folder.

    Raises
    ------
    MediaError
        If it is no folder that can be read, or holds no clips.
    """
    folder = Path(typed.strip()).expanduser()
    try:
        if not typed.strip() or not folder.is_absolute() or not folder.is_dir():
            raise MediaError(f"“{typed[:80]}” is no folder of this computer; type its whole path.")
        if not _may_be_read(folder):
            raise MediaError(
                f"Clips are brought in from the home folder and from cards, not from “{typed[:80]}”; "
                "MORPHE_IMPORT_FROM names other folders."
            )
        known = set(Clip.objects.filter(outing=outing).values_list("title", "size_bytes"))
        clips = tuple(_on_card(folder, path, known) for path in _files(folder))
    except OSError as error:
        raise MediaError(f"“{typed[:80]}” cannot be read ({error.strerror}); check the card.") from error
    if not clips:
        raise MediaError(f"There are no clips in “{typed[:80]}”; choose the card's own folder.")
    return Card(folder=str(folder), clips=clips)


def _on_card(folder: Path, path: Path, known: set[tuple[str, int]]) -> OnCard:
    facts = path.stat()
    return OnCard(
        path=str(path.relative_to(folder)), size_bytes=facts.st_size,
        filmed_at=datetime.fromtimestamp(facts.st_mtime, UTC), is_known=(path.name, facts.st_size) in known,
    )  # fmt: skip


def begin_import(outing: Outing, folder: str, chosen: list[str]) -> CardImport:
    """Have the worker copy the chosen clips of a card."""
    on_card = {c.path for c in look_at(outing, folder).clips}
    files = [path for path in chosen if path in on_card]
    if not files:
        raise MediaError("No clip is ticked; tick the clips to bring in.")
    with transaction.atomic():
        brought = CardImport.objects.create(
            outing=outing, folder=str(Path(folder.strip()).expanduser()), files=files
        )
        brought.job = ask("import", brought.pk, total=len(files))
        brought.save(update_fields=["job"])
    return brought


def work(run: Run) -> None:
    """Copy clip after clip; goes on where a killed worker stopped, and ends when the person says so."""
    job = CardImport.objects.select_related("outing").filter(pk=run.subject).first()
    if job is None:
        return
    for path in job.files[job.done :]:
        run.check()
        _copy(job, path)
        job.done += 1
        with run.keeping():
            job.save(update_fields=["done", "brought", "known", "problems"])
        run.progress(job.done, len(job.files))


def _copy(job: CardImport, path: str) -> None:
    source = Path(job.folder) / path
    try:
        if not source.parent.resolve().is_relative_to(Path(job.folder).resolve()):
            raise MediaError(f"{path} leads out of the card; choose the folder it leads to.")
        filmed = datetime.fromtimestamp(source.stat().st_mtime, UTC)
        folder = str(Path(path).parent)
        bring_in_path(job.outing, source, filmed_at=filmed, folder="" if folder == "." else folder)
        job.brought += 1
    except AlreadyHere:
        job.known += 1
    except OSError as error:
        told = error.strerror or str(error)
        job.problems = [*job.problems, f"{path} could not be copied ({told}); check the card and try again."]
    except MorpheError as error:
        job.problems = [*job.problems, str(error)]


def stop_import(job: CardImport) -> None:
    """Stop after the clip that is being copied; those that are here stay."""
    if job.job is not None:
        stop(job.job)

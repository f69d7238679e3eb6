"""Files on their way into the Library: kept, read by the worker in its cage, told of once."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path, PurePath

from django.core.files.uploadedfile import UploadedFile

from morphe.core.errors import LutError, MediaError, MorpheError
from morphe.web.jobs.models import Job
from morphe.web.jobs.services.ask import ask
from morphe.web.jobs.services.run import Run
from morphe.web.library.models import Incoming, KeptLook, KeptLut, KeptProfile, LabSeries, LabTake
from morphe.web.library.services.lab import MAX_TAKE_BYTES, read_take
from morphe.web.library.services.profiles import MAX_BYTES, kind_of, read_file
from morphe.web.library.services.styles import read_style

__all__ = ["KIND", "STYLE", "Told", "bring_in", "keep_failure", "owed", "told", "under_way", "work"]

KIND = "take-in"
FIELDS = ("name", "kind", "gives", "primaries", "as")
STYLE = "style"  # what a file is to become, if no profile


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """What came of a file: the profile it became, if it did, and a sentence."""

    key: str
    sentence: str
    is_problem: bool


def bring_in(
    file: UploadedFile[bytes], given: Mapping[str, str], series: LabSeries | None = None
) -> Incoming:
    """Keep a file and have the worker read it: as a profile, or as a take of a series.

    Raises
    ------
    MorpheError
        If it is too long, or the form says something that cannot be.
    """
    name = PurePath((file.name or "file").encode("utf-8", "replace").decode()).name[:200]
    if series is None:
        kind_of(given.get("kind", "log"))
        if (file.size or 0) > MAX_BYTES:
            raise LutError(f"{name} is far too long for a LUT or a curve.")
    elif (file.size or 0) > MAX_TAKE_BYTES:
        raise MediaError(f"{name} is longer than a take needs to be; a few seconds are enough.")
    incoming = Incoming(title=name, series=series, given={k: given[k] for k in FIELDS if k in given})
    incoming.file.save(f"incoming{PurePath(name).suffix[:8]}", file, save=False)
    incoming.save()
    ask(KIND, incoming.pk)
    return incoming


def under_way(series: LabSeries | None) -> list[tuple[Incoming, int]]:
    """Files that wait or are being read, for profiles or for a series, and how many percent of each."""
    found = list(Incoming.objects.filter(series=series, is_done=False))
    jobs = {j.subject: j.percent for j in Job.objects.of(KIND, *(i.pk for i in found)).live()}
    return [(incoming, jobs.get(incoming.pk, 0)) for incoming in found]


def told(series: LabSeries | None) -> list[Told]:
    """What came of files since this was last asked; it is told once."""
    found = list(Incoming.objects.filter(series=series, is_done=True))
    Incoming.objects.filter(pk__in=[i.pk for i in found]).delete()
    return [_told(incoming) for incoming in found]


def _told(incoming: Incoming) -> Told:
    if incoming.problem:
        return Told(key="", sentence=incoming.problem, is_problem=True)
    if incoming.given.get("as") == STYLE:
        kept = next((x for m in (KeptLut, KeptLook) for x in m.objects.all() if x.key == incoming.made), None)
        said = f"{kept or incoming.title} is kept; it stands among the looks of every clip on the Bench."
        if isinstance(kept, KeptLut):
            said += f" By its numbers it expects {kept.role}."
        return Told(key=STYLE, sentence=said, is_problem=False)
    name = next((str(k) for k in KeptProfile.objects.all() if k.key == incoming.made), "")
    said = (
        f"{name} is kept; choose it under “Filmed as” on the Bench."
        if name
        else f"{incoming.title} is taken in."
    )
    return Told(key=incoming.made if name else "", sentence=said, is_problem=False)


def owed() -> Iterable[int]:
    """Files that nobody has read."""
    return Incoming.objects.filter(is_done=False).values_list("pk", flat=True)


# --- in the worker -----------------------------------------------------------------------------------


def work(run: Run) -> None:
    """Read one file that came in."""
    incoming = Incoming.objects.select_related("series").filter(pk=run.subject, is_done=False).first()
    if incoming is None:
        return
    path = Path(incoming.file.path)
    try:
        if incoming.series is not None:
            found: KeptProfile | KeptLut | KeptLook | LabTake = read_take(
                incoming.series, path, incoming.title
            )
        elif incoming.given.get("as") == STYLE:
            given_name = incoming.given.get("name", "")
            found = read_style(path.read_bytes(), incoming.title, given_name, run.progress)
        else:
            found = read_file(path.read_bytes(), incoming.title, incoming.given, run.progress)
    except MorpheError as error:
        raise MorpheError(str(error).replace(path.name, incoming.title)) from error
    with run.keeping():
        found.save()
        _done(incoming.pk, made="" if isinstance(found, LabTake) else found.key)


def keep_failure(incoming_id: int, sentence: str) -> None:
    """Keep what is to be said of a file that could not be read."""
    _done(incoming_id, problem=sentence)


def _done(incoming_id: int, **result: str) -> None:
    incoming = Incoming.objects.filter(pk=incoming_id).first()
    if incoming is not None:
        incoming.file.delete(save=False)
        Incoming.objects.filter(pk=incoming_id).update(is_done=True, **result)

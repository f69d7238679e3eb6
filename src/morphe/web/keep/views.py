"""Keep: backups written, taken away and brought back; proxies thrown away."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings
from django.contrib import messages
from django.core.files.uploadedfile import UploadedFile
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST, require_safe

from morphe.core.errors import MorpheError
from morphe.web.clips.services.reading.storage import sized_for_web
from morphe.web.clips.services.space.room import room
from morphe.web.jobs.models import Job
from morphe.web.keep.models import Backup
from morphe.web.keep.services.backup import KIND, begin_backup
from morphe.web.keep.services.proxies import size_of_proxies, throw_proxies_away
from morphe.web.keep.services.restore import check
from morphe.web.serve import WANTED
from morphe.web.shell.changes import marked
from morphe.web.shell.request import Request

CHUNK = 2**20


@require_safe
@marked("backups")
def show(request: Request) -> HttpResponse:
    backups = list(Backup.objects.all()[:20])
    jobs = {job.subject: job for job in Job.objects.of(KIND, *(b.pk for b in backups)).live()}
    context = {"backups": [(b, jobs.get(b.pk)) for b in backups], "busy": bool(jobs)}
    if request.htmx:
        return render(request, "keep/_backups.html", context)
    context |= {"room": room(), "proxies": sized_for_web(size_of_proxies()), "place": "keep"}
    return render(request, "keep/show.html", context)


@require_POST
def backup(request: HttpRequest) -> HttpResponse:
    begin_backup(with_media="media" in request.POST)
    return redirect("keep")


@require_safe
def download(request: HttpRequest, backup_id: int) -> FileResponse:
    found = get_object_or_404(Backup, pk=backup_id)
    if not found.is_whole:
        raise Http404
    return FileResponse(found.path.open("rb"), as_attachment=True, filename=found.name)


@require_POST
def remove(request: HttpRequest, backup_id: int) -> HttpResponse:
    found = get_object_or_404(Backup, pk=backup_id)
    found.path.unlink(missing_ok=True)
    found.delete()
    messages.success(request, f"{found} was removed.")
    return redirect("keep")


@require_POST
def restore(request: HttpRequest) -> HttpResponse:
    """Bring a backup of the list, or one in a file, back: Morphe is started anew with it."""
    file = request.FILES.get("file")
    try:
        path = _uploaded(file) if file is not None else _listed(request.POST.get("backup", ""))
        check(path, settings.HOME)
    except MorpheError as error:
        messages.error(request, str(error))
        return redirect("keep")
    note = settings.HOME / WANTED
    note.with_suffix(".part").write_text(str(path), encoding="utf-8")
    note.with_suffix(".part").replace(note)
    return render(request, "keep/restoring.html", {"name": path.name, "run": settings.RUN})


def _listed(number: str) -> Path:
    found = Backup.objects.filter(pk=number).first() if number.isascii() and number.isdigit() else None
    if found is None or not found.is_whole:
        raise MorpheError("This backup is no longer there; choose another one.")
    return found.path


def _uploaded(file: UploadedFile[bytes]) -> Path:
    folder = Path(settings.BACKUPS)
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / "brought-in.zip"
    with path.open("wb") as kept:
        for chunk in file.chunks(CHUNK):
            kept.write(chunk)
    return path


@require_POST
def proxies(request: HttpRequest) -> HttpResponse:
    count = throw_proxies_away()
    clips = f"The proxies of {count} clips are" if count != 1 else "The proxy of one clip is"
    messages.success(request, f"{clips} thrown away; each comes back when its clip is opened.")
    return redirect("keep")

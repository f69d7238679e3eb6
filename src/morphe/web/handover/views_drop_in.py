"""The drop-in folder: set, and what became of what lay there."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse, HttpResponseForbidden
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST, require_safe

from morphe.core.errors import MorpheError
from morphe.core.handover.hand_back import BACK
from morphe.web.handover.models import DropIn, Dropped
from morphe.web.handover.services.drop_in import KIND, PROFILES, set_drop_in
from morphe.web.jobs.models import Job
from morphe.web.library.services.presets import all_presets
from morphe.web.shell.changes import marked
from morphe.web.shell.request import Request


@require_safe
@marked("dropped")
def show(request: Request) -> HttpResponse:
    dropped = list(Dropped.objects.all()[:40])
    live = {job.subject: job for job in Job.objects.of(KIND, *(d.pk for d in dropped)).live()}
    context = {"dropped": [(d, live.get(d.pk)) for d in dropped], "busy": bool(live), "back": BACK}
    if request.htmx:
        return render(request, "handover/_dropped.html", context)
    context |= {"drop_in": DropIn.objects.first(), "presets": all_presets(), "profiles": PROFILES.items()}
    return render(request, "handover/drop_in.html", context)


@require_POST
def change(request: HttpRequest) -> HttpResponse:
    """Only the computer itself says which of its folders is watched."""
    if getattr(request, "device", None):
        return HttpResponseForbidden("The drop-in folder is set on the computer itself.")
    try:
        found = set_drop_in(request.POST.dict())
        said = f"{found.folder} is watched." if found.is_on else "No folder is watched."
        messages.success(request, said)
    except MorpheError as error:
        messages.error(request, str(error))
    return redirect("drop-in")

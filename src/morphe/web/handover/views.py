"""Hand over: choose, queue, watch, stop, download."""

from __future__ import annotations

from django.contrib import messages
from django.core.paginator import Paginator
from django.db.models import QuerySet
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST, require_safe

from morphe.core.errors import MorpheError
from morphe.core.handover.presets import PRESETS
from morphe.core.handover.sound import Heard
from morphe.web.clips.models import Clip
from morphe.web.handover.models import HandOver
from morphe.web.handover.services.estimate import offer_of, pixel_rate
from morphe.web.handover.services.queue import queue_hand_over, stop_hand_over, wish_of
from morphe.web.outings.services.current import current_outing
from morphe.web.shell.changes import marked
from morphe.web.shell.numbers import numbers

PAGE = 60
SOUNDS = ((Heard.KEPT, "As filmed"), (Heard.LEVELLED, "Levelled (EBU R 128)"), (Heard.LEFT_OUT, "Left out"))


@require_safe
@marked("queue", "rendering")
def show(request: HttpRequest) -> HttpResponse:
    preset = request.GET.get("preset", "web")
    preset = preset if preset in PRESETS else "web"
    jobs = list(_listed()[:30])
    context = {"jobs": jobs, "active": any(j.is_active for j in jobs)}
    if request.htmx and request.htmx.target == "queue":
        return render(request, "handover/_queue.html", context)
    rate = pixel_rate(preset)
    page = Paginator(current_outing().clips.for_listing().ready(), PAGE).get_page(request.GET.get("page"))
    context |= {
        "page": page,
        "offers": [offer_of(c, preset, rate=rate) for c in page],
        "presets": PRESETS.values(),
        "preset": preset,
        "sounds": SOUNDS,
    }
    return render(request, "handover/show.html", context)


@require_safe
@marked("rendering")
def progress(request: HttpRequest, job_id: int) -> HttpResponse:
    """How far one render has come."""
    return render(request, "handover/_progress.html", {"job": get_object_or_404(_listed(), pk=job_id)})


def _listed() -> QuerySet[HandOver]:
    """Hand-overs with what a list says of them."""
    said = ("preset", "sound", "result", "cube", "recipe", "seconds", "clip__title", "job")
    return HandOver.objects.select_related("clip", "job").only(*said)


@require_POST
def start(request: HttpRequest) -> HttpResponse:
    clips = Clip.objects.ready().filter(pk__in=numbers(request.POST.getlist("clip"))).with_grades()
    if not clips:
        messages.error(request, "No clip is selected; tick what should be handed over.")
    try:
        wish = wish_of(request.POST.dict())
        for clip in clips:
            queue_hand_over(clip, wish)
    except MorpheError as error:
        messages.error(request, str(error))
    return redirect("hand-over")


@require_POST
def stop(request: HttpRequest, job_id: int) -> HttpResponse:
    stop_hand_over(get_object_or_404(HandOver, pk=job_id))
    return redirect("hand-over")


@require_safe
def download(request: HttpRequest, job_id: int, what: str) -> FileResponse:
    """Give a result's file; only whole ones have any."""
    job = get_object_or_404(HandOver.objects.done(), pk=job_id)
    file = {"clip": job.result, "cube": job.cube, "recipe": job.recipe}[what]
    if not file or not file.storage.exists(file.name):
        raise Http404
    return FileResponse(file.open("rb"), as_attachment=True, filename=file.name.rsplit("/", 1)[-1])

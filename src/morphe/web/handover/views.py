"""Hand over: choose, queue, watch, put in order, pause, stop, take."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from django.contrib import messages
from django.core.paginator import Paginator
from django.db.models import JSONField
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from morphe.core.errors import MorpheError
from morphe.core.handover.presets import PRESETS
from morphe.core.handover.sound import Heard
from morphe.core.handover.stills import STILLS
from morphe.web.clips.models import Clip
from morphe.web.handover.models import HandOver, HandOverQuerySet
from morphe.web.handover.services import queue
from morphe.web.handover.services.estimate import offer_of, pixel_rate
from morphe.web.handover.services.names import PATTERN, WORDS
from morphe.web.handover.services.outing_report import report_of
from morphe.web.handover.services.wish import MODES, Wish, common_shape, wish_of
from morphe.web.library.services.presets import all_presets
from morphe.web.outings.services.current import outing_of
from morphe.web.shell.changes import marked
from morphe.web.shell.numbers import numbers
from morphe.web.shell.request import Request

PAGE, LISTED = 60, 30
FURTHER = [key for key in PRESETS if key not in ("web", "upright", "editing")]
SOUNDS = ((Heard.KEPT, "As filmed"), (Heard.LEVELLED, "Levelled (EBU R 128)"), (Heard.LEFT_OUT, "Left out"))


@require_safe
@marked("queue", "rendering")
def show(request: Request) -> HttpResponse:
    if request.htmx and request.htmx.target == "queue":
        return render(request, "handover/_queue.html", _queue())
    outing = outing_of(request)
    clips = outing.clips.for_listing().ready()
    shapes = list(outing.clips.ready().only("info", "file", "tags", "outing", "stretch"))
    wish = _chosen(request, shapes)
    rate = pixel_rate(wish.preset)
    page = Paginator(clips, PAGE).get_page(request.GET.get("page"))
    size, fps = common_shape(shapes)
    context = _queue() | {
        "page": page,
        "offers": [offer_of(c, wish, rate=rate) for c in page],
        "ticked": _ticked_first(list(page)),
        "presets": [p for p in all_presets() if p.key not in FURTHER],
        "further_presets": [PRESETS.get(key) for key in FURTHER],
        "preset": wish.preset.key,
        "preset_is_further": wish.preset.key in FURTHER,
        "sounds": SOUNDS,
        "modes": MODES.items(),
        "stills": STILLS.items(),
        "shape": f"{size[0]} × {size[1]}, {float(fps):g} a second" if size and fps else "",
        "shaped": request.GET.get("shape", ""),
        "pattern": PATTERN,
        "words": WORDS,
    }
    return render(request, "handover/show.html", context)


def _ticked_first(clips: Sequence[Clip]) -> set[int]:
    """Corrected clips, and with a corrected shot all shots of its file: they go out as one."""
    files = {clip.whole_id for clip in clips if clip.is_corrected and clip.whole_id}
    return {clip.pk for clip in clips if clip.is_corrected or clip.whole_id in files}


def _chosen(request: HttpRequest, clips: Sequence[Clip]) -> Wish:
    """What is chosen on the page so far; what cannot be met is shown as the usual."""
    chosen = {"preset": request.GET.get("preset", "web"), "shape": request.GET.get("shape", "")}
    try:
        return wish_of(chosen, clips)
    except MorpheError:
        return wish_of({})


def _queue() -> dict[str, Any]:
    """The queue: what waits in its order, then what is done, the latest first."""
    jobs = list(_listed().exclude(result="").order_by("-id")[:LISTED])
    waiting = _listed().filter(result="")
    live = sorted((j for j in waiting.live()), key=lambda j: (j.state != "running", j.job.pk if j.job else 0))
    rest = [j for j in waiting.exclude(pk__in=[j.pk for j in live])[:LISTED]]
    seconds = sum(j.seconds or 0 for j in jobs if j.what == HandOver.What.CLIP)
    frames = sum(j.job.total for j in jobs if j.job and j.seconds and j.what == HandOver.What.CLIP)
    batch = queue.batch(frames / seconds if seconds else 0.0)
    return {
        "jobs": [*live, *rest, *jobs], "active": bool(live), "batch": batch,
        "ready": sum(1 for j in jobs if j.is_done),
    }  # fmt: skip


@require_safe
@marked("rendering")
def progress(request: HttpRequest, job_id: int) -> HttpResponse:
    """How far one render has come."""
    return render(request, "handover/_progress.html", {"job": get_object_or_404(_listed(), pk=job_id)})


def _listed() -> HandOverQuerySet:
    """Hand-overs with what a list says of them: of their clips the names."""
    of_clips = (f"clip__{field.name}" for field in Clip._meta.fields if isinstance(field, JSONField))
    return HandOver.objects.select_related("clip", "job").defer("grade", "others", "measured", *of_clips)


@require_POST
def start(request: HttpRequest) -> HttpResponse:
    ticked = numbers(request.POST.getlist("clip"))
    clips = list(Clip.objects.ready().filter(pk__in=ticked).with_grades().select_related("camera", "outing"))
    try:
        wish = wish_of(request.POST.dict(), list(outing_of(request).clips.ready()))
        if clips:
            queue.hand_over(clips, wish)
        else:
            messages.error(request, "No clip is selected; tick what should be handed over.")
    except MorpheError as error:
        messages.error(request, str(error))
    return redirect("hand-over")


@require_http_methods(["GET", "HEAD", "POST"])
def report(request: HttpRequest) -> HttpResponse:
    """The report of the outing as a page to print; asked for by POST, as a PDF from the queue."""
    outing = outing_of(request)
    if request.method != "POST":
        return render(request, "handover/report.html", {"outing": outing, "clips": report_of(outing)})
    clips = list(outing.clips.ready().with_grades().select_related("outing"))
    if clips:
        queue.hand_over(clips, Wish(mode="report"))
    return redirect("hand-over")


@require_POST
def still(request: HttpRequest, clip_id: int) -> HttpResponse:
    """A still of the moment that is shown on the Bench."""
    clip = get_object_or_404(Clip.objects.ready().with_grades(), pk=clip_id)
    kind = request.POST.get("kind", "png")
    try:
        time_s = float(request.POST.get("time", "0"))
    except ValueError:
        time_s = -1.0
    if kind not in STILLS or not 0 <= time_s < float(clip.info["duration_s"]):
        return HttpResponse("There is no such moment; reload the page.", status=400)
    queue.queue_still(clip, time_s, kind)
    return HttpResponse("It waits under Hand over.")


ACTS = {"stop": queue.stop_hand_over, "pause": queue.pause, "go-on": queue.go_on, "sooner": queue.sooner}


@require_POST
def act(request: HttpRequest, job_id: int, what: str) -> HttpResponse:
    """Stop, pause, go on, or put before the one ahead."""
    ACTS[what](get_object_or_404(HandOver.objects.select_related("job"), pk=job_id))
    return redirect("hand-over")


@require_safe
def download(request: HttpRequest, job_id: int, what: str) -> FileResponse:
    """Give a result's file; only whole ones have any."""
    job = get_object_or_404(HandOver.objects.done(), pk=job_id)
    file = {"clip": job.result, "cube": job.cube, "recipe": job.recipe, "picture": job.picture}[what]
    if not file or not Path(file.path).exists():
        raise Http404
    name = Path(file.path).name
    return FileResponse(file.open("rb"), as_attachment=what != "picture", filename=name)

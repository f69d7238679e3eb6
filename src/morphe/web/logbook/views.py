"""The logbook: what was done, with numbers."""

from __future__ import annotations

from django.contrib import messages
from django.db.models import Q, QuerySet
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST, require_safe

from morphe.core.errors import MorpheError
from morphe.web.logbook.models import LogEntry
from morphe.web.logbook.services.compare import compared, entry_picture, use_again
from morphe.web.logbook.services.export import as_csv, as_json
from morphe.web.logbook.services.shown import shown
from morphe.web.logbook.services.statistics import statistics
from morphe.web.outings.services.current import current_outing
from morphe.web.shell.files import attached
from morphe.web.shell.numbers import number
from morphe.web.shell.request import Request

PAGE, MOST_WORDS = 100, 8


def _entries(request: HttpRequest) -> QuerySet[LogEntry]:
    entries = LogEntry.objects.filter(outing=current_outing()).select_related("clip")
    if (kind := request.GET.get("kind", "")) in LogEntry.Kind.values:
        entries = entries.filter(kind=kind)
    if clip := request.GET.get("clip", ""):
        entries = entries.filter(clip_title=clip)
    for word in request.GET.get("q", "").split()[:MOST_WORDS]:
        entries = entries.filter(Q(sentence__icontains=word) | Q(clip_title__icontains=word))
    return entries


@require_safe
def show(request: Request) -> HttpResponse:
    titles = LogEntry.objects.filter(outing=current_outing()).exclude(clip_title="")
    context = {
        "entries": [shown(e) for e in _entries(request)[:PAGE]],
        "kinds": LogEntry.Kind.choices,
        "kind": request.GET.get("kind", ""),
        "titles": sorted(set(titles.values_list("clip_title", flat=True))),
        "title": request.GET.get("clip", ""),
        "words": request.GET.get("q", ""),
        "query": request.GET.urlencode(),
        "statistics": statistics(current_outing()),
    }
    return render(request, "logbook/_entries.html" if request.htmx else "logbook/show.html", context)


@require_safe
def export(request: HttpRequest, ending: str) -> HttpResponse:
    write, kind = {"csv": (as_csv, "text/csv"), "json": (as_json, "application/json")}[ending]
    return attached(write(_entries(request)), f"logbook.{ending}", kind)


@require_safe
def compare(request: HttpRequest) -> HttpResponse:
    """Two decisions side by side, as pictures and as numbers."""
    graded = LogEntry.objects.filter(outing=current_outing(), numbers__has_key="grade", clip__isnull=False)
    chosen = [n for text in request.GET.getlist("entry")[:2] if (n := number(text)) is not None]
    one, other = (graded.filter(pk=n).select_related("clip").first() for n in (*chosen, 0, 0)[:2])
    context: dict[str, object] = {"one": one, "other": other, "chosen": len(chosen)}
    if one and other:
        context["differences"] = compared(one, other)
    return render(request, "logbook/compare.html", context)


@require_safe
def picture(request: HttpRequest, entry_id: int) -> HttpResponse:
    """The clip's poster under the grade of an entry."""
    try:
        made = entry_picture(get_object_or_404(LogEntry.objects.select_related("clip"), pk=entry_id))
    except MorpheError as error:
        raise Http404(str(error)) from error
    return HttpResponse(made, content_type="image/jpeg")


@require_POST
def again(request: HttpRequest, entry_id: int) -> HttpResponse:
    """Take a decision of then back into use, as a new one."""
    entry = get_object_or_404(LogEntry.objects.select_related("clip"), pk=entry_id)
    try:
        messages.success(request, use_again(entry))
    except MorpheError as error:
        messages.error(request, str(error))
    return redirect("logbook")

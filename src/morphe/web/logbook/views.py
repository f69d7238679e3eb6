"""The logbook: what was done, with numbers."""

from __future__ import annotations

from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_safe

from morphe.web.logbook.models import LogEntry
from morphe.web.logbook.services.export import as_csv, as_json
from morphe.web.logbook.services.shown import shown
from morphe.web.outings.services.current import current_outing

PAGE = 100


def _entries(request: HttpRequest) -> QuerySet[LogEntry]:
    entries = LogEntry.objects.filter(outing=current_outing()).select_related("clip")
    if (kind := request.GET.get("kind", "")) in LogEntry.Kind.values:
        entries = entries.filter(kind=kind)
    if clip := request.GET.get("clip", ""):
        entries = entries.filter(clip_title=clip)
    return entries


@require_safe
def show(request: HttpRequest) -> HttpResponse:
    titles = LogEntry.objects.filter(outing=current_outing()).exclude(clip_title="")
    context = {
        "entries": [shown(e) for e in _entries(request)[:PAGE]],
        "kinds": LogEntry.Kind.choices,
        "kind": request.GET.get("kind", ""),
        "titles": sorted(set(titles.values_list("clip_title", flat=True))),
        "title": request.GET.get("clip", ""),
        "query": request.GET.urlencode(),
    }
    return render(request, "logbook/_entries.html" if request.htmx else "logbook/show.html", context)


@require_safe
def export(request: HttpRequest, ending: str) -> HttpResponse:
    write, kind = {"csv": (as_csv, "text/csv"), "json": (as_json, "application/json")}[ending]
    headers = {"Content-Disposition": f'attachment; filename="logbook.{ending}"'}
    return HttpResponse(write(_entries(request)), content_type=kind, headers=headers)

"""Files on their way into the Library: how far they have come, and what came of them."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_safe
from django_htmx.http import HttpResponseClientRedirect

from morphe.web.library.models import LabSeries
from morphe.web.library.services.incoming import STYLE, Told, told, under_way
from morphe.web.shell.changes import marked

__all__ = ["incoming", "tell"]


def tell(request: HttpRequest, series: LabSeries | None = None) -> list[Told]:
    """Tell the person, once, what came of files that were brought in."""
    ended = told(series)
    for one in ended:
        (messages.error if one.is_problem else messages.success)(request, one.sentence)
    return ended


@require_safe
@marked("incoming")
def incoming(request: HttpRequest, series_id: int | None = None) -> HttpResponse:
    """How far the files have come; when the last one has been read, the page where its result stands."""
    series = get_object_or_404(LabSeries, pk=series_id) if series_id else None
    left = under_way(series)
    if left:
        return render(request, "library/_incoming.html", {"incoming": left, "series": series})
    ended = tell(request, series)
    if series is not None:
        return HttpResponseClientRedirect(reverse("lab-series", args=(series.pk,)))
    if ended and ended[0].key == STYLE:
        return HttpResponseClientRedirect(reverse("styles"))
    if len(ended) == 1 and ended[0].key:
        return HttpResponseClientRedirect(reverse("profile", args=(ended[0].key,)))
    return HttpResponseClientRedirect(reverse("profiles"))

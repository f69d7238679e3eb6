"""Today: where the outing stands and what comes next."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_safe

from morphe.web.handover.models import HandOver
from morphe.web.logbook.models import LogEntry
from morphe.web.outings.services.current import current_outing, standing

TILES = 12


@require_safe
def today(request: HttpRequest) -> HttpResponse:
    outing = current_outing()
    context = {
        "outing": outing,
        "clips": outing.clips.for_listing()[:TILES],
        "standing": standing(outing),
        "jobs": [j for j in HandOver.objects.select_related("clip")[:20] if j.is_active],
        "entries": LogEntry.objects.filter(outing=outing).select_related("clip")[:5],
    }
    return render(request, "outings/today.html", context)

"""Today: where the outing stands and what comes next."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from morphe.core.errors import MorpheError
from morphe.web.bench.services.tour import invites, tour_of
from morphe.web.clips.services.intake.uploads import left_to_send
from morphe.web.handover.models import HandOver
from morphe.web.logbook.models import LogEntry
from morphe.web.outings.models import Outing
from morphe.web.outings.services.begin import begin_outing, open_outing
from morphe.web.outings.services.current import current_outing
from morphe.web.today.services.demo import load_demo, throw_away
from morphe.web.today.services.standing import standing

TILES = 12


@require_safe
def today(request: HttpRequest) -> HttpResponse:
    outing = current_outing()
    others = Outing.objects.exclude(pk=outing.pk)
    context = {
        "outing": outing,
        "others": others,
        "is_new": not (others or outing.clips.exists() or outing.cameras_planned),
        "demo": Outing.objects.filter(is_demo=True).first(),
        "tour": tour_of(request.session, outing),
        "invites": invites(request.session, outing),
        "today": timezone.localdate(),
        "clips": outing.clips.for_listing()[:TILES],
        "standing": standing(outing),
        "left_to_send": left_to_send(outing),
        "jobs": HandOver.objects.live().select_related("clip", "job")[:20],
        "entries": LogEntry.objects.filter(outing=outing).select_related("clip")[:5],
    }
    return render(request, "today/today.html", context)


@require_POST
def begin(request: HttpRequest) -> HttpResponse:
    """Begin a new outing and go on to its plan."""
    try:
        begin_outing(*(request.POST.get(key, "") for key in ("name", "place", "day")))
    except MorpheError as error:
        messages.error(request, str(error))
        return redirect("today")
    return redirect("plan")


@require_POST
def demo_back(request: HttpRequest) -> HttpResponse:
    """Bring the demo outing back, as it was at the first start."""
    if not Outing.objects.filter(is_demo=True).exists():
        load_demo()
    return redirect("today")


@require_POST
def demo_away(request: HttpRequest) -> HttpResponse:
    """Throw the demo outing away; what is a person's own stays."""
    for outing in Outing.objects.filter(is_demo=True):
        throw_away(outing)
    messages.success(request, "The demo outing is gone; it can be brought back here whenever you like.")
    return redirect("today")


@require_POST
def reopen(request: HttpRequest, outing_id: int) -> HttpResponse:
    open_outing(get_object_or_404(Outing, pk=outing_id))
    return redirect("today")

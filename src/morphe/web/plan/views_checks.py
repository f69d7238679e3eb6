"""A take checked on the spot: film or choose, read what was found, keep it or film again."""

from __future__ import annotations

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_POST, require_safe

from morphe.core.errors import MorpheError
from morphe.core.measure.scopes import safe_outline
from morphe.core.screen.scopes import scope_pictures
from morphe.web.plan.models import PlannedCamera, Take, TakeCheck
from morphe.web.plan.services.checks import begin_check, forget_check, picture_of
from morphe.web.plan.services.takes import add_take, next_number
from morphe.web.shell.changes import marked
from morphe.web.shell.numbers import number

SHOWN = 12


@require_safe
def checks(request: HttpRequest, planned_id: int) -> HttpResponse:
    """Where a take is filmed or chosen for a check, and the latest ones."""
    planned = get_object_or_404(PlannedCamera.objects.select_related("plan__outing", "camera"), pk=planned_id)
    latest = TakeCheck.objects.filter(take__planned=planned).select_related("take")[:SHOWN]
    chosen = number(request.GET.get("take"))
    context = {"planned": planned, "latest": latest, "takes": planned.takes.order_by("-number")[:SHOWN],
               "chosen": chosen, "next_number": next_number(planned)}  # fmt: skip
    return render(request, "plan/checks.html", context)


@require_POST
def begin(request: HttpRequest, planned_id: int) -> HttpResponse:
    """Take a file in for a take; a new one is slated if none is named."""
    planned = get_object_or_404(PlannedCamera.objects.select_related("plan__outing", "camera"), pk=planned_id)
    wanted = number(request.POST.get("take"))
    try:
        file = request.FILES.get("film") or request.FILES.get("file")
        take = planned.takes.filter(pk=wanted).first() if wanted else None
        if file is None:
            begin_check(take or Take(), None)
        check = begin_check(take or add_take(planned, request.POST.get("note", "")), file)
    except MorpheError as error:
        messages.error(request, str(error))
        return redirect("plan-checks", planned.pk)
    return redirect("plan-check", check.pk)


@never_cache
@require_safe
@marked("takecheck")
def show(request: HttpRequest, check_id: int) -> HttpResponse:
    """What was found, large enough for the sun; while it is looked at, that it is."""
    check = _check(check_id)
    is_piece = request.htmx and request.htmx.target == "check"  # type: ignore[attr-defined]
    context = {"check": check, "take": check.take, "planned": check.take.planned,
               "outline": safe_outline() if check.is_ready else None}  # fmt: skip
    return render(request, "plan/_check.html" if is_piece else "plan/check.html", context)


def _check(check_id: int) -> TakeCheck:
    return get_object_or_404(
        TakeCheck.objects.select_related("take__planned__plan__outing", "take__planned__camera"), pk=check_id
    )


@require_safe
def scopes(request: HttpRequest, check_id: int) -> JsonResponse:
    """Waveform, vectorscope and histogram of the picture that was judged."""
    return JsonResponse({"scopes": scope_pictures(picture_of(_ready(check_id))).as_json()})


@require_safe
def picture(request: HttpRequest, check_id: int) -> HttpResponse:
    return HttpResponse(_ready(check_id).shown.read(), content_type="image/jpeg")


def _ready(check_id: int) -> TakeCheck:
    check = _check(check_id)
    if not check.is_ready:
        raise Http404("This take has not been looked at yet.")
    return check


@require_POST
def forget(request: HttpRequest, check_id: int) -> HttpResponse:
    check = _check(check_id)
    planned_id = check.take.planned_id
    forget_check(check)
    return redirect("plan-checks", planned_id)

"""Plan: questions in, shoot cards out; takes and what was filmed set against them."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps

from django.contrib import messages
from django.db import transaction
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe

from morphe.core.errors import MorpheError
from morphe.core.plan.calendar_file import calendar_text
from morphe.web.clips.services.intake.uploads import left_to_send
from morphe.web.jobs.services.ask import ask
from morphe.web.outings.models import Camera
from morphe.web.outings.services.current import current_outing
from morphe.web.plan.models import PlannedCamera, Take
from morphe.web.plan.services import current, drawings
from morphe.web.plan.services.asked import groups
from morphe.web.plan.services.dive_lessons import lessons_to_plan
from morphe.web.plan.services.files import card_json, card_policy, file_name, saved_card
from morphe.web.plan.services.lessons import offered
from morphe.web.plan.services.sheet import sheet_of
from morphe.web.plan.services.takes import add_take, next_number, paste_takes, remove_take
from morphe.web.shell.files import attached
from morphe.web.shell.numbers import number
from morphe.web.shell.request import Request

View = Callable[..., HttpResponse]


def _saying_problems(view: View) -> View:
    """Answer what a person can mend with a sentence above the card, and leave the card as it is."""

    @wraps(view)
    def said(request: Request, **parameters: int) -> HttpResponse:
        try:
            return view(request, **parameters)
        except MorpheError as error:
            if not request.htmx:
                messages.error(request, str(error))
                return redirect("plan")
            answer = render(request, "plan/_problem.html", {"problem": str(error)})
            answer["HX-Retarget"], answer["HX-Reswap"] = "#plan-problem", "outerHTML"
            return answer

    return said


def _planned(planned_id: int) -> PlannedCamera:
    return get_object_or_404(PlannedCamera.objects.select_related("plan__outing", "camera"), pk=planned_id)


def _address(planned: PlannedCamera) -> str:
    return f"{reverse('plan')}?camera={planned.camera_id}"


def _context(planned: PlannedCamera) -> dict[str, object]:
    card = current.card_of(planned)
    sheet = sheet_of(planned, card)
    return {
        "planned": planned,
        "card": card,
        "sheet": sheet,
        "profile": card.answer("profile"),
        "groups": groups(current.questions_of(planned), card),
        "stack": drawings.stack_drawing(card, planned.pins),
        "latitude": drawings.latitude_drawing(card),
        "sun": drawings.sun_drawing(card),
        "depth": drawings.depth_drawing(card),
        "storage": drawings.storage_drawing(card),
        "lesson": offered(planned, card),
        "pair_lessons": planned.camera.pair_lessons.all(),
        "dive_lessons": lessons_to_plan(planned, card),
        "cautions": [{"caution": c, "ticked": c.key in planned.ticked} for c in card.cautions],
        "takes": planned.takes.prefetch_related("clips", "checks"),
        "next_number": next_number(planned),
        "left_to_send": left_to_send(planned.plan.outing),
    }


def _body(request: Request, planned: PlannedCamera) -> HttpResponse:
    """The swapped piece to htmx, the page to everyone else."""
    if not request.htmx:
        return redirect(_address(planned))
    return render(request, "plan/_body.html", _context(planned))


@require_safe
def show(request: Request) -> HttpResponse:
    outing = current_outing()
    plan = current.plan_of(outing)
    cards = list(plan.cameras.select_related("camera", "plan__outing"))
    wanted = request.GET.get("camera", "")
    planned = next((c for c in cards if str(c.camera_id) == wanted), cards[0] if cards else None)
    context = {
        "outing": outing,
        "cards": cards,
        "planned": planned,
        "others": Camera.objects.exclude(pk__in=[c.camera_id for c in cards]),
    }
    if planned is not None:
        try:
            context |= _context(planned)
        except MorpheError as error:
            context["problem"] = str(error)
    return render(request, "plan/show.html", context)


@require_POST
@_saying_problems
def add(request: Request) -> HttpResponse:
    camera = get_object_or_404(Camera, pk=number(request.POST.get("camera")))
    planned = current.add_camera(current.plan_of(current_outing()), camera)
    return redirect(_address(planned))


@require_POST
def leave(request: Request, planned_id: int) -> HttpResponse:
    """Leave a camera at home."""
    planned = _planned(planned_id)
    planned.delete()
    messages.success(request, f"{planned.camera} stays at home; its data is kept in the Library.")
    return redirect("plan")


@require_POST
@_saying_problems
def answers(request: Request, planned_id: int) -> HttpResponse:
    planned = _planned(planned_id)
    current.save_answers(planned, request.POST.dict())
    return _after_change(request, planned)


@require_POST
@_saying_problems
def pin(request: Request, planned_id: int) -> HttpResponse:
    planned = _planned(planned_id)
    current.pin(planned, request.POST.get("part", ""), request.POST.get("value", ""))
    return _after_change(request, planned)


def _after_change(request: Request, planned: PlannedCamera) -> HttpResponse:
    answer = _body(request, planned)
    if planned.clips.exists():
        transaction.on_commit(lambda: _set_clips_against(planned.pk))
    return answer


def _set_clips_against(planned_id: int) -> None:
    ask("meet", planned_id)


@require_POST
def caution(request: Request, planned_id: int) -> HttpResponse:
    planned = _planned(planned_id)
    current.tick(planned, request.POST.get("key", ""), request.POST.get("on") == "yes")
    return HttpResponse(status=204) if request.htmx else redirect(_address(planned))


@require_POST
@_saying_problems
def take(request: Request, planned_id: int) -> HttpResponse:
    planned = _planned(planned_id)
    add_take(planned, request.POST.get("note", ""), number=request.POST.get("number", "").strip())
    return _body(request, planned)


@require_POST
@_saying_problems
def paste(request: Request, planned_id: int) -> HttpResponse:
    planned = _planned(planned_id)
    paste_takes(planned, request.POST.get("notes", ""))
    return _body(request, planned)


@require_POST
def forget_take(request: Request, take_id: int) -> HttpResponse:
    found = get_object_or_404(
        Take.objects.select_related("planned__plan__outing", "planned__camera"), pk=take_id
    )
    planned = found.planned
    remove_take(found)
    return _body(request, planned)


@require_safe
def sheets(request: Request) -> HttpResponse:
    """The print view: one page per camera."""
    outing = current_outing()
    cards = current.plan_of(outing).cameras.select_related("camera", "plan__outing")
    wanted = number(request.GET.get("camera"))
    if wanted is not None:
        cards = cards.filter(camera_id=wanted)
    found, problems = [], []
    for planned in cards:
        try:
            found.append(sheet_of(planned, current.card_of(planned)))
        except MorpheError as error:
            problems.append(str(error))
    return render(request, "plan/sheets.html", {"outing": outing, "sheets": found, "problems": problems})


def _file(content: str, name: str, kind: str) -> HttpResponse:
    return attached(content, name, kind)


@require_safe
@_saying_problems
def save_card(request: Request, planned_id: int) -> HttpResponse:
    planned = _planned(planned_id)
    page = saved_card(planned, current.card_of(planned))
    if request.GET.get("here"):  # opened where it is, not taken along
        return HttpResponse(page, headers={"Content-Security-Policy": card_policy()})
    return _file(page, file_name(planned, ".html"), "text/html; charset=utf-8")


@require_safe
@_saying_problems
def save_json(request: Request, planned_id: int) -> HttpResponse:
    planned = _planned(planned_id)
    return _file(
        card_json(planned, current.card_of(planned)), file_name(planned, ".json"), "application/json"
    )


@require_safe
@_saying_problems
def save_calendar(request: Request, planned_id: int) -> HttpResponse:
    planned = _planned(planned_id)
    sun = current.card_of(planned).sun
    if sun is None:
        raise MorpheError("The sun needs a place; type one under “The day”.")
    text = calendar_text(sun, name=planned.plan.outing.name)
    return _file(text, file_name(planned, "-sun.ics"), "text/calendar; charset=utf-8")

"""Match: a reference and a clip side by side, the stages between them, each taken as far as wished."""

from __future__ import annotations

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_POST, require_safe

from morphe.core.errors import MorpheError
from morphe.web.clips.models import Clip, JudgingFrame, LightGroup
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.match.models import Matching, PinnedFrame
from morphe.web.match.services import pins
from morphe.web.match.services.cameras import learn_pair
from morphe.web.match.services.matching import (
    begin,
    grade_with,
    overlay_jpeg,
    shares_of,
    small_jpeg,
    still_jpeg,
    take_off,
    use_match,
)
from morphe.web.match.services.shown import board_of
from morphe.web.outings.services.current import current_outing
from morphe.web.shell.changes import marked
from morphe.web.shell.numbers import numbers
from morphe.web.shell.request import Request


@require_safe
@marked("matching")
def show(request: Request) -> HttpResponse:
    board = board_of(current_outing(), request.GET)
    name = "match/_board.html" if request.htmx and request.htmx.target == "board" else "match/show.html"
    return render(request, name, {"board": board})


def _here(pin: PinnedFrame | None, clip_id: object = "") -> HttpResponse:
    """Back to the page, with what was chosen."""
    chosen = f"?pin={pin.pk}" if pin else "?"
    return redirect(f"{reverse('match')}{chosen}" + (f"&clip={clip_id}" if clip_id else ""))


@require_POST
def pin(request: HttpRequest) -> HttpResponse:
    """Pin a clip's frame, a light's middle, or a still from a file."""
    outing, clip_id = current_outing(), request.POST.get("clip", "")
    try:
        if request.POST.get("what") == "still":
            pinned = pins.pin_still(outing, request.FILES.get("still"))
        elif request.POST.get("what") == "light":
            groups = LightGroup.objects.filter(outing=outing)
            pinned = pins.pin_light(get_object_or_404(groups, pk=_number(request, "light")))
        else:
            clips = Clip.objects.with_grades().ready()
            frame = _number(request, "frame") or 0
            pinned = pins.pin_frame(get_object_or_404(clips, pk=_number(request, "clip")), frame)
            clip_id = ""
    except MorpheError as error:
        messages.error(request, str(error))
        return _here(None)
    return _here(pinned, clip_id)


def _number(request: HttpRequest, name: str) -> int | None:
    found = numbers([request.POST.get(name, "")])
    return found[0] if found else None


@require_POST
def unpin(request: HttpRequest, pin_id: int) -> HttpResponse:
    pins.unpin(get_object_or_404(PinnedFrame, pk=pin_id))
    return redirect("match")


@require_safe
def pin_picture(request: HttpRequest, pin_id: int) -> HttpResponse:
    pinned = get_object_or_404(PinnedFrame, pk=pin_id)
    try:
        return HttpResponse(pinned.shown.read(), content_type="image/jpeg")
    except OSError:
        raise Http404("The picture of this reference is gone.") from None


@require_POST
def start(request: HttpRequest) -> HttpResponse:
    """Have one clip, its light, or the whole outing matched to a reference."""
    pinned = get_object_or_404(PinnedFrame, pk=_number(request, "pin"))
    clip = get_object_or_404(Clip.objects.ready(), pk=_number(request, "clip"))
    reach = {
        "light": Clip.objects.ready().filter(outing=clip.outing, group_id=clip.group_id),
        "outing": Clip.objects.ready().filter(outing=clip.outing),
    }.get(request.POST.get("reach", ""), Clip.objects.filter(pk=clip.pk))
    begin(pinned, [one for one in reach if one.pk != pinned.clip_id or one.pk == clip.pk])
    return _here(pinned, clip.pk)


@require_POST
def use(request: HttpRequest, matching_id: int) -> HttpResponse:
    matching = _matching(matching_id)
    try:
        use_match(matching, shares_of(request.POST))
        learn_pair(matching)
        messages.success(
            request, f"{matching.clip} is matched to {matching.pin}; undo on the Bench takes it back."
        )
    except MorpheError as error:
        messages.error(request, str(error))
    return _here(matching.pin, matching.clip_id)


@require_POST
def use_several(request: HttpRequest) -> HttpResponse:
    """Put what was found on all clips that were matched to a reference."""
    pinned = get_object_or_404(PinnedFrame, pk=_number(request, "pin"))
    found = [m for m in pinned.matchings.select_related("clip", "pin") if m.found and not m.used]
    done = 0
    for matching in found:
        matching.clip = Clip.everything.with_grades().get(pk=matching.clip_id)
        try:
            use_match(matching, {})
            learn_pair(matching)
            done += 1
        except MorpheError as error:
            messages.error(request, str(error))
    messages.success(request, f"{done} clip{'s' if done != 1 else ''} matched to {pinned}.")
    return _here(pinned, request.POST.get("clip", ""))


@require_POST
def off(request: HttpRequest, matching_id: int) -> HttpResponse:
    matching = _matching(matching_id)
    take_off(matching.clip)
    learn_pair(matching)
    return _here(matching.pin, matching.clip_id)


def _matching(matching_id: int) -> Matching:
    matching = get_object_or_404(Matching.objects.select_related("pin"), pk=matching_id)
    matching.clip = Clip.everything.with_grades().get(pk=matching.clip_id)
    return matching


def _frame(clip: Clip, number: int) -> JudgingFrame:
    return get_object_or_404(JudgingFrame, clip=clip, number=number)


@never_cache
@require_safe
def clip_picture(request: HttpRequest, clip_id: int, number: int) -> HttpResponse:
    """A clip as it looks now."""
    clip = get_object_or_404(Clip.objects.with_grades().ready(), pk=clip_id)
    make = small_jpeg if "small" in request.GET else still_jpeg
    return HttpResponse(make(_frame(clip, number), grade_of(clip)), content_type="image/jpeg")


@never_cache
@require_safe
def still(request: HttpRequest, matching_id: int, number: int) -> HttpResponse:
    """A clip as it would look."""
    return _shown(request, matching_id, number, overlay=False)


@never_cache
@require_safe
def scopes(request: HttpRequest, matching_id: int, number: int) -> HttpResponse:
    return _shown(request, matching_id, number, overlay=True)


def _shown(request: HttpRequest, matching_id: int, number: int, *, overlay: bool) -> HttpResponse:
    matching = _matching(matching_id)
    frame = _frame(matching.clip, number)
    try:
        grade = grade_with(matching, shares_of(request.GET))
    except MorpheError as error:
        raise Http404(str(error)) from None
    made = overlay_jpeg(matching.pin, frame, grade) if overlay else still_jpeg(frame, grade)
    return HttpResponse(made, content_type="image/jpeg")

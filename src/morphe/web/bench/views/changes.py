"""What changes a clip: acts, taps, good parts, versions, the tour."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from morphe.core.advise.hand.tap import Meaning, answer_tap, contrast_between
from morphe.core.errors import ColourError, MorpheError
from morphe.core.grade import recipe
from morphe.web.bench.acts import ACTS, Asked
from morphe.web.bench.acts.rungs import keep
from morphe.web.bench.services.finish import lit_flare
from morphe.web.bench.services.history import go_back, name_version
from morphe.web.bench.services.regions import left_out_at
from morphe.web.bench.services.skin import point_to_skin
from morphe.web.bench.services.still import frame_of
from morphe.web.bench.services.tour import begin_tour, end_tour, leave_stop, tour_of
from morphe.web.bench.views.asked import body, clip_by, refusal
from morphe.web.bench.views.page import by_another, ladder_after
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import under
from morphe.web.clips.services.reading.storage import load_picture
from morphe.web.clips.services.wall.parts import begin_here, end_here, shown_parts, take_away
from morphe.web.outings.services.current import current_outing
from morphe.web.shell.changes import marked
from morphe.web.shell.numbers import number, seconds
from morphe.web.shell.request import Request


@require_POST
@marked("following", "drift")
def change(request: Request, clip_id: int, act: str) -> HttpResponse:
    """Do an act to a clip; every one answers with the ladder."""
    clip, said, opened = clip_by(clip_id), "", None
    asked, known = Asked(clip, request), request.POST.get("under", "")
    told = by_another(clip) if known and known != under(clip) else ""
    try:
        if act != "keep" and asked["grade"]:
            keep(asked)  # what was set by hand just before
        opened = ACTS.get(act)(asked)
    except MorpheError as error:
        said = str(error)
    return ladder_after(request, clip, said=said, told=told, open_region=opened)


@require_POST
def tap(request: Request, clip_id: int) -> JsonResponse:
    """Make a place what the person says it is; the page then keeps the grade it is given."""
    clip = clip_by(clip_id)
    try:
        data = body(request)
        return JsonResponse(TAPS.get(str(data.get("meaning")), _named)(clip, data))
    except (MorpheError, KeyError, TypeError, ValueError) as error:
        return refusal(error)


def _named(clip: Clip, data: dict[str, Any]) -> dict[str, Any]:
    """A place is white, black, skin, green or a colour."""
    if data.get("meaning", "neutral") not in tuple(Meaning):
        raise ColourError("Say what the place is: white, black, skin, green or a colour.")
    meaning = Meaning(data.get("meaning", "neutral"))
    grade = recipe.from_json(data.get("grade"))
    moment, at = frame_of(clip, int(data.get("frame", 0))), (float(data["x"]), float(data["y"]))
    step, said = answer_tap(load_picture(moment.picture.path), grade.at(moment.time_s), *at, meaning)
    if meaning is Meaning.SKIN:
        point_to_skin(clip, moment, *at)
    return {"grade": recipe.to_json(grade.with_step(step)), "sentence": said, "step": step.key}


def _two_tones(clip: Clip, data: dict[str, Any]) -> dict[str, Any]:
    """Two places are a darker and a lighter tone."""
    grade, moment = recipe.from_json(data.get("grade")), frame_of(clip, int(data.get("frame", 0)))
    places = [(float(x), float(y)) for x, y in data["places"]]
    if len(places) != 2:
        raise ColourError("Pick two tones, a darker and a lighter one.")
    step, said = contrast_between(load_picture(moment.picture.path), grade.at(moment.time_s), *places)
    return {"grade": recipe.to_json(grade.with_step(step)), "sentence": said, "step": step.key}


def _lit(clip: Clip, data: dict[str, Any]) -> dict[str, Any]:
    """A place is the light from which the flare comes."""
    lit = lit_flare(recipe.from_json(data.get("grade")), float(data["x"]), float(data["y"]))
    said = "The flare comes from there."
    return {"grade": recipe.to_json(lit), "sentence": said, "step": "", "change": "Flare placed by a tap"}


def _left_out(clip: Clip, data: dict[str, Any]) -> dict[str, Any]:
    """What lies about a place counts neither for gauges nor for proposals."""
    without, region = left_out_at(recipe.from_json(data.get("grade")), float(data["x"]), float(data["y"]))
    said, change = "Its outline can be moved, and followed.", "Left out by a tap"
    found = {"grade": recipe.to_json(without), "sentence": said, "step": "", "region": region}
    return found | {"change": change}


TAPS = {"tones": _two_tones, "light": _lit, "leave": _left_out}


@require_POST
def parts(request: Request, clip_id: int, act: str) -> HttpResponse:
    """Have a good part begin or end at the moment shown, or take one away."""
    clip, problem = clip_by(clip_id), ""
    try:
        if act == "away":
            take_away(clip, number(request.POST.get("part")))
        else:
            {"begin": begin_here, "end": end_here}[act](clip, seconds(request.POST.get("time")))
    except KeyError as error:
        raise Http404 from error
    except MorpheError as error:
        problem = str(error)
    if not request.htmx:
        return redirect("bench-clip", clip.pk)
    context = {"clip": clip, "parts": shown_parts(clip), "problem": problem}
    return render(request, "bench/_parts.html", context)


@require_POST
def tour(request: Request, act: str) -> HttpResponse:
    """Begin the tour, leave a stop's clip as it is, or end it."""
    outing = current_outing()
    if act == "begin":
        begin_tour(request.session)
    elif act == "leave":
        leave_stop(request.session, request.POST.get("stop", ""))
    elif act == "end":
        end_tour(request.session)
    found = tour_of(request.session, outing)
    return redirect(found.url if found is not None else "today")


@require_POST
def version_act(request: Request, clip_id: int, act: str) -> HttpResponse:
    """Name a version, or go back to it."""
    clip, version_id = clip_by(clip_id), number(request.POST.get("version"))
    try:
        if act == "name":
            name_version(clip, version_id, request.POST.get("name", ""))
        else:
            go_back(clip, version_id)
    except MorpheError as error:
        messages.error(request, str(error))
    return redirect("bench-history", clip.pk)

"""The Bench: one clip, its ladder and its picture."""

from __future__ import annotations

import json
import logging
from pathlib import Path
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse, StreamingHttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_POST, require_safe

from morphe.core.advise.aims import Hour
from morphe.core.advise.rungs import RUNGS
from morphe.core.advise.schools import SCHOOLS_KNOWN, in_school, school_of
from morphe.core.advise.tap import Meaning, answer_tap, contrast_between
from morphe.core.errors import ColourError, MorpheError, RecipeError
from morphe.core.grade import recipe
from morphe.core.grade.layer import Scope
from morphe.core.grade.steps import STEPS
from morphe.core.grade.steps.curves import CHANNELS
from morphe.core.grade.steps.families import CHANGES, EDIT
from morphe.core.handover.hdr import why_not_hdr
from morphe.core.handover.presets import PRESETS
from morphe.core.interchange.cdl import cdl_of, cdl_text
from morphe.core.interchange.clf import clf_of_cube
from morphe.core.interchange.cube import cube_of, cube_text
from morphe.core.measure.scopes import safe_outline
from morphe.core.pipeline.passes import compile_grade
from morphe.web.bench.services.convert import (
    choices_of,
    draw_by_hand,
    even_out,
    keep_curve,
    render_as,
    take_profile,
)
from morphe.web.bench.services.finish import act_on_finish, finish_of, lit_flare
from morphe.web.bench.services.fixes import take_fix
from morphe.web.bench.services.follow import begin_following, follow_state
from morphe.web.bench.services.history import (
    differences,
    go_back,
    name_version,
    version_jpeg,
    versions_of,
)
from morphe.web.bench.services.instruments import INSTRUMENTS, hue_ring, tint_pairs
from morphe.web.bench.services.ladder import ladder_of
from morphe.web.bench.services.layers import act_on_layer
from morphe.web.bench.services.looks import look_jpeg, looks_of, save_look, take_look
from morphe.web.bench.services.over_time import over_time
from morphe.web.bench.services.playing import part_of, passes_for
from morphe.web.bench.services.regions import act_on_region, left_out_at, shown_regions
from morphe.web.bench.services.skin import point_to_skin
from morphe.web.bench.services.still import (
    Measured,
    before_jpeg,
    choice_jpeg,
    frame_of,
    frame_states,
    ghost_scopes,
    grain_jpeg,
    hurt_most,
    light_up_png,
    probe_at,
    still_json,
)
from morphe.web.bench.services.tour import begin_tour, end_tour, leave_stop, tour_of
from morphe.web.bench.services.water import invented_png, take_way, water_choices
from morphe.web.clips.models import Clip
from morphe.web.clips.services import versions
from morphe.web.clips.services.aims import aims_of, choose_hour
from morphe.web.clips.services.grades import grade_of, merged, under, unreadable
from morphe.web.clips.services.habits import forget_habit
from morphe.web.clips.services.judged import judge_anew, up_to_date
from morphe.web.clips.services.parts import begin_here, end_here, shown_parts, take_away
from morphe.web.clips.services.shots import clip_at
from morphe.web.clips.services.storage import load_picture
from morphe.web.clips.services.waters import say_wet, take_dive_log, tell
from morphe.web.jobs.services.ask import ask
from morphe.web.library.models import KeptRecipe
from morphe.web.outings.services.current import current_outing
from morphe.web.plan.services.dive_lessons import forget_dive_lesson, keep_dive_lesson
from morphe.web.shell.changes import marked
from morphe.web.shell.files import attached, plain_name
from morphe.web.shell.numbers import decimal, number, seconds
from morphe.web.shell.who import DEVICE

MAX_BODY = recipe.MAX_BYTES + 100_000  # a grade and what is said beside it
MAX_LOG = 100_000
UNREADABLE = "The request is not readable; reload the page."
logger = logging.getLogger(__name__)
PARTS = {"region": act_on_region, "layer": act_on_layer, "finish": act_on_finish}


def _clip(clip_id: int) -> Clip:
    return get_object_or_404(Clip.objects.with_grades().select_related("camera"), pk=clip_id)


def _refusal(error: Exception) -> JsonResponse:
    if not isinstance(error, MorpheError):
        logger.warning("A request to the Bench could not be read", exc_info=error)
    return JsonResponse({"problem": str(error) if isinstance(error, MorpheError) else UNREADABLE}, status=422)


def _body(request: HttpRequest) -> dict[str, Any]:
    if len(request.body) > MAX_BODY:
        raise RecipeError("That is far too long for a grade.")
    try:
        data = json.loads(request.body, parse_float=decimal, parse_constant=decimal)
    except (ValueError, RecursionError) as error:
        raise RecipeError(UNREADABLE) from error
    if not isinstance(data, dict):
        raise RecipeError(UNREADABLE)
    return data


@require_safe
def choose(request: HttpRequest) -> HttpResponse:
    """Open the Bench with the clip that waits for a decision, or the first."""
    clips = current_outing().clips.ready().select_related("version")
    waiting = clips.undecided().first() or clips.first()
    return redirect("bench-clip", waiting.pk) if waiting else render(request, "bench/empty.html")


@require_safe
@marked("following", "drift", "grade")
def show(request: HttpRequest, clip_id: int) -> HttpResponse:
    aside = Clip.everything.select_related("whole").filter(pk=clip_id, aside=True).first()
    if aside is not None:  # split into shots since, or joined again: what is worked on in its place
        return redirect("bench-clip", clip_at(aside, aside.begin_s).pk)
    clip = up_to_date(_clip(clip_id))
    if not clip.is_ready:
        return redirect("clips")
    if not clip.proxy and clip.over_time:  # it was thrown away for room
        ask("play", clip.pk)
    ids = list(clip.outing.clips.ready().values_list("pk", flat=True))
    at = ids.index(clip.pk)
    context = {
        "clip": clip,
        "ladder": ladder_of(clip, open_key=request.GET.get("open", "")),
        "regions": shown_regions(clip, grade_of(clip)),
        "said": unreadable(clip),
        "tour": tour_of(request.session, clip.outing, clip),
        "frames": list(clip.frames.all()),
        "parts": shown_parts(clip),
        "has_recipes": not clip.is_corrected and KeptRecipe.objects.exists(),
        "instruments": {k: i.as_json() for k, i in INSTRUMENTS.items()},
        "outline": safe_outline(),
        "ring": hue_ring(),
        "orders": {"steps": list(STEPS), "scopes": list(Scope)},
        **_choices(clip),
        "presets": PRESETS.values(),
        "goes_as_hdr": not why_not_hdr(clip.signal, grade_of(clip)),
        "neighbour": _neighbour(clip, ids, at),
        "previous": ids[at - 1] if at else None,
        "next": ids[at + 1] if at + 1 < len(ids) else None,
    }
    return render(request, "bench/show.html", context)


def _neighbour(clip: Clip, ids: list[int], at: int) -> Clip | None:
    """The clip to compare with: the nearest of the same light, else the one before or after."""
    others = clip.outing.clips.ready().exclude(pk=clip.pk)
    alike = [] if clip.group is None else list(others.filter(group=clip.group).values_list("pk", flat=True))
    near = sorted(alike or [pk for pk in ids if pk != clip.pk], key=lambda pk: abs(ids.index(pk) - at))
    return others.filter(pk=near[0]).first() if near else None


def _choices(clip: Clip) -> dict[str, object]:
    return {
        "choices": choices_of(clip), "over_time": over_time(clip, grade_of(clip)),
        "finish": finish_of(grade_of(clip), clip), "pairs": tint_pairs(),
        "water": water_choices(clip), "aims": aims_of(clip), "hours": tuple(Hour), "meanings": tuple(Meaning),
        "schools": tuple(SCHOOLS_KNOWN.values()),
        "edit_params": [(n, p) for n, p in EDIT.items() if n in CHANGES],
        "reach_params": [(n, EDIT[n]) for n in ("below", "above")], "curve_channels": CHANNELS,
    }  # fmt: skip


@require_safe
@marked("drift")
def light_over_time(request: HttpRequest, clip_id: int) -> HttpResponse:
    """The chart of light over time; the page asks for it until the worker has followed the light."""
    clip = _clip(clip_id)
    return render(request, "bench/_over_time.html", {"clip": clip, **_choices(clip)})


def _ladder(
    request: HttpRequest, clip: Clip, *, said: str = "", told: str = "", open_region: str | None = None
) -> HttpResponse:
    if not request.htmx:
        return redirect("bench-clip", clip.pk)
    clip = up_to_date(_clip(clip.pk))
    context = {
        "clip": clip,
        "ladder": ladder_of(clip, open_key=request.POST.get("open", "")),
        "open_region": request.POST.get("region", "") if open_region is None else open_region,
        "regions": shown_regions(clip, grade_of(clip)),
        "said": said or unreadable(clip),
        "told": told,
        "is_swap": True,
        "tour": tour_of(request.session, clip.outing, clip),
        **_choices(clip),
    }
    return render(request, "bench/_ladder.html", context)


@require_POST
@marked("following", "drift")
def change(request: HttpRequest, clip_id: int, act: str) -> HttpResponse:
    """Accept, switch, reset, undo, redo or keep: every one answers with the ladder."""
    return _changed(request, _clip(clip_id), act)


def _changed(request: HttpRequest, clip: Clip, act: str) -> HttpResponse:
    key = request.POST.get("open", "")
    acts = {
        "accept": lambda: versions.accept(clip, key),
        "accept-all": lambda: versions.accept_all(clip),
        "switch": lambda: versions.switch(clip, key),
        "reset": lambda: versions.reset(clip, key),
        "undo": lambda: versions.undo(clip),
        "redo": lambda: versions.redo(clip),
        "keep": lambda: _keep_posted(request, clip, request.POST.get("kept", key)),
        "profile": lambda: take_profile(clip, request.POST.get("profile", "auto")),
        "render-as": lambda: render_as(clip, request.POST.dict()),
        "keep-curve": lambda: keep_curve(clip, request.POST.get("name", "")),
        "by-hand": lambda: draw_by_hand(clip, request.POST.getlist("code"), request.POST.getlist("level")),
        "even-out": lambda: even_out(clip, request.POST.get("amount", "")),
        "water-wet": lambda: say_wet(clip, request.POST.get("wet", "")),
        "water-tell": lambda: tell(clip, request.POST.dict()),
        "water-log": lambda: _take_log(request, clip),
        "water-way": lambda: take_way(clip, request.POST.get("way", "")),
        "water-learn": lambda: keep_dive_lesson(clip, request.POST.get("way", "")),
        "water-unlearn": lambda: forget_dive_lesson(clip, request.POST.get("way", "")),
        "fix": lambda: take_fix(clip, request.POST.get("fix", "")),
        "look": lambda: take_look(
            clip, request.POST.get("look", ""), offered=bool(request.POST.get("offered"))
        ),
        "save-look": lambda: save_look(clip, request.POST.get("name", ""), request.POST.get("words", "")),
        "school": lambda: _choose_school(clip, request.POST.get("school", "")),
        "usual": lambda: versions.accept_usual(clip, key),
        "forget-habit": lambda: forget_habit(key),
        "hour": lambda: _mean_hour(request, clip),
        "skin-forget": lambda: _forget_skin(clip),
        "follow": lambda: begin_following(
            clip, request.POST.get("layer", ""), seconds(request.POST.get("time"))
        ),
    }
    said = ""
    known = request.POST.get("under", "")
    told = _by_another(clip) if known and known != under(clip) else ""
    try:
        if act != "keep" and request.POST.get("grade"):
            _keep_posted(request, clip, request.POST.get("kept", key))  # what was set by hand just before
        kind, _, name = act.partition("-")
        if kind in PARTS:
            opened = PARTS[kind](clip, name, request.POST.dict())
            return _ladder(request, clip, told=told, open_region=opened)
        acts[act]()
    except MorpheError as error:
        said = str(error)
    return _ladder(request, clip, said=said, told=told)


def _choose_school(clip: Clip, key: str) -> None:
    """Keep the school of the outing, and put this clip's steps in its order: numbers stay what they are."""
    school = school_of(key)
    clip.outing.school = school.key
    clip.outing.save(update_fields=["school"])
    versions.keep(clip, in_school(grade_of(clip), school), f"School: {school.label.lower()}")


def _mean_hour(request: HttpRequest, clip: Clip) -> None:
    choose_hour(clip, request.POST.get("hour", ""), request.POST.get("reach", "light"))
    judge_anew(clip)


def _forget_skin(clip: Clip) -> None:
    clip.skin_at = {}
    clip.save(update_fields=["skin_at"])
    judge_anew(clip)


def _take_log(request: HttpRequest, clip: Clip) -> None:
    file = request.FILES.get("log")
    if file is None or not file.size or file.size > MAX_LOG:
        raise ColourError("Choose a dive log as CSV; it has a few thousand rows at most.")
    text = file.read().decode("utf-8", errors="replace")
    take_dive_log(clip, text, str(file.name), request.POST.get("begins", ""))


def _keep_posted(request: HttpRequest, clip: Clip, key: str) -> None:
    posted = request.POST.get("grade", "")
    grade = merged(clip, recipe.from_text(posted), request.POST.get("under", ""))
    label = RUNGS[key].step.label if key in RUNGS else "Grade"
    change = request.POST.get("change") or f"{label} set by hand"
    versions.keep(clip, grade, change)


@require_POST
def parts(request: HttpRequest, clip_id: int, act: str) -> HttpResponse:
    """Have a good part begin or end at the moment shown, or take one away."""
    clip, problem = _clip(clip_id), ""
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
def tour(request: HttpRequest, act: str) -> HttpResponse:
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


@require_safe
def elsewhere(request: HttpRequest, clip_id: int) -> HttpResponse:
    """Whether the clip's grade is another than a page was made from, and who changed it."""
    clip = _clip(clip_id)
    if under(clip) == request.GET.get("under", ""):
        return HttpResponse(status=204)
    return JsonResponse({"sentence": _by_another(clip)})


def _by_another(clip: Clip) -> str:
    """Who changed a clip last, if it was another device than the one that asks."""
    latest = clip.version.by if clip.version else ""
    return "" if latest == DEVICE.get() else f"{latest or 'The computer'} changed this a moment ago."


@require_safe
@marked("following")
def followed(request: HttpRequest, clip_id: int) -> HttpResponse:
    """The ladder once a region has been followed; until then, how far that is."""
    clip = _clip(clip_id)
    states = follow_state(clip)
    if any(state.is_live for state in states.values()):
        return render(request, "bench/_following.html", {"clip": clip, "states": states})
    answer = HttpResponse(status=204)
    answer["HX-Trigger"] = json.dumps({"ladder-is-old": {}})
    return answer


@require_safe
@marked("following", "drift")
def ladder(request: HttpRequest, clip_id: int) -> HttpResponse:
    """The ladder as it stands."""
    clip = _clip(clip_id)
    context = {
        "clip": clip,
        "ladder": ladder_of(clip, open_key=request.GET.get("open", "")),
        "open_region": request.GET.get("region", ""),
        "regions": shown_regions(clip, grade_of(clip)),
        "is_swap": True,
        **_choices(clip),
    }
    return render(request, "bench/_ladder.html", context)


@require_POST
def still(request: HttpRequest, clip_id: int) -> JsonResponse:
    try:
        data = _body(request)
        grade = recipe.from_json(data.get("grade"))
        return JsonResponse(
            still_json(
                _clip(clip_id), int(data.get("frame", 0)), grade, with_before=bool(data.get("before")),
                measured=Measured.of(data.get("measure")), with_palette=bool(data.get("palette")),
                curve=str(data.get("curve") or ""), hdr=bool(data.get("hdr")),
            )
        )  # fmt: skip
    except (MorpheError, TypeError, ValueError) as error:
        return _refusal(error)


@require_POST
def frames(request: HttpRequest, clip_id: int) -> JsonResponse:
    """How a grade suits every judging frame, by the reading of a rung, and which its proposal would hurt."""
    try:
        data = _body(request)
        grade, clip = recipe.from_json(data.get("grade")), _clip(clip_id)
        key = str(data.get("rung") or "")
        return JsonResponse({"frames": frame_states(clip, grade, key), "hurts": hurt_most(clip, grade, key)})
    except MorpheError as error:
        return _refusal(error)


@require_POST
def passes(request: HttpRequest, clip_id: int) -> HttpResponse:
    """Passes by which the browser grades the playing proxy: a line of JSON, then the numbers it speaks of."""
    clip = _clip(clip_id)
    try:
        grade = recipe.from_json(_body(request).get("grade"))
        found = passes_for(grade, float(clip.info["duration_s"]), chroma_gain=clip.proxy_chroma)
    except MorpheError as error:
        return _refusal(error)
    head = json.dumps({"passes": found.passes}).encode()
    head += b" " * (-(len(head) + 1) % 2) + b"\n"  # the numbers begin at an even byte
    return HttpResponse(head + found.data, content_type="application/octet-stream")


@require_safe
def proxy(request: HttpRequest, clip_id: int) -> HttpResponseBase:
    """The proxy, or the part of it that the browser asks for."""
    clip = _clip(clip_id)
    if not clip.proxy:
        return HttpResponse("The clip is being prepared for playing.", status=404)
    wanted = request.headers.get("Range", "")
    try:
        part = part_of(Path(clip.proxy.path), wanted)
    except MorpheError as error:
        return HttpResponse(str(error), status=416)
    answer = StreamingHttpResponse(part.chunks, status=206 if wanted else 200, content_type="video/mp4")
    answer["Content-Length"] = str(part.last - part.first + 1)
    answer["Accept-Ranges"] = "bytes"
    if wanted:
        answer["Content-Range"] = f"bytes {part.first}-{part.last}/{part.size}"
    return answer


@require_safe
@cache_control(private=True, max_age=3600)
def before(request: HttpRequest, clip_id: int, number: int) -> HttpResponse:
    return HttpResponse(before_jpeg(frame_of(_clip(clip_id), number)), content_type="image/jpeg")


@require_safe
@cache_control(private=True, max_age=3600)
def thumbnail(request: HttpRequest, clip_id: int, number: int) -> HttpResponse:
    frame = frame_of(_clip(clip_id), number)
    return HttpResponse(frame.thumbnail.open("rb").read(), content_type="image/jpeg")


@require_POST
def probe(request: HttpRequest, clip_id: int) -> JsonResponse:
    try:
        data = _body(request)
        grade = recipe.from_json(data.get("grade"))
        x, y = float(data["x"]), float(data["y"])
        hdr = bool(data.get("hdr"))
        return JsonResponse(probe_at(_clip(clip_id), int(data.get("frame", 0)), grade, x, y, hdr=hdr))
    except (MorpheError, KeyError, TypeError, ValueError) as error:
        return _refusal(error)


@require_POST
def grain(request: HttpRequest, clip_id: int) -> HttpResponse:
    """A part of a judging frame at full size, without and with noise taken out."""
    try:
        data = _body(request)
        grade = recipe.from_json(data.get("grade"))
        picture = grain_jpeg(_clip(clip_id), int(data.get("frame", 0)), grade)
    except (MorpheError, OSError, TypeError, ValueError) as error:
        return _refusal(error)
    return HttpResponse(picture, content_type="image/jpeg")


@require_POST
def lit(request: HttpRequest, clip_id: int) -> HttpResponse:
    try:
        data = _body(request)
        grade = recipe.from_json(data.get("grade"))
        if data.get("scope") == "invented":
            png = invented_png(_clip(clip_id), int(data.get("frame", 0)), grade)
            return HttpResponse(png, content_type="image/png")
        left, top, right, bottom = (float(v) for v in data["region"])
        png = light_up_png(
            _clip(clip_id), int(data.get("frame", 0)), grade, str(data["scope"]), (left, top, right, bottom),
            hdr=bool(data.get("hdr")),
        )  # fmt: skip
        return HttpResponse(png, content_type="image/png")
    except (MorpheError, KeyError, TypeError, ValueError) as error:
        return _refusal(error)


@require_POST
def tap(request: HttpRequest, clip_id: int) -> JsonResponse:
    """Make a place what the person says it is; the page then keeps the grade it is given."""
    clip = _clip(clip_id)
    try:
        data = _body(request)
        if data.get("meaning") == "tones":
            return _two_tones(clip, data)
        if data.get("meaning") == "light":
            lit = lit_flare(recipe.from_json(data.get("grade")), float(data["x"]), float(data["y"]))
            said = "The flare comes from there."
            return JsonResponse({"grade": recipe.to_json(lit), "sentence": said, "step": "",
                                 "change": "Flare placed by a tap"})  # fmt: skip
        if data.get("meaning") == "leave":
            without, region = left_out_at(
                recipe.from_json(data.get("grade")), float(data["x"]), float(data["y"])
            )
            said = "Its outline can be moved, and followed."
            return JsonResponse({"grade": recipe.to_json(without), "sentence": said, "step": "",
                                 "region": region, "change": "Left out by a tap"})  # fmt: skip
        if data.get("meaning", "neutral") not in tuple(Meaning):
            raise ColourError("Say what the place is: white, black, skin, green or a colour.")
        meaning = Meaning(data.get("meaning", "neutral"))
        grade = recipe.from_json(data.get("grade"))
        moment, at = frame_of(clip, int(data.get("frame", 0))), (float(data["x"]), float(data["y"]))
        step, sentence = answer_tap(load_picture(moment.picture.path), grade.at(moment.time_s), *at, meaning)
        if meaning is Meaning.SKIN:
            point_to_skin(clip, moment, *at)
    except (MorpheError, KeyError, TypeError, ValueError) as error:
        return _refusal(error)
    grade = grade.with_step(step)
    return JsonResponse({"grade": recipe.to_json(grade), "sentence": sentence, "step": step.key})


def _two_tones(clip: Clip, data: dict[str, Any]) -> JsonResponse:
    grade, moment = recipe.from_json(data.get("grade")), frame_of(clip, int(data.get("frame", 0)))
    places = [(float(x), float(y)) for x, y in data["places"]]
    if len(places) != 2:
        raise ColourError("Pick two tones, a darker and a lighter one.")
    step, said = contrast_between(load_picture(moment.picture.path), grade.at(moment.time_s), *places)
    return JsonResponse({"grade": recipe.to_json(grade.with_step(step)), "sentence": said, "step": step.key})


@require_safe
def history(request: HttpRequest, clip_id: int) -> HttpResponse:
    """All versions of a clip; two of them side by side."""
    clip = up_to_date(_clip(clip_id))
    found = versions_of(clip)
    by_id = {version.pk: version for version in found}
    now = clip.version_id or 0
    before = next((v.pk for v in found if v.pk != now), now)
    one, other = (
        by_id.get(number(request.GET.get(n)) or fallback) for n, fallback in (("a", before), ("b", now))
    )
    context = {
        "clip": clip, "versions": found, "one": one, "other": other,
        "differences": differences(clip, one, other) if one and other else [],
    }  # fmt: skip
    return render(request, "bench/history.html", context)


@require_POST
def version_act(request: HttpRequest, clip_id: int, act: str) -> HttpResponse:
    """Name a version, or go back to it."""
    clip, version_id = _clip(clip_id), number(request.POST.get("version"))
    try:
        if act == "name":
            name_version(clip, version_id, request.POST.get("name", ""))
        else:
            go_back(clip, version_id)
    except MorpheError as error:
        messages.error(request, str(error))
    return redirect("bench-history", clip.pk)


@require_safe
@cache_control(private=True, max_age=3600)
def version_picture(request: HttpRequest, clip_id: int, version_id: int) -> HttpResponse:
    try:
        return HttpResponse(version_jpeg(_clip(clip_id), version_id), content_type="image/jpeg")
    except MorpheError as error:
        raise Http404(str(error)) from error


@require_safe
@cache_control(private=True, max_age=3600)
def choice(request: HttpRequest, clip_id: int, key: str, way: str) -> HttpResponse:
    """How a clip looks with a rung's proposal, or without it."""
    try:
        picture = choice_jpeg(_clip(clip_id), key, taken=way == "with")
    except MorpheError as error:
        raise Http404(str(error)) from error
    return HttpResponse(picture, content_type="image/jpeg")


@require_safe
def looks(request: HttpRequest, clip_id: int) -> HttpResponse:
    """The wall of looks, each as strong as the clip bears."""
    clip = _clip(clip_id)
    context = {"clip": clip, "looks": looks_of(clip), "full": request.GET.get("full") == "yes"}
    return render(request, "bench/_looks.html", context)


@require_safe
@cache_control(private=True, max_age=3600)
def look(request: HttpRequest, clip_id: int, key: str) -> HttpResponse:
    """How a clip looks with a look."""
    try:
        full = request.GET.get("full") == "yes"
        return HttpResponse(look_jpeg(_clip(clip_id), key, full=full), content_type="image/jpeg")
    except MorpheError as error:
        raise Http404(str(error)) from error


@require_safe
def ghost(request: HttpRequest, clip_id: int) -> JsonResponse:
    """The scopes of a clip's middle frame as it is corrected by now, to be laid behind a neighbour's."""
    clip = _clip(clip_id)
    frame = clip.poster
    if not clip.is_ready or frame is None:
        return JsonResponse({"problem": "That clip is not read yet."}, status=422)
    return JsonResponse({"title": clip.title, "scopes": ghost_scopes(clip, frame)})


@require_safe
def recipe_file(request: HttpRequest, clip_id: int) -> HttpResponse:
    clip = _clip(clip_id)
    return _download(clip, recipe.to_text(grade_of(clip)), "json", "application/json")


@require_safe
def cube_file(request: HttpRequest, clip_id: int) -> HttpResponse:
    clip = _clip(clip_id)
    lut = cube_of(grade_of(clip), outside_nominal=clip.outside_nominal)
    return _download(clip, cube_text(lut, title=clip.title), "cube", "text/plain")


@require_safe
def clf_file(request: HttpRequest, clip_id: int) -> HttpResponse:
    clip = _clip(clip_id)
    grade = grade_of(clip)
    lut, left_out = cube_of(grade, outside_nominal=clip.outside_nominal), compile_grade(grade).left_out
    text = clf_of_cube(lut, title=clip.title, left_out=left_out)
    return _download(clip, text, "clf", "application/xml")


@require_safe
def cdl_file(request: HttpRequest, clip_id: int) -> HttpResponse:
    """A decision list that comes near; what it cannot hold stands in the file itself."""
    clip = _clip(clip_id)
    found = cdl_of(grade_of(clip))
    return _download(clip, cdl_text(found.cdl, clip.title, found.sentence), "cc", "application/xml")


def _download(clip: Clip, text: str, ending: str, kind: str) -> HttpResponse:
    return attached(text, f"{plain_name(clip.title.rsplit('.', 1)[0]) or 'clip'}.{ending}", kind)

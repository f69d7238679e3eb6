"""The page of the Bench, its ladder, and what it asks for while it is open."""

from __future__ import annotations

import json

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_safe

from morphe.core.advise.aims import Hour
from morphe.core.advise.hand.tap import Meaning
from morphe.core.advise.schools import SCHOOLS_KNOWN
from morphe.core.grade.layer import Scope
from morphe.core.grade.steps import STEPS
from morphe.core.grade.steps.curves import CHANNELS
from morphe.core.grade.steps.families import CHANGES, EDIT
from morphe.core.handover.hdr import why_not_hdr
from morphe.core.handover.presets import PRESETS
from morphe.core.measure.scopes import safe_outline
from morphe.web.bench.services.convert import choices_of
from morphe.web.bench.services.finish import finish_of
from morphe.web.bench.services.follow import follow_state
from morphe.web.bench.services.history import differences, versions_of
from morphe.web.bench.services.instruments import INSTRUMENTS, hue_ring, tint_pairs
from morphe.web.bench.services.ladder import ladder_of
from morphe.web.bench.services.looks import looks_of
from morphe.web.bench.services.over_time import over_time
from morphe.web.bench.services.regions import shown_regions
from morphe.web.bench.services.tour import tour_of
from morphe.web.bench.services.water import water_choices
from morphe.web.bench.views.asked import clip_by
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.aims import aims_of
from morphe.web.clips.services.grades.grade import grade_of, under, unreadable
from morphe.web.clips.services.reading.judged import up_to_date
from morphe.web.clips.services.reading.shots import clip_at
from morphe.web.clips.services.wall.parts import shown_parts
from morphe.web.jobs.services.ask import ask
from morphe.web.library.models import KeptRecipe
from morphe.web.outings.services.current import current_outing
from morphe.web.shell.changes import marked
from morphe.web.shell.numbers import number
from morphe.web.shell.request import Request
from morphe.web.shell.who import DEVICE


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
    clip = up_to_date(clip_by(clip_id))
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
    clip = clip_by(clip_id)
    return render(request, "bench/_over_time.html", {"clip": clip, **_choices(clip)})


def ladder_after(
    request: Request, clip: Clip, *, said: str = "", told: str = "", open_region: str | None = None
) -> HttpResponse:
    """The ladder once something was done to the clip."""
    if not request.htmx:
        return redirect("bench-clip", clip.pk)
    clip = up_to_date(clip_by(clip.pk))
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


@require_safe
@marked("following", "drift")
def ladder(request: HttpRequest, clip_id: int) -> HttpResponse:
    """The ladder as it stands."""
    clip = clip_by(clip_id)
    context = {
        "clip": clip,
        "ladder": ladder_of(clip, open_key=request.GET.get("open", "")),
        "open_region": request.GET.get("region", ""),
        "regions": shown_regions(clip, grade_of(clip)),
        "is_swap": True,
        **_choices(clip),
    }
    return render(request, "bench/_ladder.html", context)


@require_safe
@marked("following")
def followed(request: HttpRequest, clip_id: int) -> HttpResponse:
    """The ladder once a region has been followed; until then, how far that is."""
    clip = clip_by(clip_id)
    states = follow_state(clip)
    if any(state.is_live for state in states.values()):
        return render(request, "bench/_following.html", {"clip": clip, "states": states})
    answer = HttpResponse(status=204)
    answer["HX-Trigger"] = json.dumps({"ladder-is-old": {}})
    return answer


@require_safe
def elsewhere(request: HttpRequest, clip_id: int) -> HttpResponse:
    """Whether the clip's grade is another than a page was made from, and who changed it."""
    clip = clip_by(clip_id)
    if under(clip) == request.GET.get("under", ""):
        return HttpResponse(status=204)
    return JsonResponse({"sentence": by_another(clip)})


def by_another(clip: Clip) -> str:
    """Who changed a clip last, if it was another device than the one that asks."""
    latest = clip.version.by if clip.version else ""
    return "" if latest == DEVICE.get() else f"{latest or 'The computer'} changed this a moment ago."


@require_safe
def looks(request: HttpRequest, clip_id: int) -> HttpResponse:
    """The wall of looks, each as strong as the clip bears."""
    clip = clip_by(clip_id)
    context = {"clip": clip, "looks": looks_of(clip), "full": request.GET.get("full") == "yes"}
    return render(request, "bench/_looks.html", context)


@require_safe
def history(request: HttpRequest, clip_id: int) -> HttpResponse:
    """All versions of a clip; two of them side by side."""
    clip = up_to_date(clip_by(clip_id))
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

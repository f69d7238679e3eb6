"""Clips: bring in, list, use a recipe on several."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from datetime import UTC, datetime
from typing import Any

from django.contrib import messages
from django.core.paginator import Paginator
from django.db.models import F
from django.db.models.functions import Coalesce
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_POST, require_safe
from django_htmx.http import HttpResponseClientRedirect, HttpResponseClientRefresh

from morphe.core.advise.aims import Aims, Hour
from morphe.core.errors import MorpheError, RecipeError
from morphe.core.grade import recipe
from morphe.web.clips.models import Clip, Decision
from morphe.web.clips.services.grades.aims import BLACKS, WHITES, choose_aims
from morphe.web.clips.services.grades.decide import (
    do_again,
    is_deciding,
    latest_decision,
    offer_of,
    pass_on,
    take_all,
    take_back,
)
from morphe.web.clips.services.grades.fit import Given, fit_on, given_by
from morphe.web.clips.services.grades.lamps import LAMPS, choose_lamps
from morphe.web.clips.services.grades.working_space import SPACES, choose_space, space_of
from morphe.web.clips.services.intake.bring_in import bring_in_upload
from morphe.web.clips.services.questions.put import answer, picture_of, questions_put
from morphe.web.clips.services.reading.shots import (
    clip_at,
    cut_here,
    join,
    join_with_next,
    move_edge,
    reset_cuts,
    split,
    undo_cut,
)
from morphe.web.clips.services.space.remove import remove_clip
from morphe.web.clips.services.space.room import room
from morphe.web.clips.services.wall.cards import card_of, lights_of
from morphe.web.clips.services.wall.grouping import group_anew, move_to
from morphe.web.clips.services.wall.stands import corrected_picture
from morphe.web.clips.services.wall.tolerance import tolerance
from morphe.web.clips.signals import judged
from morphe.web.outings.models import Camera, Outing
from morphe.web.outings.services.current import outing_of
from morphe.web.shell.changes import marked
from morphe.web.shell.numbers import number, numbers, row, seconds
from morphe.web.shell.request import Request

PAGE = 60
SHOTS: dict[str, Callable[[Clip, float], object]] = {
    "split": lambda clip, _: split(clip), "join": lambda clip, _: join(clip), "cut": cut_here,
    "begin": lambda clip, time_s: move_edge(clip, "begin", time_s),
    "end": lambda clip, time_s: move_edge(clip, "end", time_s),
    "next": lambda clip, _: join_with_next(clip), "undo": lambda clip, _: undo_cut(clip),
    "found": lambda clip, _: reset_cuts(clip),
}  # fmt: skip
VIEWS = {"filmed": "As filmed", "corrected": "As corrected"}
SHOWN_IMPORTS = 2
MOST_FITS = 24


def together_in_order() -> tuple[Any, ...]:
    """The latest file first; the shots of a file one after another."""
    return Coalesce("whole", "pk").desc(), F("begin_s").asc(), F("pk").desc()


@require_safe
@marked("cards", "imports", "preparing")
def listing(request: Request) -> HttpResponse:
    outing = outing_of(request)
    words = request.GET.get("q", "").strip()
    newest_last = F("group__number").asc(nulls_first=True)  # what has just come in stands first
    view = request.GET.get("view") or request.session.get("clips_view", "filmed")
    view = request.session["clips_view"] = view if view in VIEWS else "filmed"
    deciding = is_deciding(outing)  # asked before the cards are read: what ends meanwhile is shown next time
    clips = (
        outing.clips.for_listing().matching(words).order_by(newest_last, "filmed_at", *together_in_order())
    )
    page = Paginator(clips, PAGE).get_page(request.GET.get("page"))
    together = tolerance()
    cards = [card_of(c, together) for c in page]
    context = {
        "outing": outing,
        "page": page,
        "words": words,
        "lights": lights_of(cards),
        "groups": list(outing.light_groups.all()),
        **_imports(outing),
        "unfinished": outing.uploads.filter(settled=False),
        "questions": questions_put(outing),
        "busy": any(c.clip.is_busy for c in cards) or deciding,
        "view": view,
        "views": VIEWS,
        **_deciding(outing, _ticked(request)),
        "cameras": list(Camera.objects.all()),
        "sources": [c.clip for c in cards if c.clip.is_ready],
        "preparing": outing.clips.being_followed().count(),
        "space": space_of(outing),
        "spaces": SPACES,
        "lamps": LAMPS,
        "aims": Aims.of(outing.aims),
        "blacks": BLACKS,
        "whites": WHITES,
        "hours": tuple(Hour),
        "room": room(),
    }
    return render(request, "clips/_cards.html" if request.htmx else "clips/listing.html", context)


def _deciding(outing: Outing, ticked: Iterable[int] = ()) -> dict[str, object]:
    return {
        "offer": offer_of(outing, ticked), "ticked": len(list(ticked)), "latest": latest_decision(outing),
    }  # fmt: skip


def _ticked(request: HttpRequest) -> list[int]:
    found = request.GET if request.method == "GET" else request.POST
    return numbers(found.getlist("clip"))


@require_safe
def offer(request: HttpRequest) -> HttpResponse:
    """What taking the proposals of all clips, or of the ticked ones, would do."""
    outing = outing_of(request)
    return render(request, "clips/_decide.html", {"outing": outing, **_deciding(outing, _ticked(request))})


@require_POST
def decide(request: HttpRequest) -> HttpResponse:
    """Take the proposals of all clips, or of the ticked ones."""
    if take_all(outing_of(request), _ticked(request)) is None:
        messages.info(request, "No clip waits for a decision.")
    return redirect("clips")


@require_POST
def turn_back(request: HttpRequest, decision_id: int, act: str) -> HttpResponse:
    """Take a decision on several clips back, or do it again."""
    decision = get_object_or_404(Decision, pk=decision_id, done=True)
    said = take_back(decision) if act == "undo" else do_again(decision)
    messages.info(request, said)
    return redirect("clips")


@require_safe
@cache_control(private=True, max_age=3600)
def corrected(request: HttpRequest, clip_id: int) -> HttpResponse:
    """A clip's poster under its grade of now."""
    clip = get_object_or_404(Clip.objects.with_grades().prefetch_related("frames"), pk=clip_id)
    picture = corrected_picture(clip)
    if not picture:
        raise Http404
    return HttpResponse(picture, content_type="image/jpeg")


@require_safe
@marked("preparing")
def preparing(request: HttpRequest) -> HttpResponse:
    """How many clips are being prepared for playing."""
    count = outing_of(request).clips.being_followed().count()
    return render(request, "clips/_preparing.html", {"preparing": count})


@require_safe
@marked("imports")
def imports(request: HttpRequest) -> HttpResponse:
    """How far the copying of cards has come."""
    return render(request, "clips/_imports.html", _imports(outing_of(request)))


def _imports(outing: Outing) -> dict[str, object]:
    found = list(outing.imports.select_related("job")[:SHOWN_IMPORTS])
    return {"imports": found, "importing": any(i.is_busy for i in found)}


@require_POST
def upload(request: HttpRequest) -> HttpResponse:
    """Take one uploaded clip; scripts get JSON, a plain form gets the list."""
    scripted = request.headers.get("Accept", "").startswith("application/json")
    try:
        file = request.FILES.get("clip")
        if file is None:
            raise MorpheError("No file arrived; choose a clip and try again.")
        clip = bring_in_upload(outing_of(request), file, filmed_at=_card_time(request))
    except (MorpheError, OSError) as error:
        sentence = (
            str(error) if isinstance(error, MorpheError) else "The clip could not be stored; check the disk."
        )
        if scripted:
            return JsonResponse({"problem": sentence}, status=422)
        messages.error(request, sentence)
        return redirect("clips")
    if scripted:
        return JsonResponse({"clip": clip.pk, "title": clip.title})
    return redirect("clips")


def _card_time(request: HttpRequest) -> datetime | None:
    """The file's time on the card, as the browser knows it: milliseconds since 1970."""
    stamp = number(request.POST.get("modified"))
    return datetime.fromtimestamp(stamp / 1000, UTC) if stamp and stamp < 10**13 else None


@require_POST
def group(request: HttpRequest, clip_id: int) -> HttpResponse:
    """Move a clip to another light, or to one of its own."""
    clip = get_object_or_404(Clip.objects.select_related("outing"), pk=clip_id)
    try:
        move_to(clip, number(request.POST.get("group")))
    except MorpheError as error:
        messages.error(request, str(error))
    return redirect("clips")


@require_POST
def shots(request: Request, clip_id: int, act: str) -> HttpResponse:
    """Split a file into its shots, join them again, or set their cuts; from Clips or from the Bench."""
    clip = get_object_or_404(Clip.objects.select_related("outing", "whole"), pk=clip_id)
    time_s = seconds(request.POST.get("time"))
    problem = ""
    try:
        SHOTS[act](clip, time_s)
    except MorpheError as error:
        problem = str(error)
    if request.POST.get("time") is None:
        if problem:
            messages.error(request, problem)
        return redirect("clips")
    if problem and request.htmx:
        return render(request, "clips/_shots.html", {"clip": clip, "problem": problem})
    there = clip if Clip.objects.filter(pk=clip.pk).exists() else clip_at(clip, time_s)
    return HttpResponseClientRedirect(reverse("bench-clip", args=[there.pk]))


@require_safe
def shots_read(request: HttpRequest, clip_id: int) -> HttpResponse:
    """Whether a shot that was cut otherwise has been read anew; the page is loaded once it has."""
    clip = get_object_or_404(Clip.objects.select_related("whole"), pk=clip_id)
    if clip.is_stale:
        return render(request, "clips/_shots.html", {"clip": clip})
    return HttpResponseClientRedirect(reverse("bench-clip", args=[clip.pk]))


@require_POST
def regroup(request: HttpRequest) -> HttpResponse:
    """Group by light anew; what was moved by hand stays."""
    group_anew(outing_of(request))
    return redirect("clips")


@require_POST
def space(request: HttpRequest) -> HttpResponse:
    """Choose the space of the outing, how warm lamps stay and where tones are wanted; what waits is judged
    anew."""
    outing, chosen = outing_of(request), request.POST.get("space", "")
    if chosen in SPACES and chosen != outing.working_space:
        choose_space(outing, chosen)
    choose_lamps(outing, request.POST.get("lamps", ""))
    choose_aims(outing, request.POST.dict())
    return redirect("clips")


@require_safe
def fit(request: HttpRequest) -> HttpResponse:
    """Whether a clip's correction would fit the ticked ones."""
    clips = Clip.objects.ready().with_grades().prefetch_related("frames")
    source = clips.filter(pk=number(request.GET.get("source"))).first()
    targets = clips.filter(pk__in=_ticked(request)[:MOST_FITS]).exclude(pk=source.pk if source else None)
    fits, problem = [], ""
    try:
        given = given_by(source, with_regions="regions" in request.GET) if source else None
        fits = [fit_on(given, target, source) for target in targets] if given else []
    except MorpheError as error:
        problem = str(error)
    if not fits and not problem:
        problem = "Pick the clip whose correction is meant, and tick the clips it should fit."
    regions = given.regions if source and given else 0
    return render(request, "clips/_fits.html", {"fits": fits, "problem": problem, "regions": regions})


@require_POST
def filmed_by(request: HttpRequest, clip_id: int) -> HttpResponse:
    """Say which camera a clip is from; the plan is set against it anew."""
    clip = get_object_or_404(Clip, pk=clip_id)
    clip.camera = Camera.objects.filter(pk=row(request.POST.get("camera"))).first()
    judged.send(Clip, clip=clip)
    clip.save(update_fields=["camera", "planned", "take", "checks"])
    return redirect("clips")


@require_safe
@cache_control(private=True, max_age=3600)
def asked_picture(request: HttpRequest, clip_id: int, question: str, key: str) -> HttpResponse:
    """How a clip would look under an answer that nobody has given yet."""
    clip = get_object_or_404(Clip.objects.ready().with_grades().prefetch_related("frames"), pk=clip_id)
    try:
        return HttpResponse(picture_of(clip, question, key), content_type="image/jpeg")
    except (MorpheError, OSError) as error:
        raise Http404(str(error)) from error


@require_POST
def asked(request: HttpRequest, clip_id: int, question: str) -> HttpResponse:
    """The answer to a question, for all clips that it is meant for."""
    clip = get_object_or_404(Clip.objects.ready().with_grades(), pk=clip_id)
    try:
        answer(clip, question, request.POST.get("answer", "auto"))
    except (MorpheError, OSError) as error:
        messages.error(request, str(error))
    return redirect("clips")


@require_POST
def use_recipe(request: HttpRequest) -> HttpResponse:
    """Pass one clip's correction, or a recipe file, on to the ticked clips."""
    outing = outing_of(request)
    try:
        given, source = _given_from(request)
        chosen = outing.clips.ready().filter(pk__in=_ticked(request)).exclude(pk=source)
        targets = list(chosen.values_list("pk", flat=True))
        if not targets:
            raise RecipeError("No other clip is ticked; tick the clips that should take the correction.")
        pass_on(outing, given, targets)
    except MorpheError as error:
        messages.error(request, str(error))
    return redirect("clips")


def _given_from(request: HttpRequest) -> tuple[Given, int | None]:
    """The correction that is meant, and the number of its clip."""
    with_regions = bool(request.POST.get("regions"))
    file = request.FILES.get("recipe")
    if file is not None:
        if (file.size or 0) > recipe.MAX_BYTES:
            raise RecipeError(f"{file.name} is far too long for a recipe; choose another file.")
        try:
            grade = recipe.from_text(file.read().decode("utf-8"))
            return Given(grade=grade, name=str(file.name), with_regions=with_regions), None
        except UnicodeDecodeError as error:
            raise RecipeError(
                f"{file.name} is not a recipe; choose a file that Morphe has written."
            ) from error
    clips = Clip.objects.ready().with_grades().prefetch_related("frames")
    clip = clips.filter(pk=number(request.POST.get("source"))).first()
    if clip is None:
        raise RecipeError("No correction is chosen; pick a clip or a recipe file.")
    return given_by(clip, with_regions=with_regions), clip.pk


@require_POST
def remove(request: Request, clip_id: int) -> HttpResponse:
    clip = get_object_or_404(Clip, pk=clip_id)
    remove_clip(clip)
    messages.success(
        request, f"{clip.title} was removed from this outing; the file on your card is untouched."
    )
    return HttpResponseClientRefresh() if request.htmx else redirect("clips")

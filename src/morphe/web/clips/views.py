"""Clips: bring in, list, use a recipe on several."""

from __future__ import annotations

from datetime import UTC, datetime

from django.contrib import messages
from django.core.paginator import Paginator
from django.db.models import F
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_POST, require_safe
from django_htmx.http import trigger_client_event

from morphe.core.errors import MorpheError, RecipeError
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.web.clips.models import Clip
from morphe.web.clips.services.bring_in import bring_in_upload
from morphe.web.clips.services.cards import card_of, lights_of
from morphe.web.clips.services.grouping import group_anew, move_to, would_fit
from morphe.web.clips.services.judged import choose_profile
from morphe.web.clips.services.questions import picture_as, question_of
from morphe.web.clips.services.remove import remove_clip
from morphe.web.clips.services.room import room
from morphe.web.clips.services.space import SPACES, choose_space, space_of
from morphe.web.clips.services.versions import apply_recipe, grade_of
from morphe.web.clips.signals import judged
from morphe.web.outings.models import Camera
from morphe.web.outings.services.current import current_outing

PAGE = 60
SHOWN_IMPORTS = 2
MOST_FITS = 24


@require_safe
def listing(request: HttpRequest) -> HttpResponse:
    outing = current_outing()
    words = request.GET.get("q", "").strip()
    newest_last = F("group__number").asc(nulls_first=True)  # what has just come in stands first
    clips = outing.clips.for_listing().matching(words).order_by(newest_last, "filmed_at", "-pk")
    page = Paginator(clips, PAGE).get_page(request.GET.get("page"))
    cards = [card_of(c) for c in page]
    imports = list(outing.imports.select_related("job")[:SHOWN_IMPORTS])
    context = {
        "outing": outing,
        "page": page,
        "words": words,
        "lights": lights_of(cards),
        "groups": list(outing.light_groups.all()),
        "imports": imports,
        "question": question_of(outing),
        "busy": any(c.clip.is_busy for c in cards) or any(i.is_busy for i in imports),
        "cameras": list(Camera.objects.all()),
        "sources": [c.clip for c in cards if c.clip.is_ready],
        "preparing": outing.clips.preparing().count(),
        "space": space_of(outing),
        "spaces": SPACES,
        "room": room(),
    }
    return render(request, "clips/_cards.html" if request.htmx else "clips/listing.html", context)


@require_safe
def preparing(request: HttpRequest) -> HttpResponse:
    """How many clips are being prepared for playing; with the last one the cards are drawn anew."""
    count = current_outing().clips.preparing().count()
    answer = render(request, "clips/_preparing.html", {"preparing": count})
    return answer if count else trigger_client_event(answer, "refresh", {"target": "#cards"})


@require_POST
def upload(request: HttpRequest) -> HttpResponse:
    """Take one uploaded clip; scripts get JSON, a plain form gets the list."""
    scripted = request.headers.get("Accept", "").startswith("application/json")
    try:
        file = request.FILES.get("clip")
        if file is None:
            raise MorpheError("No file arrived; choose a clip and try again.")
        clip = bring_in_upload(current_outing(), file, filmed_at=_card_time(request))
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
    stamp = request.POST.get("modified", "")
    if not stamp.isdigit() or not 0 < int(stamp) < 10**13:
        return None
    return datetime.fromtimestamp(int(stamp) / 1000, UTC)


@require_POST
def group(request: HttpRequest, clip_id: int) -> HttpResponse:
    """Move a clip to another light, or to one of its own."""
    clip = get_object_or_404(Clip.objects.select_related("outing"), pk=clip_id)
    chosen = request.POST.get("group", "")
    try:
        move_to(clip, int(chosen) if chosen.isdigit() else None)
    except MorpheError as error:
        messages.error(request, str(error))
    return redirect("clips")


@require_POST
def regroup(request: HttpRequest) -> HttpResponse:
    """Group by light anew; what was moved by hand stays."""
    group_anew(current_outing())
    return redirect("clips")


@require_POST
def space(request: HttpRequest) -> HttpResponse:
    """Choose the space the outing is worked in; clips that wait for a decision are read again in it."""
    chosen = request.POST.get("space", "")
    if chosen in SPACES:
        choose_space(current_outing(), chosen)
    return redirect("clips")


@require_safe
def fit(request: HttpRequest) -> HttpResponse:
    """Whether a clip's correction would fit the ticked ones."""
    source = Clip.objects.ready().select_related("version").filter(pk=request.GET.get("source") or 0).first()
    ticked = [pk for pk in request.GET.getlist("clip") if pk.isdigit()][:MOST_FITS]
    targets = Clip.objects.ready().prefetch_related("frames").filter(pk__in=ticked)
    fits, problem = [], ""
    try:
        fits = [would_fit(source, t) for t in targets if t != source] if source else []
    except MorpheError as error:
        problem = str(error)
    if not fits and not problem:
        problem = "Pick the clip whose correction is meant, and tick the clips it should fit."
    return render(request, "clips/_fits.html", {"fits": fits, "problem": problem})


@require_POST
def filmed_by(request: HttpRequest, clip_id: int) -> HttpResponse:
    """Say which camera a clip is from; the plan is set against it anew."""
    clip = get_object_or_404(Clip, pk=clip_id)
    chosen = request.POST.get("camera", "")
    clip.camera = Camera.objects.filter(pk=chosen).first() if chosen.isdigit() else None
    judged.send(Clip, clip=clip)
    clip.save(update_fields=["camera", "planned", "take", "checks"])
    return redirect("clips")


@require_safe
@cache_control(private=True, max_age=3600)
def filmed_as_picture(request: HttpRequest, clip_id: int, key: str) -> HttpResponse:
    """How a clip would look, had it been filmed in a profile."""
    clip = get_object_or_404(Clip.objects.ready().prefetch_related("frames"), pk=clip_id)
    try:
        return HttpResponse(picture_as(clip, key), content_type="image/jpeg")
    except (MorpheError, OSError) as error:
        raise Http404(str(error)) from error


@require_POST
def filmed_as(request: HttpRequest, clip_id: int) -> HttpResponse:
    """The answer to how a clip was filmed; others of its camera and folder follow in the worker."""
    clip = get_object_or_404(Clip.objects.ready(), pk=clip_id)
    try:
        choose_profile(clip, request.POST.get("profile", "auto"))
    except (MorpheError, OSError) as error:
        messages.error(request, str(error))
    return redirect("clips")


@require_POST
def use_recipe(request: HttpRequest) -> HttpResponse:
    """Use one clip's recipe, or a recipe file, on the selected clips."""
    chosen = Clip.objects.ready().filter(pk__in=request.POST.getlist("clip")).select_related("version")
    try:
        grade, source = _recipe_from(request)
        if not chosen:
            raise RecipeError("No clip is selected; tick the clips that should take the recipe.")
        count = apply_recipe(chosen, grade, source)
    except MorpheError as error:
        messages.error(request, str(error))
    else:
        messages.success(request, f"{count} clip{'s' if count != 1 else ''} took the recipe of {source}.")
    return redirect("clips")


def _recipe_from(request: HttpRequest) -> tuple[Grade, str]:
    file = request.FILES.get("recipe")
    if file is not None:
        if file.size > recipe.MAX_BYTES:
            raise RecipeError(f"{file.name} is far too long for a recipe; choose another file.")
        try:
            return recipe.from_text(file.read().decode("utf-8")), str(file.name)
        except UnicodeDecodeError as error:
            raise RecipeError(
                f"{file.name} is not a recipe; choose a file that Morphe has written."
            ) from error
    source = request.POST.get("source", "")
    clip = Clip.objects.select_related("version").filter(pk=source).first() if source.isdigit() else None
    if clip is None:
        raise RecipeError("No recipe is chosen; pick a corrected clip or a recipe file.")
    return grade_of(clip), clip.title


@require_POST
def remove(request: HttpRequest, clip_id: int) -> HttpResponse:
    clip = get_object_or_404(Clip, pk=clip_id)
    remove_clip(clip)
    messages.success(
        request, f"{clip.title} was removed from this outing; the file on your card is untouched."
    )
    return redirect("clips")

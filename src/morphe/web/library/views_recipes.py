"""Recipes that are kept: listed on a clip of one's own, put on, shared, taken in."""

from __future__ import annotations

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.text import slugify
from django.views.decorators.http import require_POST, require_safe

from morphe.core.errors import MorpheError
from morphe.core.grade.recipe import MAX_BYTES
from morphe.web.clips.models import Clip, ClipQuerySet
from morphe.web.library.models import KeptRecipe
from morphe.web.library.services import recipes
from morphe.web.outings.services.current import current_outing
from morphe.web.shell.files import attached
from morphe.web.shell.numbers import number


def _clips() -> ClipQuerySet:
    return current_outing().clips.ready().with_grades().select_related("camera").prefetch_related("frames")


@require_safe
def listing(request: HttpRequest) -> HttpResponse:
    """All recipes, each seen on a clip of this outing with how it would fit."""
    clips = list(_clips())
    wanted = number(request.GET.get("clip"))
    clip = next((c for c in clips if c.pk == wanted), clips[0] if clips else None)
    shown = [{"recipe": kept, "fit": _said(kept, clip)} for kept in KeptRecipe.objects.all()]
    context = {"shown": shown, "clips": clips, "clip": clip, "place": "recipes"}
    return render(request, "library/recipes.html", context)


def _said(kept: KeptRecipe, clip: Clip | None) -> str:
    if clip is None:
        return ""
    try:
        return recipes.fit_of(kept, clip).sentence
    except MorpheError as error:
        return str(error)


@require_safe
def like(request: HttpRequest, clip_id: int) -> HttpResponse:
    """Recipes that fit a clip, for the Bench."""
    clip = get_object_or_404(_clips(), pk=clip_id)
    return render(request, "library/_recipes_like.html", {"clip": clip, "likes": recipes.resembling(clip)})


@require_safe
def for_clips(request: HttpRequest) -> HttpResponse:
    """Recipes for the outing's clips that nobody has decided on yet, for Clips."""
    offers = recipes.offers_for(list(_clips())) if KeptRecipe.objects.exists() else []
    return render(request, "library/_recipes_for.html", {"offers": offers})


@require_POST
def keep(request: HttpRequest, clip_id: int) -> HttpResponse:
    try:
        kept = recipes.keep_recipe(get_object_or_404(_clips(), pk=clip_id), request.POST.get("name", ""))
        messages.success(request, f"{kept.name} is kept, and proposed for clips like this one.")
    except MorpheError as error:
        messages.error(request, str(error))
    return redirect("bench-clip", clip_id)


@require_POST
def use(request: HttpRequest, recipe_id: int) -> HttpResponse:
    kept = get_object_or_404(KeptRecipe, pk=recipe_id)
    clips = list(_clips().filter(pk__in=[number(one) for one in request.POST.getlist("clip")]))
    if not clips:
        raise Http404("These clips are gone.")
    try:
        recipes.put_on(kept, clips)
        where = clips[0].title if len(clips) == 1 else f"{len(clips)} clips"
        messages.success(request, f"{kept.name} is being put on {where}; undo takes it back.")
    except MorpheError as error:
        messages.error(request, str(error))
    return redirect("clips") if request.POST.get("back") == "clips" else redirect("bench-clip", clips[0].pk)


@require_POST
def take_in(request: HttpRequest) -> HttpResponse:
    file = request.FILES.get("file")
    try:
        if file is None:
            raise MorpheError("No file arrived; choose a recipe, a decision list or an archive of them.")
        if file.size is None or file.size > MAX_BYTES:
            raise MorpheError(f"{file.name} is far too long for a recipe; choose another file.")
        taken = recipes.take_in_file(file.read(), str(file.name))
        messages.success(request, f"Taken in: {', '.join(k.name for k in taken)}.")
    except MorpheError as error:
        messages.error(request, str(error))
    return redirect("recipes")


@require_POST
def remove(request: HttpRequest, recipe_id: int) -> HttpResponse:
    kept = get_object_or_404(KeptRecipe, pk=recipe_id)
    kept.delete()
    messages.success(request, f"{kept.name} is gone; clips that it was put on stay as they are.")
    return redirect("recipes")


@require_safe
def picture(request: HttpRequest, recipe_id: int) -> HttpResponse:
    kept = get_object_or_404(KeptRecipe, pk=recipe_id)
    try:
        made = recipes.picture_on(kept, get_object_or_404(_clips(), pk=number(request.GET.get("clip"))))
    except MorpheError as error:
        raise Http404(str(error)) from error
    return HttpResponse(made, content_type="image/jpeg")


@require_safe
def file(request: HttpRequest, recipe_id: int) -> HttpResponse:
    kept = get_object_or_404(KeptRecipe, pk=recipe_id)
    name = f"{slugify(kept.name) or 'recipe'}.recipe.json"
    return _file(recipes.recipe_text(kept), name, "application/json")


@require_safe
def all_files(request: HttpRequest) -> HttpResponse:
    return _file(recipes.zipped(), "morphe-recipes.zip", "application/zip")


def _file(content: str | bytes, name: str, kind: str) -> HttpResponse:
    return attached(content, name, kind)

"""Library: profiles with their curves, typed, brought in from files, handed out."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from morphe.core.errors import MorpheError, UnknownName
from morphe.web.library.services.incoming import bring_in, under_way
from morphe.web.library.services.judged_curves import keep_judged, shown_curve, shown_curves
from morphe.web.library.services.monitoring import DOMAINS, SIZES, looks_for_screens
from morphe.web.library.services.profiles import (
    FORMATS,
    hand_out,
    keep_typed,
    profile_of,
    remove_profile,
    shown_profiles,
)
from morphe.web.library.views_incoming import tell
from morphe.web.shell.changes import marked
from morphe.web.shell.files import attached


@require_safe
@marked("incoming")
def profiles(request: HttpRequest) -> HttpResponse:
    tell(request)
    shown = {"profiles": shown_profiles(), "curves": shown_curves(), "incoming": under_way(None)}
    return render(request, "library/profiles.html", {**shown, "place": "profiles"})


@require_http_methods(["GET", "HEAD", "POST"])
def judged_curve(request: HttpRequest, clip_id: int) -> HttpResponse:
    """A curve judged from clips; posted, it is kept as a profile under a name."""
    try:
        if request.method == "POST":
            kept = keep_judged(clip_id, request.POST.get("name", ""))
            messages.success(request, f"{kept} is kept; its clips are taken as filmed in it.")
            return redirect("profile", kept.key)
        shown = {"profile": shown_curve(clip_id), "place": "profiles"}
    except UnknownName as error:
        messages.error(request, str(error))
        return redirect("profiles")
    except MorpheError as error:
        messages.error(request, str(error))
        return redirect("judged-curve", clip_id)
    return render(request, "library/judged_curve.html", shown)


@require_safe
def profile(request: HttpRequest, key: str) -> HttpResponse:
    try:
        shown = profile_of(key)
    except MorpheError as error:
        messages.error(request, str(error))
        return redirect("profiles")
    context = {
        "profile": shown, "place": "profiles", "looks": looks_for_screens(), "sizes": SIZES,
        "domains": DOMAINS.items(),
    }  # fmt: skip
    return render(request, "library/profile.html", context)


@require_http_methods(["GET", "HEAD", "POST"])
def profile_new(request: HttpRequest) -> HttpResponse:
    """A profile from typed numbers, or from a file."""
    problem, file = "", request.FILES.get("file")
    if request.method == "POST":
        try:
            if file is not None:
                bring_in(file, request.POST.dict())
                return redirect("profiles")
            kept = keep_typed(request.POST.dict())
        except MorpheError as error:
            problem = str(error)
        else:
            messages.success(request, f"{kept} is kept; choose it under “Filmed as” on the Bench.")
            return redirect("profile", kept.key)
    context = {"problem": problem, "typed": request.POST, "place": "profiles"}
    return render(request, "library/profile_new.html", context, status=422 if problem else 200)


@require_safe
def profile_file(request: HttpRequest, key: str, ending: str) -> HttpResponse:
    try:
        text, name = hand_out(key, ending)
    except MorpheError as error:
        messages.error(request, str(error))
        return redirect("profiles")
    return attached(text, name, FORMATS[ending])


@require_POST
def profile_remove(request: HttpRequest, key: str) -> HttpResponse:
    try:
        messages.success(request, remove_profile(key))
    except MorpheError as error:
        messages.error(request, str(error))
    return redirect("profiles")

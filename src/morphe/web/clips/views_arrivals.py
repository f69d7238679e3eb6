"""Clips on their way in: uploads in pieces, cards of this computer, and how far they have come."""

from __future__ import annotations

import json
from collections.abc import Callable
from functools import wraps

from django.contrib import messages
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST, require_safe

from morphe.core.errors import MediaError, MorpheError
from morphe.web.clips.models import CardImport, Upload
from morphe.web.clips.services import card as cards
from morphe.web.clips.services.room import room
from morphe.web.clips.services.uploads import MAX_PIECE, OutOfStep, add_piece, begin_upload, give_up
from morphe.web.outings.services.current import current_outing

View = Callable[..., HttpResponse]
LOCAL = ("127.0.0.1", "::1")
MAX_HEAD = 4000


def _telling(view: View) -> View:
    """Answer what a person can mend as JSON with a sentence; a piece out of step also with where to go on."""

    @wraps(view)
    def told(request: HttpRequest, **parameters: str) -> HttpResponse:
        try:
            return view(request, **parameters)
        except OutOfStep as error:
            upload = Upload.objects.get(token=parameters["token"])
            return JsonResponse({"problem": str(error), "received": upload.received}, status=409)
        except MorpheError as error:
            return JsonResponse({"problem": str(error), "code": error.code}, status=422)
        except OSError:
            sentence = "The clip could not be stored; check the disk and bring it in again."
            return JsonResponse({"problem": sentence}, status=422)

    return told


@require_POST
@_telling
def upload_begin(request: HttpRequest) -> HttpResponse:
    """Begin an upload, or say how much of it has arrived already."""
    if len(request.body) > MAX_HEAD:
        raise MediaError("That is too long for a file's name.")
    try:
        asked = json.loads(request.body)
        name, size, modified = str(asked["name"]), int(asked["size"]), int(asked.get("modified", 0))
    except (ValueError, KeyError, TypeError) as error:
        raise MediaError("The request is not readable; reload the page.") from error
    upload = begin_upload(current_outing(), name, size, max(0, min(modified, 10**13)))
    return JsonResponse({"token": upload.token, "received": upload.received, "piece": MAX_PIECE})


@require_POST
@_telling
def upload_piece(request: HttpRequest, token: str) -> HttpResponse:
    """Take the piece that begins at `at`; the last one answers with the clip."""
    upload = get_object_or_404(Upload.objects.select_related("outing"), token=token)
    at = request.GET.get("at", "")
    if not at.isdigit():
        raise MediaError("The request is not readable; reload the page.")
    clip = add_piece(upload, int(at), request.body)
    if clip is None:
        return JsonResponse({"received": upload.received})
    return JsonResponse({"clip": clip.pk, "title": clip.title})


@require_POST
def upload_stop(request: HttpRequest, token: str) -> HttpResponse:
    upload = Upload.objects.filter(token=token).first()
    if upload is not None:
        give_up(upload)
    return HttpResponse(status=204)


@require_safe
def card(request: HttpRequest) -> HttpResponse:
    """The cards of this computer, and what is on the chosen one. Other devices see only those it found."""
    found = cards.cards_found()
    folder = request.GET.get("folder", "").strip()
    context: dict[str, object] = {"outing": current_outing(), "found": found, "folder": folder,
                                  "may_type": _is_here(request), "room": room()}  # fmt: skip
    if folder:
        try:
            _allow(request, folder, found)
            context["card"] = cards.look_at(current_outing(), folder)
        except MorpheError as error:
            context["problem"] = str(error)
    return render(request, "clips/card.html", context)


def _is_here(request: HttpRequest) -> bool:
    return request.META.get("REMOTE_ADDR", "") in LOCAL


def _allow(request: HttpRequest, folder: str, found: list[str]) -> None:
    if folder not in found and not _is_here(request):
        raise MediaError("Only this computer itself may name a folder; choose one of the cards it found.")


@require_POST
def card_begin(request: HttpRequest) -> HttpResponse:
    folder = request.POST.get("folder", "")
    try:
        _allow(request, folder, cards.cards_found())
        cards.begin_import(current_outing(), folder, request.POST.getlist("clip"))
    except MorpheError as error:
        messages.error(request, str(error))
        return redirect("clips-card")
    return redirect("clips")


@require_POST
def card_stop(request: HttpRequest, job_id: int) -> HttpResponse:
    cards.stop_import(get_object_or_404(CardImport, pk=job_id))
    return redirect("clips")

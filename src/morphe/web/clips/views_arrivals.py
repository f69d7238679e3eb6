"""Clips on their way in: uploads in pieces, cards of this computer, and how far they have come."""

from __future__ import annotations

import json
from collections.abc import Callable
from functools import wraps

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST, require_safe

from morphe.core.errors import MediaError, MorpheError
from morphe.web.clips.models import CardImport, Upload
from morphe.web.clips.services import card as cards
from morphe.web.clips.services.room import room
from morphe.web.clips.services.uploads import (
    MAX_PIECE,
    OutOfStep,
    add_piece,
    begin_upload,
    finish_if_whole,
    give_up,
)
from morphe.web.outings.services.current import current_outing

View = Callable[..., HttpResponse]
LOCAL = ("127.0.0.1", "::1")
MAX_HEAD = 4000
LONGEST_NUMBER = 16  # digits


def _telling(view: View) -> View:
    """Answer what a person can mend as JSON with a sentence; a piece out of step also with where to go on."""

    @wraps(view)
    def told(request: HttpRequest, **parameters: str) -> HttpResponse:
        try:
            return view(request, **parameters)
        except Upload.DoesNotExist as error:
            raise Http404 from error  # given up, or a clip by now
        except OutOfStep as error:
            upload = get_object_or_404(Upload, token=parameters["token"])
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
    except (ValueError, KeyError, TypeError, OverflowError, RecursionError) as error:
        raise MediaError("The request is not readable; reload the page.") from error
    upload = begin_upload(current_outing(), name, size, max(0, min(modified, 10**13)))
    if (clip := finish_if_whole(upload)) is not None:
        return JsonResponse({"clip": clip.pk, "title": clip.title, "received": size, "piece": MAX_PIECE})
    return JsonResponse({"token": upload.token, "received": upload.received, "piece": MAX_PIECE})


@require_POST
@_telling
def upload_piece(request: HttpRequest, token: str) -> HttpResponse:
    """Take the piece that begins at `at`; the last one answers with the clip."""
    upload = get_object_or_404(Upload.objects.select_related("outing"), token=token)
    at, piece = request.GET.get("at", ""), request.body
    if not (at.isascii() and at.isdigit() and len(at) < LONGEST_NUMBER):
        raise MediaError("The request is not readable; reload the page.")
    if str(len(piece)) != (request.headers.get("Content-Length") or "0"):  # cut off on its way
        raise OutOfStep(f"A piece of {upload.name} did not arrive whole; send it again.")
    clip = add_piece(upload, int(at), piece, request.headers.get("Content-Digest", ""))
    if clip is None:
        return JsonResponse({"received": upload.received})
    return JsonResponse({"clip": clip.pk, "title": clip.title})


@require_POST
def upload_stop(request: HttpRequest, token: str) -> HttpResponse:
    upload = Upload.objects.filter(token=token).first()
    if upload is not None:
        give_up(upload)
    return HttpResponse() if request.htmx else redirect("clips")  # type: ignore[attr-defined]


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

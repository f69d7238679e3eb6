"""Uploads by the open tus protocol 1.0.0: creation, how far one has come, more of it, its end."""

from __future__ import annotations

from base64 import b64decode
from collections.abc import Callable
from functools import wraps

from django.conf import settings
from django.http import HttpRequest, HttpResponse, JsonResponse, UnreadablePostError
from django.shortcuts import get_object_or_404, redirect
from django.urls import reverse
from django.views.decorators.http import require_http_methods, require_POST

from morphe.core.errors import MediaError, MorpheError, is_disk_full
from morphe.web.clips.models import Upload
from morphe.web.clips.services.intake.lines import LINES
from morphe.web.clips.services.intake.uploads import OutOfStep, add, begin_upload, give_up, offset_of, settle
from morphe.web.outings.services.current import outing_of
from morphe.web.shell.disk import FULL
from morphe.web.shell.numbers import number
from morphe.web.shell.request import Request

View = Callable[..., HttpResponse]
TUS = "1.0.0"
ABOUT = {"Tus-Version": TUS, "Tus-Extension": "creation,termination"}
BYTES = "application/offset+octet-stream"
STOPPED = "This upload was stopped; choose the clip again to send it."
LATEST_MS = 10**13


def _by_tus(view: View) -> View:
    """Speak the protocol's version; answer what a person can mend as JSON with a sentence."""

    @wraps(view)
    def answered(request: HttpRequest, **parameters: str) -> HttpResponse:
        spoken = request.headers.get("Tus-Resumable", TUS)
        answer = (
            _told(view, request, parameters) if spoken == TUS else HttpResponse(status=412, headers=ABOUT)
        )
        answer["Tus-Resumable"] = TUS
        answer["Cache-Control"] = "no-store"
        return answer

    return answered


def _told(view: View, request: HttpRequest, parameters: dict[str, str]) -> HttpResponse:
    try:
        return view(request, **parameters)
    except Upload.DoesNotExist:
        return _problem(STOPPED, 404)
    except OutOfStep as error:
        return _problem(str(error), 409)
    except MorpheError as error:
        return _problem(str(error), 422)
    except UnreadablePostError:
        return _problem("The line was lost; what has arrived is safe.", 408)
    except OSError as error:
        if is_disk_full(error):
            return _problem(FULL, 507)
        return _problem("The clip could not be stored; look at the disk.", 500)


def _problem(sentence: str, status: int) -> JsonResponse:
    return JsonResponse({"problem": sentence}, status=status)


@require_http_methods(["OPTIONS", "POST"])
@_by_tus
def begin(request: HttpRequest) -> HttpResponse:
    """Begin an upload, or find what has arrived of the same file: the answer says how much."""
    if request.method == "OPTIONS":
        return HttpResponse(status=204, headers={**ABOUT, "Tus-Max-Size": str(settings.UPLOAD_MAX_BYTES)})
    size, told = number(request.headers.get("Upload-Length")), _metadata(request)
    if size is None:
        raise MediaError("The request is not readable; reload the page.")
    modified = min(number(told.get("modified")) or 0, LATEST_MS)
    outing = outing_of(request, told.get("outing"))
    upload = settle(begin_upload(outing, told.get("filename", ""), size, modified))
    where = reverse("clips-upload-on-its-way", args=(upload.token,))
    return HttpResponse(status=201, headers={"Location": where, "Upload-Offset": str(offset_of(upload))})


def _metadata(request: HttpRequest) -> dict[str, str]:
    """Words by which a file is told: pairs of a key and a value in base64."""
    pairs = (pair.strip().partition(" ") for pair in request.headers.get("Upload-Metadata", "").split(","))
    try:
        return {
            key: b64decode(value, validate=True).decode("utf-8", "replace") for key, _, value in pairs if key
        }
    except ValueError as error:
        raise MediaError("The request is not readable; reload the page.") from error


@require_http_methods(["HEAD", "GET", "PATCH", "DELETE"])
@_by_tus
def upload(request: HttpRequest, token: str) -> HttpResponse:
    """One upload: how far it has come (HEAD), more of it (PATCH), how it ended (GET), given up (DELETE)."""
    LINES.end(token)
    found = Upload.objects.select_related("outing", "clip").get(token=token)
    if request.method == "PATCH":
        return _more(request, found)
    if request.method == "DELETE":
        give_up(found)
        return HttpResponse(status=204)
    found = settle(found)
    if request.method == "GET":
        clip = {"clip": found.clip.pk, "title": found.clip.title} if found.clip else {}
        return JsonResponse({**clip, "problem": found.problem, "settled": found.settled})
    return HttpResponse(
        headers={"Upload-Offset": str(offset_of(found)), "Upload-Length": str(found.size_bytes)}
    )


def _more(request: HttpRequest, found: Upload) -> HttpResponse:
    at = number(request.headers.get("Upload-Offset"))
    if request.content_type != BYTES:
        return _problem("The request is not readable; reload the page.", 415)
    if at is None:
        raise MediaError("The request is not readable; reload the page.")
    with LINES.held(found.token, request.META.get("gunicorn.socket")):
        come = add(found, at, request.read)
    settle(found)
    return HttpResponse(status=204, headers={"Upload-Offset": str(come)})


@require_POST
def stop(request: Request, token: str) -> HttpResponse:
    """Give an upload up by a plain form."""
    give_up(get_object_or_404(Upload, token=token))
    return HttpResponse() if request.htmx else redirect("clips")

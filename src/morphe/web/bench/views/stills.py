"""Pictures of the Bench, and what is read in them."""

from __future__ import annotations

import json
from pathlib import Path

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse, StreamingHttpResponse
from django.http.response import HttpResponseBase
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_POST, require_safe

from morphe.core.errors import MorpheError
from morphe.core.grade import recipe
from morphe.web.bench.services.history import version_jpeg
from morphe.web.bench.services.looks import look_jpeg
from morphe.web.bench.services.playing import part_of, passes_for
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
from morphe.web.bench.services.water import invented_png
from morphe.web.bench.views.asked import body, clip_by, refusal


@require_POST
def still(request: HttpRequest, clip_id: int) -> JsonResponse:
    try:
        data = body(request)
        grade = recipe.from_json(data.get("grade"))
        return JsonResponse(
            still_json(
                clip_by(clip_id), int(data.get("frame", 0)), grade, with_before=bool(data.get("before")),
                measured=Measured.of(data.get("measure")), with_palette=bool(data.get("palette")),
                curve=str(data.get("curve") or ""), hdr=bool(data.get("hdr")),
            )
        )  # fmt: skip
    except (MorpheError, TypeError, ValueError) as error:
        return refusal(error)


@require_POST
def frames(request: HttpRequest, clip_id: int) -> JsonResponse:
    """How a grade suits every judging frame, by the reading of a rung, and which its proposal would hurt."""
    try:
        data = body(request)
        grade, clip = recipe.from_json(data.get("grade")), clip_by(clip_id)
        key = str(data.get("rung") or "")
        return JsonResponse({"frames": frame_states(clip, grade, key), "hurts": hurt_most(clip, grade, key)})
    except MorpheError as error:
        return refusal(error)


@require_POST
def passes(request: HttpRequest, clip_id: int) -> HttpResponse:
    """Passes by which the browser grades the playing proxy: a line of JSON, then the numbers it speaks of."""
    clip = clip_by(clip_id)
    try:
        grade = recipe.from_json(body(request).get("grade"))
        found = passes_for(grade, float(clip.info["duration_s"]), chroma_gain=clip.proxy_chroma)
    except MorpheError as error:
        return refusal(error)
    head = json.dumps({"passes": found.passes}).encode()
    head += b" " * (-(len(head) + 1) % 2) + b"\n"  # the numbers begin at an even byte
    return HttpResponse(head + found.data, content_type="application/octet-stream")


@require_safe
def proxy(request: HttpRequest, clip_id: int) -> HttpResponseBase:
    """The proxy, or the part of it that the browser asks for."""
    clip = clip_by(clip_id)
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
    return HttpResponse(before_jpeg(frame_of(clip_by(clip_id), number)), content_type="image/jpeg")


@require_safe
@cache_control(private=True, max_age=3600)
def thumbnail(request: HttpRequest, clip_id: int, number: int) -> HttpResponse:
    frame = frame_of(clip_by(clip_id), number)
    return HttpResponse(frame.thumbnail.open("rb").read(), content_type="image/jpeg")


@require_POST
def probe(request: HttpRequest, clip_id: int) -> JsonResponse:
    try:
        data = body(request)
        grade = recipe.from_json(data.get("grade"))
        x, y = float(data["x"]), float(data["y"])
        hdr = bool(data.get("hdr"))
        return JsonResponse(probe_at(clip_by(clip_id), int(data.get("frame", 0)), grade, x, y, hdr=hdr))
    except (MorpheError, KeyError, TypeError, ValueError) as error:
        return refusal(error)


@require_POST
def grain(request: HttpRequest, clip_id: int) -> HttpResponse:
    """A part of a judging frame at full size, without and with noise taken out."""
    try:
        data = body(request)
        grade = recipe.from_json(data.get("grade"))
        picture = grain_jpeg(clip_by(clip_id), int(data.get("frame", 0)), grade)
    except (MorpheError, OSError, TypeError, ValueError) as error:
        return refusal(error)
    return HttpResponse(picture, content_type="image/jpeg")


@require_POST
def lit(request: HttpRequest, clip_id: int) -> HttpResponse:
    try:
        data = body(request)
        grade = recipe.from_json(data.get("grade"))
        if data.get("scope") == "invented":
            png = invented_png(clip_by(clip_id), int(data.get("frame", 0)), grade)
            return HttpResponse(png, content_type="image/png")
        left, top, right, bottom = (float(v) for v in data["region"])
        png = light_up_png(
            clip_by(clip_id), int(data.get("frame", 0)), grade, str(data["scope"]),
            (left, top, right, bottom), hdr=bool(data.get("hdr")),
        )  # fmt: skip
        return HttpResponse(png, content_type="image/png")
    except (MorpheError, KeyError, TypeError, ValueError) as error:
        return refusal(error)


@require_safe
@cache_control(private=True, max_age=3600)
def choice(request: HttpRequest, clip_id: int, key: str, way: str) -> HttpResponse:
    """How a clip looks with a rung's proposal, or without it."""
    try:
        picture = choice_jpeg(clip_by(clip_id), key, taken=way == "with")
    except MorpheError as error:
        raise Http404(str(error)) from error
    return HttpResponse(picture, content_type="image/jpeg")


@require_safe
@cache_control(private=True, max_age=3600)
def look(request: HttpRequest, clip_id: int, key: str) -> HttpResponse:
    """How a clip looks with a look."""
    try:
        full = request.GET.get("full") == "yes"
        return HttpResponse(look_jpeg(clip_by(clip_id), key, full=full), content_type="image/jpeg")
    except MorpheError as error:
        raise Http404(str(error)) from error


@require_safe
def ghost(request: HttpRequest, clip_id: int) -> JsonResponse:
    """The scopes of a clip's middle frame as it is corrected by now, to be laid behind a neighbour's."""
    clip = clip_by(clip_id)
    frame = clip.poster
    if not clip.is_ready or frame is None:
        return JsonResponse({"problem": "That clip is not read yet."}, status=422)
    return JsonResponse({"title": clip.title, "scopes": ghost_scopes(clip, frame)})


@require_safe
@cache_control(private=True, max_age=3600)
def version_picture(request: HttpRequest, clip_id: int, version_id: int) -> HttpResponse:
    try:
        return HttpResponse(version_jpeg(clip_by(clip_id), version_id), content_type="image/jpeg")
    except MorpheError as error:
        raise Http404(str(error)) from error

"""Library: cameras and what they can be set to."""

from __future__ import annotations

import json
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from morphe.core.errors import MorpheError
from morphe.core.standins.kits import KITS
from morphe.web.library.services.cameras import MAX_BYTES, keep_camera, read_camera_file
from morphe.web.library.services.kit_form import choices, data_from, shown
from morphe.web.outings.models import Camera
from morphe.web.shell.files import attached, plain_name


@require_safe
def listing(request: HttpRequest) -> HttpResponse:
    found = Camera.objects.prefetch_related("lessons", "pair_lessons", "dive_lessons")
    cameras = [{"camera": c, "kit": c.described} for c in found]
    return render(request, "library/listing.html", {"cameras": cameras, "place": "cameras"})


@require_http_methods(["GET", "HEAD", "POST"])
def edit(request: HttpRequest, camera_id: int | None = None) -> HttpResponse:
    camera = get_object_or_404(Camera, pk=camera_id) if camera_id else None
    data, problem = _start(request, camera), ""
    if request.method == "POST":
        data = data_from(request.POST)
        try:
            kept = keep_camera(camera, data)
        except MorpheError as error:
            problem = str(error)
        else:
            messages.success(request, f"{kept} is kept.")
            return redirect("library")
    context = {"camera": camera, "name": data.get("name", ""), "problem": problem,
               "models": list(KITS.values()), **choices(), **_form(data)}  # fmt: skip
    return render(request, "library/camera.html", context, status=422 if problem else 200)


def _start(request: HttpRequest, camera: Camera | None) -> dict[str, Any]:
    """What the form begins with: the camera's data, or a made-up camera to change."""
    pattern = request.GET.get("like", "")
    if pattern in KITS:
        data = KITS.get(pattern).as_json()
        return {**data, "name": camera.name if camera else ""}
    return {"name": camera.name, **camera.kit} if camera else {}


def _form(data: dict[str, Any]) -> dict[str, Any]:
    return {"values": shown(data)}


@require_POST
def take_in(request: HttpRequest) -> HttpResponse:
    """Take a camera in from a file."""
    file = request.FILES.get("camera")
    try:
        if file is None:
            raise MorpheError("No file arrived; choose a camera file.")
        kept = keep_camera(None, read_camera_file(file.read(MAX_BYTES + 1), str(file.name)))
    except MorpheError as error:
        messages.error(request, str(error))
    else:
        messages.success(request, f"{kept} is kept.")
    return redirect("library")


@require_safe
def save(request: HttpRequest, camera_id: int) -> HttpResponse:
    """Hand a camera out as a file."""
    camera = get_object_or_404(Camera, pk=camera_id)
    return attached(
        json.dumps(camera.kit, indent=2), f"{plain_name(camera.name) or 'camera'}.json", "application/json"
    )


@require_POST
def remove(request: HttpRequest, camera_id: int) -> HttpResponse:
    camera = get_object_or_404(Camera, pk=camera_id)
    camera.delete()
    messages.success(request, f"{camera} was removed with its plans; its clips stay.")
    return redirect("library")

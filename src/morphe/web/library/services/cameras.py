"""Keep cameras: new, changed, taken from a file, removed."""

from __future__ import annotations

import json
from typing import Any

from morphe.core.errors import PlanError
from morphe.core.plan.kit import Kit
from morphe.web.outings.models import Camera

__all__ = ["keep_camera", "read_camera_file"]

MAX_BYTES = 1_000_000


def keep_camera(camera: Camera | None, data: dict[str, Any]) -> Camera:
    """Check and keep a camera's data; two cameras cannot have one name."""
    kit = Kit.from_json(data)
    others = Camera.objects.exclude(pk=camera.pk) if camera else Camera.objects.all()
    if len(kit.name) > 60:
        raise PlanError("The name is too long; keep it within 60 characters.")
    if others.filter(name__iexact=kit.name).exists():
        raise PlanError(f"There is a camera called {kit.name} already; choose another name.")
    kept = camera or Camera()
    kept.name, kept.kit = kit.name, json.loads(json.dumps(kit.as_json()))
    kept.about = kept.about or kit.kind.word
    kept.save()
    return kept


def read_camera_file(content: bytes, name: str) -> dict[str, Any]:
    """Read a camera that somebody saved."""
    if len(content) > MAX_BYTES:
        raise PlanError(f"{name} is far too long for a camera; choose a file saved from the Library.")
    try:
        data = json.loads(content.decode("utf-8"))
    except (ValueError, RecursionError) as error:
        raise PlanError(f"{name} is no camera file; choose one saved from the Library.") from error
    if not isinstance(data, dict):
        raise PlanError(f"{name} is no camera file; choose one saved from the Library.")
    return data

"""The live picture: a judging frame under the grade of the moment, with scopes and marks."""

from __future__ import annotations

import base64
import time
from threading import Lock
from typing import Any

from morphe.core.errors import ColourError
from morphe.core.grade.grade import Grade
from morphe.core.handover.preview import (
    graded_still,
    jpeg,
    light_up,
    marks,
    pixel_reading,
    scope_pictures,
)
from morphe.core.signal.arrays import Encoded
from morphe.web.clips.models import Clip, JudgingFrame
from morphe.web.clips.services.storage import load_picture

__all__ = ["before_jpeg", "frame_of", "light_up_png", "probe_at", "still_json"]

_latest: dict[int, tuple[int, Encoded]] = {}  # clip -> frame number and its last graded picture
_lock = Lock()
KEPT = 8


def frame_of(clip: Clip, number: int) -> JudgingFrame:
    """A judging frame by its number."""
    frame = clip.frames.filter(number=number).first()
    if frame is None:
        raise ColourError("There is no such judging frame; reload the page.")
    return frame


def _remember(clip_id: int, number: int, graded: Encoded) -> None:
    with _lock:
        _latest.pop(clip_id, None)
        _latest[clip_id] = (number, graded)
        while len(_latest) > KEPT:
            _latest.pop(next(iter(_latest)))


def _graded(clip: Clip, number: int, grade: Grade) -> Encoded:
    with _lock:
        kept = _latest.get(clip.pk)
    if kept and kept[0] == number:
        return kept[1]
    graded = graded_still(load_picture(frame_of(clip, number).picture.path), grade)
    _remember(clip.pk, number, graded)
    return graded


def _packed(array: Any) -> dict[str, Any]:
    return {"shape": list(array.shape), "data": base64.b64encode(array.tobytes()).decode()}


def still_json(clip: Clip, number: int, grade: Grade) -> dict[str, Any]:
    """Grade a judging frame and give picture, scopes and marks for the page."""
    started = time.perf_counter()
    graded = graded_still(load_picture(frame_of(clip, number).picture.path), grade)
    _remember(clip.pk, number, graded)
    shown = scope_pictures(graded)
    return {
        "picture": "data:image/jpeg;base64," + base64.b64encode(jpeg(graded)).decode(),
        "scopes": {name: _packed(getattr(shown, name)) for name in ("luma", "parade", "histogram", "vector")},
        "marks": marks(graded),
        "ms": round(1000 * (time.perf_counter() - started), 1),
    }


def before_jpeg(frame: JudgingFrame) -> bytes:
    """The judging frame as filmed."""
    return jpeg(load_picture(frame.picture.path))


def probe_at(clip: Clip, number: int, grade: Grade, x: float, y: float) -> dict[str, float]:
    """Read the graded picture under the pointer."""
    return pixel_reading(_graded(clip, number, grade), x, y)


def light_up_png(
    clip: Clip, number: int, grade: Grade, scope: str, region: tuple[float, float, float, float]
) -> bytes:
    """Light the pixels that a scope shows inside a region."""
    return light_up(_graded(clip, number, grade), scope, region)

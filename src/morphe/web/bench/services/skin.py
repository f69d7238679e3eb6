"""Skin on the Bench: where it lies in a judging frame, and the watch over it through the whole grade."""

from __future__ import annotations

import json
from dataclasses import asdict
from functools import lru_cache
from typing import Any

import cv2
import numpy as np

from morphe.core.advise.whole.skin import watch_skin
from morphe.core.errors import ColourError
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.measure.faces import Box
from morphe.core.measure.skin import Patch, find_skin
from morphe.core.pipeline.screen import graded_still
from morphe.core.signal.arrays import Encoded, Mask
from morphe.web.clips.models import Clip, JudgingFrame
from morphe.web.clips.services.grades.aims import patch_of
from morphe.web.clips.services.reading.judged import judge_anew
from morphe.web.clips.services.reading.kept import faces_of
from morphe.web.clips.services.reading.storage import load_picture, written

__all__ = ["point_to_skin", "skin_of_frame", "skin_pixels", "skin_watch"]

SEARCHED = 320  # pixels across


def skin_of_frame(clip: Clip, frame: JudgingFrame) -> Mask | None:
    """Which pixels (h, w) of a judging frame, at searching size, are skin: pointed to, or found."""
    patch = patch_of(clip)
    if patch is not None:
        return _pointed(patch, frame)
    faces = faces_of(clip) or ()
    if frame.number >= len(faces) or not faces[frame.number]:
        return None
    without = json.dumps(clip.proposal, sort_keys=True)
    path = frame.picture.path
    return _found(path, written(path), without, frame.time_s, faces[frame.number])


@lru_cache(maxsize=64)
def _found(path: str, mark: int, proposal: str, time_s: float, faces: tuple[Box, ...]) -> Mask | None:
    """Skin is looked for in the picture as it is proposed: under another light it has another hue."""
    grade = recipe.from_text(proposal) if proposal != "{}" else Grade()
    found = find_skin(graded_still(load_picture(path), grade.without_step("skin"), time_s), faces)
    return None if found is None else found[1]


def _pointed(patch: Patch, frame: JudgingFrame) -> Mask | None:
    if patch.frame != frame.number:
        return None
    height, width = load_picture(frame.picture.path).shape[:2]
    rows = max(2, round(height * SEARCHED / width))
    y, x = np.mgrid[0:rows, 0:SEARCHED]
    near = np.hypot((x + 0.5) / SEARCHED - patch.x, ((y + 0.5) / rows - patch.y) * rows / SEARCHED)
    return np.asarray(near <= max(patch.radius, 1.5 / SEARCHED))


def skin_pixels(clip: Clip, frame: JudgingFrame) -> Encoded | None:
    """The pixels (n, 3) of skin in a judging frame, as filmed; None where there is none."""
    mask = skin_of_frame(clip, frame)
    if mask is None or not mask.any():
        return None
    picture = load_picture(frame.picture.path)
    return np.asarray(cv2.resize(picture, mask.shape[::-1], interpolation=cv2.INTER_AREA)[mask])


def skin_watch(clip: Clip, frame: JudgingFrame, grade: Grade) -> dict[str, Any] | None:
    """How skin fares in a grade, and which step moves it off its line; None where there is none."""
    pixels = skin_pixels(clip, frame)
    if pixels is None:
        return None
    found = asdict(watch_skin(pixels, grade, frame.time_s))
    return {k: round(v, 2) if isinstance(v, float) else v for k, v in found.items()}


def point_to_skin(clip: Clip, frame: JudgingFrame, x: float, y: float) -> str:
    """Keep where a person sees skin, judge the clip by it, and say what was measured there."""
    patch = Patch(frame=frame.number, x=x, y=y)
    pixels = patch.pixels(load_picture(frame.picture.path))
    if float(np.median(pixels.max(axis=1))) > 0.98:
        raise ColourError("That patch is clipped; tap skin that still has tone.")
    clip.skin_at = {"frame": patch.frame, "x": round(patch.x, 4), "y": round(patch.y, 4)}
    clip.save(update_fields=["skin_at"])
    judge_anew(clip)
    return "Skin is watched there; the rung “Skin” says how it lies."

"""Looks on a clip: each at the strength that it bears here, as a picture and in numbers; one put on."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from morphe.core.advise.evidence import reduced
from morphe.core.errors import ColourError
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Scope
from morphe.core.handover.matching import skin_masks
from morphe.core.handover.preview import jpeg
from morphe.core.pipeline.screen import graded_still
from morphe.core.signal.arrays import Encoded, Mask
from morphe.core.style.looks import LOOKS, Look
from morphe.core.style.strength import Borne, borne_strength, style_layer
from morphe.web.clips.models import Clip
from morphe.web.clips.services import versions
from morphe.web.clips.services.grades import grade_of, under
from morphe.web.clips.services.storage import load_picture

__all__ = ["ShownLook", "look_jpeg", "looks_of", "take_look"]


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownLook:
    """A look and how much of it this clip bears."""

    look: Look
    borne: Borne
    is_on: bool


def looks_of(clip: Clip) -> tuple[ShownLook, ...]:
    """All looks at the strength that the clip bears."""
    on = grade_of(clip).layer(Scope.STYLE).name
    return tuple(
        ShownLook(look=look, borne=_borne(clip.pk, _mark(clip), look.key), is_on=look.label == on)
        for look in LOOKS.values()
    )


def take_look(clip: Clip, key: str) -> None:
    """Put a look on a clip at the strength that it bears, or take any style off."""
    grade = grade_of(clip)
    if not key:
        bare = grade.with_layer(style_layer((), 1.0))
        versions.keep(clip, bare, "Style taken off")
        return
    look = _look(key)
    borne = _borne(clip.pk, _mark(clip), key)
    layer = style_layer(look.steps, borne.strength, look.label)
    versions.keep(clip, grade.with_layer(layer), f"Style {look.label} at {100 * borne.strength:.0f} %")


def look_jpeg(clip: Clip, key: str) -> bytes:
    """The middle frame with a look at the strength that the clip bears."""
    frame, look = clip.poster, _look(key)
    if frame is None:
        raise ColourError("There is no picture of this clip; read it again.")
    layer = style_layer(look.steps, _borne(clip.pk, _mark(clip), key).strength)
    small = np.ascontiguousarray(load_picture(frame.picture.path)[::3, ::3])
    return jpeg(graded_still(small, _bare(clip).with_layer(layer), frame.time_s))


def _look(key: str) -> Look:
    if key not in LOOKS:
        raise ColourError("There is no such look; reload the page.")
    return LOOKS.get(key)


def _bare(clip: Clip) -> Grade:
    """The clip's correction without style and finish."""
    grade = grade_of(clip)
    kept = tuple(x for x in grade.layers if x.scope not in (Scope.STYLE, Scope.FINISH))
    return replace(grade, layers=kept)


def _mark(clip: Clip) -> str:
    """What the answers hang on: the file, and the versions of all layers."""
    return f"{clip.sha256}.{under(clip)}"


@lru_cache(maxsize=64)
def _borne(clip_id: int, mark: str, key: str) -> Borne:
    pictures, skin = _corrected(clip_id, mark)
    return borne_strength(pictures, LOOKS.get(key).steps, skin)


@lru_cache(maxsize=2)
def _corrected(clip_id: int, mark: str) -> tuple[tuple[Encoded, ...], list[Mask]]:
    """Judging frames as the clip is corrected, and where skin is in them."""
    clip = Clip.objects.with_grades().get(pk=clip_id)
    grade = _bare(clip)
    colour = replace(grade, layers=tuple(x for x in grade.layers if x.region is None))
    pictures = tuple(
        graded_still(reduced(load_picture(f.picture.path)), colour, f.time_s) for f in clip.frames.all()
    )
    return pictures, skin_masks(pictures)

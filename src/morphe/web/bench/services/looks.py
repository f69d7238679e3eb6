"""Looks and LUTs on a clip: each at the strength that it bears here, in a picture and in numbers."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from morphe.core.advise.evidence import reduced
from morphe.core.advise.profile.explain import kind_of
from morphe.core.advise.whole.strain import LIMIT, strain_of
from morphe.core.errors import ColourError
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer, Scope
from morphe.core.grade.step import Step
from morphe.core.pipeline.screen import graded_still
from morphe.core.reading.reference import skin_masks
from morphe.core.screen.pictures import jpeg
from morphe.core.signal.arrays import Encoded, Mask
from morphe.core.signal.profiles import Kind
from morphe.core.style.looks import LOOKS, Look
from morphe.core.style.pairing import Pairing, paired
from morphe.core.style.strength import Borne, borne_strength, style_layer
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades import versions
from morphe.web.clips.services.grades.grade import grade_of, under
from morphe.web.clips.services.reading.kept import strength_of
from morphe.web.clips.services.reading.storage import load_picture
from morphe.web.library.models import KeptLook, KeptLut
from morphe.web.library.services.styles import keep_look, kept_look, kept_lut, look_layers, own_looks

__all__ = ["ShownLook", "look_jpeg", "looks_of", "save_look", "take_look"]

SMALL = 3  # of a picture on the wall: every so many pixels


@dataclass(frozen=True, slots=True, kw_only=True)
class Wearable:
    """Something that can be put on a clip: a look, or a LUT with its pairing."""

    key: str
    label: str
    does: str
    steps: tuple[Step, ...]
    serves: str = ""
    costs: str = ""
    finish: Layer | None = None
    pairing: Pairing | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownLook:
    """A look and how much of it this clip bears."""

    look: Wearable
    borne: Borne
    is_on: bool


def looks_of(clip: Clip) -> tuple[ShownLook, ...]:
    """All looks and LUTs at the strength that the clip bears; one that is refused, as it would be offered."""
    on = grade_of(clip).layer(Scope.STYLE).name
    return tuple(
        ShownLook(look=look, borne=_borne(clip, look), is_on=look.label == on) for look in _wearables(clip)
    )


def take_look(clip: Clip, key: str, *, offered: bool = False) -> None:
    """Put a look on a clip at the strength that it bears, or take any style off.

    Raises
    ------
    ColourError
        If a LUT expects something else than it would get, unless it is put on in the way that was `offered`.
    """
    grade = grade_of(clip)
    if not key:
        versions.keep(clip, grade.with_layer(style_layer((), 1.0)), "Style taken off")
        return
    look = _wearable(clip, key)
    if look.pairing and look.pairing.refusal:
        if not offered:
            raise ColourError(f"{look.pairing.refusal} {look.pairing.offer}, and it fits.")
        grade = _with_profile(clip, grade)
    borne = _borne(clip, look)
    grade = grade.with_layer(style_layer(look.steps, borne.strength, look.label))
    if look.finish:
        grade = grade.with_layer(look.finish)
    versions.keep(clip, grade, f"Style {look.label} at {100 * borne.strength:.0f} %")


def save_look(clip: Clip, name: str, words: str) -> None:
    """Keep what the clip wears, with its picture, as a look of the person's own."""
    grade = grade_of(clip)
    keep_look(grade, name, words, _picture(clip, grade.uncovered))
    style = grade.layer(Scope.STYLE)
    if style.steps:
        label = " ".join(name.split())[:60]
        versions.keep(clip, grade.with_layer(replace(style, name=label)), f"Saved as {label}")


def look_jpeg(clip: Clip, key: str, *, full: bool = False) -> bytes:
    """The middle frame with a look, at the strength that the clip bears or in full."""
    look = _wearable(clip, key)
    layer = style_layer(look.steps, 1.0 if full else _borne(clip, look).strength)
    return _picture(clip, _bare(clip).with_layer(layer))


def _picture(clip: Clip, grade: Grade) -> bytes:
    frame = clip.poster
    if frame is None:
        raise ColourError("There is no picture of this clip; read it again.")
    small = np.ascontiguousarray(load_picture(frame.picture.path)[::SMALL, ::SMALL])
    return jpeg(graded_still(small, grade, frame.time_s))


# --- what can be worn -----------------------------------------------------------------------------------


def _wearables(clip: Clip) -> Iterator[Wearable]:
    yield from (_own(kept) for kept in own_looks())
    yield from (_built_in(look) for look in LOOKS.values())
    yield from (_lut(clip, kept) for kept in KeptLut.objects.all())


def _wearable(clip: Clip, key: str) -> Wearable:
    if key.startswith("own-"):
        return _own(kept_look(key))
    if key.startswith("lut-"):
        return _lut(clip, kept_lut(key))
    if key not in LOOKS:
        raise ColourError("There is no such look; reload the page.")
    return _built_in(LOOKS.get(key))


def _built_in(look: Look) -> Wearable:
    return Wearable(
        key=look.key, label=look.label, does=look.does, steps=look.steps, serves=look.serves, costs=look.costs
    )


def _own(kept: KeptLook) -> Wearable:
    layers = {layer.scope: layer for layer in look_layers(kept)}
    style = layers.get(Scope.STYLE)
    return Wearable(
        key=kept.key, label=kept.name, does=kept.words or "A look of your own.",
        steps=style.steps if style else (), finish=layers.get(Scope.FINISH),
    )  # fmt: skip


def _lut(clip: Clip, kept: KeptLut) -> Wearable:
    convert = grade_of(clip).convert
    filmed = kind_of(convert.profile) if convert.at_work else None
    pairing = paired(
        kept.name, kept.digest, kept.role, filmed=filmed or _filmed(clip), convert=convert,
    )  # fmt: skip
    return Wearable(
        key=kept.key,
        label=kept.name,
        does=f"A LUT that expects {kept.role}.",
        steps=pairing.steps,
        pairing=pairing,
    )


def _filmed(clip: Clip) -> Kind:
    """The kind that the clip was filmed in, as it was judged."""
    found = next((kind for kind in Kind if clip.profile.get("kind") in (kind.value, kind.word)), None)
    return found or Kind.STANDARD


def _with_profile(clip: Clip, grade: Grade) -> Grade:
    """The grade with the profile that was proposed, where none is taken yet."""
    judged = next((rung for rung in clip.rungs if rung["step"] == "convert"), None)
    if grade.convert.at_work or judged is None:
        return grade
    return grade.with_step(recipe.step_from_json(judged["proposal"]))


# --- how much of it is borne ----------------------------------------------------------------------------


def _bare(clip: Clip) -> Grade:
    """The clip's correction without style and finish."""
    grade = grade_of(clip)
    kept = tuple(x for x in grade.layers if x.scope not in (Scope.STYLE, Scope.FINISH))
    return replace(grade, layers=kept)


def _borne(clip: Clip, look: Wearable) -> Borne:
    return _borne_by(clip.pk, f"{clip.sha256}.{under(clip)}", look.steps)


@lru_cache(maxsize=128)
def _borne_by(clip_id: int, mark: str, steps: tuple[Step, ...]) -> Borne:
    """`mark` names the file and the versions of all layers: what the answer hangs on."""
    clip = Clip.everything.with_grades().get(pk=clip_id)
    pictures, skin = _corrected(clip_id, mark)
    file, bare, moment = strength_of(clip), _bare(clip), clip.poster.time_s if clip.poster else 0.0

    def strain(style: Layer) -> float:
        return strain_of(file, bare.with_layer(style), moment, with_cure=False).worst / LIMIT

    return borne_strength(pictures, steps, skin, strain=strain)


@lru_cache(maxsize=2)
def _corrected(clip_id: int, mark: str) -> tuple[tuple[Encoded, ...], list[Mask]]:
    """Judging frames as the clip is corrected, and where skin is in them."""
    clip = Clip.everything.with_grades().get(pk=clip_id)
    grade = _bare(clip)
    colour = replace(grade, layers=tuple(x for x in grade.layers if x.region is None))
    pictures = tuple(
        graded_still(reduced(load_picture(f.picture.path)), colour, f.time_s) for f in clip.frames.all()
    )
    return pictures, skin_masks(pictures)

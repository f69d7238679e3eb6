"""LUTs for a camera's or a field screen: a profile's conversion with a look behind it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from django.utils.text import slugify

from morphe.core.errors import ColourError, UnknownName
from morphe.core.grade.convert import Convert, convert_of
from morphe.core.grade.grade import Grade
from morphe.core.interchange.cube import cube_text
from morphe.core.pipeline.cube import CubeLut, bake_grade
from morphe.core.signal.camera_log import FULL_SCALE, NARROW_BLACK, NARROW_SPAN
from morphe.core.signal.profiles import PROFILES
from morphe.core.style.looks import LOOKS
from morphe.core.style.strength import style_layer
from morphe.web.library.models import KeptProfile
from morphe.web.library.services.styles import kept_look, look_layers, own_looks
from morphe.web.shell.numbers import number, row

__all__ = ["DOMAINS", "SIZES", "looks_for_screens", "monitoring_lut"]

SIZES = (17, 33, 65)
DOMAINS = {"full": "all codes, 0 to 1023", "narrow": "64 to 940, as video has it"}


def monitoring_lut(key: str, asked: Mapping[str, str]) -> tuple[str, str]:
    """(text, file name) of a .cube from a profile's code to ordinary video, with a look at a strength.

    Raises
    ------
    MorpheError
        If there is no such profile, look, size or domain.
    """
    size, domain = number(asked.get("size", "33")), asked.get("domain", "full")
    if size not in SIZES or domain not in DOMAINS:
        raise ColourError(
            f"A LUT for a screen has {', '.join(map(str, SIZES))} points a side; choose its codes too."
        )
    convert, label = _conversion(key)
    grade, look = _with_look(Grade.of(convert), asked.get("look", ""), asked.get("strength", "100"))
    lut = _of_all_codes(grade, size) if domain == "full" else bake_grade(grade, size=size, domain=(0.0, 1.0))
    clipped = CubeLut(table=np.clip(lut.table, 0, 1), domain=(0.0, 1.0))
    title = f"{label}{f' with {look}' if look else ''}, {domain}"
    return cube_text(clipped, title=title), f"{slugify(title)}-{size}.cube"


def looks_for_screens() -> list[tuple[str, str]]:
    """Keys and names of the looks that a LUT for a screen can hold."""
    return [
        *((look.key, look.label) for look in LOOKS.values()),
        *((own.key, own.name) for own in own_looks()),
    ]


def _conversion(key: str) -> tuple[Convert, str]:
    if not key.startswith("own-"):
        profile = PROFILES.get(key)
        return Convert(profile=profile.key), profile.label
    kept = KeptProfile.objects.filter(pk=row(key.removeprefix("own-"))).first()
    if kept is None:
        raise UnknownName("This profile is no longer in the Library.")
    if kept.is_table:
        return Convert(profile="table", name=kept.name, table=kept.digest), kept.name
    return convert_of(kept.own), kept.name


def _with_look(grade: Grade, key: str, strength: str) -> tuple[Grade, str]:
    if not key:
        return grade, ""
    share = min(max(number(strength) or 0, 0), 100) / 100
    if key in LOOKS:
        look = LOOKS.get(key)
        return grade.with_layer(style_layer(look.steps, share, look.label)), look.label
    kept = kept_look(key)
    for layer in look_layers(kept):
        grade = grade.with_layer(replace(layer, strength=layer.strength * share))
    return grade, kept.name


def _of_all_codes(grade: Grade, size: int) -> CubeLut:
    """A table whose 0..1 are all codes, going in and coming out; video's 64 to 940 lie inside."""
    black, span = NARROW_BLACK / FULL_SCALE, NARROW_SPAN / FULL_SCALE
    lut = bake_grade(grade, size=size, domain=(-black / span, (1 - black) / span))
    return CubeLut(table=lut.table * span + black, domain=(0.0, 1.0))

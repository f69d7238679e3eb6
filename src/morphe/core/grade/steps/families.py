"""Colour families: single hues turned, strengthened or deepened, their neighbours left alone."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import ClassVar, NamedTuple

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.grade.param import Param
from morphe.core.grade.step import ColourStep, InHdr
from morphe.core.signal.arrays import Encoded, Float, Plane
from morphe.core.signal.hues import coloured, smoothstep, within_reach
from morphe.core.signal.perception import linear_to_oklab, oklab_to_linear
from morphe.core.signal.transfer import decode_bt1886, encode_bt1886

__all__ = ["CHANGES", "EDIT", "MOST_EDITS", "Edit", "Families"]

MOST_EDITS = 16
SAMPLES = 1440  # of the circle of hues
LEAST_SLOPE, MOST_SLOPE = 0.25, 3.0  # of hue out against hue in: hues neither fall together nor break up
WEAK = 0.12  # Oklab chroma: a raise spares colours that are much stronger


class Edit(NamedTuple):
    """What is done about a hue: `at` with its reach `below` and `above` in degrees, and how it changes.

    `hue` turns it by degrees, `strength` and `depth` are percent; `tone` says where strength works: -100 in
    the dark only, 0 everywhere, 100 in the bright only.
    """

    at: float
    below: float
    above: float
    hue: float = 0.0
    strength: float = 0.0
    depth: float = 0.0
    tone: float = 0.0

    @property
    def is_neutral(self) -> bool:
        return not (self.hue or self.strength or self.depth)


EDIT: dict[str, Param] = {
    "at": Param(low=0, high=360, unit="°", label="Hue", up="clockwise", down="anticlockwise"),
    "below": Param(low=8, high=90, unit="°", label="Reach below", up="wider", down="narrower"),
    "above": Param(low=8, high=90, unit="°", label="Reach above", up="wider", down="narrower"),
    "hue": Param(
        low=-25, high=25, unit="°", label="Turn the hue", up="clockwise on the ring", down="anticlockwise"
    ),
    "strength": Param(
        low=-100, high=100, unit="%", label="Strength", up="stronger", down="calmer",
        natural=(-60, 40),
    ),
    "depth": Param(
        low=-40, high=40, unit="%", label="Depth", up="deeper", down="lighter",
        natural=(-15, 15),
    ),
    "tone": Param(low=-100, high=100, unit="", label="Where", up="in the bright", down="in the dark",
                  may_move=False, nudge=10),
}  # fmt: skip


CHANGES = ("hue", "strength", "depth", "tone")


@dataclass(frozen=True, slots=True, kw_only=True)
class Families(ColourStep):
    """Edits of single hues in Oklch. Neutral colours have no hue and never move.

    All turns of hue together keep the order of hues, and a slope from a quarter to three; a raise of strength
    works on the weakly coloured members and spares the strong ones.
    """

    key: ClassVar[str] = "families"
    label: ClassVar[str] = "Colour families"
    in_hdr: ClassVar[InHdr] = InHdr.SCALED

    edits: tuple[Edit, ...] = ()

    def __post_init__(self) -> None:
        if not isinstance(self.edits, tuple) or len(self.edits) > MOST_EDITS:
            raise ColourError(f"Colour families: at most {MOST_EDITS} edits.")
        object.__setattr__(self, "edits", tuple(_checked(edit) for edit in self.edits))

    @property
    def is_neutral(self) -> bool:
        return all(edit.is_neutral for edit in self.edits)

    def edit(self, at: float) -> Edit | None:
        """The edit of a hue, if there is one."""
        return next((edit for edit in self.edits if abs(edit.at - at) < 0.5), None)

    def with_edit(self, edit: Edit) -> Families:
        """A copy in which an edit replaces the one of its hue, or is added."""
        kept = tuple(one for one in self.edits if abs(one.at - edit.at) >= 0.5)
        return Families(on=self.on, edits=(*kept, edit))

    @property
    def summary(self) -> str:
        count = sum(not edit.is_neutral for edit in self.edits)
        return "" if not self.at_work else f"{count} colour{'s' if count > 1 else ''}"

    def apply(self, picture: Encoded) -> Encoded:
        inner = np.clip(picture, 0, 1)
        lab = linear_to_oklab(decode_bt1886(inner).astype(np.float32))
        moved = encode_bt1886(oklab_to_linear(self.changed(lab)))
        return (moved + (picture - inner)).astype(np.float32)

    def changed(self, lab: Float) -> Float:
        """The edits on Oklab (..., 3)."""
        lightness, a, b = lab[..., 0], lab[..., 1], lab[..., 2]
        chroma, hue = np.hypot(a, b), np.degrees(np.arctan2(b, a)) % 360
        has_hue = coloured(chroma).astype(np.float32)
        edits = tuple(edit for edit in self.edits if not edit.is_neutral)
        factor, deep = np.ones_like(chroma), np.zeros_like(chroma)
        for edit in edits:
            share = has_hue * _read(_reach(edit.at, edit.below, edit.above), hue)
            factor = factor * (1 + share * _strength(edit, chroma, lightness))
            deep = deep + share * np.float32(edit.depth / 100)
        if any(edit.depth for edit in edits):
            lightness = lightness * (1 - deep * np.clip(chroma * factor / WEAK, 0, 1))
        a, b = a * factor, b * factor
        if any(edit.hue for edit in edits):
            angle = has_hue * _read(_turns(edits), hue) * np.float32(np.pi / 180)
            cos, sin = np.cos(angle), np.sin(angle)
            a, b = a * cos - b * sin, a * sin + b * cos
        return np.stack([lightness, a, b], axis=-1)


def _checked(edit: Sequence[float]) -> Edit:
    if len(edit) != len(Edit._fields):
        raise ColourError(f"An edit of a colour family has {len(Edit._fields)} numbers.")
    found = Edit(*edit)
    for name, param in EDIT.items():
        param.check("Colour families", name, getattr(found, name))
    return found


def _strength(edit: Edit, chroma: Plane, lightness: Plane) -> Plane:
    """By how much of itself the chroma of members changes."""
    amount = np.float32(edit.strength / 100)
    changes = amount * np.exp(-((chroma / WEAK) ** 2)) if amount > 0 else amount
    if edit.tone:
        bright = smoothstep(0.25, 0.75, lightness).astype(np.float32)
        there = bright if edit.tone > 0 else 1 - bright
        changes = changes * (1 + np.float32(abs(edit.tone) / 100) * (there - 1))
    return np.asarray(changes, np.float32)


def _read(table: Float, hue: Plane) -> Plane:
    """A table over the circle at hues of 0 to 360 degrees, straight between its samples."""
    place = hue * np.float32(SAMPLES / 360)
    low = place.astype(np.int32)
    return np.asarray(table[low] + (place - low) * (table[low + 1] - table[low]), np.float32)


@lru_cache(maxsize=64)
def _reach(at: float, below: float, above: float) -> Float:
    hues = np.arange(SAMPLES + 2) * 360 / SAMPLES  # two more: hues beside 360 lie between samples, too
    return within_reach(hues, at, below, above).astype(np.float32)


@lru_cache(maxsize=64)
def _turns(edits: tuple[Edit, ...]) -> Float:
    """By how many degrees every hue turns; less than was asked where hues would fall together
    or break up."""
    total = np.zeros(SAMPLES + 2)
    for edit in edits:
        total += edit.hue * _reach(edit.at, edit.below, edit.above)
    slopes = np.diff(total) * SAMPLES / 360
    falls, rises = max(-float(slopes.min()), 1e-9), max(float(slopes.max()), 1e-9)
    return (total * min(1.0, (1 - LEAST_SLOPE) / falls, (MOST_SLOPE - 1) / rises)).astype(np.float32)

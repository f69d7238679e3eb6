"""The numbers that a match may turn, stage by stage, and the steps they make."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from morphe.core.grade.step import Step
from morphe.core.grade.steps import Balance, Casts, Curves, Exposure, Families, Saturation
from morphe.core.grade.steps.families import Edit
from morphe.core.signal.hues import FAMILIES

__all__ = [
    "COLOUR",
    "KNOBS",
    "LEVELS",
    "STAGES",
    "WHITE",
    "Knob",
    "family_knobs",
    "knob_of",
    "rounded",
    "steps_of",
]

LEVELS, WHITE, COLOUR, HUES = "levels", "balance", "colour", "families"
STAGES = {
    LEVELS: "Levels: black, middle and white",
    WHITE: "Balance of light, shadows and lights",
    COLOUR: "Saturation",
    HUES: "Single colours",
}
CURVE_AT = (0.0, 7.0, 20.0, 38.0, 58.0, 80.0, 100.0)  # percent of luma
FINE, COARSE = 2, 1  # decimals that a person reads: of stops, of all else
LEAST_SLOPE, MOST_SLOPE = 0.4, 2.4  # of the curve of luma


@dataclass(frozen=True, slots=True, kw_only=True)
class Knob:
    """A number of a stage: how far it usually goes, and how far it may."""

    stage: str
    step: str
    name: str
    usual: float
    low: float
    high: float


def _both(stage: str, step: str, name: str, usual: float, most: float) -> Knob:
    return Knob(stage=stage, step=step, name=name, usual=usual, low=-most, high=most)


KNOBS: tuple[Knob, ...] = (
    _both(LEVELS, "exposure", "stops", 0.8, 3.0),
    *(_both(LEVELS, "curve", f"{at:g}", 5.0, 18.0) for at in CURVE_AT),
    Knob(stage=WHITE, step="balance", name="warmth", usual=30, low=-100, high=150),
    _both(WHITE, "balance", "tint", 12, 45),
    *(_both(WHITE, "casts", name, 3, 10) for name in Casts.params),
    Knob(stage=COLOUR, step="saturation", name="amount", usual=20, low=-80, high=100),
    _both(COLOUR, "saturation", "muted", 25, 60),
)


def family_knobs(keys: tuple[str, ...]) -> tuple[Knob, ...]:
    """The numbers of these hue families, bounded: a green that is another green stays one."""
    reach = (("hue", 5, 12), ("strength", 10, 25), ("depth", 5, 12))
    return tuple(_both(HUES, key, name, usual, most) for key in keys for name, usual, most in reach)


def rounded(values: Mapping[Knob, float]) -> dict[Knob, float]:
    """Numbers as a person reads them."""
    return {k: round(float(v), FINE if k.step == "exposure" else COARSE) for k, v in values.items()}


def knob_of(stage: str, step: str, name: str) -> Knob:
    """A knob by its names.

    Raises
    ------
    KeyError
        If this version has none of these names.
    """
    found = {(k.stage, k.step, k.name): k for k in (*KNOBS, *family_knobs(tuple(FAMILIES)))}
    return found[stage, step, name]


def steps_of(values: Mapping[Knob, float]) -> tuple[Step, ...]:
    """The steps that numbers make, in the order of the work."""
    found: dict[str, dict[str, Any]] = {}
    for knob, value in values.items():
        found.setdefault(knob.step, {})[knob.name] = float(value)
    numbers = {key: found.pop(key, {}) for key in ("exposure", "balance", "casts", "saturation", "curve")}
    curve = _curve({float(at): by for at, by in numbers["curve"].items()})
    steps: tuple[Step, ...] = (
        Exposure(**numbers["exposure"]), Balance(**numbers["balance"]), Casts(**numbers["casts"]),
        Curves(luma=curve) if curve else Curves(), Saturation(**numbers["saturation"]),
        Families(edits=tuple(_edit(key, turned) for key, turned in found.items())),
    )  # fmt: skip
    return tuple(step for step in steps if step.at_work)


def _curve(moved: dict[float, float]) -> tuple[tuple[float, float], ...]:
    """A rising curve whose points are moved by so many percent, within the slopes."""
    if not any(moved.values()):
        return ()
    at = np.array(sorted(moved))
    level = at + np.array([moved[a] for a in at])
    for i in range(1, len(at)):
        run = at[i] - at[i - 1]
        level[i] = np.clip(level[i], level[i - 1] + LEAST_SLOPE * run, level[i - 1] + MOST_SLOPE * run)
    level = np.clip(level, -9.9, 109.9)
    return tuple((float(a), round(float(v), 3)) for a, v in zip(at, level, strict=True))


def _edit(key: str, turned: dict[str, float]) -> Edit:
    family = FAMILIES.get(key)
    return Edit(at=family.at, below=family.below, above=family.above, **turned)

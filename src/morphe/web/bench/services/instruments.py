"""What each rung shows and offers: its loupe, the mark to drag, and its controls."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

import numpy as np

from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import (
    STEPS,
    Balance,
    BlackPoint,
    Exposure,
    HoldLights,
    MidLevel,
    Step,
    WhitePoint,
)
from morphe.core.measure.scopes import vector_angle_deg
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.ycbcr import rgb_to_ycbcr

__all__ = ["INSTRUMENTS", "Control", "Instrument"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Control:
    """One number of a step: slider, number box and nudge."""

    name: str
    label: str
    low: float
    high: float
    nudge: float
    unit: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Instrument:
    """A rung's loupe: the part of a scope that decides it, and how dragging its mark moves the number.

    `window` is (low, high) in percent for levels, or the half-width of the plane for the vectorscope;
    `per_percent` is the change of `drags` for one percent of dragging; `plane` the 2x2 matrix from
    a drag in (Cb, Cr) to changes of the two controls.
    """

    key: str
    scope: str  # luma, histogram or vector
    window: tuple[float, float]
    zone: tuple[float, float] | None
    mark: int
    drags: str
    per_percent: float
    hint: str
    controls: tuple[Control, ...]
    plane: tuple[float, ...] = field(default=())

    def as_json(self) -> dict[str, Any]:
        return {
            "key": self.key,
            "scope": self.scope,
            "window": self.window,
            "zone": self.zone,
            "mark": self.mark,
            "drags": self.drags,
            "perPercent": self.per_percent,
            "plane": self.plane,
        }


def _level_after(step: Step, level: float) -> float:
    pixel = np.full((1, 3), level, np.float32)
    return float(evaluate(Grade.of(step), pixel)[0, 1])


def _per_percent(neutral: Step, moved: Step, change: float, level: float) -> float:
    """Change of a parameter that moves a grey of that level (0..1) by one percent."""
    return change / (100 * (_level_after(moved, level) - _level_after(neutral, level)))


@lru_cache(maxsize=1)
def _balance_plane() -> tuple[float, ...]:
    """How warmth and tint must change to move a mid grey by one in Cb and in Cr: rows (warmth, tint)."""

    def chroma(step: Step) -> np.ndarray:
        grey = np.full((1, 3), 0.5, np.float32)
        return rgb_to_ycbcr(evaluate(Grade.of(step), grey))[0, 1:]

    at_rest = chroma(Balance())
    columns = [(chroma(Balance(warmth=20)) - at_rest) / 20, (chroma(Balance(tint=5)) - at_rest) / 5]
    return tuple(float(v) for v in np.linalg.inv(np.stack(columns, axis=1)).ravel())


def _controls(step: type[Step], labels: dict[str, tuple[str, float]]) -> tuple[Control, ...]:
    return tuple(
        Control(
            name=name,
            label=label,
            low=step.limits[name][0],
            high=step.limits[name][1],
            nudge=nudge,
            unit=step.units.get(name, "%"),
        )
        for name, (label, nudge) in labels.items()
    )


def _build() -> dict[str, Instrument]:
    def of(key: str, scope: str, window: tuple[float, float], zone: tuple[float, float] | None, drags: str,
           per_percent: float, hint: str, labels: dict[str, tuple[str, float]], mark: int = 0,
           plane: tuple[float, ...] = ()) -> Instrument:  # fmt: skip
        return Instrument(
            key=key, scope=scope, window=window, zone=zone, mark=mark, drags=drags, per_percent=per_percent,
            hint=hint, controls=_controls(STEPS.get(key), labels), plane=plane,
        )  # fmt: skip

    built = [
        of("convert", "histogram", (-7, 109), None, "", 0.0, "Where the camera put its tones.", {}),
        of("exposure", "luma", (40, 109), (72, 100), "stops",
           _per_percent(Exposure(), Exposure(stops=0.1), 0.1, 0.75),
           "Drag the bright end into its zone.", {"stops": ("Exposure", 0.05)}),
        of("balance", "vector", (0.0, 0.14), (0.0, 0.015), "warmth", 0.0,
           "Drag the neutrals to the centre.",
           {"warmth": ("Cool (+) or warm (−)", 1.0), "tint": ("Less (+) or more (−) green", 0.5)},
           plane=_balance_plane()),
        of("lights", "luma", (70, 109), (90, 100), "stops",
           -abs(_per_percent(HoldLights(), HoldLights(stops=0.5), 0.5, 0.97)),
           "Drag down to hold more light below white.", {"stops": ("Light above white to hold", 0.05)}),
        of("black", "luma", (-7, 15), (0, 5), "lower",
           _per_percent(BlackPoint(), BlackPoint(lower=2), 2, 0.05),
           "Drag the darkest tones into the zone.", {"lower": ("Lower black by", 0.2)}),
        of("white", "luma", (70, 109), (80, 100), "raise_by",
           _per_percent(WhitePoint(), WhitePoint(raise_by=2), 2, 0.85),
           "Drag the brightest tones into the zone.", {"raise_by": ("Raise white by", 0.2)}),
        of("mid", "luma", (15, 75), (30, 50), "lift",
           _per_percent(MidLevel(), MidLevel(lift=2), 2, 0.45),
           "Drag the middle up for day, down for dusk.", {"lift": ("Lift the middle by", 0.2)}),
        of("contrast", "histogram", (-7, 109), (60, 95), "amount", 2.0,
           "Drag the bright mark outwards.",
           {"amount": ("Contrast", 1.0), "pivot": ("Around", 1.0)}, mark=1),
        of("saturation", "vector", (0.0, 0.5), None, "amount", 8.0,
           "Drag the ring in or out; the outline is the limit.", {"amount": ("Saturation", 1.0)}),
    ]  # fmt: skip
    return {i.key: i for i in built}


INSTRUMENTS = _build()


@lru_cache(maxsize=1)
def safe_outline() -> tuple[tuple[float, float], ...]:
    """The outer outline of the vectorscope: fully saturated primaries and secondaries as (Cb, Cr)."""
    corners = np.array([[1, 0, 0], [1, 0, 1], [0, 0, 1], [0, 1, 1], [0, 1, 0], [1, 1, 0]], np.float32)
    points = rgb_to_ycbcr(corners)[:, 1:]
    order = np.argsort(vector_angle_deg(points[:, 0], points[:, 1]))
    return tuple((float(cb), float(cr)) for cb, cr in points[order])

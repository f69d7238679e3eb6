"""What each rung shows and offers: its loupe, the mark to drag, and its controls, all from the rung's own
module."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np

from morphe.core.advise.rung import Rule
from morphe.core.advise.rungs import RUNGS
from morphe.core.grade.convert import Convert
from morphe.core.grade.even_out import EvenOut
from morphe.core.grade.grade import Grade
from morphe.core.grade.param import Param
from morphe.core.grade.step import FrameStep, Step
from morphe.core.grade.steps import Balance
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.perception import oklab_to_linear
from morphe.core.signal.transfer import encode_bt1886
from morphe.core.signal.ycbcr import rgb_to_ycbcr

__all__ = ["INSTRUMENTS", "Control", "Tool", "hue_ring", "tint_pairs"]


OWN_DRAWING = ("families",)  # what they are judged by is their own instrument


@dataclass(frozen=True, slots=True, kw_only=True)
class Control:
    """One number of a step: slider, number box and nudge."""

    name: str
    param: Param


@dataclass(frozen=True, slots=True, kw_only=True)
class Tool:
    """A rung's loupe as the page draws it, and how dragging its mark moves the number.

    `per_percent` is the change of the number for one percent of dragging; `plane` the 2x2 matrix from a drag
    in (Cb, Cr) to changes of the two numbers.
    """

    rule: Rule
    controls: tuple[Control, ...]
    per_percent: float = 0.0
    plane: tuple[float, ...] = ()

    @property
    def hint(self) -> str:
        return self.rule.instrument.hint

    @property
    def has_loupe(self) -> bool:
        return self.rule.key not in OWN_DRAWING and (self.rule.read is not None or self.rule.key == "convert")

    def as_json(self) -> dict[str, Any]:
        instrument = self.rule.instrument
        return {
            "key": self.rule.key,
            "layer": self.rule.layer,
            "scope": instrument.scope,
            "window": instrument.window,
            "mark": instrument.mark,
            "drags": instrument.drags,
            "perPercent": self.per_percent,
            "plane": self.plane,
        }


def _level_after(step: Step, level: float) -> float:
    pixel = np.full((1, 3), level, np.float32)
    return float(evaluate(Grade.of(step), pixel)[0, 1])


def _per_percent(rule: Rule) -> float:
    """Change of the dragged number that moves a grey of the instrument's level by one percent."""
    instrument = rule.instrument
    if instrument.per_percent or not instrument.probe:
        return instrument.per_percent
    probe: dict[str, Any] = {instrument.drags: instrument.probe}
    moved = rule.step(**probe)
    by = _level_after(moved, instrument.level) - _level_after(rule.step(), instrument.level)
    return instrument.probe / (100 * by)


def _balance_plane() -> tuple[float, ...]:
    """How warmth and tint must change to move a mid grey by one in Cb and in Cr: rows (warmth, tint)."""

    def chroma(step: Step) -> np.ndarray:
        grey = np.full((1, 3), 0.5, np.float32)
        return rgb_to_ycbcr(evaluate(Grade.of(step), grey))[0, 1:]

    at_rest = chroma(Balance())
    columns = [(chroma(Balance(warmth=20)) - at_rest) / 20, (chroma(Balance(tint=5)) - at_rest) / 5]
    return tuple(float(v) for v in np.linalg.inv(np.stack(columns, axis=1)).ravel())


def _tool(rule: Rule) -> Tool:
    of_the_file = rule.layer == "source"
    controls = (
        ()
        if rule.step in (Convert, EvenOut)
        else tuple(Control(name=n, param=p) for n, p in rule.step.params.items())
    )
    is_level = not of_the_file and not issubclass(rule.step, FrameStep)
    return Tool(
        rule=rule, controls=controls, per_percent=_per_percent(rule) if is_level else 0.0,
        plane=_balance_plane() if rule.step is Balance else (),
    )  # fmt: skip


INSTRUMENTS: dict[str, Tool] = {key: _tool(rule) for key, rule in RUNGS.items()}


PAIRS = (
    (240, 60),
    (200, 20),
    (325, 145),
    (285, 105),
    (200, 60),
)  # hues of Oklab that oppose, and one that is free


@lru_cache(maxsize=1)
def tint_pairs() -> tuple[tuple[int, int, str, str], ...]:
    """Hues on offer for shadows and lights, with their colours."""
    ring = hue_ring()
    at = {hue: ring[round(hue * len(ring) / 360) % len(ring)] for pair in PAIRS for hue in pair}
    return tuple((d, b, at[d], at[b]) for d, b in PAIRS)


@lru_cache(maxsize=1)
def hue_ring(samples: int = 72) -> tuple[str, ...]:
    """Colours around the circle of hues, from 0 degrees on, for the ring of the palette."""
    angle = np.radians(np.arange(samples) * 360 / samples)
    lab = np.stack([np.full(samples, 0.7), 0.11 * np.cos(angle), 0.11 * np.sin(angle)], axis=-1)
    codes = np.clip(np.round(encode_bt1886(oklab_to_linear(lab)) * 255), 0, 255).astype(int)
    return tuple("#{:02x}{:02x}{:02x}".format(*code) for code in codes)

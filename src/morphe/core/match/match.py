"""A clip matched to a reference: stages in the order of the work, each with its distance, skin held apart."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from morphe.core.grade.layer import Layer, Scope
from morphe.core.grade.step import Step
from morphe.core.grade.steps import SkinTurn
from morphe.core.match.distance import cloud_of, distance, sample_of, word_of
from morphe.core.match.fit import Fitted, fit, through_steps
from morphe.core.match.knobs import KNOBS, LEVELS, STAGES, Knob, family_knobs, knob_of, rounded, steps_of
from morphe.core.measure.palette import members_of
from morphe.core.measure.skin import Skin, skin_of_pixels
from morphe.core.signal.arrays import Encoded, Mask
from morphe.core.signal.hues import FAMILIES

__all__ = ["MATCH", "Match", "Stage", "match"]

MATCH = "match"  # id of the layer
FITTED_PIXELS = 2_400
LEAST_SHARE = 0.01  # of both pictures: less of a hue is not matched
ALONE_SHARE, HARDLY = 0.06, 0.005  # of one picture, and of the other: a hue that is only there
SKIN_MOST_DEG = 2.5  # so far skin's hue may be moved
LESS = (1.0, 0.75, 0.5, 0.25, 0.1, 0.0)  # of what is done to colours, until skin can be held
# How much turning a knob costs: next to nothing where both show one place; else the dearest that is enough.
FREE, DEAR = 0.12, (6.0, 3.0, 1.5, 0.8, 0.4)
ONE_PLACE = 0.35  # of distance that is left: only one place comes so near
ENOUGH, NEAR = 0.3, 1.0  # of the distance before, and of distance
WORTH = 0.97  # of the distance: less gain is not worth a correction


@dataclass(frozen=True, slots=True, kw_only=True)
class Stage:
    """One stage: the distance before and after it, and its numbers."""

    key: str
    label: str
    before: float
    after: float
    numbers: tuple[tuple[Knob, float], ...]

    @property
    def summary(self) -> str:
        """What it does, in a few words."""
        return "; ".join(f"{s.label}: {s.summary}" for s in steps_of(dict(self.numbers))) or "nothing to do"

    @property
    def word(self) -> str:
        """How near it comes."""
        return word_of(self.after)

    def as_json(self) -> dict[str, object]:
        return {
            "stage": self.key, "label": self.label, "before": round(self.before, 2),
            "after": round(self.after, 2), "does": self.summary,
        }  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Match:
    """What brings a clip to a reference."""

    before: float
    after: float
    stages: tuple[Stage, ...]
    skin: SkinTurn | None = None
    left: tuple[str, ...] = ()  # what differs and was let be, in words

    def layer(self, name: str = "", taken: Mapping[str, float] | None = None) -> Layer:
        """The correction as a layer; `taken` says how much of each stage, 0..1."""
        share = taken or {}
        values = {k: v * share.get(stage.key, 1.0) for stage in self.stages for k, v in stage.numbers}
        steps: tuple[Step, ...] = steps_of(rounded(values))
        if self.skin and steps:
            steps = (*steps, self.skin)
        return Layer(id=MATCH, scope=Scope.CLIP, name=name or "Match", steps=steps)

    def record(self) -> dict[str, Any]:
        """All of it, to be kept."""
        return {
            "before": self.before, "after": self.after, "left": list(self.left),
            "skin": self.skin.settings() if self.skin else None,
            "stages": [
                {
                    "key": s.key, "before": s.before, "after": s.after,
                    "numbers": [[k.step, k.name, value] for k, value in s.numbers],
                }
                for s in self.stages
            ],
        }  # fmt: skip

    @classmethod
    def of_record(cls, kept: Mapping[str, Any]) -> Match:
        """From what `record` gave."""
        return cls(
            before=kept["before"], after=kept["after"], left=tuple(kept["left"]),
            skin=SkinTurn(**kept["skin"]) if kept["skin"] else None,
            stages=tuple(
                Stage(
                    key=s["key"], label=STAGES[s["key"]], before=s["before"], after=s["after"],
                    numbers=tuple((knob_of(s["key"], step, name), v) for step, name, v in s["numbers"]),
                )
                for s in kept["stages"]
            ),
        )  # fmt: skip

    def as_json(self) -> dict[str, object]:
        return {
            "distance": {"before": round(self.before, 2), "after": round(self.after, 2)},
            "stages": [stage.as_json() for stage in self.stages],
            "left": list(self.left),
        }


def match(
    pictures: Sequence[Encoded], reference: Sequence[Encoded], skin: Sequence[Mask] | None = None
) -> Match:
    """Bring pictures (H, W, 3) of one clip, in the working space, to those of a reference.

    Parameters
    ----------
    skin : pixels (H, W) of each picture that are skin, where skin was found
    """
    pixels, wanted = sample_of(pictures, FITTED_PIXELS), sample_of(reference, FITTED_PIXELS)
    shares, there = _shares(pixels), _shares(wanted)
    both = tuple(k for k in FAMILIES if min(shares[k], there[k]) >= LEAST_SHARE)
    knobs = (*KNOBS, *family_knobs(both))
    values = _fitted(pixels, wanted, [[k for k in knobs if k.stage == stage] for stage in STAGES])
    values, turn = _held_skin(pictures, skin, values)
    stages = _stages(values, pictures, reference)
    before, after = stages[0].before, stages[-1].after
    if after > WORTH * before:
        stages, turn, after = tuple(_left_alone(s, before) for s in stages), None, before
    return Match(before=before, after=after, stages=stages, skin=turn, left=_left(shares, there))


def _fitted(pixels: Encoded, wanted: Encoded, stages: Sequence[Sequence[Knob]]) -> Fitted:
    """Numbers that go as far as is right: all the way in one place, no further than is enough in another."""
    before = distance([pixels], [wanted])
    freely = rounded(fit(pixels, wanted, stages, held=FREE))
    if distance([through_steps(freely, pixels)], [wanted]) <= ONE_PLACE:
        return freely
    for price in DEAR:
        values = rounded(fit(pixels, wanted, stages, held=price))
        after = distance([through_steps(values, pixels)], [wanted])
        if after <= max(ENOUGH * before, NEAR):
            return values
    return freely


def _left_alone(stage: Stage, distance: float) -> Stage:
    return Stage(key=stage.key, label=stage.label, before=distance, after=distance, numbers=())


def _shares(pixels: Encoded) -> dict[str, float]:
    """How much of pixels (n, 3) each hue family takes."""
    return {key: float(mask.mean()) for key, mask in members_of(cloud_of(pixels) / 100).items()}


def _stages(values: Fitted, pictures: Sequence[Encoded], reference: Sequence[Encoded]) -> tuple[Stage, ...]:
    found: list[Stage] = []
    taken: Fitted = {}
    shown = [sample_of(pictures)]
    there = [sample_of(reference)]
    before = distance(shown, there)
    for key, label in STAGES.items():
        numbers = {k: v for k, v in values.items() if k.stage == key}
        taken |= numbers
        after = distance([through_steps(taken, shown[0])], there) if numbers else before
        stage = Stage(key=key, label=label, before=before, after=after, numbers=tuple(numbers.items()))
        found.append(stage)
        before = after
    return tuple(found)


def _held_skin(
    pictures: Sequence[Encoded], skin: Sequence[Mask] | None, values: Fitted
) -> tuple[Fitted, SkinTurn | None]:
    """The turn that holds skin where a match moves its hue too far; less of its colours if none does."""
    masks = skin or [np.zeros(p.shape[:2], bool) for p in pictures]
    found = [p[m] for p, m in zip(pictures, masks, strict=True) if m.any()]
    if not found:
        return values, None
    pixels = np.concatenate(found)
    was = skin_of_pixels(pixels)
    for share in LESS:
        tried = {k: v if k.stage == LEVELS else share * v for k, v in values.items()}
        seen = through_steps(tried, pixels)
        moved = _turned(was, skin_of_pixels(seen))
        if abs(moved) <= SKIN_MOST_DEG:
            return tried, None
        turn = _turned_back(was, seen)
        if abs(_turned(was, skin_of_pixels(turn.apply(seen)))) <= SKIN_MOST_DEG:
            return tried, turn
    return {}, None


def _turned_back(was: Skin, seen: Encoded) -> SkinTurn:
    """The turn by which skin comes back to its hue, or as far as a turn goes."""
    centre = SkinTurn.within("centre", skin_of_pixels(seen).angle_deg)
    turn = SkinTurn(centre=centre)
    for _ in range(3):  # not all of the skin lies in the middle of the turn
        left = _turned(was, skin_of_pixels(turn.apply(seen)))
        turn = SkinTurn(turn=SkinTurn.within("turn", round(turn.number("turn") - left, 1)), centre=centre)
    return turn


def _turned(was: Skin, now: Skin) -> float:
    return (now.angle_deg - was.angle_deg + 180) % 360 - 180


def _left(here: Mapping[str, float], there: Mapping[str, float]) -> tuple[str, ...]:
    """What only one of the two shows."""
    said = []
    for family in FAMILIES.values():
        key = family.key
        for one, other, text in (
            (
                here,
                there,
                "{label} fill {share:.0f} % here and are not in the reference; they are left as they are.",
            ),
            (
                there,
                here,
                "{label} fill {share:.0f} % of the reference and are not here; nothing is made of that.",
            ),
        ):
            if one[key] >= ALONE_SHARE and other[key] < HARDLY:
                said.append(text.format(label=family.label, share=100 * one[key]))
    return tuple(said)

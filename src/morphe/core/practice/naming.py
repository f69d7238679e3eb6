"""Naming faults: the beginning and the end of a clip with its scopes, and a few names; then the proof."""

from __future__ import annotations

import cv2
import numpy as np

from morphe.core.practice.difficulty import apart
from morphe.core.practice.exercise import Exercise, subject
from morphe.core.practice.faults import FAULTS, Fault, spoiled
from morphe.core.practice.scenes import Shot, chosen_shot
from morphe.core.signal.arrays import Encoded, Mask

__all__ = ["CHOICES", "GROUPS", "amount_at", "named"]

CHOICES = 4
PLAIN, SUBTLE = 1.0, 0.3  # amounts at the easiest and the hardest level
TOLD, TRIES = 1.0, 6  # steps that a fault must show by; scenes that are tried for that
GATHERED = 1.6  # times its median, by which a difference is one of a part
LATER_S = 1.5  # from a clip's beginning to its end
GROUPS = {
    "name-light": ("dark", "bright", "flat", "log", "converted twice", "crushed", "veiled"),
    "name-colour": ("warm", "cool", "green", "shadows", "skin", "loud", "pale"),
    "name-clip": ("drift", "strain", "water"),
}
# Faults that look alike in part are never offered beside each other: one picture has one right name.
ALIKE = (
    {"flat", "log", "veiled", "pale"}, {"converted twice", "crushed", "loud", "dark"}, {"warm", "shadows"},
    {"cool", "shadows"}, {"green", "shadows"}, {"skin", "green"}, {"skin", "warm"}, {"skin", "loud"},
    {"drift", "dark"}, {"drift", "cool"}, {"strain", "crushed"}, {"strain", "converted twice"},
    {"water", "cool", "green"}, {"water", "pale", "flat", "veiled", "log"}, {"water", "dark"},
)  # fmt: skip


def amount_at(level: float) -> float:
    """How much of a fault is shown at a level 0..1."""
    return PLAIN + (SUBTLE - PLAIN) * min(max(level, 0.0), 1.0)


@subject(
    "name-light", "Exposure, profile, tones", "Too dark, flat, log, converted twice, crushed: which is it?",
    "Naming faults",
)  # fmt: skip
def _light(seed: int, level: float) -> Exercise:
    return named("name-light", seed, level)


@subject(
    "name-colour", "Balance, colour, skin", "A cast over all or in some tones, too much colour, skin alone.",
    "Naming faults",
)  # fmt: skip
def _colour(seed: int, level: float) -> Exercise:
    return named("name-colour", seed, level)


@subject("name-clip", "Drift, strain, water", "What a clip has that a still hides.", "Naming faults")
def _clip(seed: int, level: float) -> Exercise:
    return named("name-clip", seed, level)


def named(group: str, seed: int, level: float) -> Exercise:
    """The exercise of a group of faults and a seed."""
    generator = np.random.default_rng((seed, 0))
    fault = FAULTS.get(str(generator.choice(list(GROUPS[group]))))
    offered = _offered(fault, generator)
    for _ in range(TRIES):  # a cast of the shadows does not show where there are none
        begin = chosen_shot(generator, fault.scenes)
        shown, shot = _clip_of(fault, begin, amount_at(level), seed), begin.later(LATER_S)
        distance = _distance(fault, shot, shown[1])
        if distance >= TOLD:
            break
    return Exercise(
        subject=group, seed=seed, level=level,
        question="What is wrong with this clip? Its beginning, its end, and the scopes of the end.",
        pictures=shown, captions=("Beginning", "End"),
        scopes=tuple(dict.fromkeys(("luma", "parade", "vector", fault.scope))), scope_of=1,
        choices=tuple(FAULTS.get(key).label for key in offered), right=offered.index(fault.key),
        because=f"{fault.label}. {fault.where}", truth=shot.truth, lit=_lit(fault, shot, shown[1]),
        distance=distance,
    )  # fmt: skip


def _offered(fault: Fault, generator: np.random.Generator) -> list[str]:
    others = [key for key in FAULTS if key != fault.key and not any({key, fault.key} <= a for a in ALIKE)]
    offered = [fault.key, *(str(key) for key in generator.permutation(others)[: CHOICES - 1])]
    return [str(key) for key in generator.permutation(offered)]


def _clip_of(fault: Fault, begin: Shot, amount: float, seed: int) -> tuple[Encoded, Encoded]:
    generator = np.random.default_rng((seed, 1))
    first = 0.0 if fault.grows else amount
    return (
        spoiled(fault.key, begin, first, generator),
        spoiled(fault.key, begin.later(LATER_S), amount, generator),
    )


def _distance(fault: Fault, shot: Shot, shown: Encoded) -> float:
    """How far the fault lies from the truth, where it is to be seen."""
    where = shot.skin if fault.key == "skin" else np.ones(shown.shape[:2], bool)
    return apart(shown[where][:, None], shot.truth[where][:, None])


def _lit(fault: Fault, shot: Shot, shown: Encoded) -> Mask | None:
    """Where in the picture it shows most, if that is a part of it."""
    if fault.key == "skin":
        return shot.skin
    moved = cv2.GaussianBlur(np.abs(shown - shot.truth).max(axis=-1), (0, 0), 7)
    edge = float(np.quantile(moved, 0.75))
    if edge < GATHERED * float(np.median(moved)):
        return None  # it lies over all
    strongest: Mask = moved >= edge
    return strongest

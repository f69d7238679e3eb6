"""Corrections of clips of one light seen as one: what is common to them, and the trims that make them sit
together."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import CLIP
from morphe.core.grade.moments import Moments, Number
from morphe.core.grade.steps import Balance, Exposure
from morphe.core.measure.stand import Apart, Stand, bring_together, stand_of
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.arrays import Encoded

__all__ = ["Member", "common_balance", "fitted", "graded", "settle", "stand_under", "trimmed"]

ROUNDS = 3  # a trim goes through the steps after it, so that it is measured again
MOST = Apart(stops=1.0, mired=40.0)  # further than this a clip is not trimmed but judged by itself
MOST_FITTED = Apart(stops=2.0, mired=80.0)  # the same picture under two grades is surer ground
LEAST = Apart(stops=0.02, mired=1.0)  # smaller trims are not worth a number
COMMON_SHARE = 0.6  # of the clips of a light that must want the same balance
COMMON_MIRED, COMMON_TINT = 15.0, 5.0  # from the median: so far it is the same


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Member:
    """A clip among others: small judging frames as filmed (H, W, 3), and its grade."""

    pictures: tuple[Encoded, ...]
    times_s: tuple[float, ...]
    grade: Grade
    fixed: bool = False  # it was decided before: the others come to it


def graded(member: Member, grade: Grade | None = None) -> list[Encoded]:
    """A clip's pictures as delivered under its grade, or under another."""
    used = member.grade if grade is None else grade
    return [
        np.clip(evaluate(used, picture, time_s=time), 0, 1)
        for picture, time in zip(member.pictures, member.times_s, strict=True)
    ]


def stand_under(member: Member, grade: Grade | None = None) -> Stand:
    """How a clip stands under its grade, or under another."""
    return stand_of(graded(member, grade))


def settle(members: Sequence[Member]) -> list[Apart]:
    """The trims that bring the clips of one light together, each measured through its grade."""
    total = [Apart() for _ in members]
    if len(members) < 2:
        return total
    fixed = [m.fixed for m in members]
    stands = [stand_under(m) for m in members]
    for _ in range(ROUNDS):
        moves = bring_together(stands, fixed)
        total = [_added(one, move, MOST) for one, move in zip(total, moves, strict=True)]
        total = [Apart() if f else t for t, f in zip(total, fixed, strict=True)]
        stands = [
            stand if m.fixed else stand_under(m, trimmed(m.grade, trim))
            for m, trim, stand in zip(members, total, stands, strict=True)
        ]
    return [_worth_it(trim) for trim in total]


def fitted(member: Member, given: Grade, wanted: Stand) -> Apart:
    """The trim with which a grade brings a clip to a wanted stand of the same picture."""
    total = Apart()
    for _ in range(ROUNDS):
        total = _added(total, wanted.apart_from(stand_under(member, trimmed(given, total))), MOST_FITTED)
    return _worth_it(total)


def _added(one: Apart, more: Apart, most: Apart) -> Apart:
    return Apart(
        stops=float(np.clip(one.stops + more.stops, -most.stops, most.stops)),
        mired=float(np.clip(one.mired + more.mired, -most.mired, most.mired)),
    )


def _worth_it(trim: Apart) -> Apart:
    return Apart(
        stops=round(trim.stops, 2) if abs(trim.stops) >= LEAST.stops else 0.0,
        mired=round(trim.mired, 1) if abs(trim.mired) >= LEAST.mired else 0.0,
    )


def trimmed(grade: Grade, trim: Apart) -> Grade:
    """A grade whose clip comes out brighter by so many stops and warmer by so many mired."""
    exposure, balance = grade.step("exposure", CLIP), grade.step("balance", CLIP)
    if trim.stops and isinstance(exposure, Exposure):
        stops = _moved(exposure.stops if exposure.on else 0.0, trim.stops, Exposure.params["stops"].within)
        grade = grade.with_step(replace(exposure, on=True, stops=stops))
    if trim.mired and isinstance(balance, Balance):
        warmth = _moved(balance.warmth if balance.on else 0.0, -trim.mired, Balance.params["warmth"].within)
        tint = balance.tint if balance.on else 0.0
        grade = grade.with_step(replace(balance, on=True, warmth=warmth, tint=tint))
    return grade


def _moved(number: Number, by: float, within: Callable[[float], float]) -> Number:
    if isinstance(number, Moments):
        return Moments(tuple((time, within(value + by)) for time, value in number.points))
    return round(within(number + by), 3)


def common_balance(grades: Sequence[Grade]) -> Balance | None:
    """The balance that most clips of a light want alike: it belongs to the light. None if there is none."""
    found = [grade.step("balance", CLIP) for grade in grades]
    wanted = [
        (step.number("warmth"), step.number("tint"))
        for step in found
        if isinstance(step, Balance) and step.at_work and not step.moving
    ]
    if len(grades) < 2 or len(wanted) < max(2, COMMON_SHARE * len(grades)):
        return None
    table = np.array(wanted)
    middle = np.median(table, axis=0)
    near = (np.abs(table - middle) <= (COMMON_MIRED, COMMON_TINT)).all(axis=1)
    if near.sum() < max(2, COMMON_SHARE * len(grades)):
        return None
    warmth, tint = np.median(table[near], axis=0)
    return Balance(warmth=round(float(warmth), 1), tint=round(float(tint), 1))

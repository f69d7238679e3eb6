"""What a person usually keeps of a proposal: learnt from decisions, offered beside the proposal, forgotten on
a word."""

from __future__ import annotations

from dataclasses import dataclass, replace
from statistics import median
from typing import Any

from morphe.core.advise.rungs import RUNGS
from morphe.core.errors import ColourError
from morphe.core.grade import recipe
from morphe.core.grade.step import Step
from morphe.web.clips.models import Clip, Habit
from morphe.web.clips.services.grades.grade import grade_of

__all__ = ["Usual", "forget_habit", "learn_habits", "usual_of", "usually"]

LEARNT_FROM, KEPT = 3, 12  # clips: so many at least, and the latest ones
WORTH = 0.12  # of the proposal: nearer to all of it is no habit
AGREE = 0.2  # shares further apart (median deviation) say nothing
MOST = 2.0  # times the proposal: more is another intention


@dataclass(frozen=True, slots=True, kw_only=True)
class Usual:
    """A habit ready to be offered: the share in percent, and the words."""

    percent: int
    sentence: str


def learn_habits(clip: Clip) -> None:
    """Look at what was kept of each of a clip's proposals, after a decision on it."""
    if clip.outing.is_practice:
        return  # nothing was proposed
    grade = grade_of(Clip.objects.with_grades().get(pk=clip.pk))
    for rung in clip.rungs:
        key = rung["step"]
        share = _share(recipe.step_from_json(rung["proposal"]), grade.step(key, RUNGS[key].layer))
        if share is not None:
            _remember(key, clip.pk, share)


def _share(proposed: Step, kept: Step) -> float | None:
    """How much of a proposal's first number was kept; None where that cannot be said."""
    if not proposed.params or proposed.is_neutral or proposed.moving or kept.moving or not kept.at_work:
        return None
    name = next(iter(proposed.params))
    neutral = proposed.params[name].neutral
    wanted, found = proposed.number(name) - neutral, kept.number(name) - neutral
    if abs(wanted) < 1e-6 or wanted * found <= 0:
        return None
    return float(min(found / wanted, MOST))


def _remember(key: str, clip_id: int, share: float) -> None:
    habit, _ = Habit.objects.get_or_create(step=key)
    others = [pair for pair in habit.kept if pair[0] != clip_id]
    kept = [*others, [clip_id, round(share, 3)]][-KEPT:]
    if kept != habit.kept:
        habit.kept = kept
        habit.save(update_fields=["kept"])


def usual_of(rungs: list[dict[str, Any]]) -> dict[str, Usual]:
    """The habits that concern a clip's rungs, by step."""
    keys = [rung["step"] for rung in rungs if rung["action"]]
    found = {}
    for habit in Habit.objects.filter(step__in=keys):
        shares = [share for _, share in habit.kept]
        if len(shares) < LEARNT_FROM:
            continue
        middle = median(shares)
        if abs(middle - 1) < WORTH or median(abs(s - middle) for s in shares) > AGREE:
            continue
        percent = round(100 * middle)
        found[habit.step] = Usual(
            percent=percent, sentence=f"You mostly keep {percent} % of this ({len(shares)} clips)."
        )
    return found


def usually(proposed: Step, percent: int) -> Step:
    """A proposal at the share that is usually kept."""
    numbers: dict[str, Any] = {}
    for name, param in proposed.params.items():
        value = getattr(proposed, name)
        if name == next(iter(proposed.params)) or (param.unit != "°" and name in ("tint", "dark", "bright")):
            numbers[name] = param.within(round(param.neutral + percent / 100 * (value - param.neutral), 2))
    return replace(proposed, **numbers)


def forget_habit(key: str) -> None:
    """Forget what was learnt of a rung."""
    if not Habit.objects.filter(step=key).delete()[0]:
        raise ColourError("There is no habit to forget here.")

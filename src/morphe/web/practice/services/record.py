"""The record of skill: how hard exercises are by now, and what fades and should be seen again.

When a subject fades is told by spaced repetition (the library `fsrs`).
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime

from fsrs import Card, Rating, Scheduler

from morphe.web.practice.models import Attempt, Prepared, Skill, Walk
from morphe.web.practice.services.topics import PATHS, TOPICS, Topic

__all__ = ["Standing", "answered", "level_of", "next_topic", "standings", "start_over"]

SCHEDULER = Scheduler(enable_fuzzing=False)
UP, DOWN = 0.08, 0.14  # of the level, for a right and a wrong answer
KNOWN = 0.5  # level from which the next subject of a path may begin
GOOD_SCORE = 70  # of a mending, from which it counts as right


@dataclass(frozen=True, slots=True, kw_only=True)
class Standing:
    """How a subject stands: tries, level in percent, and how much of it is likely kept."""

    topic: Topic
    tries: int = 0
    rights: int = 0
    level: int = 0
    kept: int | None = None
    is_due: bool = False

    @property
    def word(self) -> str:
        if not self.rights:
            return "see it again" if self.tries else ""
        return "see it again" if self.is_due else f"kept: {self.kept} %"


def answered(key: str, seed: int, level: float, *, right: bool, score: int | None = None) -> Skill:
    """Keep an answer: the level moves, and the subject is remembered anew."""
    Attempt.objects.create(subject=key, seed=seed, level=level, right=right, score=score)
    skill, _ = Skill.objects.get_or_create(subject=key)
    skill.level = min(max(skill.level + (UP if right else -DOWN), 0.0), 1.0)
    skill.tries += 1
    skill.rights += right
    card = Card.from_dict(skill.card) if skill.card else Card()
    card, _ = SCHEDULER.review_card(card, Rating.Good if right else Rating.Again)
    skill.card = card.to_dict()
    skill.save()
    return skill


def level_of(key: str) -> float:
    """How hard the next exercise of a subject is."""
    skill = Skill.objects.filter(subject=key).first()
    return skill.level if skill else 0.0


def standings() -> dict[str, list[Standing]]:
    """All subjects by path."""
    skills = {skill.subject: skill for skill in Skill.objects.all()}
    found: dict[str, list[Standing]] = {path: [] for path in PATHS}
    for one in TOPICS.values():
        found[one.path].append(_standing(one, skills.get(one.key)))
    return found


def _standing(one: Topic, skill: Skill | None) -> Standing:
    if skill is None:
        return Standing(topic=one)
    card = Card.from_dict(skill.card)
    return Standing(
        topic=one, tries=skill.tries, rights=skill.rights, level=round(100 * skill.level),
        kept=round(100 * SCHEDULER.get_card_retrievability(card)), is_due=card.due <= datetime.now(UTC),
    )  # fmt: skip


def next_topic() -> Standing:
    """What to practise next: what fades most, else the first of the paths that is not known yet."""
    found = [s for path in standings().values() for s in path]
    fading = [s for s in found if s.is_due and s.level >= 100 * KNOWN / 2]
    if fading:
        return min(fading, key=lambda s: s.kept or 0)
    return next((s for s in found if s.level < 100 * KNOWN), found[0])


def start_over() -> None:
    """Forget all answers; exercises that were made ahead stay."""
    for kept in (Attempt, Skill, Walk):
        kept.objects.all().delete()
    Prepared.objects.exclude(taken=None).delete()

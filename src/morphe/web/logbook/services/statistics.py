"""What the logbook tells of how somebody works: minutes, what is kept of proposals, what is asked."""

from __future__ import annotations

from collections import Counter, defaultdict
from dataclasses import dataclass
from datetime import datetime, timedelta
from itertools import pairwise

from morphe.core.errors import MorpheError
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.logbook.models import LogEntry
from morphe.web.outings.models import Outing

__all__ = ["Statistics", "statistics"]

PAUSE = timedelta(minutes=5)  # whoever does nothing for so long does something else
ALONE = timedelta(seconds=20)  # that one decision alone stands for
MOST = 3  # steps and questions that are named


@dataclass(frozen=True, slots=True, kw_only=True)
class Statistics:
    """Figures of an outing; None where there is nothing to count."""

    clips: int
    decisions: int
    minutes_per_clip: float | None
    kept: int
    changed: int
    left: int
    most_changed: tuple[tuple[str, int], ...]
    asked: tuple[tuple[str, int], ...]

    @property
    def proposals(self) -> int:
        return self.kept + self.changed + self.left


def statistics(outing: Outing) -> Statistics:
    """Count what was done in an outing."""
    times: dict[int, list[datetime]] = defaultdict(list)
    entries = LogEntry.objects.filter(outing=outing, kind=LogEntry.Kind.DECIDED, clip__isnull=False)
    for clip_id, created in entries.order_by("created").values_list("clip_id", "created"):
        times[clip_id].append(created)
    spent = [_worked(found) for found in times.values()]
    clips = outing.clips.ready().with_grades()
    answered = LogEntry.objects.filter(outing=outing, kind=LogEntry.Kind.ANSWERED)
    asked = Counter(answered.values_list("numbers__question", flat=True))
    tally, steps = _against_proposals([c for c in clips if c.is_corrected])
    return Statistics(
        clips=len(times), decisions=sum(len(found) for found in times.values()),
        minutes_per_clip=sum(spent) / len(spent) / 60 if spent else None,
        kept=tally["kept"], changed=tally["changed"], left=tally["left"],
        most_changed=tuple(steps.most_common(MOST)), asked=tuple(asked.most_common(MOST)),
    )  # fmt: skip


def _worked(times: list[datetime]) -> float:
    """Seconds of work: decisions that follow each other closely are one stretch."""
    gaps = (later - earlier for earlier, later in pairwise(times))
    return (ALONE + sum((gap for gap in gaps if gap < PAUSE), timedelta())).total_seconds()


def _against_proposals(clips: list[Clip]) -> tuple[Counter[str], Counter[str]]:
    """How often a proposal was kept, changed or left; and which steps were changed or left most."""
    tally: Counter[str] = Counter()
    steps: Counter[str] = Counter()
    for clip in clips:
        try:
            proposed, grade = recipe.from_json(clip.proposal), grade_of(clip)
        except MorpheError:
            continue
        for key, label, verdict in _verdicts(proposed, grade):
            tally[verdict] += 1
            if verdict != "kept" and key:
                steps[label] += 1
    return tally, steps


def _verdicts(proposed: Grade, grade: Grade) -> list[tuple[str, str, str]]:
    now = {step.key: step for _, step in grade.steps() if step.at_work}
    found = []
    for _, step in proposed.steps():
        if step.at_work:
            mine = now.get(step.key)
            verdict = "left" if mine is None else "kept" if mine == step else "changed"
            found.append((step.key, step.label, verdict))
    return found

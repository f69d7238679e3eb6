"""The outing that is open, and how far it has come."""

from __future__ import annotations

from dataclasses import dataclass

from django.urls import reverse
from django.utils import timezone

from morphe.web.clips.models import Clip
from morphe.web.handover.models import HandOver
from morphe.web.outings.models import Outing

__all__ = ["Stage", "Standing", "current_outing", "standing"]


def current_outing() -> Outing:
    """The latest outing; the first run without one makes it."""
    outing = Outing.objects.first()
    return outing or Outing.objects.create(name="My first outing", date=timezone.localdate())


@dataclass(frozen=True, slots=True, kw_only=True)
class Stage:
    """One stage of an outing: how many clips have passed it."""

    label: str
    done: int
    total: int

    @property
    def complete(self) -> bool:
        return self.total > 0 and self.done >= self.total


@dataclass(frozen=True, slots=True, kw_only=True)
class Standing:
    """How far an outing has come, and what comes next."""

    stages: tuple[Stage, ...]
    next_label: str
    next_url: str
    next_reason: str


def standing(clips: list[Clip]) -> Standing:
    """Count what is done and name the next thing to do; `clips` come with versions and hand-overs."""
    usable = [c for c in clips if c.state != Clip.State.FAILED]
    read = [c for c in usable if c.is_ready]
    decided = [c for c in read if c.version and c.version.parent_id]
    delivered = [c for c in read if any(h.state == HandOver.State.DONE for h in c.hand_overs.all())]
    total = len(usable)
    stages = tuple(
        Stage(label=label, done=len(done), total=total)
        for label, done in (
            ("Brought in", usable), ("Read", read), ("Corrected", decided), ("Handed over", delivered)
        )
    )  # fmt: skip
    if not usable:
        step = ("Bring in clips", reverse("clips"), "Nothing has been brought in yet.")
    elif len(read) < total:
        step = ("Look at the clips", reverse("clips"), f"{total - len(read)} clips are still being read.")
    elif waiting := [c for c in read if c not in decided]:
        first = waiting[0]
        step = (
            f"Correct {first.title}",
            reverse("bench-clip", args=[first.pk]),
            f"{len(waiting)} of {total} clips wait for a decision.",
        )
    elif len(delivered) < total:
        step = (
            "Hand over",
            reverse("hand-over"),
            f"{total - len(delivered)} corrected clips wait for delivery.",
        )
    else:
        step = ("Read the logbook", reverse("logbook"), "Every clip has been delivered.")
    return Standing(stages=stages, next_label=step[0], next_url=step[1], next_reason=step[2])

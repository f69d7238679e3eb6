"""How far an outing has come, and what comes next."""

from __future__ import annotations

from dataclasses import dataclass

from django.urls import reverse
from django.utils import timezone

from morphe.web.clips.services.questions.together import asked_about
from morphe.web.handover.models import HandOver
from morphe.web.outings.models import Outing

__all__ = ["Stage", "Standing", "standing"]


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


def _is_planned(outing: Outing) -> bool:
    """Whether a camera is planned, or the day is over without a plan."""
    return outing.date < timezone.localdate() or outing.cameras_planned


def standing(outing: Outing) -> Standing:
    """Count what is done and name the next thing to do."""
    clips = outing.clips.usable()
    total, read = clips.count(), clips.ready().count()
    decided = clips.decided().count()
    delivered = clips.ready().filter(hand_overs__in=HandOver.objects.done()).distinct().count()
    stages = tuple(
        Stage(label=label, done=done, total=total)
        for label, done in (
            ("Brought in", total), ("Read", read), ("Decided", decided), ("Handed over", delivered)
        )
    )  # fmt: skip
    if not total and not _is_planned(outing):
        step = ("Plan the shoot", reverse("plan"), "Three answers make a shoot card for each camera.")
    elif not total:
        step = ("Bring in clips", reverse("clips"), "Nothing has been brought in yet.")
    elif read < total:
        step = ("Look at the clips", reverse("clips"), f"{total - read} clips are still being read.")
    elif asked := asked_about(outing).count():
        word = "clip leaves" if asked == 1 else "clips leave"
        step = ("Say how it was filmed", reverse("clips"), f"{asked} {word} open what the camera was set to.")
    elif first := clips.undecided().first():
        step = (
            f"Correct {first.title}",
            reverse("bench-clip", args=[first.pk]),
            f"{read - decided} of {total} clips wait for a decision.",
        )
    elif delivered < total:
        step = (
            "Hand over",
            reverse("hand-over"),
            f"{total - delivered} clips wait for delivery.",
        )
    else:
        step = ("Read the logbook", reverse("logbook"), "Every clip has been delivered.")
    return Standing(stages=stages, next_label=step[0], next_url=step[1], next_reason=step[2])

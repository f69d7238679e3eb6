"""Slate numbers and notes: one by one, or pasted from the card on the phone."""

from __future__ import annotations

from datetime import datetime

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from morphe.core.errors import PlanError
from morphe.core.plan.slate import parse_notes
from morphe.web.plan.models import PlannedCamera, Take
from morphe.web.plan.services.meet import meet_again

__all__ = ["add_take", "paste_takes", "remove_take"]

MOST_TAKES = 2000


def next_number(planned: PlannedCamera) -> int:
    """The slate number that comes next."""
    return int(planned.takes.aggregate(last=Max("number"))["last"] or 0) + 1


def add_take(planned: PlannedCamera, note: str, *, number: str = "", time: datetime | None = None) -> Take:
    """Slate one take now; the number goes on by itself unless one is typed."""
    if number and not (number.isascii() and number.isdigit() and 0 < int(number[:6]) < 100_000):
        raise PlanError("A slate number is a whole number above 0.")
    wanted = int(number) if number else next_number(planned)
    if planned.takes.filter(number=wanted).exists():
        raise PlanError(f"Take {wanted} of {planned.camera} is slated already; choose another number.")
    if planned.takes.count() >= MOST_TAKES:
        raise PlanError(f"{planned.camera} has {MOST_TAKES} takes on this day; plan another outing.")
    note = " ".join(note.split())[:200]
    take = Take.objects.create(planned=planned, number=wanted, note=note, time=time or timezone.now())
    meet_again(planned)
    return take


def paste_takes(planned: PlannedCamera, text: str) -> int:
    """Bring in notes that were written on the saved card; a number that is there already is replaced."""
    notes = parse_notes(text)
    if not notes:
        raise PlanError("There are no notes in this text; copy them from the saved card first.")
    if planned.takes.count() + len(notes) > MOST_TAKES:
        raise PlanError(f"These are more than {MOST_TAKES} takes; bring in fewer.")
    with transaction.atomic():
        for note in notes:
            Take.objects.update_or_create(
                planned=planned, number=note.number, defaults={"time": note.time, "note": note.text[:200]}
            )
    meet_again(planned)
    return len(notes)


def remove_take(take: Take) -> None:
    """Take a slate away; its clips stay."""
    planned = take.planned
    take.delete()
    meet_again(planned)

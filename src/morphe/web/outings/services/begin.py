"""Begin an outing, or go back to an earlier one."""

from __future__ import annotations

from datetime import date

from django.utils import timezone

from morphe.core.errors import PlanError
from morphe.web.outings.models import Outing

__all__ = ["begin_outing", "open_outing"]


def begin_outing(name: str, place: str, day: str) -> Outing:
    """Make a new outing and open it."""
    name = " ".join(name.split())
    if not name:
        raise PlanError("Give the outing a name, such as Volunteer day.")
    try:
        when = date.fromisoformat(day)
    except ValueError as error:
        raise PlanError(f"“{day[:20]}” is no date; write it as 2026-09-12.") from error
    return Outing.objects.create(name=name[:120], place=" ".join(place.split())[:120], date=when)


def open_outing(outing: Outing) -> None:
    """Work on this outing from now on."""
    outing.opened = timezone.now()
    outing.save(update_fields=["opened"])

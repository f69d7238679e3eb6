"""An entry of the logbook as the page shows it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from morphe.core.errors import MorpheError
from morphe.core.grade import recipe
from morphe.core.grade.layer import CLIP
from morphe.core.grade.source import SOURCE
from morphe.web.logbook.models import LogEntry

__all__ = ["ShownEntry", "shown"]

ICONS = {
    "brought-in": "film",
    "decided": "sliders2",
    "answered": "chat-left-text",
    "handed-over": "box-arrow-up-right",
    "failed": "exclamation-octagon",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownEntry:
    """One line: what was done and its numbers as short pairs."""

    entry: LogEntry
    icon: str
    numbers: tuple[str, ...]

    @property
    def has_grade(self) -> bool:
        return "grade" in self.entry.numbers


def shown(entry: LogEntry) -> ShownEntry:
    """Prepare an entry for the page."""
    numbers = _grade_numbers(entry.numbers["grade"]) if "grade" in entry.numbers else _readings(entry.numbers)
    return ShownEntry(entry=entry, icon=ICONS[entry.kind], numbers=tuple(numbers))


def _grade_numbers(data: Any) -> list[str]:
    try:
        grade = recipe.from_json(data)
    except MorpheError:
        return []
    said = []
    for layer_id, step in grade.steps():
        if step.at_work:
            where = "" if layer_id in (SOURCE, CLIP) else f"{grade.layer(layer_id).label}: "
            said.append(f"{where}{step.label} {step.summary}")
    return said or ["nothing at work"]


def _readings(numbers: dict[str, Any]) -> list[str]:
    luma = numbers.get("readings", {}).get("luma")
    if not luma:
        return []
    return [
        f"darkest 1 % at {luma['p01']:.1f} %",
        f"middle {luma['p50']:.0f} %",
        f"brightest 1 % at {luma['p99']:.0f} %",
    ]

"""The sun windows as an iCalendar file (RFC 5545)."""

from __future__ import annotations

from datetime import UTC, datetime

from icalendar import Calendar, Event

from morphe.core.plan.sun import SunDay

__all__ = ["calendar_text"]

KEPT = ("blue", "golden", "water", "hard")


def calendar_text(sun: SunDay, *, name: str = "") -> str:
    """Write the blue and golden hours, hard light and the best hours under water as calendar events."""
    calendar = Calendar()
    calendar.add("prodid", "-//Morphe//Plan//EN")
    calendar.add("version", "2.0")
    for window in sun.windows:
        if window.key not in KEPT:
            continue
        event = Event()
        event.add("uid", f"{window.key}-{window.start.astimezone(UTC):%Y%m%dT%H%M%SZ}@morphe")
        event.add("dtstamp", datetime(sun.day.year, sun.day.month, sun.day.day, tzinfo=UTC))
        event.add("summary", f"{window.label} · {name or sun.place.name}")
        event.add("dtstart", window.start.astimezone(UTC))
        event.add("dtend", window.end.astimezone(UTC))
        event.add("location", f"{sun.place.name} ({sun.place.coordinates})")
        event.add("geo", (sun.place.latitude, sun.place.longitude))
        event.add("description", " ".join(sun.sentences))
        calendar.add_component(event)
    return calendar.to_ical().decode()

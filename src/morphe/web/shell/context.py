"""What every page knows: the places, and which one is open."""

from dataclasses import dataclass

from django.apps import apps
from django.http import HttpRequest
from django.urls import reverse

from morphe.web.shell.disk import has_room

__all__ = ["places"]


@dataclass(frozen=True, slots=True)
class Place:
    """One entry of the rail."""

    label: str
    icon: str
    url_name: str
    prefix: str
    what: str  # it is, in a sentence

    @property
    def url(self) -> str:
        return reverse(self.url_name)


PLACES = (
    Place(
        "Today", "sun", "today", "today", "The outing at a glance: how far it has come, and what comes next."
    ),
    Place(
        "Plan",
        "compass",
        "plan",
        "plan",
        "What you answer about the shoot, and the settings that follow for each camera.",
    ),
    Place(
        "Clips",
        "film",
        "clips",
        "clips",
        "All footage of the outing, sorted by its light, each clip with what it was filmed in.",
    ),
    Place(
        "Bench",
        "sliders2",
        "bench",
        "bench",
        "One clip, its picture and scopes, and the ladder of steps from the file to the finished look.",
    ),
    Place(
        "Match",
        "symmetry-vertical",
        "match",
        "match",
        "Clips that are cut together, brought to one reference.",
    ),
    Place(
        "Hand over",
        "box-arrow-up-right",
        "hand-over",
        "hand-over",
        "Where clips become files: checked, rendered in a queue, offered when they are whole.",
    ),
    Place(
        "Logbook",
        "journal-text",
        "logbook",
        "logbook",
        "Every decision with its numbers, in the order it was made.",
    ),
    Place(
        "Practice",
        "bullseye",
        "practice",
        "practice",
        "Short exercises on footage whose truth is known: scopes, faults, mending, your own eyes.",
    ),
    Place(
        "Library",
        "camera",
        "library",
        "library",
        "What stays from one outing to the next: cameras, profiles, looks, backups, devices.",
    ),
)


# On a phone the bar has room for few: those that this moment of the outing needs, the rest behind one more.
BEFORE, AFTER = ("today", "plan", "clips", "library"), ("today", "clips", "bench", "hand-over")


def _needed() -> tuple[str, ...]:
    """The places that are needed most: before anything is filmed, and after."""
    outing = apps.get_model("outings", "Outing").objects.first()
    return AFTER if outing is not None and outing.clips.exists() else BEFORE


def places(request: HttpRequest) -> dict[str, object]:
    first = request.path.strip("/").split("/")[0] or "today"
    first = {"keep": "library"}.get(first, first)
    needed, device = _needed(), getattr(request, "device", None)
    may_work = device is None or device.may_work  # whoever looks only leaves no answers behind
    return {
        "here": next((p for p in PLACES if p.prefix == first), None),
        "places": [
            {"place": p, "here": p.prefix == first, "is_needed": p.prefix in needed}
            for p in PLACES
            if p.prefix != "practice" or may_work
        ],
        "disk_is_full": not has_room(),
    }

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

    @property
    def url(self) -> str:
        return reverse(self.url_name)


PLACES = (
    Place("Today", "sun", "today", "today"),
    Place("Plan", "compass", "plan", "plan"),
    Place("Clips", "film", "clips", "clips"),
    Place("Bench", "sliders2", "bench", "bench"),
    Place("Match", "symmetry-vertical", "match", "match"),
    Place("Hand over", "box-arrow-up-right", "hand-over", "hand-over"),
    Place("Logbook", "journal-text", "logbook", "logbook"),
    Place("Library", "camera", "library", "library"),
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
    needed = _needed()
    return {
        "places": [{"place": p, "here": p.prefix == first, "is_needed": p.prefix in needed} for p in PLACES],
        "disk_is_full": not has_room(),
    }

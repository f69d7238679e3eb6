"""What every page knows: the places, and which one is open."""

from dataclasses import dataclass

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


def places(request: HttpRequest) -> dict[str, object]:
    first = request.path.strip("/").split("/")[0] or "today"
    first = {"keep": "library"}.get(first, first)
    return {
        "places": [{"place": p, "here": p.prefix == first} for p in PLACES],
        "disk_is_full": not has_room(),
    }

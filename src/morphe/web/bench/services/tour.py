"""The tour: five decisions on three clips of the demo outing, on the real Bench."""

from __future__ import annotations

from collections.abc import Callable, MutableMapping
from dataclasses import dataclass
from typing import Any

from django.urls import reverse

from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Scope
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.outings.models import Outing

__all__ = ["Tour", "begin_tour", "end_tour", "invites", "leave_stop", "tour_of"]

SESSION, SEEN = "tour", "tour-seen"
Session = MutableMapping[str, Any]


@dataclass(frozen=True, slots=True)
class Stop:
    """One decision: on which clip, what is to be seen and done, and when it counts as decided."""

    key: str  # of the part of the ladder that is opened
    clip: str
    sentence: str
    is_decided: Callable[[Grade], bool]


STOPS = (
    Stop(
        "convert", "cuttle-jetty-log.mp4",
        "Grey and pale: this clip was filmed in a log profile. Take the conversion, and watch the "
        "waveform fill its height.",
        lambda grade: grade.source.convert.at_work,
    ),
    Stop(
        "black", "cuttle-jetty-log.mp4",
        "Now its darkest parts. The scope shows where they lie and where they should: drag the mark, "
        "or take the proposal.",
        lambda grade: grade.step("black").at_work,
    ),
    Stop(
        "balance", "fern-jetty-talk.mp4",
        "The same jetty from a phone, a little warm. Take the proposal, or tap something white with "
        "Tap. Hold B to see it as filmed.",
        lambda grade: grade.step("balance").at_work,
    ),
    Stop(
        "style", "fern-jetty-talk.mp4",
        "The correction is done; style is a matter of taste. Tap a look below; its strength is a "
        "number of its own.",
        lambda grade: grade.has_layer(Scope.STYLE) and grade.layer(Scope.STYLE).at_work,
    ),
    Stop(
        "restore", "cuttle-meadow-5m.mp4",
        "Five metres of water took the red. What the file still holds can be brought back; what it "
        "does not hold is said.",
        lambda grade: grade.source.restore.at_work,
    ),
)  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Tour:
    """Where a person stands in the tour; no stop is left at its end."""

    stop: Stop | None
    number: int
    url: str
    is_here: bool = False

    @property
    def total(self) -> int:
        return len(STOPS)


def begin_tour(session: Session) -> None:
    session[SESSION] = []  # keys of stops that were left as they are


def leave_stop(session: Session, key: str) -> None:
    """Leave a stop's clip as it is: a decision too."""
    if SESSION in session:
        session[SESSION] = [*session[SESSION], key][: len(STOPS)]


def end_tour(session: Session) -> None:
    session.pop(SESSION, None)
    session[SEEN] = True


def invites(session: Session, outing: Outing) -> bool:
    """Whether the tour is worth offering: on the demo, to whoever has not ended it."""
    return outing.is_demo and SESSION not in session and not session.get(SEEN)


def tour_of(session: Session, outing: Outing, here: Clip | None = None) -> Tour | None:
    """The tour of whoever takes it; None for everybody else, and away from the demo."""
    if SESSION not in session or not outing.is_demo:
        return None
    clips = {c.title: c for c in outing.clips.ready().with_grades().filter(title__in={s.clip for s in STOPS})}
    for number, stop in enumerate(STOPS, 1):
        clip = clips.get(stop.clip)
        if clip is None or stop.key in session[SESSION] or stop.is_decided(grade_of(clip)):
            continue
        url = f"{reverse('bench-clip', args=[clip.pk])}?open={stop.key}"
        return Tour(stop=stop, number=number, url=url, is_here=here is not None and here.pk == clip.pk)
    return Tour(stop=None, number=len(STOPS), url=reverse("hand-over"))

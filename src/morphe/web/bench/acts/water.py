"""Acts on what water took."""

from __future__ import annotations

from morphe.core.errors import ColourError
from morphe.web.bench.acts import Asked, act
from morphe.web.bench.services.water import take_way
from morphe.web.clips.services.questions import dive as waters
from morphe.web.plan.services.dive_lessons import forget_dive_lesson, keep_dive_lesson

__all__: list[str] = []

LONGEST_LOG = 100_000  # bytes


@act("water-wet")
def say_wet(asked: Asked) -> None:
    waters.say_wet(asked.clip, asked["wet"])


@act("water-tell")
def tell(asked: Asked) -> None:
    waters.tell(asked.clip, asked.words)


@act("water-log")
def take_log(asked: Asked) -> None:
    file = asked.request.FILES.get("log")
    if file is None or not file.size or file.size > LONGEST_LOG:
        raise ColourError("Choose a dive log as CSV; it has a few thousand rows at most.")
    text = file.read().decode("utf-8", errors="replace")
    waters.take_dive_log(asked.clip, text, str(file.name), asked["begins"])


@act("water-way")
def choose_way(asked: Asked) -> None:
    take_way(asked.clip, asked["way"])


@act("water-learn")
def learn(asked: Asked) -> None:
    keep_dive_lesson(asked.clip, asked["way"])


@act("water-unlearn")
def unlearn(asked: Asked) -> None:
    forget_dive_lesson(asked.clip, asked["way"])

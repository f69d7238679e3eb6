"""The questions as the form shows them: three in front, the rest behind."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from morphe.core.plan.card import ShootCard
from morphe.core.plan.kit import School
from morphe.core.plan.light import LIGHTS, SKIES
from morphe.core.plan.place import PLACES
from morphe.core.plan.questions import MEASURED, SKY, Delivery, Device, Questions
from morphe.core.plan.shots import MOTIONS, SHOTS
from morphe.core.plan.wording import clock
from morphe.core.water.daylight import WATER_TYPES

__all__ = ["Asked", "Group", "groups"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Option:
    """One answer to pick."""

    value: str
    label: str
    chosen: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """One question: a list to pick from, or something to type."""

    name: str
    label: str
    kind: str = "select"
    value: str = ""
    options: tuple[Option, ...] = ()
    unit: str = ""
    hint: str = ""
    suggestions: tuple[str, ...] = ()

    @property
    def is_select(self) -> bool:
        return self.kind == "select"


@dataclass(frozen=True, slots=True, kw_only=True)
class Group:
    """Questions that belong together."""

    key: str
    label: str
    fields: tuple[Asked, ...]
    folded: bool = False


def groups(questions: Questions, card: ShootCard) -> list[Group]:
    """Everything that is asked, with the answers given and what the defaults stand for."""
    found = [
        Group(key="shot", label="The shot", fields=tuple(_shot(questions, card))),
        Group(key="day", label="The day", fields=tuple(_day(questions))),
    ]
    if card.plan.scene.water:
        found.append(Group(key="water", label="Under water", fields=tuple(_water(questions, card))))
    found.append(Group(key="more", label="More", fields=tuple(_more(questions, card)), folded=True))
    return found


def _pick(name: str, label: str, options: Iterable[tuple[Any, str]], chosen: Any, usual: str = "") -> Asked:
    listed = [(str(value), text) for value, text in options]
    if usual:
        listed.insert(0, ("", usual))
    kept = "" if chosen is None else str(chosen)
    shown = tuple(Option(value=v, label=t, chosen=v == kept) for v, t in listed)
    return Asked(name=name, label=label, options=shown)


def _type(name: str, label: str, value: Any, unit: str = "", *, kind: str = "text", hint: str = "") -> Asked:
    shown = "" if value is None else f"{value:g}" if isinstance(value, float) else str(value)
    return Asked(name=name, label=label, kind=kind, value=shown, unit=unit, hint=hint)


def _shot(asked: Questions, card: ShootCard) -> Iterable[Asked]:
    usual = LIGHTS.get(card.plan.scene.shot.light).label
    scale = [(light.key, light.label) for light in LIGHTS.values()]
    special = [(SKY, "From sun and sky")] if asked.place else []
    special.append((MEASURED, "Measured"))
    yield _pick("shot", "Kind of shot", [(s.key, s.label) for s in SHOTS.values()], asked.shot)
    yield _pick("light", "Light", [*special, *scale], asked.light, f"Usual: {usual.lower()}")
    if asked.light == MEASURED:
        yield _type("measured_ev", "Exposure value", asked.measured_ev, "EV")
    if asked.light == SKY:
        yield _pick("sky", "Sky", [(s.key, s.label) for s in SKIES.values()], asked.sky)
    yield _type("hour", "Time", clock(asked.hour), kind="time")


def _day(asked: Questions) -> Iterable[Asked]:
    yield _type("day", "Date", asked.day.isoformat() if asked.day else "", kind="date")
    place = "" if asked.place is None else asked.place.name if asked.place.key else asked.place.coordinates
    yield Asked(
        name="place", label="Place", kind="text", value=place, hint="52.0 N, 1.0 E or a name",
        suggestions=tuple(p.name for p in PLACES.values()),
    )  # fmt: skip
    yield _pick("delivery", "Delivery", [(d, d.word) for d in Delivery], asked.delivery)
    yield _type("grading_hours", "Time for grading", asked.grading_hours, "h")
    yield _pick("device", "Edited on", [(d, d.capitalize()) for d in Device], asked.device)


def _water(asked: Questions, card: ShootCard) -> Iterable[Asked]:
    light = card.plan.scene.water
    assert light is not None  # only asked under water
    yield _type("depth_m", "Depth of the subject", float(light.depth_m), "m")
    yield _type("distance_m", "Distance to it", float(light.distance_m), "m")
    yield _pick(
        "water", "Water", [(w.key, f"{w.label} ({w.key})") for w in WATER_TYPES.values()], asked.water
    )
    yield _pick("lamp", "Lamp", [("yes", "On"), ("no", "Off")], _yes_no(light.has_lamp))


def _yes_no(value: bool | None) -> str | None:
    return None if value is None else "yes" if value else "no"


def _more(asked: Questions, card: ShootCard) -> Iterable[Asked]:
    scene, kit = card.plan.scene, card.plan.kit
    motions = [(m.key, m.label) for m in MOTIONS.values()]
    yield _type(
        "contrast_stops", "Contrast", asked.contrast_stops, "stops", hint=f"usual: {scene.contrast_stops:g}"
    )
    yield _pick(
        "motion", "Motion", motions, asked.motion, f"Usual: {scene.motion.label.split(':')[0].lower()}"
    )
    yield _pick(
        "skin", "Faces", [("yes", "Yes"), ("no", "No")], _yes_no(asked.skin), f"Usual: {_yes_no(scene.skin)}"
    )
    schools = [(s, s.word) for s in School]
    yield _pick("school", "Exposure school", schools, asked.school, f"Usual: {kit.school.word.lower()}")
    yield _pick(
        "slow", "Slow motion", [(1, "None"), (2, "2 times"), (4, "4 times"), (8, "8 times")], asked.slow
    )
    yield _type("minutes", "To film", asked.minutes, "min")
    yield _type("storage_left_gb", "Storage left", asked.storage_left_gb, "GB", hint="a fresh card")
    yield _pick("mains_hz", "Mains", [(50, "50 Hz"), (60, "60 Hz")], asked.mains_hz)

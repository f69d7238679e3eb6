"""The plan of an outing, its cameras, and the core's card for each."""

from __future__ import annotations

from typing import Any

from django.db import transaction

from morphe.core.errors import PlanError
from morphe.core.plan.card import ShootCard, shoot_card
from morphe.core.plan.exposure import Pins
from morphe.core.plan.kit import KitKind
from morphe.core.plan.place import PLACES
from morphe.core.plan.questions import SKY, Questions
from morphe.web.outings.models import Camera, Outing
from morphe.web.plan.models import Plan, PlannedCamera
from morphe.web.shell.numbers import number

__all__ = [
    "CAMERA_KEYS",
    "DAY_KEYS",
    "add_camera",
    "card_of",
    "pin",
    "plan_of",
    "questions_of",
    "save_answers",
    "tick",
]

# Answers that hold for the whole day, and those of one camera.
DAY_KEYS = ("place", "sky", "delivery", "device", "grading_hours", "mains_hz")
CAMERA_KEYS = (
    "shot", "light", "measured_ev", "hour", "contrast_stops", "motion", "skin", "school", "slow", "minutes",
    "storage_left_gb", "depth_m", "distance_m", "water", "lamp", "lesson_stops",
)  # fmt: skip
USUAL_SHOT = {KitKind.DRONE: "flight", KitKind.ACTION: "ride", KitKind.PHONE: "talk", KitKind.OTHER: "walk"}
PARTS = {"filter": "nd_stops", "aperture": "aperture", "shutter": "shutter_s", "iso": "iso"}


def plan_of(outing: Outing) -> Plan:
    """The outing's plan; the first look makes it, with the place if its name is a known one."""
    known = next((p.key for p in PLACES.values() if p.name.lower() == outing.place.strip().lower()), None)
    plan, _ = Plan.objects.get_or_create(
        outing=outing, defaults={"answers": {"place": known} if known else {}}
    )
    return plan


def add_camera(plan: Plan, camera: Camera) -> PlannedCamera:
    """Take a camera along, with the shot it is usually taken for."""
    kit = camera.described
    if kit is None:
        raise PlanError(f"Nothing is known of {camera.name} yet; enter its data in the Library first.")
    answers = {"shot": USUAL_SHOT[kit.kind]}
    if plan.answers.get("place") and kit.kind is not KitKind.PHONE:
        answers["light"] = SKY
    return PlannedCamera.objects.get_or_create(plan=plan, camera=camera, defaults={"answers": answers})[0]


def questions_of(planned: PlannedCamera) -> Questions:
    """The answers of day and camera as one value."""
    outing = planned.plan.outing
    return Questions.from_json({**planned.plan.answers, **planned.answers, "day": outing.date})


def card_of(planned: PlannedCamera) -> ShootCard:
    """Make the card, and keep its settings for the day they are set against what was filmed.

    Raises
    ------
    PlanError
        If the camera's data or an answer can no longer be used.
    """
    kit = planned.camera.described
    if kit is None:
        raise PlanError(f"Nothing is known of {planned.camera} any more; enter its data in the Library.")
    others = [p.camera.described for p in _others(planned)]
    card = shoot_card(
        questions_of(planned),
        kit,
        companions=[k for k in others if k is not None],
        pins=Pins(**planned.pins),
    )
    settings = card.settings_json()
    if planned.settings != settings:
        planned.settings = settings
        PlannedCamera.objects.filter(pk=planned.pk).update(settings=settings)
    return card


def _others(planned: PlannedCamera) -> list[PlannedCamera]:
    return list(planned.plan.cameras.exclude(pk=planned.pk).select_related("camera"))


def save_answers(planned: PlannedCamera, posted: dict[str, Any]) -> None:
    """Keep new answers of a form; nothing is kept if one of them cannot be used."""
    day = {**planned.plan.answers, **{k: posted[k] for k in DAY_KEYS if k in posted}}
    own = {**planned.answers, **{k: posted[k] for k in CAMERA_KEYS if k in posted}}
    if "hour" in posted:
        own["hour"] = _hour(str(posted["hour"]))
    day, own = ({k: v for k, v in kept.items() if v not in (None, "")} for kept in (day, own))
    if own.get("light") == SKY and not day.get("place"):
        del own["light"]  # the place was taken away
    outing = planned.plan.outing
    asked = Questions.from_json({**day, **own, "day": posted.get("day") or outing.date})
    planned.plan.answers, planned.answers = day, own
    outing.date = asked.day or outing.date
    with transaction.atomic():
        planned.plan.save(update_fields=["answers"])
        planned.save(update_fields=["answers"])
        outing.save(update_fields=["date"])


def _hour(typed: str) -> float | str:
    hours, colon, minutes = typed.strip().partition(":")
    if not colon:
        return typed
    hour, minute = number(hours), number(minutes)
    if hour is None or minute is None or minute >= 60:
        raise PlanError(f"“{typed[:20]}” is no time of day; write it as 10:30.")
    return hour + minute / 60


def pin(planned: PlannedCamera, part: str, value: str) -> None:
    """Hold one part of the exposure stack fast, or let it go with an empty value."""
    if part not in PARTS:
        raise PlanError(f"There is no {part[:20]} in the exposure stack.")
    pins = {k: v for k, v in planned.pins.items() if k != PARTS[part]}
    if value:
        try:
            number = float(value)
        except ValueError as error:
            raise PlanError(f"“{value[:20]}” is no number.") from error
        if not 0 <= number < 1e7 or (number == 0 and part != "filter"):
            raise PlanError(f"The {part} cannot be set to {value[:20]}.")
        pins[PARTS[part]] = number
    planned.pins = pins
    planned.save(update_fields=["pins"])


def tick(planned: PlannedCamera, key: str, on: bool) -> None:
    """Note that a caution has been seen to, or not."""
    others = [k for k in planned.ticked if k != key]
    planned.ticked = [*others, key[:20]] if on else others
    planned.save(update_fields=["ticked"])

"""What is asked before a shoot. Everything has a default; three answers make a card."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from dataclasses import fields as dataclass_fields
from datetime import date
from enum import StrEnum
from typing import Any

from morphe.core.errors import PlanError
from morphe.core.plan import fields
from morphe.core.plan.kit import School
from morphe.core.plan.light import LIGHTS, SKIES
from morphe.core.plan.place import PLACES, Place, place_at
from morphe.core.plan.shots import MOTIONS, SHOTS
from morphe.core.water.daylight import WATER_TYPES

__all__ = ["MEASURED", "SKY", "Delivery", "Device", "Questions"]

SKY, MEASURED = "sky", "measured"


class Delivery(StrEnum):
    """What is handed over in the end."""

    WEB_SDR = "web-sdr"
    WEB_HDR = "web-hdr"
    VERTICAL = "vertical"

    @property
    def word(self) -> str:
        return {"web-sdr": "Web, ordinary", "web-hdr": "Web, HDR", "vertical": "Vertical, ordinary"}[
            self.value
        ]


class Device(StrEnum):
    """What the footage is finished on."""

    LAPTOP = "laptop"
    TABLET = "tablet"
    PHONE = "phone"


@dataclass(frozen=True, slots=True, kw_only=True)
class Questions:
    """The person's answers; None means: as the kind of shot, the light or the camera has it.

    `hour` is local time in hours since midnight, `light` a key of LIGHTS, "sky" (sun and sky at place, date
    and hour) or "measured" (`measured_ev`).
    """

    shot: str = "flight"
    light: str | None = None
    measured_ev: float | None = None
    sky: str = "clear"
    sun_deg: float | None = None
    place: Place | None = None
    day: date | None = None
    hour: float = 10.0
    contrast_stops: float | None = None
    motion: str | None = None
    skin: bool | None = None
    delivery: Delivery = Delivery.WEB_SDR
    device: Device = Device.LAPTOP
    grading_hours: float = 1.0
    minutes: float = 20.0
    storage_left_gb: float | None = None
    school: School | None = None
    slow: int = 1
    mains_hz: int = 50
    depth_m: float | None = None
    distance_m: float | None = None
    water: str = "II"
    lamp: bool | None = None
    lesson_stops: float = 0.0

    def as_json(self) -> dict[str, Any]:
        """Plain values that `from_json` reads back."""
        values = asdict(self)
        if self.place:
            values["place"] = self.place.key or self.place.coordinates
            values["place_name"] = self.place.name
        values["day"] = self.day.isoformat() if self.day else None
        return values

    @classmethod
    def from_json(cls, data: Mapping[str, Any]) -> Questions:
        """Read answers from plain values.

        Raises
        ------
        PlanError
            With the answer that cannot be used, and what could be.
        """
        known = {f.name for f in dataclass_fields(cls)} | {"place_name"}
        if unknown := sorted(set(data) - known):
            raise PlanError(f"There is no question {', '.join(map(str, unknown))[:80]}.")
        found = cls(**_subject(data), **_light(data), **_afterwards(data), **_water(data))
        if found.light == MEASURED and found.measured_ev is None:
            raise PlanError("Type the measured light as an exposure value, such as 12.")
        if found.light == SKY and found.place is None and found.sun_deg is None:
            raise PlanError("For the light of sun and sky, give a place or the height of the sun.")
        return found


def _optional_choice(data: Mapping[str, Any], key: str, label: str, known: Any) -> str | None:
    return fields.choice(data, key, label, known, "") or None


def _optional_flag(data: Mapping[str, Any], key: str) -> bool | None:
    return None if data.get(key) in (None, "") else fields.flag(data, key)


def _subject(data: Mapping[str, Any]) -> dict[str, Any]:
    school = _optional_choice(data, "school", "School of exposure", School)
    return {
        "shot": fields.choice(data, "shot", "Kind of shot", SHOTS, "flight"),
        "motion": _optional_choice(data, "motion", "Motion", MOTIONS),
        "skin": _optional_flag(data, "skin"),
        "contrast_stops": fields.optional_number(data, "contrast_stops", "Contrast in stops", 2, 20),
        "school": School(school) if school else None,
        "slow": int(fields.choice(data, "slow", "Slow motion", ("1", "2", "4", "8"), "1")),
        "lesson_stops": fields.number(data, "lesson_stops", "Lesson in stops", -3, 3, 0),
    }


def _light(data: Mapping[str, Any]) -> dict[str, Any]:
    return {
        "light": _optional_choice(data, "light", "Light", [*LIGHTS, SKY, MEASURED]),
        "measured_ev": fields.optional_number(data, "measured_ev", "Measured light (EV)", -6, 20),
        "sky": fields.choice(data, "sky", "Sky", SKIES, "clear"),
        "sun_deg": fields.optional_number(data, "sun_deg", "Height of the sun in degrees", -18, 90),
        "place": _place(data),
        "day": _day(data.get("day")),
        "hour": fields.number(data, "hour", "Hour of the day", 0, 24, 10),
        "mains_hz": int(fields.choice(data, "mains_hz", "Mains frequency", ("50", "60"), "50")),
    }


def _afterwards(data: Mapping[str, Any]) -> dict[str, Any]:
    return {
        "delivery": Delivery(fields.choice(data, "delivery", "Delivery", Delivery, "web-sdr")),
        "device": Device(fields.choice(data, "device", "Editing device", Device, "laptop")),
        "grading_hours": fields.number(data, "grading_hours", "Hours for grading", 0, 1000, 1),
        "minutes": fields.number(data, "minutes", "Minutes to film", 0.1, 10_000, 20),
        "storage_left_gb": fields.optional_number(data, "storage_left_gb", "Storage left in GB", 0, 100_000),
    }


def _water(data: Mapping[str, Any]) -> dict[str, Any]:
    return {
        "depth_m": fields.optional_number(data, "depth_m", "Depth in metres", 0.1, 300),
        "distance_m": fields.optional_number(data, "distance_m", "Distance in metres", 0.05, 50),
        "water": fields.choice(data, "water", "Water", WATER_TYPES, "II"),
        "lamp": _optional_flag(data, "lamp"),
    }


def _place(data: Mapping[str, Any]) -> Place | None:
    typed = fields.text(data, "place", "Place", "")
    if not typed:
        return None
    named = next((p for p in PLACES.values() if typed.lower() in (p.key, p.name.lower())), None)
    return named or place_at(typed, name=fields.text(data, "place_name", "Name", ""))


def _day(value: Any) -> date | None:
    if value in (None, ""):
        return None
    if isinstance(value, date):
        return value
    try:
        found = date.fromisoformat(str(value))
    except ValueError as error:
        raise PlanError(f"“{str(value)[:20]}” is no date; write it as 2026-09-12.") from error
    if not 1950 <= found.year <= 2100:
        raise PlanError("Choose a date between 1950 and 2100.")
    return found

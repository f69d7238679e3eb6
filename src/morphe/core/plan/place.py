"""Places: made-up ones to try with, and typed coordinates with the clock that is kept there."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import tzinfo
from zoneinfo import ZoneInfo

from tzfpy import get_tz

from morphe.core.errors import PlanError
from morphe.core.registry import Registry

__all__ = ["PLACES", "Place", "place_at"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """Somewhere on Earth: degrees north and east, and its time zone by name."""

    key: str = ""
    name: str
    latitude: float
    longitude: float
    zone: str

    @property
    def clock(self) -> tzinfo:
        return ZoneInfo(self.zone)

    @property
    def coordinates(self) -> str:
        north = "N" if self.latitude >= 0 else "S"
        east = "E" if self.longitude >= 0 else "W"
        return f"{abs(self.latitude):.4g}° {north}, {abs(self.longitude):.5g}° {east}"


PLACES: Registry[Place] = Registry("place")
for _key, _name, _latitude, _longitude, _zone in (
    ("wrenfleet", "Wrenfleet estuary", 52.0, 1.0, "Europe/London"),
    ("skarnvoll", "Skarnvoll fjord", 68.0, 15.0, "Europe/Oslo"),
    ("alderhorn", "Alderhorn pass", 46.5, 8.5, "Europe/Zurich"),
    ("brumal", "Brumal bay", 28.0, -16.5, "Atlantic/Canary"),
    ("corraline", "Corraline reef", -17.0, 146.0, "Australia/Brisbane"),
):
    PLACES.register(_key)(Place(key=_key, name=_name, latitude=_latitude, longitude=_longitude, zone=_zone))

NUMBER = r"(-?\d{1,3}(?:[.,]\d+)?)\s*°?\s*([NSEWnsew]?)"
PAIR = re.compile(rf"^\s*{NUMBER}\s*[,; ]\s*{NUMBER}\s*$")


def place_at(typed: str, *, name: str = "") -> Place:
    """Read typed coordinates, such as `52.0 N, 1.0 E` or `-17, 146`.

    Raises
    ------
    PlanError
        If they are no pair of degrees, latitude first.
    """
    pair = PAIR.match(typed)
    if pair is None:
        raise PlanError(
            f"“{typed[:40]}” is no place; type latitude and longitude in degrees, such as 52.0 N, 1.0 E."
        )
    first, first_side, second, second_side = pair.groups()
    latitude, longitude = float(first.replace(",", ".")), float(second.replace(",", "."))
    if first_side.upper() in ("E", "W") or second_side.upper() in ("N", "S"):
        raise PlanError("Give latitude (N or S) first, then longitude (E or W).")
    latitude = -abs(latitude) if first_side.upper() == "S" else latitude
    longitude = -abs(longitude) if second_side.upper() == "W" else longitude
    if abs(latitude) > 90 or abs(longitude) > 180:
        raise PlanError(
            "Latitude goes from 90 S to 90 N, longitude from 180 W to 180 E; check the coordinates."
        )
    zone = get_tz(longitude, latitude) or "UTC"
    return Place(name=name or typed.strip(), latitude=latitude, longitude=longitude, zone=zone)

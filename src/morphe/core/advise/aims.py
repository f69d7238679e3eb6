"""Where readings are wanted: preferences of a person, with usual values, for an outing or a light."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from enum import StrEnum
from typing import Any

from morphe.core.errors import ColourError
from morphe.core.measure.zone import Zone

__all__ = ["Aims", "Hour"]


class Hour(StrEnum):
    """The hour that a picture is meant to show: it decides where the middle belongs."""

    NOON = "noon"
    FILMED = "filmed"
    DUSK = "dusk"

    @property
    def label(self) -> str:
        return {"noon": "Bright as noon", "filmed": "As filmed", "dusk": "Low as dusk"}[self.value]

    @property
    def mid(self) -> Zone:
        """Where half of the picture should lie: a correctly exposed scene has its middle at 41 to 45 %."""
        low, high = {"noon": (40.0, 52.0), "filmed": (30.0, 50.0), "dusk": (18.0, 34.0)}[self.value]
        return Zone(low=low, high=high, unit="%")


BLACKS = {"deep": (0.0, 5.0), "open": (0.0, 10.0)}
WHITES = {
    "any": (80.0, 100.0),
    "light": (90.0, 100.0),
    "none": (80.0, 90.0),
}  # by a light source in the frame


@dataclass(frozen=True, slots=True, kw_only=True)
class Aims:
    """What is wanted of black point, white point and mid level.

    Parameters
    ----------
    black : deep (0 to 5 %) or open (0 to 10 %)
    white : for frames with a light source (90 to 100 %), with none (80 to 90 %), or either
    """

    black: str = "deep"
    white: str = "any"
    hour: Hour = Hour.FILMED

    def __post_init__(self) -> None:
        if self.black not in BLACKS or self.white not in WHITES:
            raise ColourError(
                f"Black is {' or '.join(BLACKS)}, white {', '.join(WHITES)}; choose one of these."
            )
        if self.hour not in tuple(Hour):
            raise ColourError(f"The hour is one of {', '.join(Hour)}.")

    @classmethod
    def of(cls, *said: Mapping[str, Any]) -> Aims:
        """From plain values; the later ones go before the earlier. What cannot be used is left as usual."""
        values: dict[str, str] = {}
        for one in said:
            values |= {k: str(v) for k, v in one.items() if k in ("black", "white", "hour") and v}
        hour = values.pop("hour", Hour.FILMED)
        return cls(**values, hour=Hour(hour) if hour in tuple(Hour) else Hour.FILMED)

    def as_json(self) -> dict[str, str]:
        return {name: str(value) for name, value in asdict(self).items()}

    @property
    def black_zone(self) -> Zone:
        low, high = BLACKS[self.black]
        return Zone(low=low, high=high, unit="%")

    @property
    def white_zone(self) -> Zone:
        low, high = WHITES[self.white]
        return Zone(low=low, high=high, unit="%")

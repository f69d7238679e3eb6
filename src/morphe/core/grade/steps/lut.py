"""A LUT as a style: given what it expects, ordinary video or a log, and mixed like with like by its layer."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import ClassVar

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.grade.step import ColourStep
from morphe.core.grade.table import SHELF
from morphe.core.signal.arrays import Encoded, Float
from morphe.core.signal.camera_log import CameraLog
from morphe.core.signal.primaries import Primaries, rgb_to_rgb
from morphe.core.signal.profiles import PROFILES
from morphe.core.signal.transfer import decode_bt709

__all__ = ["FILM_LOG", "LOG", "ORDINARY", "ROLES", "Lut", "film_log"]

ORDINARY, LOG, FILM_LOG = "ordinary", "log", "film log"
ROLES = (ORDINARY, LOG, FILM_LOG)
# Printing density in steps of 0.002 a code of 10 bits at a gamma of 0.6: 0.088 a stop; grey lies at 0.435.
film_log = CameraLog(log_slope=0.088, log_offset=0.65, linear_offset=0.004, linear_break=0.004)


@dataclass(frozen=True, slots=True, kw_only=True)
class Lut(ColourStep):
    """A table from the shelf, named by its digest, with what it expects.

    A table for a log gets the light of the corrected picture in that log again: `curve` names a profile, or
    `numbers` are those of a camera log. What comes out is ordinary video in either case.
    """

    key: ClassVar[str] = "lut"
    label: ClassVar[str] = "LUT"

    table: str = ""
    name: str = ""
    role: str = ORDINARY
    curve: str = "log-lifted"
    numbers: tuple[float, ...] | None = None

    def __post_init__(self) -> None:
        if self.role not in ROLES:
            raise ColourError(f"A LUT expects one of: {', '.join(ROLES)}.")
        if self.numbers is not None:
            CameraLog.of(self.numbers)
        elif self.curve not in PROFILES:
            raise ColourError(f"There is no profile {self.curve!r} for a LUT.")
        if self.table:
            SHELF.check(self.table, self.name)

    @property
    def is_neutral(self) -> bool:
        return not self.table

    @property
    def summary(self) -> str:
        return f"{self.name}, expects {self.role}" if self.at_work else ""

    def apply(self, picture: Encoded) -> Encoded:
        table = SHELF.get(self.table, self.name)
        if self.role == ORDINARY:
            inner = np.clip(picture, 0, 1)
            return np.asarray(table.apply(inner) + (picture - inner), np.float32)
        return np.asarray(table.apply(self._in_log(picture)), np.float32)

    def _in_log(self, picture: Encoded) -> Float:
        light = decode_bt709(picture)
        if self.role == FILM_LOG:
            return np.asarray(film_log.encode(light))
        if self.numbers is not None:
            return np.asarray(_camera_log(self.numbers).encode(light))
        profile = PROFILES.get(self.curve)
        if profile.primaries is Primaries.BT2020:
            light = light @ rgb_to_rgb(Primaries.BT709, Primaries.BT2020).T.astype(np.float32)
        return np.asarray(profile.encode(light))


@lru_cache(maxsize=16)
def _camera_log(numbers: tuple[float, ...]) -> CameraLog:
    return CameraLog.of(numbers)

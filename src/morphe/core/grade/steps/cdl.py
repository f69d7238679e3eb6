"""Numbers of an ASC colour decision list (v1.2): slope, offset and power of each channel, then saturation."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.grade.step import ColourStep
from morphe.core.signal.arrays import Encoded
from morphe.core.signal.primaries import LUMINANCE_709

__all__ = ["Cdl"]

ONES, ZEROS = (1.0, 1.0, 1.0), (0.0, 0.0, 0.0)
MOST = 20.0  # of a slope, a power or a saturation


@dataclass(frozen=True, slots=True, kw_only=True)
class Cdl(ColourStep):
    """A decision list on ordinary video, written elsewhere; values are clipped to 0..1 as it says."""

    key: ClassVar[str] = "cdl"
    label: ClassVar[str] = "Decision list"

    slope: tuple[float, float, float] = ONES
    offset: tuple[float, float, float] = ZEROS
    power: tuple[float, float, float] = ONES
    saturation: float = 1.0

    def __post_init__(self) -> None:
        ColourStep.__post_init__(self)
        numbers = [*self.slope, *self.offset, *self.power, self.saturation]
        if len(numbers) != 10 or not np.isfinite(numbers).all():
            raise ColourError("A decision list has three slopes, offsets and powers, and a saturation.")
        if min(self.slope) < 0 or self.saturation < 0 or min(self.power) <= 0:
            raise ColourError("Slopes and saturation of a decision list are not below 0, powers above it.")
        if max(map(abs, numbers)) > MOST:
            raise ColourError(f"The numbers of a decision list lie within {MOST:g}.")

    @property
    def is_neutral(self) -> bool:
        return (self.slope, self.offset, self.power, self.saturation) == (ONES, ZEROS, ONES, 1.0)

    @property
    def summary(self) -> str:
        if not self.at_work:
            return ""
        parts = [("slope", self.slope), ("offset", self.offset), ("power", self.power)]
        said = [f"{name} {' '.join(f'{v:.2f}' for v in values)}" for name, values in parts]
        return f"{', '.join(said)}, saturation {self.saturation:.2f}"

    def apply(self, picture: Encoded) -> Encoded:
        slope, offset, power = (np.array(v, np.float32) for v in (self.slope, self.offset, self.power))
        moved = np.clip(picture * slope + offset, 0, 1) ** power
        luma = (moved @ LUMINANCE_709.astype(np.float32))[..., None]
        return np.asarray(np.clip(luma + self.saturation * (moved - luma), 0, 1), np.float32)

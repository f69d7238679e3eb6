"""A reading and the zone it is wanted in: one pair for rule, sentence, instrument, mark, JSON and report."""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["Reading", "Zone"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Zone:
    """Where a reading is wanted, both ends included, in a unit."""

    low: float
    high: float
    unit: str

    def holds(self, value: float) -> bool:
        return self.low <= value <= self.high

    def outside(self, value: float) -> float:
        """How far a value lies outside: negative below, positive above, 0 inside."""
        return min(value - self.low, 0.0) or max(value - self.high, 0.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """What was measured, with its zone; None where there is nothing to measure.

    `marks` is where an instrument shows it: percent levels, or (Cb, Cr) on the vectorscope; `marked_zone` is
    the zone there.
    """

    value: float | None
    zone: Zone
    marks: tuple[float, ...] = ()
    marked_zone: tuple[float, float] | None = None

    @property
    def is_inside(self) -> bool:
        return self.value is None or self.zone.holds(self.value)

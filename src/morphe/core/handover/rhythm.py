"""An even rate of frames: which frame is shown at every tick, whatever the times it was filmed at."""

from __future__ import annotations

import math
from collections.abc import Iterator
from fractions import Fraction
from typing import Generic, TypeVar

__all__ = ["USUAL_RATES", "Rhythm", "rhythm_cost", "tick_at", "usual_rate"]

T = TypeVar("T")
ROUNDED_S = 1e-3  # times may be kept in milliseconds
# Frames a second that cameras write and players expect.
USUAL_RATES = (
    *(Fraction(whole) for whole in (12, 15, 24, 25, 30, 48, 50, 60, 100, 120, 240)),
    *(Fraction(whole * 1000, 1001) for whole in (24, 30, 48, 60, 120, 240)),
)
ALIKE = 0.01  # share by which a measured rate may differ from the one that was meant


class Rhythm(Generic[T]):
    """Lays frames that come with their times on ticks of 1/fps: at each, the one that is shown then.

    A tick depends on nothing after it, so a clip may be cut anywhere and comes out alike.
    """

    def __init__(self, fps: Fraction) -> None:
        self._fps = fps
        self._held: tuple[T, float] | None = None

    def push(self, frame: T, time_s: float) -> Iterator[tuple[T, int]]:
        """The frame before this one, with every tick at which it was shown."""
        yield from self.flush(time_s)
        self._held = frame, time_s

    def flush(self, end_s: float) -> Iterator[tuple[T, int]]:
        """What is held, up to an end."""
        if self._held is not None:
            frame, begun = self._held
            for tick in range(tick_at(begun, self._fps), tick_at(end_s, self._fps)):
                yield frame, tick
        self._held = None


def tick_at(time_s: float, fps: Fraction) -> int:
    """The first tick of 1/fps at which something is shown that begins then."""
    return math.ceil((time_s - ROUNDED_S) * float(fps))


def usual_rate(measured: Fraction) -> Fraction:
    """The rate that was meant where one was measured: a usual one if it is near, at most the fastest."""
    nearest = min(USUAL_RATES, key=lambda rate: abs(measured / rate - 1))
    if abs(measured / nearest - 1) <= ALIKE:
        return nearest
    return min(max(measured, Fraction(1)), max(USUAL_RATES))


def rhythm_cost(own: float, wanted: float) -> str:
    """What it costs to show a clip at another rate, in a sentence; empty where it costs nothing."""
    if abs(own - wanted) < 5e-3:
        return ""
    said = f"{own:g} frames a second become {wanted:g}"
    times = own / wanted if own > wanted else wanted / own
    if own > wanted:
        if abs(times - round(times)) < 2e-3:
            kept = "every second one" if round(times) == 2 else f"one of {round(times)}"
            return f"{said}: {kept} is kept, movement stays even."
        return f"{said}: one in {own / (own - wanted):.1f} is left out, and movement jerks a little."
    if abs(times - round(times)) < 2e-3:
        return f"{said}: each is shown {round(times)} times, nothing is added."
    return f"{said}: one in {own / (wanted - own):.1f} is shown twice, and movement jerks a little."

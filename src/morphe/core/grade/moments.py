"""Numbers that change during a clip: values at moments, and the smooth way between them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.signal.arrays import Float

__all__ = ["MOST_MOMENTS", "Moments", "Number", "held", "smooth_way"]

MOST_MOMENTS = 2000  # a followed region has a few for each second


LATEST_S = 1e6  # of a moment


@dataclass(frozen=True, slots=True)
class Moments:
    """A number at rising moments: ((seconds, value), …). Before the first and after the last it holds."""

    points: tuple[tuple[float, float], ...]

    def __post_init__(self) -> None:
        check_moments(self.points, 2)

    @property
    def values(self) -> tuple[float, ...]:
        return tuple(value for _, value in self.points)

    @property
    def times_s(self) -> tuple[float, ...]:
        return tuple(time for time, _ in self.points)

    def at(self, time_s: float) -> float:
        """The value at a moment."""
        return float(smooth_way(self.points, time_s)[0])

    def with_point(self, time_s: float, value: float) -> Moments:
        """The same with another value at a moment, which is added if it was not there."""
        kept = [p for p in self.points if abs(p[0] - time_s) > 1e-3]
        return Moments(tuple(sorted([*kept, (time_s, value)])))


Number = float | Moments


def held(number: Number, time_s: float) -> float:
    """A number as it stands at a moment."""
    return number.at(time_s) if isinstance(number, Moments) else number


def check_moments(rows: Sequence[Sequence[float]], width: int) -> None:
    """Refuse rows (seconds, …) that do not rise, have another width, or hold what is no number."""
    if not 1 <= len(rows) <= MOST_MOMENTS:
        raise ColourError(f"A number that moves has 1 to {MOST_MOMENTS} moments.")
    try:
        table = np.array(rows, float)
    except (TypeError, ValueError) as error:
        raise ColourError("A moment is a time in seconds and its numbers.") from error
    if np.abs(table).max(initial=0) > LATEST_S:
        raise ColourError("A moment lies further off than any clip is long.")
    if table.shape != (len(rows), width) or not np.isfinite(table).all() or (np.diff(table[:, 0]) <= 0).any():
        raise ColourError(f"Moments need rising seconds with {width - 1} number(s) each.")


def smooth_way(rows: tuple[tuple[float, ...], ...], time_s: float) -> Float:
    """What follows the seconds in rows, at a moment, (n,).

    The way is a monotone cubic (Fritsch & Carlson 1980), at rest at both ends: it never leaves the values
    of its two neighbours, so that a number stays within its limits.
    """
    if len(rows) == 1 or time_s <= rows[0][0]:
        return np.array(rows[0][1:], float)
    if time_s >= rows[-1][0]:
        return np.array(rows[-1][1:], float)
    times, values, slopes = _way(rows)
    at = int(np.searchsorted(times, time_s, side="right")) - 1
    step = times[at + 1] - times[at]
    u = (time_s - times[at]) / step
    near, far = values[at], values[at + 1]
    ease = u * u * (3 - 2 * u)
    bend = step * (u * (1 - u) ** 2 * slopes[at] - u * u * (1 - u) * slopes[at + 1])
    return np.asarray(near + ease * (far - near) + bend)


@lru_cache(maxsize=256)
def _way(rows: tuple[tuple[float, ...], ...]) -> tuple[Float, Float, Float]:
    """Times (n,), values (n, k) and slopes (n, k) of the cubic."""
    table = np.array(rows, float)
    times, values = table[:, 0], table[:, 1:]
    steps = np.diff(times)[:, None]
    secants = np.diff(values, axis=0) / steps
    slopes = np.zeros_like(values)
    one, two = secants[:-1], secants[1:]
    weigh_one, weigh_two = 2 * steps[1:] + steps[:-1], steps[1:] + 2 * steps[:-1]
    same = one * two > 0
    safe_one, safe_two = np.where(same, one, 1.0), np.where(same, two, 1.0)
    mean = (weigh_one + weigh_two) / (weigh_one / safe_one + weigh_two / safe_two)
    slopes[1:-1] = np.where(same, mean, 0.0)
    return times, values, slopes

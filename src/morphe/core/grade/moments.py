"""Numbers that change during a clip: values at moments, and the smooth way between them."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.signal.arrays import Float

__all__ = ["MOST_MOMENTS", "Moments", "Number", "held", "smooth_way", "thinned"]

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
    return np.asarray(_along(_way(rows), np.array([time_s]))[0])


def thinned(rows: Sequence[Sequence[float]], within: Sequence[float], most: int) -> list[tuple[float, ...]]:
    """Those rows from which all others follow, within so much of each number; at most `most` of them.

    Begins with the ends and adds, in rounds, the row that is furthest off between each two (Ramer 1972).
    Where `most` does not suffice, those that were nearest are left out.
    """
    table = np.array(rows, float)
    chosen = np.unique([0, len(table) - 1])
    while len(chosen) < min(most, len(table)):
        way = _way(tuple(tuple(row) for row in table[chosen].tolist()))
        off = (np.abs(_along(way, table[:, 0]) - table[:, 1:]) / np.array(within)).max(axis=1)
        between = [(int(a) + int(off[a : b + 1].argmax())) for a, b in itertools.pairwise(chosen)]
        added = sorted((at for at in between if off[at] > 1), key=lambda at: -off[at])
        if not added:
            break
        chosen = np.unique([*chosen, *added[: most - len(chosen)]])
    return [tuple(rows[at]) for at in chosen]


def _along(way: tuple[Float, Float, Float], at_s: Float) -> Float:
    """Values at moments (n,) that lie between the first and the last, (n, k)."""
    times, values, slopes = way
    at = np.clip(np.searchsorted(times, at_s, side="right") - 1, 0, len(times) - 2)
    step = (times[at + 1] - times[at])[:, None]
    u = (at_s - times[at])[:, None] / step
    near, far = values[at], values[at + 1]
    bend = step * (u * (1 - u) ** 2 * slopes[at] - u * u * (1 - u) * slopes[at + 1])
    return near + u * u * (3 - 2 * u) * (far - near) + bend


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

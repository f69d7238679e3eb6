"""Curves as the Library draws them: stops across, percent up, every place in percent of the drawing."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

import numpy as np

from morphe.core.signal.arrays import Float
from morphe.core.signal.landmarks import codes_per_stop, stops_drawn
from morphe.core.signal.point_curve import GREY
from morphe.core.signal.profiles import Profile

__all__ = ["Drawing", "FitDrawing", "Stop", "band", "drawn", "fit_drawn"]

LOW_STOP, HIGH_STOP, LOW_PCT, HIGH_PCT = -8.5, 8.0, -8.0, 110.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Stop:
    """One stop of a drawn curve: where it lies in percent of the drawing, and the codes spent on it."""

    stop: int
    x: float
    y: float
    codes8: str
    codes10: str
    level: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Drawing:
    """A curve drawn with stops across and percent up, all places in percent of the drawing."""

    line: str
    stops: tuple[Stop, ...]
    levels: tuple[tuple[float, str], ...]
    grey_x: float


def _across(stop: float) -> float:
    return round(100 * (stop - LOW_STOP) / (HIGH_STOP - LOW_STOP), 2)


def _up(percent: float) -> float:
    return round(100 * (HIGH_PCT - percent) / (HIGH_PCT - LOW_PCT), 2)


LEVELS = tuple((_up(v), f"{v}") for v in (0, 25, 50, 75, 100))


def drawn(profile: Profile) -> Drawing:
    """Draw a profile's curve from the noise to its clip."""
    line = _line(profile.encode, float(np.log2(profile.clip / GREY)))
    marks = tuple(
        Stop(
            stop=s, x=_across(s), y=_up(float(100 * profile.encode(np.array(GREY * 2.0**s)))),
            codes8=f"{codes_per_stop(profile, s, 8):.0f}", codes10=f"{codes_per_stop(profile, s, 10):.0f}",
            level=f"{float(100 * profile.encode(np.array(GREY * 2.0**s))):.1f}",
        )
        for s in stops_drawn(profile)
    )  # fmt: skip
    return Drawing(line=line, stops=marks, levels=LEVELS, grey_x=_across(0))


def _line(encode: Callable[[Float], Float], top_stop: float) -> str:
    stops = np.linspace(LOW_STOP, top_stop, 90)
    levels = 100 * np.asarray(encode(GREY * np.exp2(stops)), float)
    return " ".join(f"{_across(s)},{_up(v)}" for s, v in zip(stops, levels, strict=True))


def band(curves: Iterable[Callable[[Float], Float]], top_stop: float) -> str:
    """The area between the lowest and the highest of several curves, as the points of a polygon."""
    stops = np.linspace(LOW_STOP, top_stop, 60)
    levels = 100 * np.stack([np.asarray(encode(GREY * np.exp2(stops)), float) for encode in curves])
    there = [f"{_across(s)},{_up(v)}" for s, v in zip(stops, levels.max(axis=0), strict=True)]
    back = [f"{_across(s)},{_up(v)}" for s, v in zip(stops, levels.min(axis=0), strict=True)]
    return " ".join([*there, *back[::-1]])


@dataclass(frozen=True, slots=True, kw_only=True)
class FitDrawing:
    """A fitted curve with its points; `usable` is the left and the width of the range worth using."""

    line: str
    points: tuple[tuple[float, float], ...]
    levels: tuple[tuple[float, str], ...]
    ticks: tuple[tuple[float, str], ...]
    usable: tuple[float, float]


def fit_drawn(
    encode: Callable[[Float], Float],
    clip_stops: float,
    readings: Iterable[tuple[float, float]],
    usable: tuple[float, float],
) -> FitDrawing:
    """Draw a fit: `readings` are (stops, level as a fraction)."""
    points = tuple((_across(stops), _up(100 * level)) for stops, level in readings)
    ticks = tuple((_across(stop), f"{stop:+d}" if stop else "0") for stop in range(-8, 8, 2))
    left, right = _across(usable[0]), _across(usable[1])
    return FitDrawing(
        line=_line(encode, clip_stops), points=points, levels=LEVELS, ticks=ticks,
        usable=(left, round(right - left, 2)),
    )  # fmt: skip

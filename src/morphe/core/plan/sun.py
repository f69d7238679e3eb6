"""The sun's height through a day at a place, and the windows of light that follow from it."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from functools import lru_cache

from astral import Observer
from astral.sun import elevation as astral_elevation

from morphe.core.plan.place import Place
from morphe.core.water.daylight import WaterType, light_left, path_factor, surface_reflection

__all__ = ["SunDay", "Window", "elevation", "moment", "sun_day", "water_score"]

STEP = timedelta(minutes=10)
GOLDEN_DEG, BLUE_DEG, HARD_DEG = (-4.0, 6.0), (-6.0, -4.0), 45.0
RISE_DEG = -0.833  # upper limb on the horizon, with refraction
WATER_GOOD_DEG, WATER_USABLE_DEG = 40.0, 25.0
WATER_SHARE = 0.8  # of the day's best


@dataclass(frozen=True, slots=True, kw_only=True)
class Window:
    """A stretch of the day, on the place's own clock."""

    key: str
    label: str
    start: datetime
    end: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class SunDay:
    """One day: heights every ten minutes, the highest point, and the windows."""

    place: Place
    day: date
    heights: tuple[tuple[datetime, float], ...]
    noon: datetime
    noon_deg: float
    windows: tuple[Window, ...]
    sentences: tuple[str, ...]

    def of(self, key: str) -> tuple[Window, ...]:
        """The windows of one kind, in order."""
        return tuple(w for w in self.windows if w.key == key)


def moment(place: Place, day: date, hour: float) -> datetime:
    """A local hour of a day as an instant."""
    midnight = datetime.combine(day, time(), tzinfo=place.clock).astimezone(UTC)
    return (midnight + timedelta(hours=hour)).astimezone(place.clock)


def elevation(place: Place, when: datetime) -> float:
    """Height of the sun's centre above the horizon in degrees, without refraction."""
    observer = Observer(place.latitude, place.longitude, 0)
    return float(astral_elevation(observer, when.astimezone(UTC), with_refraction=False))


def water_score(water: WaterType, depth_m: float, elevation_deg: float) -> float:
    """How much red daylight an hour brings to a depth: (1 − R)·e^(−K·d·path)·sin h, without a unit."""
    if elevation_deg <= 0:
        return 0.0
    left = light_left(water, depth_m=depth_m, slant=path_factor(elevation_deg))[0]
    return (1 - surface_reflection(elevation_deg)) * left * math.sin(math.radians(elevation_deg))


def _crossing(inside: Callable[[datetime], bool], low: datetime, high: datetime) -> datetime:
    """The moment between two at which `inside` changes, to a few seconds."""
    begins = inside(low)
    while high - low > timedelta(seconds=5):
        middle = low + (high - low) / 2
        low, high = (middle, high) if inside(middle) == begins else (low, middle)
    return high


def _stretches(times: list[datetime], inside: Callable[[datetime], bool]) -> list[tuple[datetime, datetime]]:
    found, start = [], times[0] if inside(times[0]) else None
    for before, after in itertools.pairwise(times):
        was, now = inside(before), inside(after)
        if not was and now:
            start = _crossing(inside, before, after)
        elif was and not now and start is not None:
            found.append((start, _crossing(inside, before, after)))
            start = None
    if start is not None:
        found.append((start, times[-1]))
    return found


def sun_day(place: Place, day: date, *, water: WaterType | None = None, depth_m: float = 0.0) -> SunDay:
    """Work out a day at a place; with `water`, also the best hours for daylight at a depth."""
    start = moment(place, day, 0).astimezone(UTC)
    end = moment(place, day + timedelta(days=1), 0).astimezone(UTC)
    times = [start + STEP * i for i in range(int((end - start) / STEP) + 1)]

    @lru_cache(maxsize=2048)
    def height(when: datetime) -> float:
        return elevation(place, when)

    heights = [height(t) for t in times]
    noon = max(
        (times[heights.index(max(heights))] + timedelta(minutes=m) for m in range(-10, 11)), key=height
    )

    def windows(key: str, label: str, inside: Callable[[datetime], bool]) -> list[Window]:
        return [
            Window(key=key, label=label, start=a.astimezone(place.clock), end=b.astimezone(place.clock))
            for a, b in _stretches(times, inside)
        ]

    found = windows("day", "Sun up", lambda t: height(t) > RISE_DEG)
    found += windows("blue", "Blue hour", lambda t: BLUE_DEG[0] <= height(t) < BLUE_DEG[1])
    found += windows("golden", "Golden hour", lambda t: GOLDEN_DEG[0] <= height(t) <= GOLDEN_DEG[1])
    found += windows("hard", "Hard light", lambda t: height(t) > HARD_DEG)
    if water is not None:
        best = water_score(water, depth_m, height(noon))
        found += windows(
            "water",
            "Best daylight under water",
            lambda t: best > 0 and water_score(water, depth_m, height(t)) >= WATER_SHARE * best,
        )
    return SunDay(
        place=place,
        day=day,
        heights=tuple((t.astimezone(place.clock), h) for t, h in zip(times, heights, strict=True)),
        noon=noon.astimezone(place.clock),
        noon_deg=height(noon),
        windows=tuple(found),
        sentences=_sentences(found, noon.astimezone(place.clock), height(noon), water),
    )


def _span(window: Window) -> str:
    return f"{window.start:%H:%M} to {window.end:%H:%M}"


def _sentences(
    found: list[Window], noon: datetime, noon_deg: float, water: WaterType | None
) -> tuple[str, ...]:
    said = [f"The sun is highest at {noon:%H:%M}, {noon_deg:.0f}° up."]
    if noon_deg <= RISE_DEG:
        said = ["The sun does not rise on this day; plan for lamps or the blue hour."]
    golden = [w for w in found if w.key == "golden"]
    if golden:
        said.append("Golden hour: " + " and ".join(map(_span, golden)) + ".")
    if hard := [w for w in found if w.key == "hard"]:
        said.append(
            f"Hard light from {_span(hard[0])}: shadows are deep and contrast grows by about two stops."
        )
    if water is None:
        return tuple(said)
    if noon_deg >= WATER_GOOD_DEG:
        grade = "good"
    elif noon_deg >= WATER_USABLE_DEG:
        grade = "usable"
    else:
        grade = "dim, with little red in it"
    lost = surface_reflection(noon_deg)
    best = next((w for w in found if w.key == "water"), None)
    said.append(
        f"Under water the daylight is {grade}"
        + (f", best from {_span(best)}" if best else "")
        + (f"; at its highest the surface throws back {lost:.0%} of the sun." if noon_deg > 0 else ".")
    )
    return tuple(said)

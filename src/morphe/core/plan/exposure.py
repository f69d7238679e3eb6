"""Shutter, filter, ISO and aperture solved together, within what the camera can do.

All amounts are stops. The settings' exposure value and the filter add up to what the scene asks for; what is
left over is the error: positive is too bright.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from morphe.core.plan.kit import Filter, Kit
from morphe.core.plan.light import ev100
from morphe.core.plan.shutter import NOMINAL_DENOMINATORS, flicker_safe

__all__ = ["Pins", "Range", "Settings", "range_of", "solve"]

NOMINAL_ISO = (
    50, 64, 80, 100, 125, 160, 200, 250, 320, 400, 500, 640, 800, 1000, 1250, 1600, 2000, 2500, 3200, 4000,
    5000, 6400, 8000, 10000, 12800, 16000, 20000, 25600, 32000, 40000, 51200, 102400,
)  # fmt: skip
NOMINAL_APERTURES = (
    1.0, 1.1, 1.2, 1.4, 1.6, 1.8, 2.0, 2.2, 2.5, 2.8, 3.2, 3.5, 4.0, 4.5, 5.0, 5.6, 6.3, 7.1, 8.0, 9.0, 10,
    11, 13, 14, 16, 18, 20, 22,
)  # fmt: skip
GOOD = 0.21  # stops: what rounding to thirds leaves
SPARE = 2 / 3  # a filter may be this much too strong; shutter or ISO make up for it


@dataclass(frozen=True, slots=True, kw_only=True)
class Range:
    """Everything one camera can be set to, each from least to most light kept out."""

    shutters_s: tuple[float, ...]  # slowest first
    apertures: tuple[float, ...]  # widest first
    isos: tuple[float, ...]  # base first
    filters: tuple[Filter | None, ...]  # none first


@dataclass(frozen=True, slots=True, kw_only=True)
class Pins:
    """Settings that the person holds fast; None is left to the solver. `nd_stops` 0 means no filter."""

    nd_stops: float | None = None
    aperture: float | None = None
    shutter_s: float | None = None
    iso: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Settings:
    """One way to set the camera, with the error it leaves in stops (positive: too bright)."""

    nd: Filter | None
    aperture: float
    shutter_s: float
    iso: float
    error_stops: float

    @property
    def nd_stops(self) -> float:
        return self.nd.stops if self.nd else 0.0

    @property
    def ev(self) -> float:
        return ev100(self.aperture, self.shutter_s, self.iso)

    @property
    def is_good(self) -> bool:
        return abs(self.error_stops) <= GOOD


def _between(nominal: Sequence[float], low: float, high: float) -> tuple[float, ...]:
    """Nominal values within a range, and its ends."""
    inside = {v for v in nominal if low * 1.001 < v < high * 0.999}
    return tuple(sorted(inside | {low, high}))


def range_of(kit: Kit, *, fps: float, flicker_hz: float | None = None) -> Range:
    """What a camera can be set to at a frame rate; under lamps only times that span whole pulses, if any."""
    slowest = max(min(kit.shutter_slowest_s, 1 / fps), kit.shutter_fastest_s)
    denominators = _between(NOMINAL_DENOMINATORS, 1 / slowest, 1 / kit.shutter_fastest_s)
    shutters = tuple(1 / d for d in denominators)
    if flicker_hz:
        pulses = {k / (2 * flicker_hz) for k in range(1, 9)}
        safe = {t for t in shutters if flicker_safe(t, flicker_hz)}
        safe |= {t for t in pulses if kit.shutter_fastest_s <= t <= slowest}
        shutters = tuple(sorted(_distinct(safe), reverse=True)) or shutters
    return Range(
        shutters_s=shutters,
        apertures=_between(NOMINAL_APERTURES, kit.aperture_widest, kit.aperture_narrowest),
        isos=_between(NOMINAL_ISO, kit.iso_base, kit.iso_ceiling),
        filters=(None, *kit.densities),
    )


def _distinct(times: set[float]) -> list[float]:
    kept: list[float] = []
    for t in sorted(times):
        if not kept or t / kept[-1] > 1.05:
            kept.append(t)
    return kept


def _nearest(values: Sequence[float], wanted: float) -> float:
    return min(values, key=lambda v: abs(math.log2(v / wanted)))


def _filter_cost(rest: float) -> float:
    """Cost of a filter that leaves `rest` stops too bright; convex, so more light never asks for less."""
    if rest >= 0:
        return rest
    return -rest if rest >= -SPARE else SPARE + 1000 * (-rest - SPARE)


@dataclass(slots=True)
class _Bench:
    """The settings while they are being solved."""

    needed_ev: float
    nd: Filter | None
    aperture: float
    shutter_s: float
    iso: float

    @property
    def error(self) -> float:
        nd = self.nd.stops if self.nd else 0.0
        return self.needed_ev - nd - ev100(self.aperture, self.shutter_s, self.iso)


def solve(ability: Range, *, needed_ev: float, shutter_s: float, pins: Pins | None = None) -> Settings:
    """Find the settings that expose a scene of `needed_ev`, or the best compromise.

    Too bright: a filter first, then a narrower aperture, then a faster shutter. Too dark: a wider aperture,
    then ISO up to its ceiling, then a slower shutter up to the frame interval.

    Parameters
    ----------
    ability : what the camera can do.
    needed_ev : exposure value at ISO 100 that filter and settings must add up to: scene light less glass
        and less the wanted offset.
    shutter_s : the shutter time that is wanted; the nearest one the camera has is taken.
    pins : settings the person holds fast, as far as the camera has them.

    Returns
    -------
    Settings whose every value lies within `ability`.
    """
    pins = pins or Pins()
    start = ability.apertures[0] * math.sqrt(2)  # one stop down is sharpest, if there is a choice
    bench = _Bench(
        needed_ev=needed_ev,
        nd=_pinned_filter(ability, pins),
        aperture=_nearest(ability.apertures, pins.aperture or start),
        shutter_s=_nearest(ability.shutters_s, pins.shutter_s or shutter_s),
        iso=_nearest(ability.isos, pins.iso or ability.isos[0]),
    )
    if bench.error > 0:
        _darken(bench, ability, pins)
    if bench.error < 0:
        _brighten(bench, ability, pins)
    return Settings(
        nd=bench.nd, aperture=bench.aperture, shutter_s=bench.shutter_s, iso=bench.iso,
        error_stops=bench.error,
    )  # fmt: skip


def _pinned_filter(ability: Range, pins: Pins) -> Filter | None:
    if not pins.nd_stops:
        return None
    return min(ability.filters, key=lambda f: abs((f.stops if f else 0) - (pins.nd_stops or 0)))


def _darken(bench: _Bench, ability: Range, pins: Pins) -> None:
    """Take light away."""
    if pins.nd_stops is None:
        error = bench.error
        bench.nd = min(
            ability.filters, key=lambda f: (_filter_cost(error - (f.stops if f else 0)), f is not None)
        )
    if pins.aperture is None and bench.error > 0:
        bench.aperture = _nearest(ability.apertures, bench.aperture * 2 ** (bench.error / 2))
    if pins.shutter_s is None and abs(bench.error) > 0.01:
        bench.shutter_s = _nearest(ability.shutters_s, bench.shutter_s / 2**bench.error)


def _brighten(bench: _Bench, ability: Range, pins: Pins) -> None:
    """Let light in."""
    if pins.aperture is None:
        bench.aperture = _nearest(ability.apertures, bench.aperture * 2 ** (bench.error / 2))
    if pins.iso is None and bench.error < -GOOD:
        bench.iso = _nearest(ability.isos, bench.iso * 2**-bench.error)
    if pins.shutter_s is None and bench.error < -GOOD:
        bench.shutter_s = _nearest(ability.shutters_s, bench.shutter_s / 2**bench.error)

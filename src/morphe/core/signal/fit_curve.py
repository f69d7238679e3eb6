"""Fit an unknown camera's curve from a grey card filmed at known steps of exposure.

The general log family with a = 1 and base 2 (four numbers that the data can tell apart), by bounded least
squares with a soft loss; where no such curve fits, the measured points themselves are the curve.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.signal.arrays import Float
from morphe.core.signal.camera_log import CameraLog
from morphe.core.signal.point_curve import GREY, PointCurve

__all__ = ["CardReading", "CurveFit", "fit_curve"]

LEAST_POINTS = 5
CLIPPED_SHARE = 0.01
HALF_CODE = 0.5 / 219
SOFT = 0.003  # code fraction from which a residual counts less
FITS_STOPS = 0.05  # RMS up to which a log curve is taken for the camera's
PLATEAU_STOPS, PLATEAU_RISE = 0.1, 0.7
NOISY_STOPS = 0.5  # noise of a pixel, in stops, from which light is not worth using
START = (0.08, np.log(0.02), 0.55, 0.55)
LOWEST = (0.02, np.log(0.002), 0.2, 0.15)
HIGHEST = (0.25, np.log(0.2), 1.2, 1.6)


@dataclass(frozen=True, slots=True, kw_only=True)
class CardReading:
    """The card at one step: stops from grey, level and noise of a pixel as fractions of the range.

    `clipped` is the share of its pixels at the top code.
    """

    stops: float
    level: float
    noise: float = HALF_CODE
    clipped: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class CurveFit:
    """A fitted curve with what was used, how well it fits, and the range worth using, in stops from grey.

    `errors_stops` belong to `used`, one each; `rms_stops` and `worst_stops` are taken over the usable range.
    """

    curve: CameraLog | PointCurve
    used: tuple[CardReading, ...]
    errors_stops: tuple[float, ...]
    rms_stops: float
    worst_stops: float
    clip_stops: float
    usable_stops: tuple[float, float]
    sentences: tuple[str, ...]


def fit_curve(readings: Sequence[CardReading]) -> CurveFit:
    """Fit a camera's curve.

    Raises
    ------
    ColourError
        If too few steps can be used, or more light does not give higher codes.
    """
    ordered = sorted(readings, key=lambda r: r.stops)
    if len({round(r.stops, 3) for r in ordered}) < len(ordered):
        raise ColourError("Two takes have the same exposure; give each its own step.")
    used = _rising([r for r in ordered if r.clipped <= CLIPPED_SHARE])
    if len(used) < LEAST_POINTS:
        raise ColourError(
            f"Only {len(used)} takes can be used and at least {LEAST_POINTS} are needed; "
            "film the card in whole stops from deep shade to white."
        )
    used = _without_plateau(used)
    log = _fit_log(used)
    fit = _judged(log, used, _errors(log, used))
    said = []
    if dropped := len(ordered) - len(used):
        said.append(f"{dropped} of {len(ordered)} takes were left out: clipped, or the codes no longer rise.")
    if fit.rms_stops > FITS_STOPS:
        points = PointCurve.of([(r.level, r.stops) for r in used])
        fit = _judged(points, used, _left_out_errors(used))
        said.append(
            "No log curve fits; the measured points are the curve, and the error is that of leaving one out."
        )
    return replace(fit, sentences=(*said, *_words(fit)))


def _rising(readings: list[CardReading]) -> list[CardReading]:
    """The longest run around the middle in which codes rise by at least half a code."""
    middle = min(range(len(readings)), key=lambda i: abs(readings[i].stops), default=0)
    kept = readings[middle : middle + 1]
    for reading in readings[middle + 1 :]:
        if reading.level - kept[-1].level < HALF_CODE:
            break
        kept.append(reading)
    for reading in reversed(readings[:middle]):
        if kept[0].level - reading.level < HALF_CODE:
            break
        kept.insert(0, reading)
    return kept


def _without_plateau(used: list[CardReading]) -> list[CardReading]:
    """Leave out a brightest take that lies lower than the others lead to: the sensor clipped below it."""
    others = used[:-1]
    if len(others) < LEAST_POINTS:
        return used
    log = _fit_log(others)
    if _judged(log, others, _errors(log, others)).rms_stops <= FITS_STOPS:
        return others if _errors(log, used[-1:])[0] < -PLATEAU_STOPS else used
    earlier, before, rise = np.diff([r.level for r in used[-4:]])
    return others if rise < PLATEAU_RISE * before * before / earlier else used


def _curve(p: Float) -> CameraLog:
    lift = float(np.exp(p[1]))
    return CameraLog(
        log_slope=float(p[0]), log_offset=float(p[2]), linear_offset=lift, linear_break=float(p[3]) * lift
    )


def _fit_log(used: Sequence[CardReading]) -> CameraLog:
    light = GREY * np.exp2([r.stops for r in used])
    level = np.array([r.level for r in used])
    weight = HALF_CODE / np.maximum([r.noise for r in used], HALF_CODE)

    def residuals(p: Float) -> Float:
        return weight * (_curve(p).encode(light) - level)

    from scipy.optimize import least_squares  # heavy: late, as only a chart needs it

    found = least_squares(
        residuals,
        START,
        bounds=(LOWEST, HIGHEST),
        loss="soft_l1",
        f_scale=SOFT,
        x_scale=(0.05, 0.5, 0.2, 0.5),
    )
    return _curve(found.x)


def _errors(curve: CameraLog | PointCurve, used: Sequence[CardReading]) -> list[float]:
    light = np.maximum(curve.decode(np.array([r.level for r in used])), 1e-6)
    return [float(np.log2(x / GREY) - r.stops) for x, r in zip(light, used, strict=True)]


def _left_out_errors(used: Sequence[CardReading]) -> list[float]:
    """What a curve through all other points says of each inner one; the ends stay without."""
    errors = [0.0]
    for at in range(1, len(used) - 1):
        others = [r for i, r in enumerate(used) if i != at]
        errors += _errors(PointCurve.of([(r.level, r.stops) for r in others]), [used[at]])
    return [*errors, 0.0]


def _judged(curve: CameraLog | PointCurve, used: Sequence[CardReading], errors: list[float]) -> CurveFit:
    noise = [r.noise / _per_stop(curve, r.stops) for r in used]
    quiet = [r.stops for r, n in zip(used, noise, strict=True) if n <= NOISY_STOPS]
    low, high = (quiet[0], used[-1].stops) if quiet else (used[0].stops, used[-1].stops)
    inside = np.array([e for r, e in zip(used, errors, strict=True) if r.stops >= low])
    return CurveFit(
        curve=curve, used=tuple(used), errors_stops=tuple(errors),
        rms_stops=float(np.sqrt((inside**2).mean())), worst_stops=float(np.abs(inside).max()),
        clip_stops=high, usable_stops=(low, high), sentences=(),
    )  # fmt: skip


def _per_stop(curve: CameraLog | PointCurve, stops: float) -> float:
    low, high = curve.encode(GREY * np.exp2(np.array([stops - 0.25, stops + 0.25])))
    return max(float(high - low) * 2, 1e-5)


def _noise_words(fit: CurveFit) -> str:
    darkest = fit.used[0]
    stops = darkest.noise / _per_stop(fit.curve, darkest.stops)
    below = abs(darkest.stops)
    return f"Noise of a pixel, {below:g} stops below grey: {stops:.2f} stop; half a stop is the floor."


def _words(fit: CurveFit) -> list[str]:
    low, high = fit.usable_stops
    return [
        f"Fits within {fit.rms_stops:.3f} stop (RMS), {fit.worst_stops:.2f} at worst.",
        f"Worth using from {abs(low):g} stops below grey to {high:g} above; no brighter take could be used.",
        _noise_words(fit),
        "Stray light in the lens counts as light: use a hood, and keep the card in the middle of the frame.",
    ]

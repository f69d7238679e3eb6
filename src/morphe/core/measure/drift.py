"""Light that wandered during a clip: automatic exposure and white balance found, and the way back.

Neighbouring samples are laid over each other by phase correlation, so that a moving camera is not taken for
changing light; the mean ratio of what both show, channel by channel, is added up over time.
"""

from __future__ import annotations

import io
import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import cv2
import numpy as np

from morphe.core.footage.series import Samples
from morphe.core.footage.shots import Shot, Shots
from morphe.core.measure.readings import luma_of
from morphe.core.measure.surround import surround_of
from morphe.core.signal.arrays import Encoded, Float, Linear
from morphe.core.signal.primaries import LUMINANCE_709
from morphe.core.stored import read_arrays

__all__ = ["Drift", "DriftFinding", "OverTime", "drift_through", "find_drift", "flicker_of", "follow"]

EXPOSURE_STOPS = 0.15  # a wander smaller than this is left alone
BALANCE_STOPS = 0.15  # between red and blue
STOPS_PER_MIRED = 0.015  # of log2(R/B)
SMOOTH_S = 0.1  # deviation of the Gaussian that takes measuring noise off the track; more lags behind turns
DARKEST = 2e-3  # light below this is noise
LEAST_SHARE = 0.02  # of pixels that must be usable in both of two samples
FLICKER_STOPS = 0.02
BEFORE_S = 1e-3  # a cut, up to which a shot holds its light
CELLS = (40, 24)  # across and down, in which two samples are compared
NOTHING_SHARED: Encoded = np.zeros((0, CELLS[0] * CELLS[1], 2, 3), np.float16)
# Share left out at either end. A coder lets small changes of colour wait and then makes up for them here and
# there: a median would miss those, and with them a third of a slow slide.
OUTLIERS = 0.1
MOST_FINDINGS = 4
ENOUGH = 12  # samples, in which bars are looked for


@dataclass(frozen=True, slots=True, kw_only=True)
class DriftFinding:
    """A stretch of the clip in which the light moved: seconds, stops and mired from its start to its end."""

    start_s: float
    end_s: float
    stops: float = 0.0
    mired: float = 0.0

    @property
    def sentence(self) -> str:
        turn = (
            f"{abs(self.stops):.1f} stops {'brighter' if self.stops > 0 else 'darker'}"
            if self.stops
            else f"{abs(self.mired):.0f} mired {'warmer' if self.mired > 0 else 'cooler'}"
        )
        return f"From {self.start_s:.1f} to {self.end_s:.1f} s it turns {turn}."


@dataclass(frozen=True, slots=True, kw_only=True)
class Drift:
    """The light over time: `track` holds (seconds, red, green, blue) in stops about the clip's mean."""

    track: tuple[tuple[float, float, float, float], ...] = ()
    findings: tuple[DriftFinding, ...] = ()
    flicker_stops: float = 0.0
    flicker_hz: float = 0.0

    @property
    def stops(self) -> Float:
        """Luminance over the track, in stops."""
        return _luminance(np.array(self.track)[:, 1:]) if self.track else np.zeros(0)

    @property
    def mired(self) -> Float:
        """Warmth over the track, in mired."""
        table = np.array(self.track)
        return (table[:, 1] - table[:, 3]) / STOPS_PER_MIRED if self.track else np.zeros(0)

    @property
    def range_stops(self) -> float:
        return float(np.ptp(self.stops)) if self.track else 0.0

    @property
    def range_mired(self) -> float:
        return float(np.ptp(self.mired)) if self.track else 0.0

    @property
    def wanders(self) -> bool:
        """Whether it is worth a counter-correction."""
        return self.range_stops > EXPOSURE_STOPS or self.range_mired * STOPS_PER_MIRED > BALANCE_STOPS

    @property
    def sentences(self) -> tuple[str, ...]:
        """What is to be said about it."""
        said = [f.sentence for f in self.findings]
        if self.flicker_stops > FLICKER_STOPS:
            said.append(
                f"It flickers by {self.flicker_stops:.2f} stops, {self.flicker_hz:.1f} times a second."
            )
        return tuple(said)


def _luminance(gains: Float) -> Float:
    """Stops of luminance that gains (n, 3) in stops make of a grey."""
    return np.log2(np.exp2(gains) @ LUMINANCE_709)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class OverTime:
    """What light over time is found from, whatever curve the codes were written by.

    Neighbouring samples laid over each other: `pairs` (n - 1, k, 2, 3) float16 codes of the same things in
    both, and the mean luma code of every frame.
    """

    times_s: Float  # (n,)
    pairs: Encoded
    frame_times_s: Float
    frame_luma: Float
    shots: Shots | None = None

    def to_bytes(self) -> bytes:
        buffer = io.BytesIO()
        shots = np.array(json.dumps(self.shots and self.shots.as_json()))
        np.savez_compressed(buffer, times_s=self.times_s, pairs=self.pairs, frame_times_s=self.frame_times_s,
                            frame_luma=self.frame_luma, shots=shots)  # fmt: skip
        return buffer.getvalue()

    @classmethod
    def from_bytes(cls, data: bytes) -> OverTime:
        kept = dict(read_arrays(io.BytesIO(data)))
        found = json.loads(str(kept.pop("shots", "null")))  # older ones knew of no shots
        return cls(**kept, shots=Shots.from_json(found) if found else None)

    def within(self, shot: Shot) -> OverTime:
        """What lies in a shot and serves to read it by; where something does not, the light stands still."""
        at = np.flatnonzero(shot.serves(self.times_s))
        pairs = self.pairs[at[:-1]].copy() if len(at) > 1 else self.pairs[:0]
        pairs[np.diff(at) > 1] = 0
        frames = shot.serves(self.frame_times_s)
        return replace(
            self, times_s=self.times_s[at], pairs=pairs, frame_times_s=self.frame_times_s[frames],
            frame_luma=self.frame_luma[frames], shots=None,
        )  # fmt: skip


def follow(samples: Samples) -> OverTime:
    """Lay the samples of a clip over each other; the camera's movement is taken out."""
    pictures = _without_bars(samples.pictures)
    pairs = [_overlaid(a, b) for a, b in pairwise(pictures)]
    return OverTime(
        times_s=np.asarray(samples.times_s, np.float64),
        pairs=np.stack(pairs).astype(np.float16) if pairs else NOTHING_SHARED,
        frame_times_s=np.asarray(samples.frame_times_s, np.float64),
        frame_luma=np.asarray(samples.frame_luma, np.float32),
        shots=samples.shots,
    )


def _without_bars(pictures: Sequence[Encoded]) -> Sequence[Encoded]:
    if not pictures:
        return pictures
    surround = surround_of(pictures[:: max(1, len(pictures) // ENOUGH)])
    if not surround.kind:
        return pictures
    left, top, right, bottom = surround.window(*pictures[0].shape[1::-1])
    return [picture[top:bottom, left:right] for picture in pictures]


def drift_through(over_time: OverTime, decode: Callable[[Encoded], Linear], ceiling: float) -> Drift:
    """The light of a clip as a conversion shows it.

    Parameters
    ----------
    decode : from codes (..., 3) to scene-linear light
    ceiling : the brightest light that the camera keeps; what comes near it is left out
    """
    if over_time.shots is not None and (over_time.shots.count > 1 or over_time.shots.whole.blind):
        return _one_after_another(over_time, over_time.shots, decode, ceiling)
    found = find_drift(over_time, decode, ceiling)
    grey = over_time.frame_luma[:, None].repeat(3, axis=1).astype(np.float32)
    stops, hertz = flicker_of(list(over_time.frame_times_s), list(decode(grey)[:, 1]))
    return replace(found, flicker_stops=stops, flicker_hz=hertz)


def _one_after_another(
    over_time: OverTime, shots: Shots, decode: Callable[[Encoded], Linear], ceiling: float
) -> Drift:
    """The light within each shot; nothing is compared, and nothing slides, across a cut."""
    track: list[tuple[float, float, float, float]] = []
    findings: list[DriftFinding] = []
    flickers = [(0.0, 0.0)]
    for shot in shots.each:
        found = drift_through(over_time.within(shot), decode, ceiling)
        rows = found.track if found.wanders else ((shot.begin_s, 0.0, 0.0, 0.0),)
        ends = (shot.begin_s, *rows[0][1:]), (shot.end_s - BEFORE_S, *rows[-1][1:])
        inner = [row for row in rows if ends[0][0] < row[0] < ends[1][0]]
        track += [ends[0], *inner, ends[1]]
        findings += found.findings
        flickers.append((found.flicker_stops, found.flicker_hz))
    stops, hertz = max(flickers)
    return Drift(track=tuple(track), findings=tuple(findings), flicker_stops=stops, flicker_hz=hertz)


def find_drift(over_time: OverTime, decode: Callable[[Encoded], Linear], ceiling: float) -> Drift:
    """Follow the light through what neighbouring samples both show."""
    times_s = over_time.times_s
    if len(times_s) < 3:
        return Drift()
    light = decode(over_time.pairs.astype(np.float32))
    steps = [_between(pair[:, 0], pair[:, 1], ceiling) for pair in light]
    walked = np.concatenate([np.zeros((1, 3)), np.cumsum(steps, axis=0)])
    spacing = float(np.median(np.diff(times_s)))
    smooth = _smoothed(walked, max(SMOOTH_S / spacing, 0.3))
    smooth -= smooth.mean(axis=0)
    track = tuple(
        (round(float(t), 3), *(round(float(v), 4) for v in row))
        for t, row in zip(times_s, smooth, strict=True)
    )
    drift = Drift(track=track)  # type: ignore[arg-type]
    return Drift(track=drift.track, findings=_findings(drift)) if drift.wanders else drift


def _smoothed(values: Float, sigma: float) -> Float:
    """Rows (n, k) smoothed down the columns by a Gaussian; the ends hold."""
    size = 2 * int(4 * sigma + 0.5) + 1
    kernel = cv2.getGaussianKernel(size, sigma, cv2.CV_64F)
    # OpenCV refuses to make float64 of float32 where the kernel is small.
    exact = np.asarray(values, np.float64)
    return np.asarray(cv2.filter2D(exact, cv2.CV_64F, kernel, borderType=cv2.BORDER_REPLICATE))


def _between(one: Linear, two: Linear, ceiling: float) -> Float:
    """Mean log2 ratio of the same things in two samples, per channel (3,), outliers left out; zeros if they
    share too little."""
    low, high = np.minimum(one, two).min(axis=-1), np.maximum(one, two).max(axis=-1)
    usable = (low > DARKEST) & (high < 0.9 * ceiling)
    if usable.mean() < LEAST_SHARE:
        return np.zeros(3)
    ratio = np.sort(np.log2(two[usable] / one[usable]), axis=0)
    cut = int(OUTLIERS * len(ratio))
    return np.asarray(ratio[cut : len(ratio) - cut].mean(axis=0))


def _overlaid(first: Encoded, second: Encoded) -> Encoded:
    """Codes (cells, 2, 3) of the same things in two samples, after the camera's movement.

    Cells and not pixels are compared: what remains of a shift moves things about within them and cancels.
    """
    lumas = [np.ascontiguousarray(luma_of(s), np.float32) for s in (first, second)]
    height, width = lumas[0].shape
    window = cv2.createHanningWindow((width, height), cv2.CV_32F)
    flat = [luma - luma.mean() for luma in lumas]
    (dx, dy), _ = cv2.phaseCorrelate(flat[0], flat[1], window)
    if abs(dx) > width / 3 or abs(dy) > height / 3:
        dx = dy = 0.0
    back = np.array([[1, 0, dx], [0, 1, dy]])
    moved = cv2.warpAffine(second, back, (width, height), flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP)
    left, top = (max(0, int(np.ceil(-d))) for d in (dx, dy))
    right, bottom = (size - max(0, int(np.ceil(d))) for size, d in ((width, dx), (height, dy)))
    cells = [
        cv2.resize(part[top:bottom, left:right], CELLS, interpolation=cv2.INTER_AREA).reshape(-1, 3)
        for part in (first, moved)
    ]
    return np.stack(cells, axis=1)


def _findings(drift: Drift) -> tuple[DriftFinding, ...]:
    """Stretches in which exposure, or balance, goes one way; the longest ones, in the order of time."""
    times = [row[0] for row in drift.track]
    found = [
        DriftFinding(start_s=times[a], end_s=times[b], stops=float(drift.stops[b] - drift.stops[a]))
        for a, b in _runs(drift.stops, EXPOSURE_STOPS)
    ] + [
        DriftFinding(start_s=times[a], end_s=times[b], mired=float(drift.mired[b] - drift.mired[a]))
        for a, b in _runs(drift.mired, BALANCE_STOPS / STOPS_PER_MIRED)
    ]
    weight = [abs(f.stops) / EXPOSURE_STOPS + abs(f.mired) * STOPS_PER_MIRED / BALANCE_STOPS for f in found]
    longest = [found[i] for i in np.argsort(weight)[::-1][:MOST_FINDINGS]]
    return tuple(sorted(longest, key=lambda f: f.start_s))


def _runs(values: Float, least: float) -> list[tuple[int, int]]:
    """Stretches (first, last) between turning points that lie at least `least` apart."""
    low = high = extreme = 0
    way = 0
    marks: list[int] = []
    for at in range(1, len(values)):
        if way == 0:
            low, high = (at if values[at] < values[low] else low), (at if values[at] > values[high] else high)
            if values[high] - values[low] >= least:
                marks, extreme, way = [min(low, high)], at, 1 if high > low else -1
        elif way * (values[at] - values[extreme]) >= 0:
            extreme = at
        elif way * (values[extreme] - values[at]) >= least:
            marks.append(extreme)
            extreme, way = at, -way
    return list(pairwise([*marks, extreme])) if marks else []


def flicker_of(times_s: Sequence[float], luminance: Sequence[float]) -> tuple[float, float]:
    """Amplitude in stops and frequency in Hz of a regular flicker in mean luminance of every frame.

    (0, 0) if nothing regular stands out.
    """
    if len(luminance) < 24:
        return 0.0, 0.0
    stops = np.log2(np.maximum(luminance, 1e-5))
    spacing = float(np.median(np.diff(times_s)))
    rest = stops - _smoothed(stops[:, None], max(0.25 / spacing, 1.0))[:, 0]
    power = np.abs(np.fft.rfft(rest * np.hanning(len(rest)))) / (0.25 * len(rest))
    frequency = np.fft.rfftfreq(len(rest), spacing)
    power[frequency < 1.0] = 0
    peak = int(np.argmax(power))
    if power[peak] < 4 * np.median(power[frequency >= 1.0]) or power[peak] < FLICKER_STOPS:
        return 0.0, 0.0
    return float(power[peak]), float(frequency[peak])

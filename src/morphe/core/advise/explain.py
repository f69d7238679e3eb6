"""Which profile made this picture, and how far off was its exposure: explanations weighed by Bayes' rule.

Every candidate profile is inverted; the explanation gains by dark codes that sit at the candidate's own
black, loses by codes its camera could not have written, and is weighed by how natural the resulting
picture would be at any exposure. Curves in between the known ones are candidates too, with less weight.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from morphe.core.advise.naturalness import log_likelihood, tones_of
from morphe.core.grade.steps import Convert
from morphe.core.signal.arrays import Encoded, Float
from morphe.core.signal.camera_log import CameraLog
from morphe.core.signal.profiles import PROFILES, Kind
from morphe.core.signal.transfer import encode_bt709

__all__ = ["Explanation", "explain"]

EXPOSURES = np.arange(-2.5, 2.51, 0.125)
SAMPLE = 4000
# Share of clips of each kind before anything is seen.
PRIOR = {"std-709": 0.50, "flat-a": 0.12, "log-mild": 0.10, "log-lifted": 0.10, "log-wide": 0.10}
FITTED_PRIOR = 0.08


@dataclass(frozen=True, slots=True, kw_only=True)
class Explanation:
    """One way the picture may have come about. `stops` is the exposure to add after conversion."""

    convert: Convert
    kind: Kind
    probability: float
    stops: float
    stops_spread: float


@dataclass(frozen=True, slots=True, kw_only=True)
class _Candidate:
    convert: Convert
    kind: Kind
    prior: float
    black: float  # percent
    top: float  # percent at the brightest light kept


@lru_cache(maxsize=1)
def _candidates() -> tuple[_Candidate, ...]:
    known = []
    for key, prior in PRIOR.items():
        profile = PROFILES.get(key)
        black, top = (float(profile.encode(np.array(x))) * 100 for x in (0.0, profile.clip))
        top = 110.0 if profile.kind is Kind.STANDARD else top
        known.append(
            _Candidate(convert=Convert(profile=key), kind=profile.kind, prior=prior, black=black, top=top)
        )
    between = list(_between())
    for curve in between:
        log = CameraLog(
            log_slope=curve[0], log_offset=curve[1], linear_offset=curve[2], linear_break=curve[3]
        )
        black = float(log.encode(np.array(0.0))) * 100
        known.append(
            _Candidate(
                convert=Convert(profile="fitted", curve=curve),
                kind=Kind.LOG,
                prior=FITTED_PRIOR / len(between),
                black=black,
                top=100.0,
            )
        )
    return tuple(known)


def _between() -> Iterator[tuple[float, float, float, float]]:
    """Log curves of other strengths and lifts: slope per stop, toe, and black codes from 3 to 15 %."""
    for slope in (0.075, 0.095, 0.115, 0.14):
        for lift in (0.012, 0.022, 0.04):
            for black in (0.03, 0.065, 0.10, 0.15):
                edge = 0.5 * lift
                toe = CameraLog(log_slope=slope, log_offset=0.0, linear_offset=lift, linear_break=edge)
                offset = black - float(toe.encode(np.array(0.0)))
                grey = float(toe.encode(np.array(0.18))) + offset
                if 0.30 <= grey <= 0.50:
                    yield (slope, offset, lift, edge)


def _dark_evidence(dark: float, candidate: _Candidate) -> float:
    """Scenes with a true black put it on the candidate's black; the others lie anywhere above it."""
    above = dark - candidate.black
    spike = 0.4 / 0.9 * np.exp(-0.5 * ((above - 0.4) / 0.9) ** 2)
    broad = 0.6 / 6.5 * np.exp(-0.5 * (above / (6.5 if above > 0 else 1.2)) ** 2)
    return float(np.log(spike + broad + 1e-30))


def _exposure_prior() -> Float:
    """Most clips are metered well; the rest err by about a stop."""
    metered = 0.35 / 0.25 * np.exp(-0.5 * (EXPOSURES / 0.25) ** 2)
    off = 0.65 / 0.9 * np.exp(-0.5 * (EXPOSURES / 0.9) ** 2)
    return np.log(metered + off)


def explain(pixels: Encoded) -> tuple[Explanation, ...]:
    """Weigh all candidates for encoded pixels (n, 3); the likeliest comes first, probabilities add to 1."""
    stride = max(1, len(pixels) // SAMPLE)
    sample = pixels[::stride]
    dark = float(np.percentile(pixels.min(axis=1), 0.2) * 100)
    bright = float(np.percentile(pixels.max(axis=1), 99.7) * 100)
    scores = np.stack([_score(c, sample, dark, bright) for c in _candidates()])
    weight = np.exp(scores - scores.max())
    total = weight.sum()
    found = []
    for candidate, row in zip(_candidates(), weight, strict=True):
        mass = float(row.sum())
        if mass <= 0:
            continue
        mean = float((row * EXPOSURES).sum() / mass)
        spread = float(np.sqrt((row * (EXPOSURES - mean) ** 2).sum() / mass))
        found.append(
            Explanation(
                convert=candidate.convert,
                kind=candidate.kind,
                probability=mass / float(total),
                stops=mean,
                stops_spread=spread,
            )
        )
    return tuple(sorted(found, key=lambda e: -e.probability))


def _score(candidate: _Candidate, sample: Encoded, dark: float, bright: float) -> Float:
    """Log of prior times likelihood for every exposure."""
    linear = candidate.convert.apply(sample) if candidate.kind is not Kind.STANDARD else None
    finished = sample if linear is None else encode_bt709(linear)
    impossible = -0.5 * (max(bright - candidate.top - 1, 0) / 1.5) ** 2
    return np.asarray(
        log_likelihood(tones_of(finished).exposed(EXPOSURES))
        + _exposure_prior()
        + _dark_evidence(dark, candidate)
        + impossible
        + np.log(candidate.prior)
    )

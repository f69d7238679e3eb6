"""What a LUT expects, judged from its own numbers: where greys go, and what becomes of weak colour.

Its ramp is held against those of made-up tables of each role; the nearest ones vote.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from morphe.core.grade.steps.lut import FILM_LOG, LOG, ORDINARY, ROLES
from morphe.core.grade.table import ConversionTable
from morphe.core.signal.arrays import Float
from morphe.core.signal.camera_log import CameraLog
from morphe.core.signal.transfer import encode_bt709, encode_bt1886

__all__ = ["RoleVerdict", "role_of"]

RAMP = np.linspace(0.0, 1.0, 33)
COLOUR_AT, COLOUR_BY = 0.42, 0.02  # a grey and a weak colour around it
COLOUR_WEIGHT = 0.25  # of the logarithm of the gain of colour, beside levels
OF_EACH, NEIGHBOURS = 1500, 15


@dataclass(frozen=True, slots=True, kw_only=True)
class RoleVerdict:
    """The role of a table with how sure that is (0..1), and what speaks for it."""

    role: str
    confidence: float
    evidence: tuple[str, ...]


def role_of(table: ConversionTable) -> RoleVerdict:
    """Judge what a table from code to ordinary video expects."""
    levels, gain = _through(table)
    traits = _traits(levels[None], np.array([gain]))[0]
    known, roles = _known()
    near = np.argsort(np.linalg.norm(known - traits, axis=1))[:NEIGHBOURS]
    votes = {role: float(np.mean(roles[near] == at)) for at, role in enumerate(ROLES)}
    role = max(votes, key=lambda name: votes[name])
    return RoleVerdict(role=role, confidence=votes[role], evidence=_evidence(levels, gain))


def _through(table: ConversionTable) -> tuple[Float, float]:
    """Luma of the ramp behind the table (33,), and the gain of weak colour."""
    grey = table.apply(RAMP[:, None].repeat(3, axis=1).astype(np.float32))
    weak = np.full((6, 3), COLOUR_AT, np.float32)
    for channel in range(3):
        weak[2 * channel, channel] += COLOUR_BY
        weak[2 * channel + 1, channel] -= COLOUR_BY
    pairs = np.asarray(table.apply(weak)).reshape(3, 2, 3)
    moved = pairs[:, 0] - pairs[:, 1]
    gain = np.linalg.norm(moved - moved.mean(axis=1, keepdims=True)) / (2 * COLOUR_BY * np.sqrt(2))
    return np.asarray(grey @ np.array([0.2126, 0.7152, 0.0722])), float(gain)


def _traits(levels: Float, gain: Float) -> Float:
    return np.concatenate([levels, COLOUR_WEIGHT * np.log(np.clip(gain, 0.05, 8))[:, None]], axis=1)


def _evidence(levels: Float, gain: float) -> tuple[str, ...]:
    def at(code: float) -> float:
        return 100 * float(np.interp(code, RAMP, levels))

    full = float(np.interp(0.97 * levels.max(), np.maximum.accumulate(levels), RAMP))
    return (
        f"Code 10 % becomes {at(0.1):.0f} %, 40 % becomes {at(0.4):.0f} %, 70 % becomes {at(0.7):.0f} %.",
        f"It is bright as can be from {100 * full:.0f} % on.",
        f"Weak colour becomes {gain:.1f} times as strong.",
    )


# --- tables that are known ---------------------------------------------------------------------------


@lru_cache(maxsize=1)
def _known() -> tuple[Float, Float]:
    """Traits (n, k) of made-up tables, and the number of their role."""
    rng = np.random.default_rng(20)
    found = [_many(role, rng) for role in ROLES]
    return np.concatenate(found), np.repeat(np.arange(len(ROLES)), OF_EACH)


def _many(role: str, rng: np.random.Generator) -> Float:
    make = {ORDINARY: _ordinary, LOG: _log, FILM_LOG: _film}[role]
    made = [make(rng) for _ in range(OF_EACH)]
    levels = np.stack([m[0] for m in made])
    ends = (np.array([np.interp(at, RAMP, m[0]) for m in made])
            for at in (COLOUR_AT + COLOUR_BY, COLOUR_AT - COLOUR_BY))  # fmt: skip
    steep = (next(ends) - next(ends)) / (2 * COLOUR_BY)
    return _traits(levels, np.abs(steep) * np.array([m[1] for m in made]))


def _looked(levels: Float, rng: np.random.Generator, much: float) -> Float:
    """A look on a ramp: contrast about its middle, a lifted black and a lowered white."""
    bent = np.clip(levels, 0, 1)
    amount = rng.uniform(-0.5, 1) * much
    curve = bent + amount * (bent * bent * (3 - 2 * bent) - bent)
    black, white = rng.choice([0, 1]) * rng.uniform(0, 0.1), rng.choice([0, 1]) * rng.uniform(0, 0.1)
    return np.asarray(black + (1 - black - white) * np.power(np.clip(curve, 0, 1), rng.uniform(0.85, 1.18)))


def _ordinary(rng: np.random.Generator) -> tuple[Float, float]:
    return _looked(RAMP, rng, 1.0), rng.uniform(0.1, 1.6)


def _log(rng: np.random.Generator) -> tuple[Float, float]:
    slope, grey, lift = rng.uniform(0.055, 0.15), rng.uniform(0.32, 0.5), rng.uniform(0.005, 0.035)
    curve = CameraLog(
        log_slope=slope, log_offset=grey - slope * np.log2(0.18 + lift), linear_offset=lift, linear_break=0.01
    )
    light = np.maximum(curve.decode(RAMP), 0) * 2 ** rng.uniform(-0.4, 0.6)
    knee = rng.uniform(0.4, 1)
    held = np.where(light > knee, knee + (1 - knee) * np.tanh((light - knee) / max(1 - knee, 1e-3)), light)
    return _looked(encode_bt709(held), rng, 0.5), rng.uniform(0.7, 1.6)


def _film(rng: np.random.Generator) -> tuple[Float, float]:
    slope, grey, contrast = rng.uniform(0.08, 0.096), rng.uniform(0.42, 0.46), rng.uniform(0.9, 1.8)
    light = np.exp2((RAMP - grey) / slope) * 0.18 - 0.004
    target = rng.uniform(0.1, 0.18)
    away = np.power(np.maximum(light, 1e-5) / 0.18, -contrast)
    printed = 1 / (1 + (1 - target) / target * away)
    return _looked(encode_bt1886(printed), rng, 0.3), rng.uniform(0.8, 1.4)

"""Whether a clip was filmed under water: a probability, from how its codes and its light are spread.

Small networks were taught on photographs put under simulated water, and on the same photographs filmed in air
by any camera in any light; `python -m bench.teach_water` does it again.
"""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

import numpy as np

from morphe.core.advise.evidence import Evidence
from morphe.core.advise.networks import Networks, read_taught
from morphe.core.advise.profile.resemblance import traits_of
from morphe.core.advise.water.traits import look_at_water
from morphe.core.signal.arrays import Encoded, Float
from morphe.core.signal.profiles import Kind
from morphe.core.signal.transfer import decode_bt709
from morphe.core.signal.ycbcr import Matrix
from morphe.core.water.hints import WaterHints

__all__ = ["ASK_FROM", "SURE", "TAUGHT", "WET_KINDS", "kinds_under_water", "traits_of_frames", "wetness"]

TAUGHT = Path(__file__).with_suffix(".npz")
SURE, ASK_FROM = 0.90, 0.5  # probabilities from which it is taken as wet, and from which it is asked
USUAL, PLANNED = 0.12, 0.6  # how often a clip is wet, and how often where a dive was planned
LIKELIEST = 0.999
WET_KINDS = ((Kind.STANDARD, 0.65), (Kind.FLAT, 0.13), (Kind.LOG, 0.22))  # and how often each was taught


def wetness(evidence: Evidence, hints: WaterHints | None = None) -> float:
    """How likely a clip was filmed under water; 0 or 1 by the person's word."""
    if hints is not None and hints.wet is not None:
        return float(hints.wet)
    traits = traits_of_frames(evidence.frames, evidence.info.effective_matrix)
    said = float(_taught()[0].answers(traits).mean())
    prior = PLANNED if hints is not None and hints.planned else USUAL
    odds = np.exp(np.clip(said, -12, 12)) * prior / (1 - prior)
    return float(min(odds / (1 + odds), LIKELIEST))


def traits_of_frames(frames: tuple[Encoded, ...], read_by: Matrix = Matrix.BT709) -> Float:
    """What the networks look at, of encoded frames (H, W, 3) taken as ordinary video."""
    pixels = np.concatenate([f.reshape(-1, 3) for f in frames])
    light = [decode_bt709(f).astype(np.float32) for f in frames]
    return np.concatenate([look_at_water(light), traits_of(pixels, read_by)])


def kinds_under_water(evidence: Evidence) -> dict[Kind, float]:
    """How well each kind of profile explains pictures that were filmed under water, relative to all."""
    traits = traits_of_frames(evidence.frames, evidence.info.effective_matrix)
    said = _taught()[1].answers(traits)
    mass = np.exp(said - said.max(axis=1, keepdims=True))
    shares = (mass / mass.sum(axis=1, keepdims=True)).mean(axis=0)
    likely = shares / np.array([usual for _, usual in WET_KINDS])
    return {kind: float(value) for (kind, _), value in zip(WET_KINDS, likely / likely.sum(), strict=True)}


@lru_cache(maxsize=1)
def _taught() -> tuple[Networks, Networks]:
    arrays = read_taught(TAUGHT)
    return Networks.of(arrays, "wet"), Networks.of(arrays, "kind")

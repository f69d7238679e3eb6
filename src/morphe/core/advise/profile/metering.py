"""How far an ordinary picture's exposure is off: a mean with its spread, in stops.

Small networks look at how the codes are spread (the traits of `resemblance`); they were taught on photographs
filmed at any exposure, nights among them; `python -m bench.teach` does it again.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np

from morphe.core.advise.evidence import Evidence
from morphe.core.advise.networks import Networks, read_taught
from morphe.core.advise.profile.resemblance import traits_of
from morphe.core.measure.drift import Drift
from morphe.core.signal.arrays import Float

__all__ = ["TAUGHT", "Metered", "metered", "metered_steady"]

TAUGHT = Path(__file__).with_suffix(".npz")
FARTHEST = 4.5  # stops
LEAST_SPREAD, WIDE_SHARE, WIDE = 0.12, 0.08, 1.2  # stops; and how often it is far off


@dataclass(frozen=True, slots=True, kw_only=True)
class Metered:
    """Stops by which a picture is too bright, and their deviation."""

    stops: float
    spread: float

    def log_likelihood(self, over_stops: Float) -> Float:
        """Log of how likely a picture is so many stops over."""
        away = (over_stops - self.stops) / self.spread
        wide = (over_stops - self.stops) / WIDE
        near = (1 - WIDE_SHARE) / self.spread * np.exp(-0.5 * away**2)
        return np.asarray(np.log(near + WIDE_SHARE / WIDE * np.exp(-0.5 * wide**2)))


def metered(traits: Float) -> Metered:
    """Judge the exposure of a picture by its traits, as if it were ordinary."""
    where, how_far = _taught()
    spread = float(np.exp(0.5 * how_far.answers(traits).mean()))
    stops = float(np.clip(where.answers(traits).mean(), -FARTHEST, FARTHEST))
    return Metered(stops=stops, spread=max(spread, LEAST_SPREAD))


def metered_steady(evidence: Evidence, drift: Drift) -> float:
    """Stops by which a clip is too bright in the middle of its wander: every frame is judged as filmed, and
    its place in the wander taken off."""
    times = [row[0] for row in drift.track]
    found = [metered(traits_of(f.reshape(-1, 3), evidence.info.effective_matrix)) for f in evidence.frames]
    wandered = np.interp(evidence.times_s, times, drift.stops)
    weight = np.array([1 / f.spread**2 for f in found])
    return float(weight @ (np.array([f.stops for f in found]) - wandered) / weight.sum())


@lru_cache(maxsize=1)
def _taught() -> tuple[Networks, Networks]:
    arrays = read_taught(TAUGHT)
    return Networks.of(arrays, "mean"), Networks.of(arrays, "spread")

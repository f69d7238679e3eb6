"""What finished clips teach about a camera: how much exposure its profile really wants."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

from morphe.core.plan.wording import stops
from morphe.core.signal.profiles import PROFILES

__all__ = ["Lesson", "learn_exposure"]

LEAST_CLIPS = 3
AGREEMENT_STOPS = 0.5  # clips further apart than this (median deviation) teach nothing
WORTH_STOPS = 0.3


@dataclass(frozen=True, slots=True, kw_only=True)
class Lesson:
    """Exposure that a camera's profile wants beyond the plan, in stops, from a number of clips."""

    profile: str
    stops: float
    clips: int

    @property
    def sentence(self) -> str:
        more = "more" if self.stops > 0 else "less"
        label = PROFILES.get(self.profile).label
        return f"{label} wanted {stops(self.stops)} {more} exposure than planned ({self.clips} clips)."


def learn_exposure(profile: str, corrections_stops: Sequence[float]) -> Lesson | None:
    """Learn from the exposure corrections that a person decided on, each added to what was planned.

    Nothing is learnt from fewer than three clips, from clips that disagree, or from less than a third of a
    stop. The result is rounded to thirds.
    """
    if len(corrections_stops) < LEAST_CLIPS:
        return None
    middle = median(corrections_stops)
    spread = median(abs(c - middle) for c in corrections_stops)
    thirds = round(3 * middle)
    if spread > AGREEMENT_STOPS or abs(middle) < WORTH_STOPS or thirds == 0:
        return None
    return Lesson(profile=profile, stops=thirds / 3, clips=len(corrections_stops))

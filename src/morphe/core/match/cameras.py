"""What matches teach of two cameras: a difference that lasts over clips belongs to the camera."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

from morphe.core.grade.grade import Grade
from morphe.core.grade.moments import held

__all__ = ["Apart", "CameraDifference", "apart", "lasting"]

LEAST_CLIPS = 2
AGREE_MIRED, AGREE_STOPS = 6.0, 0.3  # median deviation: clips further apart teach nothing
WORTH_MIRED, WORTH_STOPS = 3.0, 0.2


@dataclass(frozen=True, slots=True, kw_only=True)
class Apart:
    """What a clip needed more than its reference: mired warmer, stops brighter."""

    mired: float
    stops: float


@dataclass(frozen=True, slots=True, kw_only=True)
class CameraDifference:
    """How a camera sits against another, in mired and stops, from a number of clips."""

    mired: float
    stops: float
    clips: int

    def sentence(self, camera: str, other: str) -> str:
        """It in words: "Cuttle sits 9 mired cooler than Fern (3 clips).\""""
        said = []
        if self.mired:
            said.append(f"{abs(self.mired):.0f} mired {'cooler' if self.mired > 0 else 'warmer'}")
        if self.stops:
            said.append(f"{abs(self.stops):.1f} stops {'darker' if self.stops > 0 else 'brighter'}")
        return f"{camera} sits {' and '.join(said)} than {other} ({self.clips} clips)."


def apart(matched: Grade, reference: Grade) -> Apart:
    """What a matched clip was given more than its reference was, on all layers that reach the whole frame."""
    return Apart(
        mired=_sum(matched, "balance", "warmth") - _sum(reference, "balance", "warmth"),
        stops=_sum(matched, "exposure", "stops") - _sum(reference, "exposure", "stops"),
    )


def _sum(grade: Grade, key: str, name: str) -> float:
    steps = (layer.step(key) for layer in grade.layers if layer.region is None and layer.on)
    return sum(held(getattr(step, name), 0.0) for step in steps if step.on)


def lasting(found: Sequence[Apart]) -> CameraDifference | None:
    """What several clips agree on; None where they are too few, disagree, or differ by next to nothing."""
    if len(found) < LEAST_CLIPS:
        return None
    mired = _agreed([one.mired for one in found], AGREE_MIRED, WORTH_MIRED)
    stops = _agreed([one.stops for one in found], AGREE_STOPS, WORTH_STOPS)
    return CameraDifference(mired=mired, stops=stops, clips=len(found)) if mired or stops else None


def _agreed(values: Sequence[float], agree: float, worth: float) -> float:
    middle = median(values)
    spread = median(abs(v - middle) for v in values)
    return middle if spread <= agree and abs(middle) >= worth else 0.0

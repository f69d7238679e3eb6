"""A clip read once: its facts, judging frames, readings and advice, and readings after a grade."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np

from morphe.core.advise.advice import Advice, advise
from morphe.core.advise.evidence import Evidence, evidence_of
from morphe.core.advise.filmed_as import FilmedAs, Hints
from morphe.core.advise.light_estimate import estimate_light
from morphe.core.footage.info import SignalInfo
from morphe.core.footage.judging import JudgingFrame, judging_frames
from morphe.core.footage.planes import MEASURE_WIDTH
from morphe.core.footage.probe import probe
from morphe.core.grade.grade import Grade
from morphe.core.measure.light import LightOfClip, light_of
from morphe.core.measure.readings import Readings, measure
from morphe.core.measure.strain import Headroom, headroom
from morphe.core.pipeline.cube import DELIVERY_SIZE
from morphe.core.pipeline.screen import graded_still
from morphe.core.signal.arrays import Encoded
from morphe.core.signal.profiles import PROFILES, Kind

__all__ = ["Reading", "read_clip", "readings_after"]

# A share of pixels beyond the nominal range from which a delivery table needs the wider domain.
OUTSIDE_PCT = 0.1


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Reading:
    """Everything that is known of a clip before a decision."""

    info: SignalInfo
    frames: tuple[JudgingFrame, ...]
    before: Readings
    advice: Advice
    light: LightOfClip
    headroom: Headroom

    @property
    def outside_nominal(self) -> bool:
        """Whether codes beyond 0..100 % matter in this clip."""
        levels = (self.before.red, self.before.green, self.before.blue)
        return any(level.below_0_pct > OUTSIDE_PCT or level.above_100_pct > OUTSIDE_PCT for level in levels)


def read_clip(
    path: Path | str, *, profile: str | FilmedAs = "auto", hints: Hints | None = None, wide: bool = False
) -> Reading:
    """Probe a clip, choose its judging frames, measure them and advise."""
    info = probe(path)
    frames = judging_frames(info)
    times = [f.time_s for f in frames]
    before = measure([f.encoded for f in frames], [f.planes.encoded() for f in frames], times_s=times)
    evidence = evidence_of(info, frames)
    advice = advise(evidence, profile=profile, hints=hints, wide=wide)
    return Reading(
        info=info, frames=frames, before=before, advice=advice, light=_light(evidence, advice),
        headroom=_headroom(info, frames, advice),
    )  # fmt: skip


def _light(evidence: Evidence, advice: Advice) -> LightOfClip:
    """The clip's light as it was filmed: through its conversion, and through nothing else."""
    pictures = evidence.light_through(Grade.of(advice.profile.convert))
    estimated = estimate_light(pictures)
    return light_of(pictures, warmth=estimated.warmth, tint=1000 * estimated.tint)


def _headroom(info: SignalInfo, frames: Sequence[JudgingFrame], advice: Advice) -> Headroom:
    verdict = advice.profile
    usual = {Kind.LOG: "log-mild", Kind.FLAT: "flat-a"}.get(verdict.kind, "std-709")
    profile = PROFILES.get(verdict.name if verdict.name in PROFILES else usual)
    return headroom(info, [f.encoded for f in frames], [f.planes.luma for f in frames], profile)


def readings_after(reading: Reading, grade: Grade) -> Readings:
    """Measure the judging frames after a grade, as they are delivered: clipped to 0..1."""
    times = reading.before.frames
    if not grade.at_work:
        return reading.before
    full = [graded_still(f.planes.encoded(), grade, f.time_s, size=DELIVERY_SIZE) for f in reading.frames]
    small = [_averaged(f) for f in full]
    return measure(small, full, times_s=times)


def _averaged(encoded: Encoded) -> Encoded:
    height, width = encoded.shape[:2]
    if width <= MEASURE_WIDTH:
        return encoded
    size = (MEASURE_WIDTH, max(1, round(height * MEASURE_WIDTH / width)))
    return cv2.resize(encoded, size, interpolation=cv2.INTER_AREA).astype(np.float32, copy=False)

"""A clip read once: what was found and what is advised, and readings after a grade."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np

from morphe.core.advise.aims import Aims
from morphe.core.advise.findings import (
    Findings,
    follow_light,
    headroom_of,
    light_as_filmed,
    look,
    look_within,
)
from morphe.core.advise.judge import judge
from morphe.core.advise.profile.filmed_as import FilmedAs, Hints
from morphe.core.advise.rung import Advice
from morphe.core.footage.info import SignalInfo
from morphe.core.footage.planes import MEASURE_WIDTH
from morphe.core.footage.probe import probe
from morphe.core.footage.shots import Shot
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer
from morphe.core.grade.reel import Reel
from morphe.core.measure.light import LightOfClip
from morphe.core.measure.readings import Readings, measure
from morphe.core.measure.skin import Patch
from morphe.core.measure.strain import Headroom
from morphe.core.pipeline.cube import DELIVERY_SIZE
from morphe.core.pipeline.screen import graded_still
from morphe.core.signal.arrays import Encoded
from morphe.core.water.hints import WaterHints

__all__ = ["Report", "read_clip", "read_shots", "readings_after", "reel_of", "report_of"]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Report:
    """Everything that is known of a clip before a decision."""

    findings: Findings
    advice: Advice
    light: LightOfClip
    headroom: Headroom

    @property
    def info(self) -> SignalInfo:
        return self.findings.info


def report_of(
    findings: Findings, *, profile: str | FilmedAs = "auto", hints: Hints | None = None, wide: bool = False,
    shared: tuple[Layer, ...] = (), lamps: float = 1.0, water: WaterHints | None = None,
    aims: Aims | None = None, skin: Patch | None = None,
) -> Report:  # fmt: skip
    """Judge what was found, through layers that are shared with other clips; opens no file."""
    evidence = findings.evidence
    advice = judge(
        evidence, profile=profile, hints=hints, wide=wide, shared=shared, lamps=lamps, water=water, aims=aims,
        skin=skin, noise=findings.noise,
    )  # fmt: skip
    return Report(
        findings=findings, advice=advice, light=light_as_filmed(evidence, advice),
        headroom=headroom_of(findings, advice),
    )  # fmt: skip


def read_clip(
    path: Path | str, *, profile: str | FilmedAs = "auto", over_time: bool = False,
    water: WaterHints | None = None,
) -> Report:  # fmt: skip
    """Look at a clip and judge it; `over_time` follows its light too, which decodes all of it."""
    return report_of(look(path, over_time=over_time), profile=profile, water=water)


def read_shots(
    path: Path | str, *, profile: str | FilmedAs = "auto", water: WaterHints | None = None
) -> tuple[Report, ...]:
    """Look through a clip and judge each of its shots as a clip of its own."""
    info = probe(path)
    over_time = follow_light(info)
    shots: Sequence[Shot | None] = over_time.shots.each if over_time.shots else ()
    if len(shots) < 2:
        shots = (None,)
    return tuple(
        report_of(look_within(info, over_time, shot), profile=profile, water=water) for shot in shots
    )


def reel_of(reports: Sequence[Report]) -> Reel:
    """The grades of a file's shots, as they are proposed."""
    ends = tuple(report.info.worked_on.end_s for report in reports[:-1])
    return Reel(grades=tuple(report.advice.grade for report in reports), ends_s=ends)


def readings_after(findings: Findings, grade: Grade) -> Readings:
    """Measure the judging frames after a grade, as they are delivered: clipped to 0..1."""
    if not grade.at_work:
        return findings.before
    full = [
        graded_still(
            f.planes.encoded() if f.planes else f.encoded, grade.uncovered, f.time_s, size=DELIVERY_SIZE
        )
        for f in findings.frames
    ]
    return measure([_averaged(f) for f in full], full, times_s=findings.before.frames)


def _averaged(encoded: Encoded) -> Encoded:
    height, width = encoded.shape[:2]
    if width <= MEASURE_WIDTH:
        return encoded
    size = (MEASURE_WIDTH, max(1, round(height * MEASURE_WIDTH / width)))
    return cv2.resize(encoded, size, interpolation=cv2.INTER_AREA).astype(np.float32, copy=False)

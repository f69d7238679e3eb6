"""Findings: all that costs decoding, looked at once. What is wanted is judged from them as often as one
likes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path
from typing import Any

from morphe.core.advise.counted import ALL, Counted
from morphe.core.advise.evidence import Evidence, evidence_of_pictures
from morphe.core.advise.light.estimate import estimate_light
from morphe.core.advise.rung import Advice, Noise
from morphe.core.advise.seen import Seen, seen_through
from morphe.core.bands import beside
from morphe.core.footage.info import SignalInfo
from morphe.core.footage.judging import JudgingFrame, chosen_of, moments_of
from morphe.core.footage.planes import MEASURE_WIDTH
from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frame_at
from morphe.core.footage.series import sample_clip
from morphe.core.footage.shots import Shot
from morphe.core.grade.grade import Grade
from morphe.core.measure.drift import OverTime, follow
from morphe.core.measure.faces import Box, faces_in
from morphe.core.measure.file_strength import FileStrength, strength_of_planes
from morphe.core.measure.light import LightOfClip, light_of
from morphe.core.measure.picture_area import area_of
from morphe.core.measure.readings import Readings, measure
from morphe.core.measure.strain import Headroom, headroom
from morphe.core.signal.arrays import Encoded
from morphe.core.signal.profiles import PROFILES, Kind

__all__ = [
    "Findings",
    "follow_light",
    "headroom_of",
    "light_as_filmed",
    "look",
    "look_within",
    "readings_as_filmed",
]

# A share of pixels beyond the nominal range from which a delivery table needs the wider domain.
OUTSIDE_PCT = 0.1


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Findings:
    """What was seen of a clip. `over_time` comes later, once the whole clip has been looked through."""

    info: SignalInfo
    frames: tuple[JudgingFrame, ...]
    before: Readings
    noise_codes: float
    blockiness: float
    strength: FileStrength | None = None
    faces: tuple[tuple[Box, ...], ...] | None = None  # by frame
    over_time: OverTime | None = None
    counted: Counted = ALL

    @property
    def pictures(self) -> tuple[Encoded, ...]:
        """The judging frames (H, W, 3), with nothing in them but picture."""
        return tuple(self.counted.picture(f.encoded, f.time_s) for f in self.frames)

    @property
    def evidence(self) -> Evidence:
        """What the rungs are judged from."""
        times = [f.time_s for f in self.frames]
        return evidence_of_pictures(
            self.info, self.pictures, times, self.over_time, self.faces, self.counted.area.surround
        )

    @property
    def noise(self) -> Noise:
        """Noise as rungs speak of it."""
        return Noise(
            codes=self.noise_codes / 2 ** (self.info.bit_depth - 8), height=self.info.upright_size[1]
        )

    @property
    def outside_nominal(self) -> bool:
        """Whether codes beyond 0..100 % matter in this clip."""
        levels = (self.before.red, self.before.green, self.before.blue)
        return any(level.below_0_pct > OUTSIDE_PCT or level.above_100_pct > OUTSIDE_PCT for level in levels)

    def as_json(self) -> dict[str, Any]:
        """The numbers; pictures and light over time are files of their own."""
        strength = {} if self.strength is None else self.strength.as_json()
        return {
            "noise_codes": round(self.noise_codes, 4), "blockiness": round(self.blockiness, 4), **strength,
            "area": self.counted.area.as_json(),
            "faces": None if self.faces is None else [[list(box) for box in boxes] for boxes in self.faces],
        }  # fmt: skip


def look(path: Path | str, *, over_time: bool = False) -> Findings:
    """Probe a clip, choose its judging frames and measure them; `over_time` decodes the whole clip as
    well, and first."""
    info = probe(path)
    return look_within(info, follow_light(info) if over_time else None)


def look_within(info: SignalInfo, over_time: OverTime | None = None, shot: Shot | None = None) -> Findings:
    """Choose the judging frames of a shot, or of the whole clip, and measure them.

    Where it is known what shows nothing, that serves none.
    """
    if shot is None and over_time is not None and over_time.shots is not None:
        whole = over_time.shots.whole
        shot = whole if whole.blind else None
    elif shot is not None and over_time is not None:
        over_time = over_time.within(shot)
    info = replace(info, shot=shot or info.shot)
    moments = moments_of(info)
    counted = Counted(area=area_of([m.encoded for m in moments]))
    frames = tuple(
        replace(f, planes=counted.within_bars(f.planes)) if f.planes else f for f in chosen_of(moments)
    )
    searched = [beside(partial(faces_in, f.encoded)) for f in frames]
    full = [f.planes for f in frames if f.planes is not None]
    strength = strength_of_planes(full)
    return Findings(
        info=info,
        frames=frames,
        before=_readings(frames, counted),
        noise_codes=strength.noise,
        blockiness=strength.blocks,
        strength=strength,
        faces=tuple(tuple(boxes.result()) for boxes in searched),
        over_time=over_time,
        counted=counted,
    )


def readings_as_filmed(info: SignalInfo, at_s: float | None = None) -> Readings:
    """What a clip's picture says in numbers: at a moment, or over its judging frames."""
    if at_s is None:
        return look_within(info).before
    planes = frame_at(info, at_s)
    small = planes.encoded(width=MEASURE_WIDTH)
    counted = Counted(area=area_of([small]))
    full = counted.within_bars(planes).encoded()
    return measure([counted.pixels(small)], [full], times_s=[at_s])


def _readings(frames: Sequence[JudgingFrame], counted: Counted) -> Readings:
    small = [counted.pixels(f.encoded, f.time_s) for f in frames]
    full = [f.planes.encoded() for f in frames if f.planes is not None]
    return measure(small, full, times_s=[f.time_s for f in frames])


def follow_light(info: SignalInfo, chroma_gain: float = 1.0) -> OverTime:
    """Look through a clip, or its proxy with the gain that its colour was spread by."""
    return follow(sample_clip(info, chroma_gain))


def light_as_filmed(evidence: Evidence, advice: Advice) -> LightOfClip:
    """The clip's light through its conversion, and through nothing else."""
    seen = seen_through(
        Seen(pictures=evidence.frames, times_s=evidence.times_s), Grade.of(advice.profile.convert)
    )
    estimated = estimate_light(seen.light)
    return light_of(seen.light, warmth=estimated.warmth, tint=1000 * estimated.tint)


def headroom_of(findings: Findings, advice: Advice) -> Headroom:
    """How far the footage bends under the profile it was filmed in."""
    verdict = advice.profile
    usual = {Kind.LOG: "log-mild", Kind.FLAT: "flat-a"}.get(verdict.kind, "std-709")
    profile = PROFILES.get(verdict.name if verdict.name in PROFILES else usual)
    return headroom(
        findings.info, findings.pictures, profile, noise=findings.noise_codes, blocks=findings.blockiness
    )

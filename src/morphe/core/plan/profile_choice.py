"""Which profile and which way of recording, scored by what each costs or saves (a point is about a stop)."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from morphe.core.plan.kit import Codec, Kit, Recording
from morphe.core.plan.latitude import lightness_step, scene_span, usable
from morphe.core.plan.questions import Delivery, Device
from morphe.core.plan.storage import editing_fit, minutes_on
from morphe.core.signal.profiles import HDR, PROFILES, Kind, Profile

__all__ = ["Circumstances", "Factor", "Verdict", "choose", "score_profile", "score_recording"]

# Hours that twenty clips of a profile need before they look right, by kind.
NEEDED_HOURS = {Kind.STANDARD: 0.0, Kind.FLAT: 1.0, Kind.LOG: 1.5, Kind.HLG: 0.75, Kind.PQ: 0.75}
COMFORTABLE_STEP = 0.55  # L* per code at the grey card; larger steps begin to show as bands
DETAIL_FACTOR = {Codec.H264: 1.0, Codec.HEVC: 1.8, Codec.INTRA: 0.7}
ORDINARY_BPP = 0.2
HEAVY_MBIT_S = 120.0  # from here files are slow to move


@dataclass(frozen=True, slots=True, kw_only=True)
class Circumstances:
    """What the choice depends on; `iso_stops` is how far ISO must rise above base."""

    contrast_stops: float
    iso_stops: float
    grading_hours: float
    delivery: Delivery
    device: Device
    skin: bool
    is_under_water: bool
    fps: float
    wanted_minutes: float
    usable_gb: float
    shared: frozenset[str] = frozenset()  # profiles that all cameras of the day have
    all_hdr: bool = True  # whether every camera of the day writes HDR


@dataclass(frozen=True, slots=True, kw_only=True)
class Factor:
    """One reason for or against, in points; positive speaks for it."""

    points: float
    sentence: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Verdict:
    """One profile with one way of recording, and what speaks for and against the pair."""

    profile: Profile
    recording: Recording
    for_profile: tuple[Factor, ...]
    for_recording: tuple[Factor, ...] = ()

    @property
    def factors(self) -> tuple[Factor, ...]:
        return self.for_profile + self.for_recording

    @property
    def points(self) -> float:
        return sum(f.points for f in self.factors)

    @property
    def speaks_for(self) -> list[str]:
        """What the profile does well, the weightiest first."""
        good = sorted((f for f in self.for_profile if f.points > 0), key=lambda f: -f.points)
        return [f.sentence for f in good]

    @property
    def speaks_against(self) -> list[str]:
        """What the profile costs, the weightiest first."""
        bad = sorted((f for f in self.for_profile if f.points < -0.2), key=lambda f: f.points)
        return [f.sentence for f in bad]


def choose(kit: Kit, about: Circumstances) -> list[Verdict]:
    """Score every pair the camera has and give the best pair of each profile, best first."""
    recordings = matching_rate(kit.recordings, about.fps)
    verdicts = []
    for profile in kit.described_profiles:
        pairs = [
            Verdict(
                profile=profile,
                recording=recording,
                for_profile=score_profile(profile, recording.bit_depth, about),
                for_recording=score_recording(recording, about),
            )
            for recording in recordings
            if recording.bit_depth >= 10 or profile.kind not in HDR
        ]
        if pairs:
            verdicts.append(max(pairs, key=lambda v: v.points))
    if not verdicts:  # only HDR profiles and only 8 bit: the camera's own contradiction, taken at its word
        verdicts = [
            Verdict(profile=p, recording=recordings[0], for_profile=score_profile(p, 8, about))
            for p in kit.described_profiles
        ]
    return sorted(verdicts, key=lambda v: -v.points)


def matching_rate(recordings: Sequence[Recording], fps: float) -> list[Recording]:
    """The recordings at the wanted rate, else at the nearest rate the camera has."""
    nearest = min((r.fps for r in recordings), key=lambda rate: abs(math.log(rate / fps)))
    return [r for r in recordings if abs(r.fps / nearest - 1) < 0.002]


def score_profile(profile: Profile, bit_depth: int, about: Circumstances) -> tuple[Factor, ...]:
    """What speaks for and against a profile; the domain's factors, one by one."""
    return tuple(
        factor
        for factors in (
            _tones(profile, bit_depth, about),
            _bending(profile, bit_depth, about),
            _work(profile, about),
            _destination(profile, about),
        )
        for factor in factors
        if factor.points
    )


def _tones(profile: Profile, bit_depth: int, about: Circumstances) -> Iterable[Factor]:
    holds, scene = usable(profile.key, bit_depth, about.iso_stops), scene_span(about.contrast_stops)
    high, low = scene.above - holds.above, scene.below - holds.below
    if high > 0:
        yield Factor(points=-1.6 * min(high, 5), sentence=f"clips the brightest {high:.1f} stops")
    elif profile.kind is not Kind.STANDARD and scene.above > 2.5:
        yield Factor(points=0.2, sentence="holds the bright parts")
    if low > 0:
        yield Factor(points=-0.5 * min(low, 4), sentence=f"drowns the darkest {low:.1f} stops")


def _bending(profile: Profile, bit_depth: int, about: Circumstances) -> Iterable[Factor]:
    step = lightness_step(profile.key, bit_depth)
    push = 1.4 if about.is_under_water else 1.0
    if step > COMFORTABLE_STEP:
        sentence = f"leaves few codes for bending in {bit_depth}-bit"
        yield Factor(points=-5 * (step - COMFORTABLE_STEP) * push, sentence=sentence)
    if profile.key == "vivid-a":
        points = -2.5 - (0.4 if about.skin else 0) - (0.6 if about.is_under_water else 0)
        yield Factor(
            points=points, sentence="bakes in contrast and colour that are very hard to flatten later"
        )
    elif profile.kind is Kind.STANDARD:
        yield Factor(points=-1.0, sentence="bakes contrast, sharpening and colour in")
    else:
        yield Factor(points=0.6, sentence="leaves contrast, sharpness and colour to you")
    lift = {Kind.STANDARD: 0.0, Kind.FLAT: 0.35, Kind.LOG: 0.6}.get(profile.kind, 0.3)
    if about.iso_stops > 0.4 and lift:
        sentence = f"lifts the noise of ISO {about.iso_stops:.0f} stops over base"
        yield Factor(points=-lift * about.iso_stops, sentence=sentence)


def _work(profile: Profile, about: Circumstances) -> Iterable[Factor]:
    needed = NEEDED_HOURS[profile.kind]
    if needed == 0:
        yield Factor(points=0.3, sentence="needs no conversion and can be shown at once")
    elif about.grading_hours < needed:
        lack = 1 - about.grading_hours / needed
        yield Factor(points=-4 * lack, sentence=f"wants about {needed:g} h of work on twenty clips")
    awkward = {Device.PHONE: 1.0, Device.TABLET: 0.5}.get(about.device, 0.0)
    if awkward and profile.kind is Kind.LOG:
        yield Factor(points=-awkward, sentence=f"is hard to judge on a {about.device}")


def _destination(profile: Profile, about: Circumstances) -> Iterable[Factor]:
    is_hdr = profile.kind in HDR
    if about.delivery is Delivery.WEB_HDR and about.all_hdr:
        if is_hdr:
            yield Factor(points=4.0, sentence="stays HDR from camera to web")
        else:
            yield Factor(points=-1.5, sentence="is not HDR, which you want to deliver")
    elif is_hdr:
        yield Factor(points=-1.6, sentence="looks blown out until it is converted to ordinary video")
    if profile.key in about.shared:
        yield Factor(points=0.6, sentence="is on every camera of the day")


def score_recording(recording: Recording, about: Circumstances) -> tuple[Factor, ...]:
    """What speaks for and against a way of recording."""
    return tuple(f for f in (*_quality(recording, about), *_burden(recording, about)) if f.points)


def _quality(recording: Recording, about: Circumstances) -> Iterable[Factor]:
    if recording.bit_depth >= 10:
        yield Factor(points=0.9, sentence="10-bit bends where 8-bit breaks")
    detail = recording.bits_per_pixel * DETAIL_FACTOR[recording.codec] / ORDINARY_BPP
    points = 0.5 * min(max(math.log2(detail), -2), 1.5)
    yield Factor(points=points, sentence=f"{recording.bits_per_pixel:.2f} bits for each pixel")
    pixels = math.log2(recording.width * recording.height / (1920 * 1080))
    worth = 0.5 if about.delivery is Delivery.VERTICAL else 0.25
    yield Factor(points=worth * min(pixels, 2), sentence="room to crop" if pixels > 0 else "a small picture")


def _burden(recording: Recording, about: Circumstances) -> Iterable[Factor]:
    if recording.mbit_s > HEAVY_MBIT_S:
        points = -0.6 * math.log2(recording.mbit_s / HEAVY_MBIT_S)
        yield Factor(points=points, sentence=f"makes {recording.mbit_s * 60 / 8000:.1f} GB a minute")
    fits = minutes_on(about.usable_gb, recording.mbit_s) / max(about.wanted_minutes * 1.15, 0.1)
    if fits < 1:
        yield Factor(points=-5 * (1 - fits), sentence="does not fit on the card")
    fit = editing_fit(recording, about.device)
    if fit.load > 1:
        points = -1.0 if fit.load <= 2.2 else -2.5
        yield Factor(points=points, sentence=f"{fit.word} on the {about.device}")


def kinds_of(profiles: Iterable[str]) -> set[Kind]:
    """The kinds among profile keys."""
    return {PROFILES.get(key).kind for key in profiles}

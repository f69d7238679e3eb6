"""From findings to proposals: every rung in the order of the work, each seeing the picture through those
before.

Nothing is decoded here: judging anew takes milliseconds.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from morphe.core.advise.aims import Aims
from morphe.core.advise.counted import edges_about
from morphe.core.advise.evidence import Evidence
from morphe.core.advise.profile.filmed_as import FilmedAs, Hints
from morphe.core.advise.profile.metering import metered_steady
from morphe.core.advise.profile.verdict import ProfileVerdict, guess_profile
from morphe.core.advise.rung import Advice, Case, Noise, Rung
from morphe.core.advise.rungs import RUNGS
from morphe.core.advise.seen import Seen, seen_through
from morphe.core.advise.water.verdict import WaterVerdict, judge_water
from morphe.core.advise.water.wetness import ASK_FROM, SURE, wetness
from morphe.core.grade.convert import Convert
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer
from morphe.core.grade.restore import Restore
from morphe.core.grade.source import SOURCE
from morphe.core.measure.drift import Drift, drift_through
from morphe.core.measure.skin import Patch
from morphe.core.signal.arrays import highest, lowest
from morphe.core.signal.profiles import PROFILES
from morphe.core.water.hints import WaterHints

__all__ = ["VERSION", "ceiling_of", "judge"]

VERSION = 9  # of the advice: rungs that an older one judged are judged anew

UNKNOWN_CEILING = 4.0  # of light, where a curve was fitted or is the person's own


def judge(
    evidence: Evidence,
    *,
    profile: str | FilmedAs = "auto",
    hints: Hints | None = None,
    wide: bool = False,
    shared: tuple[Layer, ...] = (),
    lamps: float = 1.0,
    water: WaterHints | None = None,
    aims: Aims | None = None,
    skin: Patch | None = None,
    noise: Noise | None = None,
) -> Advice:
    """Go through the rungs in order and say what each one wants.

    Parameters
    ----------
    evidence : the clip's judging frames, and its light over time once that has been followed
    profile : the person's word on the profile, or "auto"
    hints : what makes some profiles likelier than others
    wide : whether converted light stays in wide primaries until delivery
    shared : layers of the outing and of the light: all after the source is judged through them
    lamps : share of the warmth of lamps that is to be taken out, 0..1
    water : what the person knows of the dive, and whether there was one
    aims : where black, white and the middle are wanted
    skin : where the person says that there is skin
    noise : how much there is
    """
    wet = wetness(evidence, water)
    verdict = guess_profile(evidence, chosen=profile, hints=hints, wet=wet >= SURE)
    if wide and not verdict.convert.is_neutral:
        verdict = replace(verdict, convert=replace(verdict.convert, wide=True))
    follows_depth = wet >= SURE and water is not None and water.changes_depth
    seen = Seen(
        pictures=evidence.frames, times_s=evidence.times_s, aims=aims or Aims(), patch=skin,
        faces=evidence.faces,
    )  # fmt: skip
    grade = Grade()
    drift = _drift(evidence, verdict)
    if drift is not None and drift.wanders and verdict.convert.is_neutral:
        verdict = replace(verdict, stops=-metered_steady(evidence, drift))
    rungs: list[Rung] = []
    found: WaterVerdict | None = None
    waiting = Grade(layers=shared) if shared else None
    for rule in RUNGS.values():
        if waiting is not None and rule.layer != SOURCE:
            verdict = _nearer(verdict, seen, seen_through(seen, waiting))
            seen, waiting = seen_through(seen, waiting), None
        if rule.step is Restore:
            if wet < ASK_FROM:
                continue
            found = judge_water(seen, evidence, verdict.convert, wet, water)
            if not found.is_taken:  # only the person can tell; they are asked
                continue
        case = Case(
            seen=seen, grade=grade, verdict=verdict, drift=drift, ceiling=ceiling_of(verdict.name),
            lamps=lamps, water=found, follows_depth=follows_depth, noise=noise,
        )  # fmt: skip
        rung = rule.judge(case)
        rungs.append(rung)
        if rung.applied:
            seen, grade = seen.then(rung.step), grade.with_step(rung.step)
    return Advice(
        profile=verdict,
        rungs=tuple(rungs),
        lost=_lost(evidence, verdict),
        drift=drift,
        shared=shared,
        water=found,
        edges=edges_about(evidence.surround),
    )


def _nearer(verdict: ProfileVerdict, before: Seen, after: Seen) -> ProfileVerdict:
    """The verdict with that part of its exposure taken off which shared layers have done already."""
    if verdict.stops is None:
        return verdict
    done = float(np.log2(np.median(after.peaks).clip(1e-4) / np.median(before.peaks).clip(1e-4)))
    return replace(verdict, stops=verdict.stops - done)


def ceiling_of(profile: str) -> float:
    """The brightest light that a profile keeps."""
    return float(PROFILES.get(profile).clip) if profile in PROFILES else UNKNOWN_CEILING


def _drift(evidence: Evidence, verdict: ProfileVerdict) -> Drift | None:
    if evidence.over_time is None:
        return None
    convert: Convert = replace(verdict.convert, wide=False)
    return drift_through(evidence.over_time, convert.apply, ceiling_of(verdict.name))


def _lost(evidence: Evidence, verdict: ProfileVerdict) -> tuple[str, ...]:
    """What the camera clipped or left black, in words: no correction brings it back."""
    pixels = evidence.pixels
    profile = PROFILES.get(verdict.name) if verdict.name in PROFILES else None
    ceiling = float(profile.encode(np.array(profile.clip))) if profile else 1.0
    top = max(ceiling - 0.005, 0.9)  # a code below the ceiling is as good as clipped
    said = []
    white = float((lowest(pixels) >= top).mean() * 100)
    any_channel = float((highest(pixels) >= top).mean() * 100)
    if white > 0.3:
        said.append(f"{white:.1f} % of the picture clipped to white in the camera; its detail is gone.")
    if any_channel - white > 1.0:
        said.append(f"In {any_channel - white:.1f} % one or two channels clipped: colour there is not true.")
    crushed = float((highest(pixels) <= 0.001).mean() * 100)
    if crushed > 1.0:
        said.append(f"{crushed:.1f} % of the picture is black without detail.")
    return tuple(said)

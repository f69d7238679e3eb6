"""Naming the kind of profile: how often it is right, with nothing known and with the camera known.

Over the colour bench's clips: 12 subjects, 18 ways of filming, 8 and 10 bit, exposure and balance off.
"""

from __future__ import annotations

from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path

from bench.footage import BenchClip, clips
from morphe.core.advise.evidence import evidence_of
from morphe.core.advise.filmed_as import Hints
from morphe.core.advise.profile_guess import guess_profile
from morphe.core.footage.judging import judging_frames
from morphe.core.footage.probe import probe
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.kits import KITS

SURE = 0.9  # from here on a clip's card asks nothing
Answer = tuple[bool, float]


def _assess(clip: BenchClip) -> tuple[Answer, list[Answer]]:
    """(right, confidence) with nothing known, and once for each made-up camera that has the profile."""
    info = probe(clip.path)
    evidence = evidence_of(info, judging_frames(info))
    filmed = clip.kind.exposure.profile
    wanted = PROFILES.get(filmed).kind

    def asked(hints: Hints | None) -> Answer:
        verdict = guess_profile(evidence, hints=hints)
        return verdict.kind is wanted, verdict.confidence

    kits = [k for k in KITS.values() if filmed in k.profiles]
    return asked(None), [asked(Hints(camera=k.name, has=tuple(k.profiles))) for k in kits]


def _print(label: str, answers: list[Answer]) -> None:
    sure = [right for right, confidence in answers if confidence >= SURE]
    print(
        f"{label}: {100 * sum(r for r, _ in answers) / len(answers):.1f} % of {len(answers)} right; "
        f"{100 * len(sure) / len(answers):.0f} % said without asking, "
        f"of those {100 * sum(sure) / len(sure):.1f} % right"
    )


def run(cache: Path) -> None:
    made = clips(cache)
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        found = list(pool.map(_assess, made, chunksize=6))
    _print("Kind of profile, nothing known", [alone for alone, _ in found])
    _print("Kind of profile, camera known", [answer for _, known in found for answer in known])

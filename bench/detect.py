"""Naming the kind of profile: how often it is right, and whether it asks where it is not.

Over the colour bench's clips, and others whose tags are missing or wrong: 27 ways of filming every subject,
8 and 10 bit, exposure and balance off. Every clip is judged with nothing known and with the camera known,
alone and together with others of its card: the same camera and settings before other subjects.
"""

from __future__ import annotations

from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from multiprocessing import get_context
from pathlib import Path

from bench.footage import KINDS, MISTAGGED, BenchClip, clips
from morphe.core.advise.evidence import Evidence, evidence_of_pictures
from morphe.core.advise.profile.filmed_as import Hints
from morphe.core.advise.profile.verdict import ASK_BELOW, ProfileVerdict, guess_profile
from morphe.core.footage.judging import judging_frames
from morphe.core.footage.probe import probe
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.kits import KITS

CARD = 4


def _cards(count: int) -> dict[str, list[slice]]:
    """Which clips lie on one card: neighbours (three marshes and two jetties lie side by side) or not."""
    apart = max(1, count // CARD)
    return {
        "four of one place": [slice(at, at + CARD) for at in range(0, count, CARD)],
        "four of four places": [slice(at, apart * CARD, apart) for at in range(apart)],
    }


@dataclass(frozen=True)
class Answer:
    """What was said of one clip that was filmed in a `way`, by what was known (`label`)."""

    label: str
    way: str
    right: bool
    confidence: float


def _evidence(clip: BenchClip) -> Evidence:
    info = probe(clip.path)
    return evidence_of_pictures(info, [f.encoded for f in judging_frames(info)])


def _answers(made: list[BenchClip]) -> list[Answer]:
    """Answers for the clips of one way of filming: alone, with the camera known, and together on cards."""
    way, filmed = made[0].kind.name, made[0].kind.exposure.profile
    wanted = PROFILES.get(filmed).kind
    seen = [_evidence(c) for c in made]
    cameras = [Hints(camera=k.name, has=tuple(k.profiles)) for k in KITS.values() if filmed in k.profiles]
    alone = [guess_profile(evidence) for evidence in seen]
    told = [("nothing known", verdict) for verdict in alone] + _on_cards(
        "nothing known", seen, alone, Hints()
    )
    for number, camera in enumerate(cameras):
        alone = [guess_profile(evidence, hints=camera) for evidence in seen]
        told += [("camera known", verdict) for verdict in alone]
        if number == 0:  # one camera is enough for the cards, which take long
            told += _on_cards("camera known", seen, alone, camera)
    return [Answer(label, way, verdict.kind is wanted, verdict.confidence) for label, verdict in told]


def _on_cards(
    known: str, seen: list[Evidence], alone: list[ProfileVerdict], hints: Hints
) -> list[tuple[str, ProfileVerdict]]:
    """What is said of clips that are judged together with the others of their card."""
    told = []
    for label, cards in _cards(len(seen)).items():
        for card in (range(len(seen))[part] for part in cards):
            for at in card:
                others = tuple(alone[i].likelihoods for i in card if i != at)
                verdict = guess_profile(seen[at], hints=replace(hints, others=others))
                told.append((f"{known}, {label}", verdict))
    return told


def _print(label: str, answers: list[Answer]) -> None:
    sure = [a.right for a in answers if a.confidence >= ASK_BELOW]
    print(
        f"  {label}: {100 * sum(a.right for a in answers) / len(answers):.1f} % of {len(answers)} right; "
        f"{100 * len(sure) / len(answers):.0f} % said without asking, {sum(sure)} of {len(sure)} rightly"
    )


def run(cache: Path) -> None:
    by_way: dict[str, list[BenchClip]] = {}
    for clip in clips(cache, [*KINDS, *MISTAGGED]):
        by_way.setdefault(clip.kind.name, []).append(clip)
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        answers = [a for found in pool.map(_answers, by_way.values()) for a in found]
    mistagged = {k.name for k in MISTAGGED}
    for title, ways in (
        ("tags as cameras write them", set(by_way) - mistagged),
        ("tags missing or wrong", mistagged),
    ):
        print(f"Kind of profile, {title}:")
        for label in dict.fromkeys(a.label for a in answers):
            _print(label, [a for a in answers if a.label == label and a.way in ways])
        wrong = Counter(
            a.way for a in answers if a.label == "nothing known" and not a.right and a.way in ways
        )
        print(f"  wrong with nothing known: {', '.join(f'{way} {n}' for way, n in wrong.most_common())}")

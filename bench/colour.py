"""Colour truth: how far `correct` lands from the picture a well set camera would have written.

Per clip: the median over its judging frames of the mean CIEDE2000 at 160 px width, BT.1886 display, D65.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from multiprocessing import get_context
from pathlib import Path

import cv2
import numpy as np

from bench.footage import FRAMES, BenchClip, clips
from morphe.core.grade.grade import Grade
from morphe.core.handover.report import read_clip
from morphe.core.measure.readings import luma_of
from morphe.core.pipeline.cube import apply_lut, bake_grade
from morphe.core.signal.perception import delta_e_2000, encoded_to_lab

FPS = 25


@dataclass(frozen=True)
class Result:
    """One clip's distances from truth: as filmed, two plain baselines, and corrected."""

    subject: str
    kind: str
    group: str
    filmed: float
    stretched: float
    grey_world: float
    corrected: float
    moved: float  # distance of the correction from the footage as filmed
    profile: str
    steps: str


def stretch(frames: Sequence[np.ndarray]) -> list[np.ndarray]:
    """Baseline: every channel's 1st..99th percentile to 0..1."""
    low, high = np.percentile(np.concatenate([f.reshape(-1, 3) for f in frames]), [1, 99], axis=0)
    return [np.clip((f - low) / np.maximum(high - low, 1e-3), 0, 1) for f in frames]


def grey_world(frames: Sequence[np.ndarray]) -> list[np.ndarray]:
    """Baseline: channel means made equal, then luma's 1st..99th percentile to 0..1."""
    mean = np.concatenate([f.reshape(-1, 3) for f in frames]).mean(axis=0)
    level = [f * (mean.mean() / np.maximum(mean, 1e-3)) for f in frames]
    low, high = np.percentile(np.concatenate([luma_of(f.astype(np.float32)).ravel() for f in level]), [1, 99])
    return [np.clip((f - low) / max(high - low, 1e-3), 0, 1) for f in level]


def _at_160(encoded: np.ndarray, height: int) -> np.ndarray:
    return cv2.resize(np.clip(encoded, 0, 1).astype(np.float32), (160, height), interpolation=cv2.INTER_AREA)


def _distance(frames: Sequence[np.ndarray], truths: Sequence[np.ndarray]) -> float:
    each = [
        delta_e_2000(encoded_to_lab(_at_160(f, t.shape[0])), encoded_to_lab(t)).mean()
        for f, t in zip(frames, truths, strict=True)
    ]
    return float(np.median(each))


def assess(clip: BenchClip) -> Result:
    """Correct one clip and measure all four distances."""
    reading = read_clip(clip.path)
    grade: Grade = reading.advice.grade
    frames = [f.planes.encoded() for f in reading.frames]
    truths = [clip.truth[min(round(f.time_s * FPS), FRAMES - 1)] for f in reading.frames]
    lut = bake_grade(grade)
    after = [apply_lut(lut, f) for f in frames] if grade.at_work else frames
    filmed = [_at_160(f, truths[0].shape[0]) for f in frames]
    return Result(
        subject=clip.subject,
        kind=clip.kind.name,
        group=clip.kind.group,
        filmed=_distance(frames, truths),
        stretched=_distance(stretch(frames), truths),
        grey_world=_distance(grey_world(frames), truths),
        corrected=_distance(after, truths),
        moved=_distance(after, filmed),
        profile=reading.advice.profile.name,
        steps=" ".join(f"{s.key}:{_numbers(s)}" for _, s in grade.steps() if s.at_work),
    )


def _numbers(step: object) -> str:
    return ",".join(f"{getattr(step, n):g}" for n in type(step).params) or getattr(step, "profile", "")


def all_results(cache: Path) -> list[Result]:
    """Assess every clip of the set, two at a time."""
    # Forked workers would inherit the row threads without their threads.
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        return list(pool.map(assess, clips(cache), chunksize=4))


def _median(results: Sequence[Result], value: Callable[[Result], float]) -> float:
    return float(np.median([value(r) for r in results]))


def run(cache: Path) -> None:
    """Print the table per kind and the two figures that count."""
    results = all_results(cache)
    groups: dict[str, list[Result]] = defaultdict(list)
    for r in results:
        groups[r.group].append(r)
    print(f"Colour truth: {len(results)} clips, median of mean CIEDE2000 per kind")
    print(f"  {'kind':12} {'clips':>5} {'filmed':>7} {'stretch':>8} {'grey':>6} {'corrected':>10}")
    for name, some in [*groups.items(), ("all", results)]:
        columns = [_median(some, v) for v in (
            lambda r: r.filmed, lambda r: r.stretched, lambda r: r.grey_world, lambda r: r.corrected
        )]  # fmt: skip
        print("  {:12} {:5d} {:7.2f} {:8.2f} {:6.2f} {:10.2f}".format(name, len(some), *columns))
    spoiled = [r for r in results if r.group != "clean"]
    for label, some in (("all kinds", results), ("all but clean", spoiled)):
        better = min(_median(some, lambda r: r.stretched), _median(some, lambda r: r.grey_world))
        print(f"  ratio to the better baseline, {label}: {_median(some, lambda r: r.corrected) / better:.2f}")
    moved = [r.moved for r in groups["clean"]]
    print(f"  clean footage moves by {np.median(moved):.2f} (median), {max(moved):.2f} (most)")

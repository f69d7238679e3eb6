"""Whether the estimate of difficulty predicts who is wrong: exercises put to a simulated learner.

The learner knows how each fault moves what scopes tell, in the mean over other scenes; it sees an exercise
through noise and takes the answer that explains best what it saw. It does not know the estimate.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np

from morphe.core.practice.difficulty import chance_wrong, traits
from morphe.core.practice.exercise import SUBJECTS, Exercise
from morphe.core.practice.faults import FAULTS, spoiled
from morphe.core.practice.naming import GROUPS
from morphe.core.practice.scenes import Shot
from morphe.core.practice.subjects import ORDER

SEES = 2.2  # deviation of what the learner reads off a scope, in steps that are just told
TAUGHT = ("jetty-deep", "sluice-approach")
NAMED = tuple(GROUPS)
CHOSEN = ("belongs", "matches")
EXERCISES, BINS = 60, 4


def _templates() -> dict[str, np.ndarray]:
    """How each fault moves the traits, in the mean of a few scenes at medium amounts."""
    found = {}
    for key in FAULTS:
        fault = FAULTS.get(key)
        scenes = [s for s in TAUGHT if s in fault.scenes] or [fault.scenes[0]]
        moved = []
        for scene in scenes:
            shot = Shot(scene=scene, time_s=2.0)
            shown = spoiled(key, shot, 0.6, np.random.default_rng(1))
            moved.append(traits(shown) - traits(shot.truth))
        found[fault.label] = np.mean(moved, axis=0)
    return found


def _is_wrong(one: Exercise, templates: dict[str, np.ndarray], generator: np.random.Generator) -> bool:
    seen = [traits(p) for p in one.pictures]
    blur = generator.normal(0, SEES, (len(seen), len(seen[0])))
    if one.as_pictures:
        offered = range(len(seen) - len(one.choices), len(seen))
        away = [np.linalg.norm(seen[n] + blur[n] - seen[one.scope_of]) for n in offered]
        return int(np.argmin(away)) != one.right
    moved = seen[one.scope_of] + blur[0] - traits(one.truth)
    fits = []
    for name in one.choices:
        way = templates[name]
        share = np.clip(moved @ way / (way @ way), 0.1, 1.6)  # how much of that fault would explain it best
        fits.append(np.linalg.norm(moved - share * way))
    return int(np.argmin(fits)) != one.right


def _auc(scores: np.ndarray, wrong: np.ndarray) -> float:
    """How often a harder exercise of two is the one that was got wrong."""
    bad, good = scores[wrong], scores[~wrong]
    if not len(bad) or not len(good):
        return float("nan")
    above = (bad[:, None] > good[None, :]).mean() + 0.5 * (bad[:, None] == good[None, :]).mean()
    return float(above)


def run(cache: Path) -> None:
    """Print predicted and found errors, from the easiest to the hardest quarter of exercises."""
    generator, templates = np.random.default_rng(21), _templates()
    rows = []
    for key in [k for k in ORDER if k in NAMED + CHOSEN]:
        for n in range(EXERCISES):
            one = SUBJECTS.get(key).make(10_000 + n, float(generator.uniform(0, 1)))
            tries = [_is_wrong(one, templates, generator) for _ in range(4)]
            rows += [(key, chance_wrong(one.distance, len(one.choices)), wrong) for wrong in tries]
    print(f"practice: {len(rows)} answers of a simulated learner to {EXERCISES} exercises a subject")
    for key in (*[k for k in ORDER if k in NAMED + CHOSEN], "all"):
        part = [r for r in rows if key in ("all", r[0])]
        predicted, wrong = np.array([r[1] for r in part]), np.array([r[2] for r in part])
        quarters = np.array_split(np.argsort(predicted), BINS)
        said = "  ".join(f"{predicted[q].mean():4.0%} {wrong[q].mean():4.0%}" for q in quarters)
        print(f"  {key:12s} predicted and found by quarter: {said}   AUC {_auc(predicted, wrong):.2f}")

"""What a LUT expects, judged from generated tables that served for nothing else, and what is refused."""

import numpy as np
import pytest

from morphe.core.grade.convert import Convert
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Contrast, Fade, MidLevel, Saturation, Tint
from morphe.core.grade.steps.lut import FILM_LOG, LOG, ORDINARY, film_log
from morphe.core.grade.table import ConversionTable
from morphe.core.pipeline.cube import bake_grade
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.transfer import encode_bt1886
from morphe.core.style.looks import LOOKS
from morphe.core.style.lut_role import role_of

SIZE = 17


def table(cube):
    return ConversionTable(
        low=np.zeros(3, np.float32), high=np.ones(3, np.float32), cube=cube.astype(np.float32)
    )


def baked(grade):
    return table(np.clip(bake_grade(grade, size=SIZE, domain=(0.0, 1.0)).table, 0, 1))


def a_look(rng):
    """Steps of a look, made up by chance or one of those that are named."""
    if rng.random() < 0.3:
        return list(LOOKS.values())[rng.integers(len(LOOKS.values()))].steps
    return (
        MidLevel(lift=rng.uniform(-6, 6)), Contrast(amount=rng.uniform(-15, 25)),
        Saturation(amount=rng.uniform(-40, 30)), Tint(dark=rng.uniform(0, 60), bright=rng.uniform(0, 60)),
        Fade(black=rng.uniform(0, 7), white=rng.uniform(0, 5)),
    )  # fmt: skip


def graded(*steps):
    grade = Grade()
    for step in steps:
        grade = grade.with_step(step)
    return grade


def made_up(role, rng):
    """A LUT of a role, made of the product's own steps."""
    look = a_look(rng)
    if role == ORDINARY:
        return baked(graded(*look))
    if role == LOG:
        slope, grey, lift = rng.uniform(0.06, 0.14), rng.uniform(0.34, 0.48), rng.uniform(0.008, 0.03)
        numbers = (slope, grey - slope * np.log2(0.18 + lift), lift, 0.012)
        return baked(graded(Convert(profile="own", curve=numbers), *(look if rng.random() < 0.5 else ())))
    axis = np.linspace(0, 1, SIZE, dtype=np.float32)
    grid = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1)
    # A print, per channel: its toe, and a shoulder that goes on far beyond white.
    light = np.maximum(film_log.decode(grid), 1e-5) * rng.uniform(0.92, 1.08, 3) / 0.18
    printed = 1 / (1 + rng.uniform(4, 8) * np.power(light, -rng.uniform(1.0, 1.6)))
    codes = encode_bt1886(printed).astype(np.float32).reshape(-1, 3)
    calmed = evaluate(graded(Saturation(amount=rng.uniform(-20, 25))), codes)
    return table(np.clip(calmed, 0, 1).reshape(SIZE, SIZE, SIZE, 3))


@pytest.fixture(scope="module")
def judged():
    rng = np.random.default_rng(77)
    return [(role, role_of(made_up(role, rng))) for role in (ORDINARY, LOG, FILM_LOG) for _ in range(40)]


def test_given_generated_luts_when_judged_then_nearly_all_have_their_role(judged):
    right = np.mean([verdict.role == role for role, verdict in judged])

    assert right >= 0.95


def test_given_a_verdict_when_read_then_it_says_what_speaks_for_it(judged):
    for _, verdict in judged[::20]:
        assert 0.4 < verdict.confidence <= 1
        assert "becomes" in verdict.evidence[0] and "times as strong" in verdict.evidence[2]


def test_given_a_table_that_changes_nothing_when_judged_then_it_is_for_ordinary_video():
    verdict = role_of(baked(Grade()))

    assert (verdict.role, verdict.confidence) == (ORDINARY, 1.0)
    assert "1.0 times" in verdict.evidence[2]

"""Turning knobs: within their limits, towards the reference, and by less where turning is dear."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.match.distance import FAR, cloud_of, distance, sample_of, word_of
from morphe.core.match.fit import fit, through_steps
from morphe.core.match.knobs import (
    KNOBS,
    LEAST_SLOPE,
    LEVELS,
    MOST_SLOPE,
    STAGES,
    family_knobs,
    knob_of,
    rounded,
    steps_of,
)
from morphe.core.signal.hues import FAMILIES

BY_STAGE = [[k for k in KNOBS if k.stage == stage] for stage in STAGES]


@pytest.fixture(scope="module")
def pixels():
    """Colours of every tone, most of them muted, as pictures have them (n, 3)."""
    generator = np.random.default_rng(5)
    tone = generator.uniform(0.05, 0.85, (1500, 1))
    return np.clip(tone + generator.normal(0, 0.06, (1500, 3)), 0, 1).astype(np.float32)


@pytest.mark.parametrize(("name", "step", "wanted"), [
    ("stops", "exposure", 0.6), ("warmth", "balance", 25.0), ("amount", "saturation", 30.0),
])  # fmt: skip
def test_given_one_number_that_was_turned_when_fitted_then_pixels_come_back_to_it(pixels, name, step, wanted):
    knob = next(k for k in KNOBS if (k.step, k.name) == (step, name))
    reference = np.clip(through_steps({knob: wanted}, pixels), 0, 1)

    values = fit(pixels, reference, [[knob]], held=0.02)

    assert values[knob] == pytest.approx(wanted, rel=0.12)


def test_given_dearer_knobs_when_fitted_then_they_are_turned_less_and_end_no_nearer(pixels):
    reference = np.clip(pixels * np.array([0.9, 0.7, 0.5], np.float32) + 0.05, 0, 1)

    found = [fit(pixels, reference, BY_STAGE, held=held) for held in (0.1, 1.0, 10.0)]

    turned = [sum((v / k.usual) ** 2 for k, v in values.items()) for values in found]
    apart = [distance([through_steps(v, pixels)], [reference]) for v in found]
    assert turned == sorted(turned, reverse=True)
    assert apart == sorted(apart) and apart[0] < 0.3 * distance([pixels], [reference])


def test_given_a_reference_beyond_reach_when_fitted_then_every_number_stays_within_its_limits(pixels):
    reference = np.clip(pixels * np.array([1.0, 0.1, 0.0], np.float32), 0, 1)

    values = fit(pixels, reference, BY_STAGE, held=0.05)

    assert set(values) == set(KNOBS)
    assert all(k.low <= v <= k.high for k, v in values.items())
    assert steps_of(values)  # which the steps themselves allow


@given(st.lists(st.floats(-18, 18), min_size=7, max_size=7))
def test_given_any_curve_when_made_then_its_slopes_are_bounded(moved):
    knobs = [k for k in KNOBS if k.step == "curve"]
    steps = steps_of(rounded(dict(zip(knobs, moved, strict=True))))

    for step in steps:
        points = np.array(step.luma)
        slopes = np.diff(points[:, 1]) / np.diff(points[:, 0])
        inside = (points[1:, 1] < 109.9) & (points[:-1, 1] > -9.9)  # where the ends do not cut it off
        assert (slopes >= -1e-6).all() and (slopes <= MOST_SLOPE + 0.02).all()
        assert (slopes[inside] >= LEAST_SLOPE - 0.02).all()


def test_given_the_names_of_a_knob_when_asked_then_it_is_that_one_and_others_are_not_known():
    for knob in (*KNOBS, *family_knobs(tuple(FAMILIES))):
        assert knob_of(knob.stage, knob.step, knob.name) == knob
    with pytest.raises(KeyError):
        knob_of(LEVELS, "exposure", "nothing")


@pytest.mark.parametrize(("apart", "word"), [(0.3, "alike"), (1.5, "close"), (3.0, "apart"), (9.0, FAR)])
def test_given_a_distance_when_said_then_the_word_is_the_one_for_it(apart, word):
    assert word_of(apart) == word


def test_given_pictures_of_any_size_when_sampled_then_each_gives_its_part_and_always_the_same():
    one, other = np.zeros((90, 160, 3), np.float32), np.ones((40, 30, 3), np.float32)

    sample = sample_of([one, other], 2000)

    assert len(sample) == 2000 and sample.mean() == pytest.approx(0.5)
    assert (sample == sample_of([one, other], 2000)).all()
    assert cloud_of(sample)[-1] == pytest.approx([100, 0, 0], abs=0.05)

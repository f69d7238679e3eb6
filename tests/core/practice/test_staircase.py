"""The staircase: simulated observers' thresholds are found, whoever they are."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.practice.staircase import MOST, TARGET, Staircase, chance_right


def walked(threshold, seed, *, start=1.0):
    chance = np.random.default_rng(seed)
    walk = Staircase(level=start, low=0.001, high=4.0)
    while not walk.is_done:
        walk = walk.after(bool(chance.random() < chance_right(walk.level, threshold)))
    return walk


@pytest.mark.parametrize("threshold", [0.02, 0.1, 0.35, 0.9])
def test_given_simulated_observers_when_asked_then_the_staircase_converges_on_them(threshold):
    found = [walked(threshold, seed) for seed in range(60)]

    middle = np.exp(np.mean([np.log(w.threshold) for w in found]))
    assert middle == pytest.approx(threshold, rel=0.10)
    assert max(w.answers for w in found) <= MOST and np.median([w.answers for w in found]) < 60


def test_given_an_observer_at_the_threshold_when_asked_then_three_of_four_answers_are_right():
    assert chance_right(0.3, 0.3) == pytest.approx(TARGET)
    assert chance_right(0.0, 0.3) == pytest.approx(0.5) and chance_right(3.0, 0.3) > 0.999


@given(answers=st.lists(st.booleans(), max_size=120))
def test_given_any_answers_when_walked_then_the_difference_stays_within_what_can_be_shown(answers):
    walk = Staircase(level=0.5, low=0.05, high=2.0)
    for answer in answers:
        walk = walk.after(answer)
        assert 0.05 <= walk.level <= 2.0

    assert walk.answers == len(answers) and (walk.threshold is None or 0.04 <= walk.threshold <= 2.1)

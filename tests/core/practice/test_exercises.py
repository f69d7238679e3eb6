"""Exercises: each of a seed, with a truth that measurement agrees with."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from morphe.core.measure.readings import measure
from morphe.core.practice.eyes import SENSES, pair
from morphe.core.practice.faults import FAULTS, spoiled
from morphe.core.practice.naming import CHOICES, naming
from morphe.core.practice.reading import LEANS, reading
from morphe.core.practice.scenes import light_of, picture_of
from morphe.core.signal.ycbcr import rgb_to_ycbcr


def read(picture):
    return measure([picture], [picture], times_s=[0.0])


def spread(picture):
    return np.ptp(picture, axis=-1).mean()


def warmth(picture):
    return (picture[..., 0] - picture[..., 2]).mean()


# What measurement says of each fault, against the truth: a figure that rises, or falls.
SHOWS = {
    "dark": (lambda p: read(p).luma.p50, -1), "bright": (lambda p: read(p).luma.p50, 1),
    "warm": (warmth, 1), "cool": (warmth, -1),
    "green": (lambda p: (p[..., 1] - p[..., ::2].mean(axis=-1)).mean(), 1),
    "shadows": (lambda p: warmth(p[p.mean(axis=-1) < 0.35]), 1),
    "flat": (lambda p: read(p).luma.p01, 1), "log": (lambda p: read(p).luma.p01, 1),
    "converted twice": (lambda p: read(p).luma.p01, -1), "loud": (spread, 1), "pale": (spread, -1),
    "crushed": (lambda p: read(p).luma.p01, -1), "veiled": (lambda p: read(p).luma.p01, 1),
}  # fmt: skip


@pytest.mark.parametrize("fault", list(FAULTS))
def test_given_a_fault_when_a_scene_is_spoiled_then_measurement_shows_it_and_more_of_it_shows_more(fault):
    light, figure, sign = light_of("jetty-tan", 1.0), *SHOWS[fault]
    right = figure(picture_of("jetty-tan", 1.0))
    little, much = (figure(spoiled(fault, light, by, np.random.default_rng(1))) for by in (0.3, 1.0))

    assert sign * (much - right) > 0
    assert abs(much - right) > abs(little - right)


@settings(max_examples=40)
@given(seed=st.integers(0, 2**32), level=st.floats(0, 1))
def test_given_any_seed_when_an_exercise_is_made_then_it_has_one_right_name(seed, level):
    made = naming(seed, level)

    assert made == naming(seed, level)
    assert len(set(made.choices)) == CHOICES and made.fault in made.choices
    assert [made.is_right(c) for c in made.choices].count(True) == 1
    assert 0.3 <= made.amount <= 1.0 and made.proof.endswith(".")


@pytest.mark.parametrize("sense", list(SENSES))
def test_given_a_pair_when_measured_then_the_right_one_has_more_of_it(sense):
    figure = {"exposure": np.mean, "warmth": warmth, "tint": SHOWS["green"][0], "saturation": spread}[sense]
    for seed in range(6):
        made = pair(sense, seed, SENSES[sense].begin)
        left, right = (figure(p) for p in made.pictures())

        assert (left > right) == (made.right == 0)


@pytest.mark.parametrize("seed", range(12))
def test_given_a_question_of_clipping_when_measured_then_the_right_answer_alone_is_true(seed):
    made = reading("clipped", seed, 0.5)
    (picture,) = made.make()

    top = [(picture[..., c] >= 0.999).mean() > 0.01 for c in range(3)]
    foot = [(picture[..., c] <= 0.001).mean() > 0.01 for c in range(3)]
    found = [not any(top + foot), all(top), all(foot), top == [True, False, False] and not any(foot)]
    assert [i for i, true in enumerate(found) if true] == [made.right]


@pytest.mark.parametrize("level", [0.0, 1.0])
def test_given_a_question_of_leaning_when_measured_then_colour_moved_in_those_tones(level):
    for seed in range(8):
        made = reading("leans", seed, level)
        (picture,), (number, sign) = made.make(), LEANS[made.choices[made.right]]
        signal = rgb_to_ycbcr(picture)
        dark, bright = signal[..., 0] < 0.3, signal[..., 0] > 0.7
        part = dark if number.startswith("dark") else bright
        if min(dark.mean(), bright.mean()) < 0.03:
            continue
        plain = rgb_to_ycbcr(reading("leans", seed, level).truth())
        moved = (signal - plain)[part].mean(axis=0)
        along = moved[2] - moved[1] if number.endswith("warmth") else -(moved[1] + moved[2])
        assert sign * along > 0


def test_given_a_waveform_when_asked_for_its_picture_then_three_that_differ_are_offered():
    made = reading("belongs", 3, 1.0)
    means = sorted(p.mean() for p in made.make())

    assert means[0] < means[1] < means[2] and made.is_right(made.right)

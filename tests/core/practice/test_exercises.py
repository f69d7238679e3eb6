"""Exercises: each of a seed, with a truth that measurement agrees with."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from morphe.core.errors import ColourError
from morphe.core.measure.readings import measure
from morphe.core.practice.difficulty import chance_wrong
from morphe.core.practice.exercise import Area
from morphe.core.practice.eyes import SENSES, pair
from morphe.core.practice.faults import FAULTS, spoiled
from morphe.core.practice.naming import CHOICES, GROUPS
from morphe.core.practice.reading import LEANS, luma_of
from morphe.core.practice.scenes import Shot
from morphe.core.practice.subjects import SUBJECTS
from morphe.core.signal.ycbcr import rgb_to_ycbcr

JETTY, MEADOW = Shot(scene="jetty-tan", time_s=1.0), Shot(scene="seagrass", time_s=1.0)


def read(picture):
    return measure([picture], [picture], times_s=[0.0])


def spread(picture):
    return np.ptp(picture, axis=-1).mean()


def warmth(picture):
    return (picture[..., 0] - picture[..., 2]).mean()


def levels(picture):
    return -len(np.unique(np.round(picture[..., 1], 4)))


# What measurement says of each fault, against the truth: a figure that rises, or falls.
SHOWS = {
    "dark": (lambda p: read(p).luma.p50, -1), "bright": (lambda p: read(p).luma.p50, 1),
    "warm": (warmth, 1), "cool": (warmth, -1),
    "green": (lambda p: (p[..., 1] - p[..., ::2].mean(axis=-1)).mean(), 1),
    "shadows": (lambda p: warmth(p[p.mean(axis=-1) < 0.35]), 1),
    "flat": (lambda p: read(p).luma.p01, 1), "log": (lambda p: read(p).luma.p01, 1),
    "converted twice": (lambda p: read(p).luma.p01, -1), "loud": (spread, 1), "pale": (spread, -1),
    "crushed": (lambda p: read(p).luma.p01, -1), "veiled": (lambda p: read(p).luma.p01, 1),
    "skin": (lambda p: (p[..., 1] - p[..., 0])[JETTY.face].mean(), 1), "drift": (warmth, -1),
    "strain": (levels, 1), "water": (lambda p: p[..., 0].mean(), -1),
}  # fmt: skip


@pytest.mark.parametrize("fault", list(FAULTS))
def test_given_a_fault_when_a_scene_is_spoiled_then_measurement_shows_it_and_more_of_it_shows_more(fault):
    figure, sign = SHOWS[fault]
    shot = MEADOW if fault == "water" else JETTY
    right = figure(shot.truth)
    little, much = (figure(spoiled(fault, shot, by, np.random.default_rng(1))) for by in (0.3, 1.0))

    assert sign * (much - right) > 0
    assert abs(much - right) > abs(little - right)


@pytest.mark.parametrize("key", list(SUBJECTS))
@settings(max_examples=8)
@given(seed=st.integers(0, 2**31), level=st.floats(0, 1))
def test_given_any_seed_when_an_exercise_is_made_then_one_answer_alone_is_right(key, seed, level):
    made, again = (SUBJECTS.get(key).make(seed, level) for _ in range(2))

    assert all(np.array_equal(a, b) for a, b in zip(made.pictures, again.pictures, strict=True))
    assert all(p.dtype == np.float32 and p.min() >= 0 and p.max() <= 1 for p in made.pictures)
    assert len(made.captions) == len(made.pictures) and made.because.endswith(".")
    assert made.distance > 0 and 0 < chance_wrong(made.distance) < 1
    if made.taps:
        assert made.lit.any() and not made.lit.all() and not made.choices
    else:
        assert len(set(made.choices)) == len(made.choices) >= 3
        assert [made.takes(n) for n in range(len(made.choices))].count(True) == 1
        with pytest.raises(ColourError, match="Choose one"):
            made.takes(len(made.choices))


@settings(max_examples=15)
@given(seed=st.integers(0, 2**31), level=st.floats(0, 1), at=st.integers(0, 10**6))
def test_given_a_face_when_any_of_it_is_tapped_on_the_waveform_then_that_is_right(seed, level, at):
    made = SUBJECTS.get("face").make(seed, level)
    luma, (rows, columns) = 100 * luma_of(made.pictures[0]), np.nonzero(made.lit)
    at %= len(rows)
    x, level_pct = columns[at] / luma.shape[1], luma[rows[at], columns[at]]
    is_usual = made.area.low <= level_pct <= made.area.high and made.area.left <= x <= made.area.right

    assert made.area.holds(x, level_pct) == is_usual
    assert made.area.holds((made.area.left + made.area.right) / 2, (made.area.low + made.area.high) / 2)
    assert not made.area.holds(made.area.right + 0.1, made.area.low, reach=(0.03, 4.0))


@pytest.mark.parametrize("seed", range(5))
def test_given_what_stands_highest_when_it_is_tapped_then_every_place_as_bright_is_right(seed):
    made = SUBJECTS.get("highest").make(seed, 0.5)
    luma = luma_of(made.pictures[0])

    assert made.lit[luma >= np.quantile(luma, 0.998) - 0.01].all()
    assert luma[made.lit].max() == luma.max() > luma[~made.lit].max()


@pytest.mark.parametrize("group", list(GROUPS))
def test_given_names_when_offered_then_none_is_offered_twice_and_all_come_up(group):
    made = [SUBJECTS.get(group).make(seed, 0.0) for seed in range(20)]

    assert all(len(set(m.choices)) == CHOICES for m in made)
    assert {m.choices[m.right] for m in made} == {FAULTS.get(key).label for key in GROUPS[group]}


@pytest.mark.parametrize("sense", list(SENSES))
def test_given_a_pair_when_measured_then_the_right_one_has_more_of_it(sense):
    figure = {"exposure": np.mean, "warmth": warmth, "tint": SHOWS["green"][0], "saturation": spread}[sense]
    for seed in range(6):
        made = pair(sense, seed, SENSES[sense].begin)
        left, right = (figure(p) for p in made.pictures())

        assert (left > right) == (made.right == 0)


@pytest.mark.parametrize("seed", range(12))
def test_given_a_question_of_clipping_when_measured_then_the_right_answer_alone_is_true(seed):
    made = SUBJECTS.get("clipped").make(seed, 0.5)
    (picture,) = made.pictures

    top = [(picture[..., c] >= 0.999).mean() > 0.01 for c in range(3)]
    foot = [(picture[..., c] <= 0.001).mean() > 0.01 for c in range(3)]
    found = [not any(top + foot), all(top), all(foot), top == [True, False, False] and not any(foot)]
    assert [i for i, true in enumerate(found) if true] == [made.right]


@pytest.mark.parametrize("level", [0.0, 1.0])
def test_given_a_question_of_leaning_when_measured_then_colour_moved_in_those_tones(level):
    for seed in range(8):
        made = SUBJECTS.get("leans").make(seed, level)
        number, sign = LEANS[made.choices[made.right]]
        moved = rgb_to_ycbcr(made.pictures[0])[made.lit] - rgb_to_ycbcr(made.truth)[made.lit]
        moved = moved.mean(axis=0)
        along = moved[2] - moved[1] if number.endswith("warmth") else -(moved[1] + moved[2])

        assert sign * along > 0


def test_given_clips_to_stand_beside_another_when_measured_then_the_right_one_is_nearest():
    for seed in range(8):
        made = SUBJECTS.get("matches").make(seed, 0.3)
        away = [np.abs(p.mean(axis=(0, 1)) - made.truth.mean(axis=(0, 1))).max() for p in made.pictures[1:]]

        assert int(np.argmin(away)) == made.right


def test_given_a_harder_level_when_exercises_are_made_then_they_lie_nearer_to_what_is_right():
    for key in ("belongs", "leans", "matches", "name-light", "name-colour"):
        plain, subtle = (
            np.median([SUBJECTS.get(key).make(seed, level).distance for seed in range(12)])
            for level in (0.0, 1.0)
        )
        assert plain > 1.3 * subtle and chance_wrong(plain) < chance_wrong(subtle)


def test_given_an_area_when_a_finger_is_beside_it_then_its_breadth_counts():
    area = Area(left=0.2, right=0.4, low=40, high=60)

    assert area.holds(0.3, 50) and not area.holds(0.42, 50)
    assert area.holds(0.42, 62, reach=(0.03, 4.0)) and not area.holds(0.5, 50, reach=(0.03, 4.0))

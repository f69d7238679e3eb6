"""Numbers that change during a clip: the way between moments is smooth, and never leaves its neighbours."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from morphe.core.errors import ColourError
from morphe.core.grade.moments import MOST_MOMENTS, Moments, held, smooth_way, thinned

values = st.floats(-100, 100).map(lambda v: round(v, 3))


@st.composite
def ways(draw):
    """Two to eight moments that rise."""
    steps = draw(st.lists(st.floats(0.05, 5), min_size=2, max_size=8))
    times = np.cumsum(steps).round(3)
    return Moments(tuple((float(t), draw(values)) for t in times))


@given(way=ways(), share=st.floats(-0.2, 1.2))
def test_given_any_way_when_read_then_it_lies_between_the_moments_about_it(way, share):
    begin, end = way.times_s[0], way.times_s[-1]
    time = begin + share * (end - begin)
    after = int(np.searchsorted(way.times_s, time))
    near = way.values[max(after - 1, 0)], way.values[min(after, len(way.values) - 1)]

    assert min(near) - 1e-6 <= way.at(time) <= max(near) + 1e-6


@given(way=ways())
def test_given_any_way_when_read_at_its_moments_then_they_are_met_and_beyond_them_it_holds(way):
    assert [way.at(t) for t in way.times_s] == pytest.approx(list(way.values), abs=1e-6)
    assert way.at(-1e3) == way.values[0] and way.at(1e5) == way.values[-1]


@given(way=ways())
def test_given_any_way_when_read_closely_then_it_makes_no_jump(way):
    for time, steepest in zip(way.times_s, np.diff(way.values) / np.diff(way.times_s), strict=False):
        by = abs(way.at(time + 1e-4) - way.at(time - 1e-4))
        assert (
            by <= 2e-4 * (3 * np.abs(np.diff(way.values) / np.diff(way.times_s)).max() + abs(steepest)) + 1e-6
        )


def test_given_moments_that_only_rise_when_read_then_the_way_only_rises():
    way = Moments(((0.0, 0.0), (1.0, 0.1), (2.0, 5.0), (5.0, 5.2)))
    read = [way.at(t) for t in np.linspace(0, 5, 200)]

    assert (np.diff(read) >= -1e-9).all()


def test_given_a_moment_when_set_again_then_it_has_the_new_value_and_another_one_is_added_in_its_place():
    way = Moments(((0.0, 1.0), (2.0, 3.0)))

    assert way.with_point(2.0004, 7.0).points == ((0.0, 1.0), (2.0004, 7.0))
    assert way.with_point(1.0, 9.0).points == ((0.0, 1.0), (1.0, 9.0), (2.0, 3.0))
    assert held(way, 2.0) == 3.0 and held(0.7, 2.0) == 0.7


def test_given_several_numbers_when_they_travel_then_each_goes_its_way():
    rows = ((0.0, 1.0, 10.0), (2.0, 3.0, -10.0))

    assert smooth_way(rows, 1.0) == pytest.approx([2.0, 0.0])
    assert smooth_way(rows[:1], 99.0) == pytest.approx([1.0, 10.0])


@pytest.mark.parametrize(
    ("points", "words"),
    [
        ((), "has 1 to"),
        (((0.0, 1.0), (0.0, 2.0)), "rising seconds"),
        (((1.0, 1.0), (0.5, 2.0)), "rising seconds"),
        (((0.0, 1.0, 2.0),), "rising seconds"),
        (((0.0, float("nan")),), "rising seconds"),
        (((0.0, "high"),), "is a time in seconds"),
        (((1e9, 1.0),), "further off"),
        (tuple((float(n), 0.0) for n in range(MOST_MOMENTS + 1)), "has 1 to"),
    ],
)
def test_given_moments_that_are_none_when_made_then_a_sentence_says_what_is_wrong(points, words):
    with pytest.raises(ColourError, match=words):
        Moments(points)


@given(seed=st.integers(0, 2**32), count=st.integers(1, 3000), shake=st.sampled_from([0, 0.001, 0.02]))
@settings(max_examples=30, deadline=None)
def test_given_a_way_that_was_followed_when_thinned_then_all_of_it_follows_from_few_rows(seed, count, shake):
    dice = np.random.default_rng(seed)
    times = (dice.uniform(0, 100) + 0.2 * np.arange(count)).round(3)
    drift = np.cumsum(dice.normal(0, 0.02, (count, 2)), axis=0) / 10
    rows = tuple(map(tuple, np.column_stack([times, drift + dice.normal(0, shake, (count, 2))]).tolist()))

    kept = thinned(rows, (0.003, 0.01), 400)

    off = np.array([smooth_way(tuple(kept), row[0]) - row[1:] for row in rows])
    assert set(kept) <= set(rows) and kept == sorted(kept)
    assert {kept[0], kept[-1]} == {rows[0], rows[-1]}
    assert len(kept) <= 400
    assert len(kept) == 400 or (np.abs(off) <= np.array([0.003, 0.01]) + 1e-9).all()

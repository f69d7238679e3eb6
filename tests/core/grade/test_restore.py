"""Water taken back: the inverse of the formula, identity, what is kept and what is invented."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.errors import ColourError
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.grade.restore import Restore, Way
from morphe.core.pipeline.passes import compile_grade
from morphe.core.water.imaging import Dive, left_of, seen_under_water, water_colour, water_of

DIVE = Dive(water=water_of("II"), depth_m=5)
DISTANCE_M = 1.5


def exact(**changes):
    """What takes back the water of DIVE at DISTANCE_M."""
    gains = -np.log2(left_of(DIVE, np.array(DISTANCE_M)))
    veil = water_colour(DIVE) * (1 - np.exp(-np.array(DIVE.water.along) * DISTANCE_M))
    return Restore(**{"strength": 100.0, "track": ((0.0, *map(float, gains), *map(float, veil)),), **changes})


@given(light=st.lists(st.floats(0.01, 1), min_size=3, max_size=3))
def test_given_a_picture_under_water_when_it_is_taken_back_then_it_is_as_in_air(light):
    picture = np.array([[light]], np.float32)

    seen = seen_under_water(picture, np.full((1, 1), DISTANCE_M), DIVE)

    assert exact().apply(seen) == pytest.approx(picture, abs=2e-3)


@given(strength=st.sampled_from([0.0, 30.0]), light=st.floats(0.2, 1))  # below, the veil outweighs the gain
def test_given_no_strength_when_applied_then_nothing_changes_and_some_is_between(strength, light):
    picture = np.full((1, 1, 3), light, np.float32)
    step = exact(strength=strength)

    if strength == 0:
        assert step.is_neutral
    else:
        full = exact().apply(picture)
        assert (np.abs(step.apply(picture) - picture) <= np.abs(full - picture) + 1e-6).all()


def test_given_red_asked_for_by_half_when_applied_then_green_and_blue_stay():
    picture = np.full((1, 1, 3), 0.2, np.float32)

    full, half = exact(vivid=1.0).apply(picture), exact(red=50.0).apply(picture)

    assert half[0, 0, 0] < full[0, 0, 0]
    assert half[0, 0, 1:] == pytest.approx(full[0, 0, 1:])


def test_given_far_water_when_its_colour_is_kept_then_it_stays_and_a_near_grey_does_not():
    water = water_colour(DIVE).astype(np.float32)[None, None]
    colour = tuple(float(np.log2(water[0, 0, c] / water[0, 0, 1])) for c in (0, 2))
    kept = exact(background=100.0, colour=colour, spread=0.3)
    grey = seen_under_water(np.full((1, 1, 3), 0.4, np.float32), np.full((1, 1), DISTANCE_M), DIVE)

    far, near = kept.apply(water)[0, 0], kept.apply(grey)[0, 0]

    assert far / far[1] == pytest.approx(water[0, 0] / water[0, 0, 1], rel=0.02)
    assert near.max() / near.min() < 1.5 < exact().apply(water)[0, 0].max() / water[0, 0].min()


def test_given_red_in_the_noise_when_taken_back_then_it_comes_from_green():
    picture = np.array([[[0.0005, 0.1, 0.1]]], np.float32)
    step = Restore(strength=100.0, noise=0.002, track=((0.0, 4.0, 1.0, 1.0, 0.0, 0.0, 0.0),))

    assert step.invented(picture[..., 0]) == pytest.approx(1.0)
    red, green, _ = step.apply(picture)[0, 0]
    assert red == pytest.approx(green, rel=1e-3)


def test_given_a_changing_depth_when_held_at_a_moment_then_its_gains_lie_between():
    one, two = (0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 0.0), (4.0, 3.0, 0.0, 0.0, 0.02, 0.0, 0.0)
    step = Restore(strength=100.0, track=(one, two))

    held = step.at(1.0)

    assert step.moves and not held.moves
    assert held.track[0][1] == pytest.approx(1.5) and held.track[0][4] == pytest.approx(0.005)
    knots = compile_grade(Grade.of(step)).passes[0].knots
    assert knots[0] == 0.0 and knots[-1] == 4.0 and 8 <= len(knots) <= 20


def test_given_a_restoration_when_written_and_read_then_it_is_the_same():
    curve = ((0.1, 0.4, 0.8), (0.0, 0.5, 0.9))
    for step in (exact(background=40.0), Restore(strength=80.0, way=Way.TONES, tones=(curve,) * 3)):
        grade = Grade.of(step)
        assert recipe.from_text(recipe.to_text(grade)) == grade


def test_given_curves_in_three_tones_when_applied_then_tones_land_where_they_say():
    curve = ((0.1, 0.4, 0.8), (0.05, 0.5, 0.95))
    step = Restore(strength=100.0, way=Way.LEVELS, tones=(curve,) * 3)
    greys = np.repeat(np.array(curve[0], np.float32)[:, None], 3, axis=1)

    shown = compile_grade(Grade.of(step)).passes[0].apply(greys)

    assert shown[:, 0] == pytest.approx(curve[1], abs=2e-3)


@pytest.mark.parametrize(
    "values",
    [
        {"way": "magic"}, {"track": ((0.0, 1.0),)}, {"track": ((0.0, 99.0, 0, 0, 0, 0, 0),)},
        {"track": ((0.0, 1.0, 0, 0, 2.0, 0, 0),)}, {"track": ((1.0,) + (0.0,) * 6, (0.5,) + (0.0,) * 6)},
        {"noise": float("nan")}, {"spread": 0.0}, {"colour": (1e9, 0.0)},
        {"tones": (((0, 1, 2), (0, 1, 2)),)}, {"tones": (((0.5, 0.4, 0.8), (0, 0.5, 0.9)),) * 3},
        {"background": 101.0},
    ],
)  # fmt: skip
def test_given_numbers_beyond_bounds_when_made_then_they_are_refused(values):
    with pytest.raises(ColourError):
        Restore(**{"strength": 100.0, **values})


def test_given_a_descent_when_rendered_by_blended_tables_then_every_moment_is_as_it_would_be_alone():
    step = Restore(
        strength=100.0, track=((0.0, 0.5, 0.2, 0.4, 0.0, 0.0, 0.0), (4.0, 3.0, 0.4, 0.9, 0.01, 0.02, 0.02))
    )
    colour = compile_grade(Grade.of(step)).passes[0]
    picture = np.random.default_rng(3).uniform(0.05, 0.5, (400, 3)).astype(np.float32)
    knots = np.array(colour.knots)

    for seconds in (0.13, 1.4, 2.9, 3.77):
        after = int(np.searchsorted(knots, seconds))
        low, high = (colour.at(float(knots[k])).apply(picture) for k in (after - 1, after))
        share = (seconds - knots[after - 1]) / (knots[after] - knots[after - 1])
        blended = low + np.float32(share) * (high - low)
        alone = colour.at(seconds).apply(picture)
        assert np.abs(blended - alone)[alone < 1].max() < 1 / 219

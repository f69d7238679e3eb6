"""What water does to a picture, and what is known of a dive: by the formula, and by what must hold."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.errors import ColourError
from morphe.core.water.daylight import WATER_TYPES, light_left
from morphe.core.water.depth_card import depth_card
from morphe.core.water.hints import HINT_TRAITS, WaterHints
from morphe.core.water.imaging import Dive, Water, seen_under_water, water_colour, water_of

GREY = np.full((1, 1, 3), 0.5, np.float32)


def test_given_the_formula_when_seen_under_water_then_light_and_veil_are_those_of_it():
    water = Water(down=(0, 0, 0), along=(0.25,) * 3, thrown_back=(0.08,) * 3)

    seen = seen_under_water(GREY, np.full((1, 1), 3.0), Dive(water=water, depth_m=5))

    through = np.exp(-0.75)
    assert seen[0, 0] == pytest.approx(0.5 * through + 0.08 * (1 - through), abs=1e-6)


@pytest.mark.parametrize("key", list(WATER_TYPES))
def test_given_any_water_when_nothing_lies_between_then_daylight_is_that_of_the_column(key):
    dive = Dive(water=water_of(key), depth_m=5)

    seen = seen_under_water(GREY, np.zeros((1, 1)), dive)

    assert seen[0, 0] == pytest.approx(0.5 * np.array(light_left(WATER_TYPES.get(key), depth_m=5)), rel=1e-4)


@given(key=st.sampled_from(list(WATER_TYPES)), depth=st.floats(0, 20), near=st.floats(0, 5))
def test_given_any_dive_when_farther_or_deeper_then_less_of_the_subject_is_left(key, depth, near):
    hints = WaterHints(water=key, depth_m=depth, distance_m=near)

    assert (WaterHints(water=key, depth_m=depth, distance_m=near + 1).left < hints.left).all()
    assert (hints.at_depth(depth + 1).left < hints.left).all()


def test_given_endless_water_when_seen_then_it_has_its_own_colour():
    dive = Dive(water=water_of("II"), depth_m=6)

    seen = seen_under_water(GREY, np.full((1, 1), np.inf), dive)

    assert seen[0, 0] == pytest.approx(water_colour(dive), rel=1e-5)
    assert seen[0, 0, 0] < seen[0, 0, 2]


def test_given_a_lamp_when_near_then_red_keeps_up_and_when_far_it_does_not():
    near, far = (WaterHints(water="II", depth_m=15, distance_m=d, lamp=True).left for d in (0.5, 6.0))

    assert near[0] / near[1] > 0.7
    assert far[0] / far[1] < 0.1


@pytest.mark.parametrize(
    ("said", "words"),
    [
        ({"depth_m": -1.0}, "0 to 60 m"), ({"depth_m": float("nan")}, "0 to 60 m"),
        ({"distance_m": 31.0}, "0 to 30 m"), ({"water": "soup"}, "no water type"),
        ({"filter": "blue"}, "red, magenta or none"),
    ],
)  # fmt: skip
def test_given_a_hint_that_cannot_be_when_made_then_it_is_refused(said, words):
    with pytest.raises(ColourError, match=words):
        WaterHints(**said)


def test_given_hints_when_told_then_each_shows_and_nothing_said_tells_nothing():
    nothing = WaterHints().as_traits()
    one, two = WaterHints(depth_m=5).as_traits(), WaterHints(depth_m=5, distance_m=1).as_traits()

    assert nothing.shape == one.shape == (HINT_TRAITS,)
    assert not nothing.any()
    assert list(one[-4:]) == [1, 0, 0, 0] and list(two[-4:]) == [1, 1, 0, 0]


def test_given_a_depth_card_when_made_then_red_things_darken_and_doing_better_is_named_with_its_gain():
    card = depth_card(WaterHints(water="1C", depth_m=9, distance_m=2))
    by_name = {s.name: s for s in card.swatches}

    assert card.left[0] < 0.05 < card.left[1]
    assert by_name["Red"].seen[0] < by_name["Red"].dry[0] - 0.2
    assert by_name["White"].seen[1] > by_name["White"].seen[0] + 0.3  # green water
    assert any(way.key == "lamp" and way.lamp and way.won > 0.3 for way in card.better)
    assert "back" in card.verdict


@pytest.mark.parametrize(("depth", "distance"), [(9.0, 2.0), (5.0, 4.0), (12.0, 0.6)])
def test_given_a_way_to_do_better_when_its_answers_are_followed_then_it_wins_what_it_says(depth, distance):
    hints = WaterHints(water="II", depth_m=depth, distance_m=distance)
    before = depth_card(hints)

    for way in before.better:
        told = {
            name: value == "yes" if name == "lamp" else float(value) for name, value in way.answers.items()
        }
        after = depth_card(replace(hints, **told))
        assert before.behind - after.behind == pytest.approx(way.won, abs=0.01)
        assert f"{way.won:.1f} stops" in way.sentence


def test_given_the_surface_when_a_card_is_made_then_red_keeps_up_and_nothing_is_better():
    card = depth_card(WaterHints(water="I", depth_m=0.5, distance_m=0.5))

    assert card.verdict == "Red keeps up with green here."
    assert card.better == ()


def test_given_nothing_said_when_a_card_is_made_then_it_says_that_it_supposes():
    assert depth_card(WaterHints()).is_supposed
    assert not depth_card(WaterHints(depth_m=3, distance_m=1)).is_supposed

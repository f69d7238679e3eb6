"""The grades of a file's shots: which belongs to a frame, and as a recipe there and back."""

import json

import pytest

from morphe.core.errors import ColourError, RecipeError
from morphe.core.grade.grade import Grade
from morphe.core.grade.recipe import from_text, reel_from_text, to_text
from morphe.core.grade.reel import Reel
from morphe.core.grade.steps import Exposure

ONE, TWO = Grade.of(Exposure(stops=1.0)), Grade()
REEL = Reel(grades=(ONE, TWO, ONE), ends_s=(1.0, 2.5))


@pytest.mark.parametrize(("time_s", "number"), [(0, 0), (0.99, 0), (0.9995, 1), (1.0, 1), (2.49, 1), (9, 2)])
def test_given_a_moment_when_asked_then_its_shot_is_told_though_times_are_rounded(time_s, number):
    assert REEL.number_at(time_s) == number


def test_given_a_recipe_of_shots_when_read_then_it_returns_and_one_grade_is_a_reel_of_one():
    assert reel_from_text(to_text(REEL)) == REEL
    assert reel_from_text(to_text(ONE)) == Reel.of(ONE) and from_text(to_text(ONE)) == ONE
    with pytest.raises(RecipeError, match="each shot"):
        from_text(to_text(REEL))


@pytest.mark.parametrize("shots", [3, [], [1], [{"to_s": 2.0}], [{"to_s": None}, {"to_s": None}]])
def test_given_damaged_shots_when_read_then_they_are_refused_in_words(shots):
    with pytest.raises(RecipeError):
        reel_from_text(json.dumps({"format": "morphe-recipe", "schema": 10, "shots": shots}))


def test_given_ends_that_do_not_rise_when_made_then_they_are_refused():
    with pytest.raises(ColourError):
        Reel(grades=(ONE, TWO, ONE), ends_s=(2.0, 1.0))

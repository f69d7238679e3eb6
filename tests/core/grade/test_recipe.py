"""Recipes: what is written is read back; what is foreign or broken is refused with a sentence."""

import contextlib
import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.errors import RecipeError
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Convert, Exposure
from tests.strategies import grades


@given(grade=grades())
def test_given_any_grade_when_written_and_read_then_it_is_the_same(grade):
    assert recipe.from_text(recipe.to_text(grade)) == grade


def test_given_a_fitted_curve_when_written_and_read_then_its_numbers_return():
    grade = Grade.of(Convert(profile="fitted", curve=(0.1, 0.6, 0.02, 0.01), chroma=1.2))

    assert recipe.from_text(recipe.to_text(grade)) == grade


def changed(**top):
    return json.dumps({**recipe.to_json(Grade.of(Exposure(stops=1))), **top})


def with_step(**values):
    data = recipe.to_json(Grade.of(Exposure(stops=1)))
    data["layers"][0]["steps"][0].update(values)
    return json.dumps(data)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "not readable JSON"),
        ("{", "not readable JSON"),
        ("[" * 100_000, "not readable JSON"),
        ("[]", "not a Morphe recipe"),
        ("null", "not a Morphe recipe"),
        ('{"format": "something-else"}', "not a Morphe recipe"),
        (changed(schema=99), "update Morphe"),
        (changed(schema="1"), "which version"),
        (changed(layers="none"), "damaged|cannot be used"),
        (changed(layers=[{"name": "clip"}]), "damaged"),
        (changed(layers=[{"name": "clip", "steps": [{}]}]), "damaged"),
        (changed(layers=[{"name": "clip", "steps": [], "strength": 3}]), "strength"),
        (with_step(step="teleport"), "cannot be used"),
        (with_step(stops=40), "between -6 and 6"),
        (with_step(stops="much"), "between -6 and 6"),
        (with_step(sharpness=1), "has no sharpness"),
        ("x" * (recipe.MAX_BYTES + 1), "far too long"),
    ],
)
def test_given_a_broken_or_foreign_recipe_when_read_then_it_is_refused_in_one_line(text, words):
    with pytest.raises(RecipeError, match=words) as told:
        recipe.from_text(text)

    assert "\n" not in str(told.value)


JSON = st.recursive(
    st.none() | st.booleans() | st.floats() | st.text(), lambda c: st.lists(c) | st.dictionaries(st.text(), c)
)


@given(data=JSON, where=st.sampled_from(["layers", "schema", "steps", "value"]))
def test_given_any_junk_inside_a_recipe_when_read_then_nothing_but_a_recipe_error_comes(data, where):
    whole = recipe.to_json(Grade.of(Exposure(stops=1)))
    if where == "steps":
        whole["layers"][0]["steps"] = data
    elif where == "value":
        whole["layers"][0]["steps"][0]["stops"] = data
    else:
        whole[where] = data
    with contextlib.suppress(RecipeError):
        recipe.from_text(json.dumps(whole))

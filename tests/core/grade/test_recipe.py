"""Recipes: what is written is read back; what is foreign or broken is refused with a sentence."""

import contextlib
import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.errors import RecipeError
from morphe.core.grade import recipe
from morphe.core.grade.convert import Convert
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Exposure
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.profiles import PROFILES
from tests.strategies import grades, stacked_grades


@given(grade=st.one_of(grades(), stacked_grades()))
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


def with_region(**values):
    region = {"shape": {"kind": "line"}, "feather": 0.1, "inverse": False, "moments": [[0, 0.5, 0.5, 1, 0]]}
    layer = {"id": "part", "scope": "clip", "steps": [], "region": {**region, **values}}
    return changed(layers=[layer])


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
        (changed(layers=[{"id": "clip", "scope": "clip", "steps": [], "strength": 3}]), "strength"),
        (changed(layers=[{"id": "clip", "scope": "sky", "steps": []}]), "damaged"),
        (changed(layers=2 * [{"id": "clip", "scope": "clip", "steps": []}]), "same id"),
        (changed(layers=[{"id": "a/b", "scope": "clip", "steps": []}]), "id"),
        (changed(source=[{"step": "exposure", "stops": 1}]), "does not belong to the source"),
        (with_region(shape={"kind": "star"}), "ellipse, line, outline"),
        (with_region(shape={"kind": "ellipse", "wide": 90, "tall": 1}), "between 0.01 and 4"),
        (with_region(moments=[[0, 0.5, 0.5, 1, 0], [0, 0.5, 0.5, 1, 0]]), "rising seconds"),
        (with_region(feather=0), "soft edge"),
        (with_step(stops={"moments": [[0, 0], [1, 40]]}), "between -6 and 6"),
        (with_step(stops={"moments": [[1, 0], [0, 1]]}), "rising seconds"),
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


@given(data=JSON, where=st.sampled_from(["layers", "source", "schema", "steps", "value"]))
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


# --- older versions --------------------------------------------------------------------------------


def old_recipe(schema, *layers):
    return {"format": "morphe-recipe", "schema": schema, "layers": list(layers)}


@pytest.mark.parametrize("schema", [1, 2, 3])
def test_given_a_recipe_of_an_older_version_when_read_then_every_step_is_there(schema):
    steps = [
        {"step": "convert", "on": True, "profile": "log-mild", "chroma": 1.0},
        {"step": "even", "on": True, "amount": 80.0, "ceiling": 4.8, "track": [[0, 0.1, 0, 0], [1, 0, 0, 0]]},
        {"step": "exposure", "on": True, "stops": 0.4},
        {"step": "balance", "on": False, "warmth": 12.0, "tint": 2.0},
        {"step": "contrast", "on": True, "amount": 8.0, "pivot": 43.0},
    ]
    old = old_recipe(schema, {"name": "clip", "on": True, "strength": 1.0, "steps": steps})

    grade = recipe.from_json(old)

    assert grade.convert.profile == "log-mild" and grade.even_out.amount == 80
    assert [s.key for s in grade.layer("clip").steps] == ["exposure", "balance", "contrast"]
    assert grade.step("exposure").stops == 0.4 and not grade.step("balance").on
    assert recipe.from_text(recipe.to_text(grade)) == grade


def test_given_an_older_recipe_at_half_strength_when_read_then_its_conversion_is_whole():
    convert = {"step": "convert", "on": True, "profile": "log-mild"}
    exposure = {"step": "exposure", "on": True, "stops": 1.0}
    old = old_recipe(3, {"name": "clip", "on": True, "strength": 0.5, "steps": [convert, exposure]})

    grade = recipe.from_json(old)

    black = PROFILES.get("log-mild").encode(np.zeros((1, 3), np.float32)).astype(np.float32)
    assert evaluate(grade, black) == pytest.approx(0, abs=1e-4)
    assert grade.layer("clip").strength == 0.5


def test_given_an_older_recipe_of_two_layers_when_read_then_both_stand_and_a_switched_off_one_stays_off():
    step = {"step": "exposure", "on": True, "stops": 1.0}
    layers = ({"name": "clip", "steps": [step]}, {"name": "mood", "on": False, "steps": [step]})

    grade = recipe.from_json(old_recipe(2, *layers))

    assert [(x.name, x.on) for x in grade.layers] == [("", True), ("mood", False)]

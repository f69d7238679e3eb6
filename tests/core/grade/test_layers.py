"""Layers, regions and moments: what they leave alone, what they carry on, and where they lie."""

import subprocess
import sys
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.errors import ColourError, UnknownName
from morphe.core.grade.convert import Convert
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer, Scope
from morphe.core.grade.moments import Moments
from morphe.core.grade.region import Ellipse, Line, Outline, Place, Region
from morphe.core.grade.steps import Balance, BlackPoint, Exposure, HoldLights, Saturation, Sharpen
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.primaries import Primaries, rgb_to_rgb
from morphe.core.signal.profiles import PROFILES
from tests.strategies import encoded_pictures, regions, stacked_grades

FLOAT32 = 2e-5
HALF_CODE_8BIT = 0.5 / 219


def outing(*steps, strength=1.0):
    return Layer(id="outing", scope=Scope.OUTING, steps=steps, strength=strength)


# --- layers ----------------------------------------------------------------------------------------


@given(picture=encoded_pictures(0.1, 0.9), stops=st.floats(-1, 1), more=st.floats(-1, 1))
def test_given_steps_on_two_layers_when_evaluated_then_they_do_what_they_do_on_one(picture, stops, more):
    both = Grade.of(Exposure(stops=more)).with_layer(outing(Exposure(stops=stops)))

    assert np.allclose(
        evaluate(both, picture), evaluate(Grade.of(Exposure(stops=stops + more)), picture), atol=FLOAT32
    )


def test_given_wide_light_when_it_goes_through_layers_then_it_stays_wide_until_delivery():
    # A colour outside BT.709: narrowed between the layers, its red could not come back.
    light = np.array([[0.5, 0.02, 0.02]]) @ rgb_to_rgb(Primaries.BT2020, Primaries.BT709).T
    code = PROFILES.get("log-wide").encode(light @ rgb_to_rgb(Primaries.BT709, Primaries.BT2020).T)
    code = code.astype(np.float32)
    convert, lower = Convert(profile="log-wide", wide=True), Exposure(stops=-0.5)
    steps = (Balance(warmth=20), HoldLights(stops=1))

    one = evaluate(Grade.of(convert, lower, *steps), code)
    two = evaluate(Grade.of(convert, *steps).with_layer(outing(lower)), code)

    assert np.allclose(one, two, atol=FLOAT32)


@pytest.mark.parametrize("strength", [0.0, 0.25, 0.5, 1.0])
def test_given_a_layer_at_part_strength_when_log_is_converted_then_black_stays_black(strength):
    black = PROFILES.get("log-mild").encode(np.zeros((1, 3), np.float32)).astype(np.float32)
    grade = Grade.of(Convert(profile="log-mild"), Saturation(amount=20))
    grade = grade.with_layer(replace(grade.layer("clip"), strength=strength))

    assert evaluate(grade, black) == pytest.approx(0, abs=HALF_CODE_8BIT)


@given(picture=encoded_pictures(0.2, 0.8), strength=st.floats(0.01, 0.99))
def test_given_any_strength_when_evaluated_then_the_picture_lies_between_none_and_all(picture, strength):
    layer = Layer(id="clip", steps=(Exposure(stops=0.7), BlackPoint(lower=4)))

    none, part, whole = (
        evaluate(Grade().with_layer(replace(layer, strength=s)), picture) for s in (0.0, strength, 1.0)
    )

    assert np.allclose(part, none + strength * (whole - none), atol=FLOAT32)


def test_given_layers_in_any_order_when_stacked_then_scopes_stand_in_the_order_of_the_work():
    scopes = (Scope.FINISH, Scope.CLIP, Scope.OUTING, Scope.STYLE, Scope.LIGHT)

    grade = Grade(layers=tuple(Layer(id=str(s), scope=s) for s in scopes))

    assert [layer.scope for layer in grade.layers] == list(Scope)


def test_given_one_step_on_two_layers_when_addressed_then_each_is_itself():
    grade = Grade.of(Exposure(stops=1)).with_layer(outing(Exposure(stops=0.5)))

    changed = grade.with_step(Exposure(stops=-1), "outing")

    assert (changed.step("exposure").stops, changed.step("exposure", "outing").stops) == (1, -1)
    with pytest.raises(UnknownName, match="clip"):
        grade.step("exposure", "sky")


def test_given_modules_imported_in_another_order_when_a_grade_is_made_then_its_order_is_that_of_the_work():
    code = (
        "from morphe.core.grade.steps.saturation import Saturation; "
        "from morphe.core.grade.steps.exposure import Exposure; "
        "from morphe.core.grade.even_out import EvenOut; from morphe.core.grade.grade import Grade; "
        "from morphe.core.grade.convert import Convert; "
        "g = Grade.of(Saturation(amount=1), Exposure(stops=1), EvenOut(), Convert()); "
        "print([s.key for _, s in g.steps()])"
    )

    said = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout

    assert said.strip() == "['denoise', 'convert', 'even', 'restore', 'edges', 'exposure', 'saturation']"


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"id": "Über"}, "small letters"),
        ({"id": "a", "strength": 1.2}, "between 0 and 1"),
        ({"id": "a", "steps": (Exposure(), Exposure(stops=1))}, "twice"),
        ({"id": "a", "steps": (Sharpen(),), "region": Region(shape=Line())}, "whole frame"),
    ],
)
def test_given_a_layer_that_cannot_be_when_made_then_it_is_refused_in_words(fields, words):
    with pytest.raises(ColourError, match=words):
        Layer(**fields)


# --- moments ---------------------------------------------------------------------------------------

ROWS = st.lists(st.floats(-5, 5), min_size=2, max_size=8).map(
    lambda values: tuple((float(t), v) for t, v in enumerate(values))
)


@given(points=ROWS)
def test_given_moments_when_read_then_each_is_met_and_the_ends_hold(points):
    number = Moments(points)

    assert [number.at(t) for t, _ in points] == pytest.approx([v for _, v in points], abs=1e-9)
    assert number.at(-9) == points[0][1] and number.at(99) == points[-1][1]


@given(points=ROWS, share=st.floats(0, 1))
def test_given_two_moments_when_the_way_between_is_taken_then_it_never_leaves_their_values(points, share):
    (start, one), (_, two) = points[:2]

    assert min(one, two) - 1e-9 <= Moments(points).at(start + share) <= max(one, two) + 1e-9


def test_given_a_step_that_moves_when_applied_unheld_then_it_says_so():
    moving = Exposure(stops=Moments(((0, 0), (1, 1))))

    with pytest.raises(ColourError, match="hold the grade"):
        moving.apply(np.zeros((1, 3), np.float32))
    assert moving.at(0.5).stops == pytest.approx(0.5)


@given(grade=stacked_grades(), moment=st.floats(0, 4))
def test_given_any_grade_when_held_at_a_moment_then_it_no_longer_moves_and_shows_that_moment(grade, moment):
    held = grade.at(moment)

    assert not held.moves and held.at(9.0) is held
    picture = np.full((8, 12, 3), 0.4, np.float32)
    assert np.allclose(evaluate(held, picture), evaluate(grade, picture, time_s=moment), atol=FLOAT32)


# --- regions ---------------------------------------------------------------------------------------


@given(region=regions(), moment=st.floats(0, 4))
def test_given_any_region_when_masked_then_it_lies_where_its_shape_does(region, moment):
    width, height = 160, 90
    x, y = ((np.arange(n) + 0.5) / n for n in (width, height))

    exact = region.share_at(x[None, :], y[:, None], width / height, moment)
    mask = region.mask(width, height, moment)

    assert np.abs(mask - exact).mean() < 0.004 and np.percentile(np.abs(mask - exact), 99.5) < 0.08


@given(region=regions(), moment=st.floats(0, 4))
def test_given_any_region_when_its_window_is_taken_then_nothing_outside_belongs_to_it(region, moment):
    width, height = 161, 91
    left, top, right, bottom = region.window(width, height, moment)

    outside = region.mask(width, height, moment)
    inside = region.mask(width, height, moment, (left, top, right, bottom))

    assert np.allclose(inside, outside[top:bottom, left:right], atol=1e-4)
    outside[top:bottom, left:right] = 0
    assert outside.max(initial=0) < 1e-3


@given(region=regions())
def test_given_the_inverse_when_masked_then_both_make_the_whole(region):
    other = replace(region, inverse=not region.inverse)

    assert np.allclose(region.mask(64, 36) + other.mask(64, 36), 1, atol=1e-5)


def test_given_a_region_on_a_proxy_when_laid_on_the_master_then_it_covers_the_same():
    region = Region(shape=Ellipse(wide=0.2, tall=0.1), feather=0.08).put(Place(x=0.3, y=0.6, turn=30))

    small, large = region.mask(96, 54), region.mask(960, 540)

    assert np.abs(small - large.reshape(54, 10, 96, 10).mean(axis=(1, 3))).max() < 0.06


def test_given_moments_when_a_region_travels_then_it_is_between_them_half_way():
    region = Region(shape=Ellipse()).put(Place(x=0.2), 0.0).put(Place(x=0.8, y=0.7), 2.0)

    assert region.moves
    assert (region.place(1.0).x, region.place(1.0).y) == pytest.approx((0.5, 0.6))
    assert region.put(Place(x=0.1), 2.0).place(2.0).x == pytest.approx(0.1)


@pytest.mark.parametrize("points", [(), ((0, 0), (1, 1)), ((0, 0), (1, 1), (9, 9)), ((0, 0, 0),) * 3])
def test_given_an_outline_that_encloses_nothing_when_made_then_it_is_refused(points):
    with pytest.raises(ColourError, match="outline"):
        Outline(points=points)

"""Steps: identity, direction, anchors and refusals."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.errors import ColourError, UnknownName
from morphe.core.grade.convert import Convert
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import (
    SCHOOLS,
    STEPS,
    Balance,
    BlackPoint,
    Contrast,
    Exposure,
    HoldLights,
    MidLevel,
    Saturation,
    WhitePoint,
)
from morphe.core.measure.readings import oklab_of
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.light import light_rgb
from morphe.core.signal.profiles import PROFILES, Kind
from morphe.core.signal.transfer import encode_bt709
from tests.strategies import COLOUR, encoded_pictures, grades, steps

FLOAT32 = 3e-6
GREYS = np.repeat(np.linspace(0, 1, 101, dtype=np.float32)[:, None], 3, axis=1)


@pytest.mark.parametrize("key", list(STEPS))
def test_given_defaults_when_asked_then_a_step_is_neutral_and_not_at_work(key):
    step = STEPS.get(key)()

    assert step.is_neutral and not step.at_work

    assert evaluate(Grade.of(step), GREYS) is GREYS


@given(step=steps(keys=tuple(STEPS)))
def test_given_any_step_when_it_is_at_work_then_it_says_what_it_does(step):
    assert bool(step.summary) == step.at_work


@given(step=steps(), picture=encoded_pictures())
def test_given_a_step_switched_off_when_evaluated_then_the_very_input_comes_back(step, picture):
    off = replace(step, on=False)

    assert evaluate(Grade.of(off), picture) is picture


@given(step=steps(), picture=encoded_pictures())
def test_given_any_step_when_evaluated_then_shape_type_and_finiteness_are_kept(step, picture):
    kept = picture.copy()

    out = evaluate(Grade.of(step), picture)

    assert out.shape == picture.shape and out.dtype == np.float32
    assert np.isfinite(out).all()
    assert (picture == kept).all()  # the input is left alone


@given(step=steps(tuple(k for k in COLOUR if k not in ("balance", "casts", "curves", "tint", "film"))))
def test_given_greys_when_a_step_that_leaves_them_so_is_applied_then_they_stay_grey_and_in_order(step):
    out = evaluate(Grade.of(step), GREYS)

    assert np.abs(out - out[:, 1:2]).max() < 2e-3
    assert (np.diff(out[:, 1]) > -2e-4).all()


# --- convert ---------------------------------------------------------------------------------------

CURVES = [k for k in PROFILES if PROFILES.get(k).kind is not Kind.PQ and k != "std-709"]


@pytest.mark.parametrize("key", CURVES)
def test_given_grey_card_in_any_profile_when_converted_then_it_is_the_bt709_grey(key):
    code = PROFILES.get(key).encode(np.full((1, 3), 0.18, np.float32)).astype(np.float32)

    out = evaluate(Grade.of(Convert(profile=key, rendering="scene")), code)

    assert out == pytest.approx(0.408848, abs=2e-4)  # BT.709-6 item 1.2 of .18


@pytest.mark.parametrize("key", CURVES)
def test_given_a_scene_in_any_profile_when_converted_then_it_is_the_ordinary_picture(key):
    profile = PROFILES.get(key)
    linear = np.random.default_rng(3).uniform(0.02, 0.8, (200, 1)).astype(np.float32)
    greys = np.repeat(linear, 3, axis=1)

    out = evaluate(
        Grade.of(Convert(profile=key, rendering="scene")), profile.encode(greys).astype(np.float32)
    )

    assert np.abs(out - encode_bt709(greys)).max() < 1e-3


def test_given_a_fitted_curve_equal_to_a_known_one_when_converted_then_results_agree():
    fitted = Convert(profile="fitted", curve=(0.1258, 0.6825, 0.03086, 0.012))

    pair = [evaluate(Grade.of(c), GREYS) for c in (fitted, Convert(profile="log-mild"))]

    assert np.abs(pair[0] - pair[1]).max() < 1e-5


def test_given_a_fitted_profile_without_curve_when_made_then_it_is_refused():
    with pytest.raises(ColourError, match="four numbers"):
        Convert(profile="fitted")
    with pytest.raises(UnknownName, match="log-mild"):
        Convert(profile="no-such")


# --- light -----------------------------------------------------------------------------------------


def test_given_one_stop_when_exposed_then_light_doubles():
    grey = encode_bt709(np.full((1, 3), 0.18, np.float32))

    out = evaluate(Grade.of(Exposure(stops=1)), grey)

    assert out == pytest.approx(float(encode_bt709(np.array(0.36))), abs=FLOAT32)


@given(warmth=st.floats(-60, 100), tint=st.floats(-15, 15))
def test_given_paper_under_a_light_when_balanced_against_it_then_it_is_grey(warmth, tint):
    paper = encode_bt709((0.3 * light_rgb(warmth, tint / 1000))[None]).astype(np.float32)

    out = evaluate(Grade.of(Balance(warmth=warmth, tint=tint)), paper)

    assert float(np.ptp(out)) < 1e-4


def test_given_warmth_when_raised_then_the_picture_gets_cooler_and_tint_more_magenta():
    grey = np.full((1, 3), 0.5, np.float32)

    cool, magenta = (evaluate(Grade.of(s), grey)[0] for s in (Balance(warmth=30), Balance(tint=8)))

    assert cool[2] > cool[1] > cool[0]
    assert magenta[1] < min(magenta[0], magenta[2])


@given(stops=st.floats(0.1, 6), x=st.floats(0, 1))
def test_given_lights_when_held_then_the_brightest_reaches_white_and_shadows_stay(stops, x):
    step = HoldLights(stops=stops)

    top = step.apply(np.array([[2.0**stops] * 3], np.float32))
    low = step.apply(np.array([[0.8 * x] * 3], np.float32))

    assert top == pytest.approx(1, abs=1e-4)
    assert low == pytest.approx(0.8 * x, abs=1e-6)


def test_given_roll_off_when_worked_by_hand_then_points_agree():
    # y = k + t / (1 + t (1/s - 1/L)) with k = .8, m = 1, lim = 4: t = .2, s = .2, L = 3.2
    out = HoldLights(stops=2).apply(np.array([[1.0, 1.0, 1.0]], np.float32))

    assert out == pytest.approx(0.8 + 0.2 / (1 + 0.2 * (5 - 1 / 3.2)), abs=1e-6)


def test_given_lowered_lights_when_brought_back_then_clipped_white_is_white_again():
    held = HoldLights(stops=-0.8)

    out = held.apply(np.array([[2.0**-0.8] * 3, [0.2] * 3], np.float32))

    assert out[0] == pytest.approx(1, abs=1e-5)
    assert out[1] == pytest.approx(0.2, abs=1e-6)


# --- levels ----------------------------------------------------------------------------------------


@given(lower=st.floats(-20, 40))
def test_given_black_point_when_lowered_then_that_level_is_black_and_white_stays(lower):
    levels = np.array([[lower / 100] * 3, [1.0] * 3], np.float32)

    out = evaluate(Grade.of(BlackPoint(lower=lower)), levels)

    assert out[0] == pytest.approx(0, abs=1e-5) and out[1] == pytest.approx(1, abs=1e-5)


@given(by=st.floats(-30, 60))
def test_given_white_point_when_raised_then_that_level_is_white_and_black_stays(by):
    levels = np.array([[0.0] * 3, [1 - by / 100] * 3], np.float32)

    out = evaluate(Grade.of(WhitePoint(raise_by=by)), levels)

    assert out[0] == pytest.approx(0, abs=1e-6) and out[1] == pytest.approx(1, abs=1e-5)


@given(lift=st.floats(-30, 30))
def test_given_mid_level_when_lifted_then_45_percent_moves_by_that_and_the_ends_stay(lift):
    out = evaluate(Grade.of(MidLevel(lift=lift)), np.array([[0.0] * 3, [0.45] * 3, [1.0] * 3], np.float32))

    assert out[:, 0] == pytest.approx([0, 0.45 + lift / 100, 1], abs=1e-5)


@given(amount=st.floats(-50, 100), pivot=st.floats(15, 85))
def test_given_contrast_when_added_then_ends_and_pivot_stay_and_the_slope_there_is_the_amount(amount, pivot):
    p = pivot / 100
    levels = np.array([0, p - 1e-3, p, p + 1e-3, 1], np.float32)
    out = evaluate(Grade.of(Contrast(amount=amount, pivot=pivot)), np.repeat(levels[:, None], 3, axis=1))[
        :, 0
    ]

    assert out[[0, 2, 4]] == pytest.approx([0, p, 1], abs=1e-4)
    assert (out[3] - out[1]) / 2e-3 == pytest.approx(1 + amount / 100, rel=0.02)


# --- saturation ------------------------------------------------------------------------------------


@given(picture=encoded_pictures(0.15, 0.7), amount=st.floats(-100, -1))
def test_given_saturation_when_lowered_then_chroma_scales_and_hue_and_lightness_stay(picture, amount):
    before = oklab_of(picture)
    after = oklab_of(evaluate(Grade.of(Saturation(amount=amount)), picture))

    assert np.allclose(after[..., 0], before[..., 0], atol=2e-3)
    assert np.allclose(after[..., 1:], before[..., 1:] * (1 + amount / 100), atol=2e-3)


@given(picture=encoded_pictures(), amount=st.floats(1, 150))
def test_given_saturation_when_raised_then_colours_near_the_edge_stay_near_it(picture, amount):
    out = evaluate(Grade.of(Saturation(amount=amount)), picture)

    assert out.min() > -0.25 and out.max() < 1.25


def test_given_a_muted_and_a_strong_colour_when_saturation_is_raised_then_the_muted_one_gains_more():
    pair = np.array([[0.45, 0.42, 0.38], [0.9, 0.25, 0.05]], np.float32)
    before, after = oklab_of(pair), oklab_of(evaluate(Grade.of(Saturation(amount=40)), pair))

    gain = np.hypot(after[:, 1], after[:, 2]) / np.hypot(before[:, 1], before[:, 2])

    assert gain[0] > 1.2 and 1 <= gain[1] < gain[0]


# --- values ----------------------------------------------------------------------------------------


@pytest.mark.parametrize("value", [7, -7, float("nan"), float("inf"), "1", None, True])
def test_given_a_number_outside_its_limits_when_made_then_it_is_refused_with_the_limits(value):
    with pytest.raises(ColourError, match="between -6 and 6"):
        Exposure(stops=value)


@given(value=st.floats(-1e6, 1e6))
def test_given_any_number_when_brought_within_limits_then_a_step_takes_it(value):
    assert -6 <= Exposure(stops=Exposure.within("stops", value)).stops <= 6


@given(grade=grades())
def test_given_any_order_of_steps_when_a_grade_is_made_then_they_stand_in_the_order_of_the_work(grade):
    keys = [step.key for _, step in grade.steps()]

    assert keys == ["denoise", "convert", "even", "restore", "edges", *(k for k in STEPS if k in keys)]


@given(grade=grades())
def test_given_another_school_when_put_in_order_then_the_same_steps_stand_in_it(grade):
    for order in SCHOOLS.values():
        layer = grade.layer("clip").in_order(order)

        assert sorted(order) == sorted(STEPS)
        assert [s.key for s in layer.steps] == [k for k in order if k in {s.key for s in layer.steps}]


@given(grade=grades())
def test_given_a_step_when_put_and_taken_then_the_rest_of_the_grade_stays(grade):
    changed = grade.with_step(Exposure(stops=0.7))

    assert changed.step("exposure").stops == 0.7
    assert [s for _, s in changed.steps() if s.key != "exposure"] == [
        s for _, s in grade.steps() if s.key != "exposure"
    ]
    assert not any(s.key == "exposure" for _, s in changed.without_step("exposure").steps())

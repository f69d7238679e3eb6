"""Conversion in full: HDR by the recommended method, the wide working space, curves by hand, recipes."""

import numpy as np
import pytest

from morphe.core.errors import ColourError
from morphe.core.grade import recipe
from morphe.core.grade.convert import Convert
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Balance, Exposure, HoldLights, Saturation
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.hdr import hlg_to_display, nits_to_sdr_display
from morphe.core.signal.primaries import Primaries, rgb_to_rgb
from morphe.core.signal.profiles import PROFILES

FOUR_DIGITS = 6e-4
COLOURS = np.random.default_rng(2).uniform(0.05, 0.75, (300, 3)).astype(np.float32)


# Reference-white anchored HLG to BT.709 (BT.2100 OOTF at 1000 cd/m2, BT.2390 EETF to 203 cd/m2, power 1/2.4)
@pytest.mark.parametrize(
    ("hlg", "video"),
    [
        ((0.38, 0.38, 0.38), (0.4264, 0.4264, 0.4264)),
        ((0.75, 0.75, 0.75), (0.9034, 0.9034, 0.9034)),
        ((0.9, 0.9, 0.9), (0.9929, 0.9929, 0.9929)),
        ((0.75, 0.5, 0.4), (0.9926, 0.5013, 0.4604)),
        ((0.5, 0.75, 0.4), (0.1801, 0.9143, 0.4542)),
        ((0.3, 0.4, 0.8), (0.1012, 0.4196, 0.8970)),
    ],
)
def test_given_hlg_when_converted_then_it_is_anchored_at_reference_white(hlg, video):
    out = evaluate(Grade.of(Convert(profile="hlg")), np.array([hlg], np.float32))

    assert out[0] == pytest.approx(video, abs=FOUR_DIGITS)


def test_given_hlg_light_when_shown_on_a_display_of_1000_nits_then_the_ootf_is_that_of_the_standard():
    # BT.2100-2: E = (.5, .2, .1) at 1000 cd/m2
    code = PROFILES.get("hlg").encode(np.array([0.5, 0.2, 0.1]) * 0.18 / 0.0481333)

    assert hlg_to_display(code) == pytest.approx((385.62, 154.25, 77.12), rel=1e-4)


@pytest.mark.parametrize(("nits", "rolled"), [(1, 1.0), (26.24, 26.238), (100, 99.36), (203.15, 159.10),
                                              (500, 198.86), (1000, 203.0)])  # fmt: skip
def test_given_a_grey_in_nits_when_brought_to_reference_white_then_the_eetf_is_that_of_the_report(
    nits, rolled
):
    out = nits_to_sdr_display(np.full((1, 3), nits, np.float64)) * 203

    assert out[0] == pytest.approx([rolled] * 3, rel=2e-3)


def test_given_hlg_as_light_of_the_scene_when_converted_then_grey_is_the_bt709_grey():
    grey = PROFILES.get("hlg").encode(np.full((1, 3), 0.18)).astype(np.float32)

    out = evaluate(Grade.of(Convert(profile="hlg", rendering="scene")), grey)

    assert out == pytest.approx(0.408848, abs=2e-4)  # BT.709-6 item 1.2 of .18


@pytest.mark.parametrize("key", ["log-wide", "log-mild", "std-709"])
def test_given_colours_that_fit_when_graded_in_the_wide_space_then_linear_steps_give_the_same(key):
    code = (
        PROFILES.get(key).encode(0.4 * COLOURS.mean(axis=1, keepdims=True) + 0.1 * COLOURS).astype(np.float32)
    )
    steps = (Exposure(stops=0.5), Balance(warmth=30, tint=5))

    narrow, wide = (evaluate(Grade.of(Convert(profile=key, wide=w), *steps), code) for w in (False, True))

    assert np.abs(narrow - wide).max() < 2e-3


def test_given_a_bright_vivid_light_when_rolled_in_wide_then_it_stays_inside_with_its_colour():
    light = np.array([[0.1, 0.3, 2.5]], np.float32) @ rgb_to_rgb(Primaries.BT709, Primaries.BT2020).T
    code = PROFILES.get("log-wide").encode(light).astype(np.float32)
    rolled = HoldLights(stops=1.5)

    narrow, wide = (
        evaluate(Grade.of(Convert(profile="log-wide", wide=w), rolled), code)[0] for w in (False, True)
    )

    assert np.ptp(wide) > 0.2 and np.ptp(narrow) > 0.2
    assert wide.max() < 1.05 and narrow.max() < 1.05  # colours are pulled in after they were rolled


def test_given_wide_hdr_when_converted_then_it_arrives_as_ordinary_light():
    code = np.full((1, 3), 0.5, np.float32)

    assert np.allclose(*(evaluate(Grade.of(Convert(profile="pq", wide=w), Saturation(amount=5)), code)
                         for w in (False, True)))  # fmt: skip


def test_given_a_curve_by_hand_when_converted_then_its_points_are_met_and_it_never_falls():
    points = ((0.1, 0.0), (0.4, 0.41), (0.7, 0.95))
    ramp = np.repeat(np.linspace(0, 1, 201, dtype=np.float32)[:, None], 3, axis=1)

    out = evaluate(Grade.of(Convert(profile="hand", points=points)), ramp)[:, 0]

    assert out[[20, 80, 140]] == pytest.approx([0.0, 0.41, 0.95], abs=1e-3)
    assert (np.diff(out) >= -1e-6).all()


@pytest.mark.parametrize(
    "fields",
    [{"profile": "hand"}, {"profile": "hand", "points": ((0.5, 0.1), (0.2, 0.3))}, {"profile": "fitted"},
     {"profile": "own"}, {"profile": "own", "points": ((0.1, 1.0),)}, {"matrix": (1.0, 2.0)},
     {"rendering": "soft"}, {"profile": "hand", "points": ((0.1, 0.5), (0.3, 0.2))}],
)  # fmt: skip
def test_given_a_conversion_that_cannot_be_when_made_then_it_is_refused_in_words(fields):
    with pytest.raises(ColourError, match=r"\w+"):
        Convert(**fields)


@pytest.mark.parametrize(
    "step",
    [Convert(profile="hand", points=((0.1, 0.0), (0.7, 0.95))), Convert(profile="hlg", rendering="scene"),
     Convert(profile="own", name="Mine", curve=(0.0863, 0.5824, 0.01675, 0.010), wide=True),
     Convert(profile="own", points=((0.1, -4.0), (0.4, 0.0), (0.8, 4.0)), matrix=(1.0, *8 * (0.1,)))],
)  # fmt: skip
def test_given_any_conversion_when_kept_as_a_recipe_then_it_returns(step):
    assert recipe.from_text(recipe.to_text(Grade.of(step))) == Grade.of(step)


def test_given_a_recipe_of_the_first_version_when_read_then_hlg_is_still_light_of_the_scene():
    step = {"step": "convert", "on": True, "profile": "hlg"}
    old = {"format": "morphe-recipe", "schema": 1, "layers": [{"name": "clip", "steps": [step]}]}

    assert recipe.from_json(old).convert.rendering == "scene"

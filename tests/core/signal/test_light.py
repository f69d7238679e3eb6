"""The colour of light: locus, temperature, tint and adaptation against published values."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.signal.light import (
    adaptation_matrix,
    duv,
    light_rgb,
    light_shift,
    locus_xy,
    xy_to_kelvin,
)
from morphe.core.signal.primaries import LUMINANCE_709


@pytest.mark.parametrize(
    ("kelvin", "xy"),
    [  # CIE 15:2018 daylight; Kim et al. 2002 for the Planckian part
        (5000, (0.34574, 0.35867)),
        (5600, (0.33016, 0.34555)),
        (6504, (0.31271, 0.32912)),
        (7500, (0.29909, 0.31503)),
        (10000, (0.27880, 0.29197)),
        (2000, (0.52690, 0.41326)),
        (2856, (0.44707, 0.40751)),
        (3200, (0.42318, 0.39908)),
    ],
)
def test_given_temperature_when_placed_then_chromaticity_is_the_published_one(kelvin, xy):
    assert locus_xy(kelvin) == pytest.approx(xy, abs=1e-5)


def test_given_the_gap_between_lamps_and_daylight_when_crossed_then_the_locus_is_continuous():
    points = np.array([locus_xy(1e6 / m) for m in np.linspace(180, 270, 400)])

    assert np.abs(np.diff(points, axis=0)).max() < 1e-3


@pytest.mark.parametrize(
    ("xy", "kelvin"), [((0.3127, 0.3290), 6505.1), ((0.34567, 0.35850), 5002.1), ((0.44758, 0.40745), 2857.3)]
)
def test_given_chromaticity_when_read_then_mccamy_agrees(xy, kelvin):
    assert xy_to_kelvin(*xy) == pytest.approx(kelvin, abs=0.8)


@pytest.mark.parametrize(("xy", "tint"), [((0.3127, 0.3290), 0.003207), ((0.35, 0.34), -0.00795)])
def test_given_chromaticity_when_tint_is_read_then_ohno_agrees(xy, tint):
    assert duv(*xy) == pytest.approx(tint, abs=1e-5)


def test_given_no_shift_when_adapted_then_nothing_changes():
    assert np.allclose(adaptation_matrix(0, 0), np.eye(3), atol=1e-9)
    assert np.allclose(light_rgb(0, 0), 1, atol=1e-9)


@given(mired=st.floats(-80, 200), tint=st.floats(-0.02, 0.02))
def test_given_white_under_any_light_when_adapted_then_it_is_grey_of_the_same_luminance(mired, tint):
    paper = light_rgb(mired, tint)

    seen = adaptation_matrix(mired, tint) @ paper

    assert seen == pytest.approx(np.full(3, float(paper @ LUMINANCE_709)), abs=1e-6)


@given(mired=st.floats(-80, 140), tint=st.floats(-0.02, 0.02))
def test_given_colour_of_a_light_when_searched_then_its_shift_is_found(mired, tint):
    paper = light_rgb(mired, tint)

    found = light_rgb(*light_shift(paper))

    assert np.abs(np.log2(found / paper)).max() < 0.045  # stops; 3 mired, which is just noticeable


def test_given_warmer_light_when_mired_rises_then_red_over_blue_rises_at_the_known_rate():
    cool, warm = light_rgb(0, 0), light_rgb(20, 0)

    stops = np.log2(warm[0] / warm[2]) - np.log2(cool[0] / cool[2])

    assert stops / 20 == pytest.approx(0.015, abs=0.003)  # stop of R/B per mired

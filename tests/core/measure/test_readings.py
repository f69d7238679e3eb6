"""Readings against hand-worked pictures."""

import numpy as np
import pytest
from hypothesis import given

from morphe.core.measure.readings import cast_of, measure
from morphe.core.signal.transfer import encode_bt1886
from tests.strategies import encoded_pictures

PERCENT = 1e-3


def test_given_a_ramp_when_measured_then_percentiles_are_its_levels():
    ramp = np.repeat(np.linspace(0, 1, 1001, dtype=np.float32)[None, :, None], 3, axis=2)

    levels = measure([ramp]).luma

    assert (levels.p01, levels.p50, levels.p99) == pytest.approx((1, 50, 99), abs=PERCENT)
    assert (levels.below_0_pct, levels.above_100_pct) == (0, 0)


def test_given_codes_outside_when_measured_then_they_are_counted_per_channel():
    picture = np.full((10, 10, 3), 0.5, np.float32)
    picture[:2, :, 0] = 1.05  # 20 % of red above
    picture[:1, :, 2] = -0.03  # 10 % of blue below

    seen = measure([picture])

    assert seen.red.above_100_pct == pytest.approx(20)
    assert seen.blue.below_0_pct == pytest.approx(10)
    assert (seen.green.above_100_pct, seen.green.below_0_pct) == (0, 0)


def test_given_small_and_full_pictures_when_measured_then_counters_read_the_full_ones():
    small, full = np.full((4, 4, 3), 0.5, np.float32), np.full((8, 8, 3), 0.5, np.float32)
    full[0, 0] = 1.2

    assert measure([small], [full]).luma.above_100_pct == pytest.approx(100 / 64)


def test_given_a_warm_grey_when_measured_then_the_cast_is_the_published_one():
    # BT.709 coefficients: (.52, .50, .46) has Cb -.02229, Cr +.01183
    cast = cast_of(np.tile(np.array([0.52, 0.50, 0.46], np.float32), (400, 1)))

    assert (cast.cb, cast.cr) == pytest.approx((-2.229, 1.183), abs=2e-3)
    assert cast.magnitude == pytest.approx(2.52, abs=5e-3)
    assert cast.neutral_share_pct == pytest.approx(100)


def test_given_nothing_neutral_when_measured_then_no_cast_is_claimed():
    cast = cast_of(np.tile(np.array([0.9, 0.2, 0.1], np.float32), (400, 1)))

    assert cast.cb is None and cast.cr is None and cast.magnitude is None


def test_given_red_when_measured_then_saturation_is_its_oklab_chroma():
    red = encode_bt1886(np.tile(np.array([1.0, 0.0, 0.0]), (50, 50, 1))).astype(np.float32)

    seen = measure([red]).saturation

    assert (seen.p50, seen.p95) == pytest.approx((0.2577, 0.2577), abs=2e-4)  # Ottosson 2020
    assert seen.outside_pct == 0


@pytest.mark.parametrize(("level", "outside"), [(1.049, 0), (1.051, 100), (-0.049, 0), (-0.051, 100)])
def test_given_a_level_about_the_safe_outline_when_measured_then_it_counts_beyond_it(level, outside):
    picture = np.full((4, 4, 3), 0.5, np.float32)
    picture[..., 1] = level

    assert measure([picture]).saturation.outside_pct == outside


@given(picture=encoded_pictures(-0.1, 1.1))
def test_given_any_picture_when_measured_then_order_and_shares_hold(picture):
    seen = measure([picture, picture])

    for levels in (seen.luma, seen.red, seen.green, seen.blue):
        assert levels.p01 <= levels.p50 <= levels.p99
        assert 0 <= levels.below_0_pct <= 100 and 0 <= levels.above_100_pct <= 100
    assert seen.as_json()["channels"].keys() == {"r", "g", "b"}

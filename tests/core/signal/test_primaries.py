"""Matrices between primaries, and colours that do not fit."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.signal.primaries import LUMINANCE_709, Primaries, compress_gamut, rgb_to_rgb, rgb_to_xyz

SEVEN_DIGITS = 6e-8
FIVE_DIGITS = 6e-6

# SMPTE RP 177 derivation from the chromaticities of BT.709-6 and BT.2020-2
TO_XYZ = {
    Primaries.BT709: [
        [0.4123908, 0.3575843, 0.1804808],
        [0.2126390, 0.7151687, 0.0721923],
        [0.0193308, 0.1191948, 0.9505322],
    ],
    Primaries.BT2020: [
        [0.6369580, 0.1446169, 0.1688810],
        [0.2627002, 0.6779981, 0.0593017],
        [0.0000000, 0.0280727, 1.0609851],
    ],
}
WIDE_TO_709 = [[1.6604910, -0.5876411, -0.0728499], [-0.1245505, 1.1328999, -0.0083494],
               [-0.0181508, -0.1005789, 1.1187297]]  # fmt: skip


@pytest.mark.parametrize("primaries", TO_XYZ)
def test_given_primaries_when_derived_then_the_matrix_is_the_published_one(primaries):
    assert np.allclose(rgb_to_xyz(primaries), TO_XYZ[primaries], atol=SEVEN_DIGITS)


def test_given_bt2020_when_brought_to_bt709_then_the_matrix_is_the_published_one():
    assert np.allclose(rgb_to_rgb(Primaries.BT2020, Primaries.BT709), WIDE_TO_709, atol=SEVEN_DIGITS)


@pytest.mark.parametrize("source", [Primaries.BT2020, Primaries.P3_D65, Primaries.BT601_525])
def test_given_common_white_when_converted_then_rows_sum_to_one(source):
    assert np.allclose(rgb_to_rgb(source, Primaries.BT709).sum(axis=1), 1, atol=1e-6)


@pytest.mark.parametrize(
    ("wide", "expected", "luminance"),
    [
        ((0.0, 0.5, 0.0), (0.00006, 0.46084, 0.13050), 0.33903),
        ((0.1, 0.4, 0.5), (0.00211, 0.40934, 0.47004), 0.32713),
        ((0.5, 0.1, 0.05), (0.76784, 0.05060, 0.03680), None),
    ],
)
def test_given_wide_colour_when_compressed_then_it_is_where_worked_out_by_hand(wide, expected, luminance):
    linear = np.array(wide) @ rgb_to_rgb(Primaries.BT2020, Primaries.BT709).T

    found = compress_gamut(linear)

    assert found == pytest.approx(expected, abs=2e-5)
    if luminance:
        assert found @ LUMINANCE_709 == pytest.approx(luminance, abs=5e-5)


@given(rgb=st.tuples(*[st.floats(-0.6, 0.99)] * 3))
def test_given_any_colour_when_compressed_then_it_fits_and_keeps_its_luminance(rgb):
    linear = np.array(rgb)
    before = float(linear @ LUMINANCE_709)

    after = compress_gamut(linear)

    assert (after >= -1e-6).all() and (after <= 1 + 1e-6).all()
    if before > 0:
        assert after @ LUMINANCE_709 == pytest.approx(before, abs=1e-5)


@given(level=st.floats(0, 1))
def test_given_grey_when_compressed_then_it_is_untouched(level):
    assert np.allclose(compress_gamut(np.full(3, level)), level, atol=1e-7)

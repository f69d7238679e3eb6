"""Code values and matrices against BT.601, BT.709 and BT.2020."""

import numpy as np
import pytest
from hypothesis import given

from morphe.core.signal.ycbcr import (
    LUMA_WEIGHTS,
    Matrix,
    Range,
    range_scale,
    rgb_to_ycbcr,
    ycbcr_to_rgb,
)
from tests.strategies import encoded_pictures

FLOAT32 = 2e-6


def codes(rgb, matrix, bits, code_range=Range.NARROW):
    scale = range_scale(code_range, bits)
    y, cb, cr = rgb_to_ycbcr(np.array(rgb, np.float32), matrix)
    luma = round(float(y) * scale.luma_scale + scale.luma_offset)
    return (luma, *(round(float(c) * scale.chroma_scale + scale.chroma_offset) for c in (cb, cr)))


# BT.709-6, BT.601-7, BT.2020-2: primaries and bars as codes
GOLDEN = [
    ((1, 0, 0), Matrix.BT709, 8, (63, 102, 240)),
    ((1, 0, 0), Matrix.BT709, 10, (250, 409, 960)),
    ((0, 0, 1), Matrix.BT709, 8, (32, 240, 118)),
    ((0, 0, 1), Matrix.BT709, 10, (127, 960, 471)),
    ((1, 0, 0), Matrix.BT601, 8, (81, 90, 240)),
    ((0, 1, 0), Matrix.BT2020, 8, (164, 47, 25)),
    ((0, 1, 0), Matrix.BT2020, 10, (658, 189, 100)),
    ((0.75, 0.75, 0), Matrix.BT709, 8, (168, 44, 136)),
    ((0.75, 0.75, 0), Matrix.BT709, 10, (674, 176, 543)),
    ((0.75, 0, 0), Matrix.BT709, 8, (51, 109, 212)),
    ((0.75, 0, 0.75), Matrix.BT709, 8, (63, 193, 204)),
    ((0, 0.75, 0.75), Matrix.BT709, 8, (145, 147, 44)),
    ((0.408848, 0.408848, 0.408848), Matrix.BT709, 8, (106, 128, 128)),
    ((0.408848, 0.408848, 0.408848), Matrix.BT709, 10, (422, 512, 512)),
]


@pytest.mark.parametrize(("rgb", "matrix", "bits", "expected"), GOLDEN)
def test_given_published_colour_when_coded_then_codes_agree(rgb, matrix, bits, expected):
    assert codes(rgb, matrix, bits) == expected


def test_given_wrong_matrix_when_decoded_then_the_known_error_appears():
    ycbcr = rgb_to_ycbcr(np.array([0.6, 0.4, 0.3], np.float32), Matrix.BT709)

    assert ycbcr_to_rgb(ycbcr, Matrix.BT601) == pytest.approx([0.582, 0.386, 0.306], abs=6e-4)


@pytest.mark.parametrize("matrix", list(LUMA_WEIGHTS))
@given(picture=encoded_pictures(-0.2, 1.3))
def test_given_any_picture_when_coded_and_back_then_it_returns(matrix, picture):
    assert np.allclose(ycbcr_to_rgb(rgb_to_ycbcr(picture, matrix), matrix), picture, atol=FLOAT32)


@pytest.mark.parametrize("matrix", list(LUMA_WEIGHTS))
def test_given_grey_when_coded_then_it_has_no_chroma(matrix):
    grey = np.repeat(np.linspace(-0.1, 1.1, 20, dtype=np.float32)[:, None], 3, axis=1)

    assert np.abs(rgb_to_ycbcr(grey, matrix)[:, 1:]).max() < FLOAT32


@pytest.mark.parametrize(("bits", "black", "white", "top"), [(8, 16, 235, 255), (10, 64, 940, 1023),
                                                             (12, 256, 3760, 4095)])  # fmt: skip
def test_given_depth_when_scaled_then_narrow_and_full_codes_are_those_of_the_standard(
    bits, black, white, top
):
    narrow, full = range_scale(Range.NARROW, bits), range_scale(Range.FULL, bits)

    assert (narrow.luma_offset, narrow.luma_offset + narrow.luma_scale) == (black, white)
    assert (full.luma_offset, full.luma_scale, full.chroma_offset) == (0, top, 2 ** (bits - 1))

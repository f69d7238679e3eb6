"""Proxies: codes brought to narrow 8 bits by tables are those that computing in light would give."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.footage.proxy import _recoded
from morphe.core.signal.ycbcr import Range, range_scale


@pytest.mark.parametrize("bits", [8, 10])
@pytest.mark.parametrize("code_range", [Range.NARROW, Range.FULL])
def test_given_codes_of_any_depth_and_range_when_recoded_then_black_white_and_grey_are_those_of_a_proxy(
    bits, code_range
):
    luma, chroma = _recoded(code_range, bits, 1.0)

    stored = range_scale(code_range, bits)
    assert len(luma) == len(chroma) == 2**bits
    assert luma[int(stored.luma_offset)] == 16
    assert luma[int(stored.luma_offset + stored.luma_scale)] == 235
    assert chroma[int(stored.chroma_offset)] == 128


def test_given_eight_narrow_bits_when_recoded_plainly_then_nothing_changes():
    luma, chroma = _recoded(Range.NARROW, 8, 1.0)

    assert (luma == np.arange(256)).all() and (chroma == np.arange(256)).all()


@given(st.integers(0, 1023), st.sampled_from([1.0, 2.0, 3.0]))
def test_given_a_gain_when_colour_is_spread_then_it_is_that_many_times_from_grey_as_far_as_codes_go(
    code, gain
):
    _, chroma = _recoded(Range.NARROW, 10, gain)

    assert chroma[code] == pytest.approx(np.clip(128 + gain * (code - 512) / 4, 0, 255), abs=0.5)

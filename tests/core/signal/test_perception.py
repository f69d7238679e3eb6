"""Oklab, CIELAB and CIEDE2000 against published values."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.signal.hdr import nits_to_sdr_display
from morphe.core.signal.perception import (
    delta_e_2000,
    linear_to_oklab,
    oklab_to_linear,
    xyz_to_lab,
)
from morphe.core.signal.primaries import Primaries, rgb_to_xyz


@pytest.mark.parametrize(
    ("rgb", "lab"),
    [  # Ottosson 2020
        ((1, 1, 1), (1, 0, 0)),
        ((1, 0, 0), (0.62796, 0.22486, 0.12585)),
        ((0, 1, 0), (0.86644, -0.23389, 0.17950)),
        ((0, 0, 1), (0.45201, -0.03246, -0.31153)),
        ((0.5, 0.25, 0.15), (0.67225, 0.04698, 0.05771)),
    ],
)
def test_given_colour_when_taken_to_oklab_then_it_agrees(rgb, lab):
    assert linear_to_oklab(np.array(rgb, float)) == pytest.approx(lab, abs=1.2e-5)


@given(rgb=st.tuples(*[st.floats(0, 2)] * 3))
def test_given_any_colour_when_taken_to_oklab_and_back_then_it_returns(rgb):
    assert oklab_to_linear(linear_to_oklab(np.array(rgb))) == pytest.approx(rgb, abs=1e-6)


@pytest.mark.parametrize(
    ("rgb", "lab"),
    [((0.18, 0.18, 0.18), (49.496, 0, 0)), ((1, 0, 0), (53.237, 80.090, 67.203)),
     ((0.5, 0.25, 0.15), (61.302, 15.600, 23.108))],
)  # fmt: skip
def test_given_colour_when_taken_to_cielab_then_it_agrees(rgb, lab):
    found = xyz_to_lab(rgb_to_xyz(Primaries.BT709) @ np.array(rgb))

    assert found == pytest.approx(lab, abs=0.02)


# Sharma, Wu, Dalal 2005, table 1
SHARMA = [
    ((50, 2.6772, -79.7751), (50, 0, -82.7485), 2.0425),
    ((50, -1.3802, -84.2814), (50, 0, -82.7485), 1.0000),
    ((50, 2.5, 0), (73, 25, -18), 27.1492),
    ((60.2574, -34.0099, 36.2677), (60.4626, -34.1751, 39.4387), 1.2644),
    ((2.0776, 0.0795, -1.1350), (0.9033, -0.0636, -0.5514), 0.9082),
]


@pytest.mark.parametrize(("one", "other", "expected"), SHARMA)
def test_given_test_pair_when_compared_then_difference_agrees_and_is_symmetric(one, other, expected):
    a, b = np.array(one, float), np.array(other, float)

    assert float(delta_e_2000(a, b)) == pytest.approx(expected, abs=1e-4)
    assert float(delta_e_2000(b, a)) == pytest.approx(expected, abs=1e-4)


@pytest.mark.parametrize(
    ("nits", "shown"), [(1.0, 1.0), (26.24, 26.238), (50.0, 50.0), (100.0, 99.36), (203.15, 159.10),
                        (500.0, 198.86), (1000.0, 203.0)]
)  # fmt: skip
def test_given_hdr_grey_when_rolled_to_reference_white_then_bt2390_agrees(nits, shown):
    found = nits_to_sdr_display(np.full((1, 3), nits))[0]

    assert found * 203 == pytest.approx(np.full(3, shown), rel=1.5e-3)

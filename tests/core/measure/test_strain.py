"""How far footage bends: lightness steps of a code through the conversion, against the known table."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.measure.strain import blockiness, lightness_per_code
from morphe.core.signal.profiles import PROFILES

EIGHT, TEN = 219.0, 876.0
LOGS = ("log-wide", "log-mild", "log-lifted")


def steps(key, stops, *, gain=1.0, codes=EIGHT):
    profile = PROFILES.get(key)
    levels = np.asarray(profile.encode(0.18 * 2.0 ** np.asarray(stops, float)))
    return lightness_per_code(profile, levels, gain, codes)[1]


# ΔL* per 8-bit source code through conversion to BT.709, at -4, -2, 0 and +2 stops from grey
@pytest.mark.parametrize(
    ("key", "known"),
    [
        ("log-wide", (0.167, 0.814, 1.022, 1.545)),
        ("log-mild", (0.173, 0.684, 0.750, 1.078)),
        ("log-lifted", (0.179, 0.788, 0.931, 1.377)),
        ("flat-a", (0.240, 0.963, 0.782, 0.666)),
        ("vivid-a", (0.235, 0.553, 0.386, 0.594)),
    ],
)
def test_given_a_profile_when_converted_then_a_code_is_worth_the_known_lightness(key, known):
    assert steps(key, (-4, -2, 0, 2)) == pytest.approx(known, abs=0.03)


@pytest.mark.parametrize("key", LOGS)
def test_given_ten_bits_when_converted_then_a_code_is_worth_a_quarter(key):
    assert steps(key, (-2, 0), codes=TEN) == pytest.approx(steps(key, (-2, 0)) / 4, rel=0.03)


@given(stop=st.floats(-4, 0), push=st.floats(0.1, 2), key=st.sampled_from(LOGS))
def test_given_a_lift_when_converted_then_steps_in_the_shadows_grow(stop, push, key):
    assert steps(key, [stop], gain=2.0**push)[0] > 0.98 * steps(key, [stop])[0]


def test_given_what_has_clipped_when_converted_then_its_codes_are_worth_nothing():
    assert steps("log-wide", [5])[0] == pytest.approx(0.0, abs=1e-6)


@pytest.mark.parametrize("shape", [(8, 200), (200, 8), (16, 16)])
def test_given_a_picture_too_small_for_blocks_when_measured_then_none_are_claimed_across_it(shape):
    plane = np.random.default_rng(2).normal(100, 2, shape).astype(np.float32)

    assert 0.5 < blockiness(plane) < 1.6


def test_given_an_edge_in_the_picture_when_measured_then_it_is_no_block():
    plane = np.random.default_rng(2).normal(90, 2, (128, 256)).astype(np.float32)
    plane[:, 128:] += 100

    assert blockiness(plane) < 1.6

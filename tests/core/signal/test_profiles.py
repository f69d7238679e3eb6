"""The built-in profiles: their anchors in percent and code values, inverses, and the log family."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.errors import ColourError, UnknownName
from morphe.core.signal.camera_log import CameraLog
from morphe.core.signal.primaries import Primaries
from morphe.core.signal.profiles import PROFILES, Kind

TWO_DIGITS = 0.006  # percent; the table prints two digits

# Black, grey card and 90 % white in percent of the narrow range; measured when the curves were designed.
ANCHORS = {
    "log-wide": (8.50, 38.00, 57.16),
    "log-mild": (6.00, 40.00, 66.95),
    "log-lifted": (14.01, 44.00, 65.33),
    "flat-a": (4.50, 31.94, 67.27),
    "vivid-a": (0.0, 43.00, 97.83),
    "std-709": (0.0, 40.88, 94.91),
}
NEAR_BLACK = {  # at x = .0045 and .02
    "log-wide": (10.59, 17.11),
    "log-mild": (7.91, 14.19),
    "log-lifted": (15.95, 22.08),
    "flat-a": (6.89, 11.84),
    "vivid-a": (0.78, 5.64),
}
CODES_10 = {"log-wide": (138, 397, 565), "log-mild": (117, 414, 650), "log-lifted": (187, 449, 636),
            "flat-a": (103, 344, 653), "vivid-a": (64, 441, 921)}  # fmt: skip
CLIPS = {"log-wide": 93.0, "log-mild": 97.0, "log-lifted": 96.0, "flat-a": 98.0, "vivid-a": 100.0}


def percent(key, x):
    return float(PROFILES.get(key).encode(np.array(x))) * 100


@pytest.mark.parametrize("key", ANCHORS)
def test_given_profile_when_anchors_are_encoded_then_they_lie_where_designed(key):
    found = [percent(key, x) for x in (0.0, 0.18, 0.9)]

    assert found == pytest.approx(ANCHORS[key], abs=TWO_DIGITS)


@pytest.mark.parametrize("key", NEAR_BLACK)
def test_given_profile_when_shadows_are_encoded_then_they_lie_where_designed(key):
    assert [percent(key, x) for x in (0.0045, 0.02)] == pytest.approx(NEAR_BLACK[key], abs=TWO_DIGITS)


@pytest.mark.parametrize("key", CODES_10)
def test_given_profile_when_written_with_10_bits_then_codes_agree(key):
    found = tuple(round(64 + 876 * percent(key, x) / 100) for x in (0.0, 0.18, 0.9))

    assert found == CODES_10[key]


@pytest.mark.parametrize("key", CLIPS)
def test_given_brightest_light_when_encoded_then_it_is_the_clip_code(key):
    assert percent(key, PROFILES.get(key).clip) == pytest.approx(CLIPS[key], abs=0.1)


@pytest.mark.parametrize("key", list(PROFILES))
def test_given_any_light_a_profile_keeps_when_decoded_then_it_returns(key):
    profile = PROFILES.get(key)
    light = np.linspace(0.0, profile.clip * 0.999, 4001)

    back = profile.decode(profile.encode(light))

    assert np.allclose(back, light, atol=1e-5)


@pytest.mark.parametrize("key", list(PROFILES))
def test_given_more_light_when_encoded_then_no_profile_falls(key):
    light = np.linspace(0, PROFILES.get(key).clip, 2000)

    assert (np.diff(PROFILES.get(key).encode(light)) > 0).all()


def test_given_grey_card_in_hlg_and_pq_when_encoded_then_levels_are_those_of_bt2408():
    assert percent("hlg", 0.18) == pytest.approx(38.0, abs=0.01)
    assert percent("pq", 0.18) == pytest.approx(38.1, abs=0.3)  # 26 cd/m2


def test_given_wide_profiles_when_asked_then_primaries_are_bt2020():
    wide = {p.key for p in PROFILES.values() if p.primaries is Primaries.BT2020}

    assert wide == {"log-wide", "hlg", "pq"}
    assert {p.kind for p in PROFILES.values()} == set(Kind)


@given(
    slope=st.floats(0.03, 0.25), offset=st.floats(0.3, 0.9), lift=st.floats(0.005, 0.1), share=st.floats(0, 1)
)
def test_given_any_log_curve_when_inverted_then_light_returns_and_the_join_is_smooth(
    slope, offset, lift, share
):
    curve = CameraLog(log_slope=slope, log_offset=offset, linear_offset=lift, linear_break=lift * share)
    light = np.linspace(-0.02, 8, 500)

    back = curve.decode(curve.encode(light))
    steps = np.diff(curve.encode(lift * share + np.array([-2e-4, -1e-4, 0, 1e-4, 2e-4])))

    assert np.allclose(back, light, rtol=1e-7, atol=1e-7)
    assert steps.max() / steps.min() < 1.1


def test_given_impossible_log_curve_when_made_then_it_is_refused_with_a_sentence():
    with pytest.raises(ColourError, match="positive slope"):
        CameraLog(log_slope=-0.1, log_offset=0.5, linear_offset=0.02, linear_break=0.01)


def test_given_unknown_profile_when_asked_then_known_ones_are_named():
    with pytest.raises(UnknownName, match="std-709"):
        PROFILES.get("nothing")

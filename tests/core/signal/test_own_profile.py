"""Profiles of the person's own: curves there and back, other ways of writing them, and refusals."""

import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.errors import ColourError
from morphe.core.signal.camera_log import CameraLog, general_log
from morphe.core.signal.landmarks import codes_per_stop, landmarks, stops_drawn
from morphe.core.signal.own_profile import OwnProfile, typed_log
from morphe.core.signal.point_curve import GREY, PointCurve
from morphe.core.signal.profiles import PROFILES, Kind

WIDE = (0.0863, 0.5824, 0.01675, 0.010)
LIGHTS = np.concatenate([[-0.005, 0.0], np.geomspace(1e-4, 12, 300)])
ROUND_TRIP = 1e-5


def measured(key="log-wide", stops=range(-6, 7)):
    profile = PROFILES.get(key)
    return PointCurve.of([(float(profile.encode(np.array(GREY * 2.0**s))), s) for s in stops])


@pytest.mark.parametrize("curve", [CameraLog.of(WIDE), CameraLog.of((*WIDE, 6.0)), measured()])
def test_given_any_curve_when_sent_there_and_back_then_light_and_code_return(curve):
    codes = np.linspace(-0.06, 1.05, 400)

    assert np.abs(curve.decode(curve.encode(LIGHTS)) - LIGHTS).max() < ROUND_TRIP
    assert np.abs(curve.encode(curve.decode(codes)) - codes).max() < ROUND_TRIP
    assert (np.diff(curve.decode(codes)) > 0).all()


@given(base=st.sampled_from([2.0, 10.0, np.e]), side=st.floats(0.3, 6.0))
def test_given_the_same_curve_in_another_form_when_brought_home_then_its_codes_are_the_same(base, side):
    scale = np.log2(base)
    general = general_log(
        log_slope=WIDE[0] * scale, log_offset=WIDE[1] - WIDE[0] * np.log2(side), linear_offset=WIDE[2] * side,
        linear_break=WIDE[3], linear_side_slope=side, base=base,
    )  # fmt: skip

    assert np.abs(general.encode(LIGHTS) - CameraLog.of(WIDE).encode(LIGHTS)).max() < 1e-9


def test_given_a_curve_on_the_full_range_when_brought_home_then_its_10_bit_codes_are_the_same():
    full = general_log(
        log_slope=WIDE[0], log_offset=WIDE[1], linear_offset=WIDE[2], linear_break=WIDE[3], full_range=True
    )

    codes = 64 + 876 * full.encode(LIGHTS)

    assert np.abs(codes - 1023 * CameraLog.of(WIDE).encode(LIGHTS)).max() < 1e-9


# science: codes at x = 0, .18, .9 for 10 bits, and codes per stop for 8 bits at -4, 0 and +2 stops
@pytest.mark.parametrize(
    ("key", "codes", "per_stop"),
    [
        ("log-wide", (138, 397, 565), (7.5, 17.3, 18.5)),
        ("log-mild", (117, 414, 650), (7.2, 23.5, 26.4)),
        ("log-lifted", (187, 449, 636), (7.1, 18.9, 20.7)),
        ("flat-a", (103, 344, 653), (5.5, 22.6, 42.7)),
        ("vivid-a", (64, 441, 921), (5.5, 45.4, 44.9)),
    ],
)
def test_given_a_profile_when_described_then_landmarks_and_codes_per_stop_are_the_known_ones(
    key, codes, per_stop
):
    profile = PROFILES.get(key)
    marks = landmarks(profile)

    found = tuple(round(codes_per_stop(profile, stop, 8), 1) for stop in (-4, 0, 2))

    assert tuple(marks.code(name, 10) for name in ("black", "grey", "white")) == codes
    assert found == pytest.approx(per_stop, abs=0.06)
    assert stops_drawn(profile)[-1] <= marks.clip_stops + 0.01


@pytest.mark.parametrize("curve", [CameraLog.of(WIDE), measured()])
def test_given_a_profile_when_kept_as_plain_values_then_nothing_is_lost(curve):
    own = OwnProfile(
        name="Mine", kind=Kind.LOG, curve=curve, matrix=(1.1, -0.1, 0, 0, 1, 0, 0, 0, 1), clip_stops=6,
        usable_stops=(-5, 6), fit_error_stops=0.02, source="measured",
    )  # fmt: skip

    again = OwnProfile.from_json(json.loads(json.dumps(own.as_json())))

    assert again == own
    assert again.profile.clip == pytest.approx(GREY * 64)


@pytest.mark.parametrize(
    "change",
    [{"name": ""}, {"kind": "pq"}, {"kind": "soft"}, {"log": [0.1]}, {"log": [0.0863, 9.0, 0.016, 0.01]},
     {"clip_stops": 40}, {"matrix": [1, 2]}, {"log": None, "points": [[0.1, 1], [0.2, 2], [0.15, 3]]},
     {"log": [float("nan")] * 4}, {"primaries": "mine"}, {"clip_stops": None}],
)  # fmt: skip
def test_given_values_that_make_no_profile_when_read_then_they_are_refused_in_words(change):
    own = OwnProfile(name="Mine", kind=Kind.LOG, curve=CameraLog.of(WIDE), clip_stops=6)

    with pytest.raises(ColourError, match=r"\w+"):
        OwnProfile.from_json({**own.as_json(), **change})


def test_given_typed_numbers_when_one_is_missing_or_none_then_its_field_is_named():
    typed = {"log_slope": "0,0863", "log_offset": ".5824", "linear_offset": "0.01675", "linear_break": "0.01"}

    assert typed_log(typed).numbers == pytest.approx(WIDE)
    with pytest.raises(ColourError, match="Break is missing"):
        typed_log({**typed, "linear_break": " "})
    with pytest.raises(ColourError, match="Base: “two” is no number"):
        typed_log({**typed, "base": "two"})

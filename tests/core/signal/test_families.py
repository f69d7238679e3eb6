"""Continuous families of curves: landmarks in, the curve through them out."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.errors import ColourError
from morphe.core.signal.camera_log import CameraLog
from morphe.core.signal.families import FAMILIES, FlatGamma, Landing, curve_of
from morphe.core.signal.profiles import PROFILES, Kind
from morphe.core.signal.transfer import encode_bt709

LIGHT = np.array([0.0, 0.18, 0.9])


@st.composite
def landings(draw):
    black = draw(st.floats(0.0, 0.2))
    white = draw(st.floats(black + 0.35, 0.95))
    return Landing(black=black, grey=black + draw(st.floats(0.4, 0.7)) * (white - black), white=white)


@given(landings(), st.sampled_from(tuple(FAMILIES)))
def test_given_landmarks_when_a_curve_is_made_then_it_passes_through_them_and_rises(landing, kind):
    curve = curve_of(kind, landing)
    assert np.asarray(curve.encode(LIGHT)) == pytest.approx(
        [landing.black, landing.grey, landing.white], abs=2e-3
    )
    assert (np.diff(curve.encode(np.linspace(0, 4, 200))) > 0).all()


@given(landings(), st.sampled_from(tuple(FAMILIES)))
def test_given_a_curve_when_light_goes_there_and_back_then_it_is_the_same(landing, kind):
    curve = curve_of(kind, landing)
    light = np.linspace(0, 3, 100)
    assert curve.decode(curve.encode(light)) == pytest.approx(light, abs=1e-6)


def test_given_no_black_full_span_and_power_one_when_flat_then_it_is_ordinary_video():
    plain = FlatGamma(black=0, span=1, power=1)
    light = np.linspace(0, 1, 50)
    assert plain.encode(light) == pytest.approx(encode_bt709(light))


@pytest.mark.parametrize("key", ["log-mild", "log-lifted", "log-wide"])
def test_given_a_known_log_when_made_from_its_landmarks_then_light_differs_by_less_than_a_tenth_of_a_stop(
    key,
):
    profile = PROFILES.get(key)
    black, grey, white = (float(v) for v in profile.encode(LIGHT))
    curve = curve_of(Kind.LOG, Landing(black=black, grey=grey, white=white))
    light = np.geomspace(0.03, 2, 60)
    assert np.abs(np.log2(curve.decode(profile.encode(light)) / light)).max() < 0.1


def test_given_a_bend_when_it_grows_then_shadows_are_written_higher_between_the_same_ends():
    landing = Landing(black=0.08, grey=0.38, white=0.62)
    mild, wide = (curve_of(Kind.LOG, landing.bent(landing.bend + by)) for by in (-0.08, 0.08))
    assert isinstance(wide, CameraLog)
    assert float(wide.encode(np.array(0.05))) > float(mild.encode(np.array(0.05)))
    assert float(wide.encode(np.array(0.9))) == pytest.approx(float(mild.encode(np.array(0.9))), abs=1e-4)


def test_given_no_span_when_a_flat_gamma_is_made_then_it_is_refused():
    with pytest.raises(ColourError, match="span"):
        FlatGamma(black=0.1, span=0.0, power=1)

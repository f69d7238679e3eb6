"""Hue families and what looks like skin: each colour belongs to somebody, softly at the edges."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.signal.hues import FAMILIES, coloured, family_of, smoothstep, within_reach
from morphe.core.signal.landmarks import codes_per_stop, landmarks, stops_drawn
from morphe.core.signal.profiles import PROFILES
from morphe.core.signal.skin_colour import SKIN_LINE, skin_share
from morphe.core.signal.transfer import encode_bt709
from morphe.core.signal.ycbcr import Matrix, rgb_to_ycbcr
from morphe.core.standins.jetty import SKIN_TONES, render_jetty

AROUND = np.arange(0.0, 360.0, 0.5)


def share(family, hues):
    return within_reach(np.asarray(hues, float), family.at, family.below, family.above)


def test_given_the_middle_of_a_family_when_asked_then_it_belongs_to_it_alone():
    for family in FAMILIES.values():
        assert share(family, family.at) == 1
        assert all(share(other, family.at) == 0 for other in FAMILIES.values() if other is not family)
        assert family_of(family.at) is family


def test_given_any_hue_when_shared_out_then_it_belongs_to_one_or_two_neighbours():
    shares = np.stack([share(family, AROUND) for family in FAMILIES.values()])

    assert ((shares > 0).sum(axis=0) <= 2).all() and (shares.max(axis=0) > 0.3).all()
    assert np.abs(np.diff(shares, axis=1)).max() < 0.06  # no edge in a sky


@given(hue=st.floats(-720, 720))
def test_given_a_hue_when_turned_all_around_then_it_is_the_same_family(hue):
    assert family_of(hue) is family_of(hue + 360)


def test_given_chroma_when_it_grows_then_a_colour_gets_its_hue():
    found = coloured(np.linspace(0, 0.1, 50))

    assert found[0] == 0 and found[-1] == 1 and (np.diff(found) >= 0).all()


@given(low=st.floats(-5, 5), width=st.floats(0.01, 10), value=st.floats(-20, 20))
def test_given_a_soft_step_when_read_then_it_lies_between_nought_and_one_and_is_half_in_the_middle(
    low, width, value
):
    assert 0 <= smoothstep(low, low + width, np.array(value)) <= 1
    assert smoothstep(low, low + width, np.array(low + width / 2)) == pytest.approx(0.5, abs=1e-6)


@pytest.mark.parametrize("skin", list(SKIN_TONES))
def test_given_a_face_when_looked_at_then_some_of_it_is_like_skin_and_a_blue_sky_is_not(skin):
    picture = np.clip(encode_bt709(render_jetty(0.5, width=160, height=90, skin=skin)), 0, 1)
    found = skin_share(rgb_to_ycbcr(picture.astype(np.float32), Matrix.BT709), SKIN_LINE, 30.0)
    sky = rgb_to_ycbcr(np.full((4, 4, 3), (0.45, 0.60, 0.85), np.float32), Matrix.BT709)

    assert found.max() > 0.7 and found.min() >= 0
    assert skin_share(sky, SKIN_LINE, 30.0).max() == 0


# --- what a profile makes of black, grey and white -----------------------------------------------------


@pytest.mark.parametrize("key", list(PROFILES))
def test_given_a_profile_when_its_landmarks_are_read_then_they_rise_and_fit_its_bits(key):
    profile = PROFILES.get(key)
    found = landmarks(profile)

    assert found.black < found.grey < found.white <= found.clip + 1e-6
    for name in ("black", "grey", "white"):
        assert found.code(name, 10) == pytest.approx(4 * found.code(name, 8), abs=4)
    assert stops_drawn(profile)[-1] <= found.clip_stops + 1e-6


def test_given_ordinary_video_when_its_landmarks_are_read_then_they_are_those_of_the_standard():
    found = landmarks(PROFILES.get("std-709"))

    assert (found.black, found.white) == pytest.approx((0.0, 94.8), abs=0.3)
    assert found.grey == pytest.approx(40.9, abs=0.2)  # BT.709 of .18
    assert (found.code("black", 8), found.code("black", 10)) == (16, 64)


def test_given_a_log_profile_when_codes_are_counted_then_stops_share_them_more_evenly():
    log, plain = (PROFILES.get(key) for key in ("log-wide", "std-709"))

    uneven = [
        max(codes) / min(codes)
        for codes in ([codes_per_stop(p, s, 10) for s in range(-4, 2)] for p in (log, plain))
    ]
    assert uneven[0] < 0.5 * uneven[1]
    assert codes_per_stop(log, 0, 10) == pytest.approx(4 * codes_per_stop(log, 0, 8), rel=0.01)
    assert all(codes_per_stop(log, stop, 10) > 0 for stop in range(-6, 5))

"""Codes per stop and usable span of the built-in profiles."""

import pytest

from morphe.core.plan.latitude import codes_per_stop, lightness_step, scene_span, usable
from morphe.core.signal.profiles import PROFILES

# 8-bit codes of the stop centred on −6, −4, −2, 0, +2, +4; a dash beyond the clip.
CODES = {
    "log-wide": (2.0, 7.5, 13.7, 17.3, 18.5, 18.8),
    "log-mild": (1.8, 7.2, 16.3, 23.5, 26.4, 27.3),
    "log-lifted": (1.9, 7.1, 14.2, 18.9, 20.7, 21.2),
    "flat-a": (2.1, 5.5, 11.6, 22.6, 42.7, None),
    "vivid-a": (0.9, 5.5, 20.3, 45.4, 44.9, None),
    "std-709": (2.0, 7.8, 18.7, 34.9, None, None),
    "hlg": (3.6, 7.2, 14.5, 29.0, 31.1, None),
}
STOPS = (-6, -4, -2, 0, 2, 4)
# L* that one 8-bit code makes at the grey card once converted to ordinary video.
STEP_AT_GREY = {"log-wide": 1.022, "log-mild": 0.750, "log-lifted": 0.931, "flat-a": 0.782, "vivid-a": 0.386}
TABLE_DIGITS = 0.06  # the table has one decimal


@pytest.mark.parametrize("profile", CODES)
def test_given_a_profile_when_its_codes_are_counted_by_stop_then_they_are_as_tabulated(profile):
    for stop, codes in zip(STOPS, CODES[profile], strict=True):
        if codes is not None:
            assert codes_per_stop(profile, 8, stop) == pytest.approx(codes, abs=TABLE_DIGITS)
            assert codes_per_stop(profile, 10, stop) == pytest.approx(4 * codes, abs=4 * TABLE_DIGITS)


@pytest.mark.parametrize("profile", STEP_AT_GREY)
def test_given_a_profile_when_a_code_is_seen_as_lightness_then_it_is_as_tabulated(profile):
    assert lightness_step(profile, 8) == pytest.approx(STEP_AT_GREY[profile], rel=0.01)
    assert lightness_step(profile, 10) == pytest.approx(STEP_AT_GREY[profile] / 4, rel=0.01)


@pytest.mark.parametrize("profile", list(PROFILES))
def test_given_any_profile_when_bits_or_iso_change_then_its_span_follows(profile):
    eight, ten = usable(profile, 8), usable(profile, 10)

    assert eight.above == ten.above
    assert ten.below >= eight.below > 0
    assert usable(profile, 10, 4.0).below <= ten.below


def test_given_a_scene_when_laid_around_grey_then_nothing_of_it_is_lost():
    scene = scene_span(12)

    assert scene.span == 12
    assert scene.below > scene.above

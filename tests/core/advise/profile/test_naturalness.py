"""The broad prior over finished pictures: likeliest in their middle, and falling to either side."""

import numpy as np
import pytest

from morphe.core.advise.profile.naturalness import (
    MEAN,
    bell,
    bright_likelihood,
    chroma_likelihood,
    clipped_likelihood,
    median_chroma,
    tone_likelihood,
    tone_percentiles,
)

ALL = np.ones(7, bool)


def test_given_tones_when_all_move_up_or_down_then_they_grow_less_likely():
    away = np.array([0, 8, 16, 30, 60])
    for sign in (1, -1):
        found = tone_likelihood(np.clip(MEAN + sign * away[:, None], 0, 200), ALL)
        assert (np.diff(found) < 0).all()


def test_given_a_flat_picture_when_weighed_then_its_narrow_tones_are_unlikely():
    flat = MEAN.mean() + 0.15 * (MEAN - MEAN.mean())

    assert tone_likelihood(flat, ALL) < tone_likelihood(MEAN, ALL) - 0.2


def test_given_nothing_to_read_when_weighed_then_nothing_is_said():
    assert tone_likelihood(np.stack([MEAN, MEAN + 40]), np.zeros(7, bool)) == pytest.approx([0, 0])


def test_given_lights_far_above_white_when_weighed_then_they_are_not_told_apart():
    above = np.stack([np.where(np.arange(7) == 6, top, MEAN) for top in (115.0, 400.0)])

    assert np.ptp(tone_likelihood(above, ALL)) == 0


def test_given_more_that_is_clipped_when_weighed_then_more_overexposure_is_likelier():
    stops = np.array([-0.5, 0.0, 0.5, 1.0, 2.0])
    best = [int(np.argmax(clipped_likelihood(share, stops))) for share in (0.0, 0.05, 0.2, 0.5)]

    assert best == sorted(best) and best[0] == 0 and best[-1] == 4


def test_given_a_bell_when_read_then_each_side_has_its_own_width():
    assert bell(5.0, 5.0, 1.0, 3.0) > bell(4.0, 5.0, 1.0, 3.0)
    assert bell(8.0, 5.0, 1.0, 3.0) == pytest.approx(bell(4.0, 5.0, 1.0, 3.0))


def test_given_the_bright_end_when_weighed_then_white_is_likeliest_and_dull_or_far_over_are_not():
    at = bright_likelihood(np.array([60.0, 96.0, 99.8, 130.0]))

    assert at[2] == at.max() and at[0] < at[1] and at[3] < at[1]


def test_given_colour_when_weighed_then_neither_none_nor_too_much_is_likely():
    usual = float(np.exp(-2.9))

    assert chroma_likelihood(usual) > max(chroma_likelihood(0.0), chroma_likelihood(0.4))


def test_given_pixels_when_read_then_percentiles_rise_and_grey_has_no_chroma():
    ramp = np.repeat(np.linspace(0, 1, 500, dtype=np.float32)[:, None], 3, axis=1)

    assert (np.diff(tone_percentiles(ramp)) > 0).all()
    assert median_chroma(ramp) < 1e-3 < median_chroma(ramp * (1.0, 0.6, 0.4))

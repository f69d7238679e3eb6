"""Fitting an unknown camera: the curve over its usable range, what is left out, and refusals."""

import numpy as np
import pytest

from morphe.core.errors import ColourError
from morphe.core.measure.card import read_card
from morphe.core.signal.camera_log import CameraLog
from morphe.core.signal.fit_curve import CardReading, fit_curve
from morphe.core.signal.point_curve import GREY, PointCurve
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.cameras import Exposure
from morphe.core.standins.lab import CARD_REGION, card_series

WITHIN_STOPS = 0.05


def series(exposure: Exposure, seed: int = 3) -> list[CardReading]:
    """The card as the camera's codes say it."""
    codes = 219 * 2 ** (exposure.bit_depth - 8)
    return [
        read_card([np.round(f * codes) / codes for f in frames], CARD_REGION, step)
        for step, frames in card_series(exposure, np.random.default_rng(seed))
    ]


def true_errors(fit, key: str) -> np.ndarray:
    profile = PROFILES.get(key)
    light = GREY * 2.0 ** np.arange(fit.usable_stops[0], fit.usable_stops[1] + 0.01, 0.25)
    return np.log2(fit.curve.decode(profile.encode(light)) / light)


@pytest.mark.parametrize("bits", [8, 10])
@pytest.mark.parametrize("key", ["log-wide", "log-mild", "log-lifted", "flat-a", "vivid-a", "std-709"])
def test_given_a_simulated_camera_when_fitted_then_its_curve_is_found_over_the_usable_range(key, bits):
    fit = fit_curve(series(Exposure(profile=key, bit_depth=bits)))

    errors = true_errors(fit, key)
    assert np.sqrt((errors**2).mean()) < WITHIN_STOPS
    assert fit.usable_stops[0] <= -4 and fit.usable_stops[1] >= 2
    assert isinstance(fit.curve, CameraLog if key.startswith("log") else PointCurve)


def test_given_more_noise_when_fitted_then_less_of_the_shadows_is_worth_using():
    quiet, noisy = (fit_curve(series(Exposure(profile="log-wide", noise=n))) for n in (0.0006, 0.012))

    assert noisy.usable_stops[0] > quiet.usable_stops[0]


def test_given_takes_that_clipped_when_fitted_then_they_are_left_out_and_it_is_said():
    fit = fit_curve(series(Exposure(profile="log-mild")))

    assert fit.used[-1].stops == 4  # the sensor clips 4.75 stops above grey
    assert "1 of 12 takes were left out" in fit.sentences[0]


def test_given_the_order_of_the_takes_when_shuffled_then_the_fit_is_the_same():
    readings = series(Exposure(profile="log-wide"))

    assert fit_curve(readings[::-1]) == fit_curve(readings)


@pytest.mark.parametrize(
    ("readings", "sentence"),
    [
        ([], "Only 0 takes"),
        ([CardReading(stops=s, level=0.1 * s + 0.4) for s in (-1, 0, 1)], "Only 3 takes"),
        ([CardReading(stops=0, level=0.4), CardReading(stops=0, level=0.5)], "same exposure"),
        ([CardReading(stops=s, level=0.4) for s in range(8)], "Only 1 takes"),
    ],
)
def test_given_a_series_that_tells_too_little_when_fitted_then_it_is_refused_in_words(readings, sentence):
    with pytest.raises(ColourError, match=sentence):
        fit_curve(readings)

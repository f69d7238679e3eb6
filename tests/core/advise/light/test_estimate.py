"""The light of a scene estimated: known casts found, clean pictures left, too little evidence admitted."""

import numpy as np
import pytest

from morphe.core.advise.light.estimate import estimate_light
from morphe.core.signal.light import adaptation_matrix, light_rgb
from morphe.core.signal.primaries import LUMINANCE_709
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.demo import render_scene
from tests.footage import scene

WITHIN_MIRED = 22.0


@pytest.fixture(scope="module")
def jetty():
    """A person at the jetty: skin, wool, wood, grey sky."""
    return render_scene("jetty-tan", 0.5, width=256, height=144)


def under(linear, mired, duv=0.0):
    cast = light_rgb(mired, duv)
    return (linear * (cast / (cast @ LUMINANCE_709))).astype(np.float32)


@pytest.mark.parametrize("mired", [-45, -20, 35, 60])
def test_given_a_cast_of_known_warmth_when_estimated_then_side_and_size_are_found(jetty, mired):
    plain, cast = (estimate_light([under(jetty, m)]) for m in (0, mired))

    found = cast.warmth - plain.warmth
    assert np.sign(found) == np.sign(mired)
    assert abs(found - mired) < WITHIN_MIRED


def test_given_more_warmth_when_estimated_then_the_answer_never_gets_cooler(jetty):
    found = [estimate_light([under(jetty, m)]).warmth for m in (-40, -20, 0, 20, 40, 60)]

    assert (np.diff(found) > -2).all()


def test_given_a_green_cast_when_estimated_then_tint_follows_it(jetty):
    plain, green = (estimate_light([under(jetty, 0, duv)]) for duv in (0.0, 0.010))

    assert green.tint > plain.tint + 0.003


def test_given_more_or_less_exposure_when_estimated_then_the_light_stays(jetty):
    one, two = (estimate_light([(gain * jetty).astype(np.float32)]) for gain in (0.9, 0.45))

    assert abs(one.warmth - two.warmth) < 6


@pytest.mark.parametrize(
    "picture",
    [
        np.zeros((20, 20, 3), np.float32),
        np.full((10, 10, 3), 0.2, np.float32),
        np.full((60, 60, 3), 2.0, np.float32),
    ],
    ids=["black", "tiny", "clipped"],
)
def test_given_nothing_to_go_by_when_estimated_then_no_confidence_is_claimed(picture):
    assert estimate_light([picture]).sure == 0.0


def test_given_a_picture_of_one_colour_when_estimated_then_it_is_left_alone():
    generator = np.random.default_rng(3)
    sea = (np.array([0.05, 0.2, 0.4]) * generator.uniform(0.5, 1.5, (100, 160, 1))).astype(np.float32)

    assert estimate_light([sea]).sure == 0.0


def test_given_grey_things_when_estimated_then_neutral_light_is_neutral():
    linear = PROFILES.get("std-709").decode(scene(256, 144)).astype(np.float32)
    grey = np.repeat(linear.mean(axis=-1, keepdims=True), 3, axis=-1)

    found = estimate_light([grey])

    assert abs(found.warmth) < 6 and abs(found.tint) < 0.002


@pytest.mark.parametrize(("mired", "tint"), [(40, 0.0), (-30, 0.0), (20, 0.008), (0, -0.006)])
def test_given_a_light_when_adapted_to_then_its_white_becomes_neutral(mired, tint):
    neutral = adaptation_matrix(mired, tint) @ light_rgb(mired, tint)

    assert neutral / neutral[1] == pytest.approx([1, 1, 1], abs=2e-3)

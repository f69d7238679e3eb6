"""Clips beside each other, and the noise of one: known differences are found, and nothing is made up."""

import numpy as np
import pytest

from morphe.core.measure.noise import noise_of
from morphe.core.measure.stand import Apart, Stand, apart_from_others, bring_together, stand_of
from morphe.core.signal.light import light_rgb
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.demo import render_scene

LIGHT = render_scene("jetty-tan", 0.5, width=192, height=108) * 0.7
OTHER = render_scene("sluice-round", 0.5, width=192, height=108) * 0.7


def seen(stops=0.0, mired=0.0, light=LIGHT):
    encode = PROFILES.get("std-709").encode
    return stand_of([np.clip(encode(light * 2.0**stops * light_rgb(mired, 0.0)), 0, 1).astype(np.float32)])


@pytest.mark.parametrize(("stops", "mired"), [(0.4, 0), (-0.5, 0), (0, 20), (0, -15), (0.3, -12)])
def test_given_one_scene_filmed_twice_when_compared_then_the_difference_is_found(stops, mired):
    apart = seen(stops, mired).apart_from(seen())

    assert apart.stops == pytest.approx(stops, abs=0.12)
    assert apart.mired == pytest.approx(mired, abs=5)


def test_given_clips_of_one_light_when_brought_together_then_nothing_is_left_between_them():
    stands = [seen(s, m) for s, m in ((0, 0), (0.5, 10), (-0.3, -12), (0.1, 4))]
    moves = bring_together(stands)
    after = [stand.moved(by) for stand, by in zip(stands, moves, strict=True)]

    left = [one.apart_from(other) for one in after for other in after]
    assert all(apart.is_together for apart in left)
    assert abs(np.mean([m.stops for m in moves])) < 0.05  # nobody is the measure


def test_given_a_clip_that_is_held_when_brought_together_then_the_others_come_to_it():
    stands = [seen(0, 0), seen(0.5, 10), seen(-0.4, -6)]
    moves = bring_together(stands, fixed=[True, False, False])

    assert abs(moves[0].stops) < 0.01
    assert moves[1].stops == pytest.approx(-0.5, abs=0.12) and moves[2].stops == pytest.approx(0.4, abs=0.12)


def test_given_clips_of_other_things_when_compared_then_nothing_is_said_of_them():
    found = apart_from_others([seen(), seen(0.3, 10), seen(light=OTHER[::-1] ** 1.7)])

    assert found[0] is not None and found[1] is not None and found[2] is None
    assert apart_from_others([seen()]) == [None] and bring_together([seen()]) == [Apart()]


def test_given_one_that_is_far_off_when_compared_then_the_others_do_not_seem_so():
    found = apart_from_others([seen(), seen(0.02), seen(-0.02), seen(1.0)])

    assert all(one.is_together for one in found[:3]) and found[3].stops == pytest.approx(1.0, abs=0.2)


def test_given_a_difference_when_told_then_small_ones_are_not_and_large_ones_have_their_side():
    assert Apart(stops=0.05, mired=2).words == "" and Apart(stops=0.05, mired=2).is_together
    assert Apart(stops=-0.5, mired=20).words == "0.5 stop darker, 20 mired warmer"
    assert Apart(stops=1.5).words == "1.5 stops brighter"
    assert Apart(stops=0.05).words_from(0.04, 3.0) == "0.1 stop brighter"


def test_given_a_stand_when_written_and_read_then_it_is_the_same():
    stand = seen(0.2, 6)
    again = Stand.from_json(stand.as_json())

    assert again.apart_from(stand).is_together and len(again.light) == len(stand.light)


@pytest.mark.parametrize("deviation", [0.5, 1.0, 2.0, 4.0])
def test_given_noise_of_known_size_when_measured_then_it_is_found_beside_edges_and_slopes(deviation):
    y, x = np.mgrid[0:180, 0:320].astype(np.float32)
    plain = 60 + 0.2 * x + np.where((x // 40 + y // 40) % 2, 30, 0)
    noisy = plain + np.random.default_rng(4).normal(0, deviation, plain.shape)

    assert noise_of(noisy) == pytest.approx(deviation, rel=0.15)
    assert noise_of(plain) < 0.1 and noise_of(noisy[:4]) == 0

"""Clips of one light seen as one: trims that bring them together, common balance, corrections passed on."""

from __future__ import annotations

import numpy as np
import pytest

from morphe.core.advise.outing.settle import Member, common_balance, fitted, settle, stand_under, trimmed
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer, Scope
from morphe.core.grade.moments import Moments
from morphe.core.grade.steps import Balance, BlackPoint, Contrast, Exposure
from morphe.core.measure.drift import STOPS_PER_MIRED
from morphe.core.measure.stand import Apart, Stand, apart_from_others, bring_together, stand_of
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.primaries import LUMINANCE_709
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.cameras import Exposure as Camera
from morphe.core.standins.cameras import film
from morphe.core.standins.demo import render_scene

STD = PROFILES.get("std-709")
SIZE = {"width": 160, "height": 90}


def filmed(scene: str, number: int, stops: float, mired: float) -> tuple[np.ndarray, np.ndarray]:
    """The light of a scene at some moment, and what a camera makes of it."""
    linear = render_scene(scene, 0.35 * number, **SIZE)
    camera = Camera(exposure_stops=stops, warm_mired=mired)
    return linear, film(linear, camera, np.random.default_rng(number))


def member(picture: np.ndarray, grade: Grade | None = None, **more) -> Member:
    return Member(pictures=(picture,), times_s=(0.0,), grade=grade or Grade(), **more)


def off(linear: np.ndarray, encoded: np.ndarray) -> tuple[float, float]:
    """By how many stops and mired a picture lies off the light that was filmed, where it is not clipped."""
    light = STD.decode(np.clip(encoded, 0, 1))
    tells = (light.max(axis=-1) < 0.9) & (light.min(axis=-1) > 0.01)
    light, linear = light[tells], linear[tells]
    stops = np.log2((light @ LUMINANCE_709) / (linear @ LUMINANCE_709))
    warmth = np.log2(light[:, 0] / light[:, 2]) - np.log2(linear[:, 0] / linear[:, 2])
    return float(np.median(stops)), float(np.median(warmth) / STOPS_PER_MIRED)


@pytest.mark.parametrize("scenes", [("jetty-tan",), ("sluice-approach",), ("jetty-tan", "jetty-deep")])
def test_given_ten_clips_of_a_light_when_settled_then_what_is_alike_comes_out_alike(scenes):
    generator = np.random.default_rng(3)
    errors = [(generator.uniform(-0.6, 0.6), generator.uniform(-20, 20)) for _ in range(10)]
    clips = [filmed(scenes[n % len(scenes)], n, *error) for n, error in enumerate(errors)]
    own = Grade.of(BlackPoint(lower=2), Contrast(amount=10))  # a trim goes through the work that follows

    trims = settle([member(picture, own) for _, picture in clips])

    before = np.array([off(*clip) for clip in clips])
    after = np.array(
        [off(linear, evaluate(trimmed(Grade(), t), p)) for (linear, p), t in zip(clips, trims, strict=True)]
    )
    assert np.ptp(before, axis=0)[0] > 0.8
    assert np.ptp(after, axis=0) == pytest.approx([0, 0], abs=8)
    assert np.ptp(after, axis=0)[0] < 0.15


def test_given_clips_of_other_things_when_settled_then_they_are_left_as_they_are():
    (_, meadow), (_, person) = filmed("sluice-round", 1, 0.3, 10), filmed("jetty-tan", 1, -0.3, -10)

    trims = settle([member(meadow), member(person)])

    assert all(abs(t.stops) < 0.1 and abs(t.mired) < 3 for t in trims)
    assert apart_from_others([stand_of([meadow]), stand_of([person])]) == [None, None]


def test_given_a_clip_that_stays_when_settled_then_the_other_comes_to_it():
    (_, one), (_, other) = filmed("jetty-tan", 1, 0.0, 0.0), filmed("jetty-tan", 1, -0.5, 12)

    kept, moved = settle([member(one, fixed=True), member(other)])

    assert kept == Apart(stops=0.0, mired=0.0)
    assert moved.stops == pytest.approx(0.5, abs=0.06)
    assert moved.mired == pytest.approx(-12, abs=3)


def test_given_one_that_is_far_off_when_compared_then_only_that_one_stands_apart():
    stands = [stand_of([filmed("jetty-tan", 1, stops, 0)[1]]) for stops in (0, 0.02, -0.02, -0.8)]

    apart = apart_from_others(stands)

    assert [a.is_together for a in apart] == [True, True, True, False]
    assert apart[3].words == "0.8 stop darker"
    assert Stand.from_json(stands[0].as_json()).apart_from(stands[3]).stops == pytest.approx(0.8, abs=0.05)


@pytest.mark.parametrize(("stands", "moves"), [([], 0), ([Stand(light=(0.0,) * 20, warmth=(0.0,) * 20)], 1)])
def test_given_fewer_than_two_clips_when_brought_together_then_nothing_moves(stands, moves):
    assert bring_together(stands) == [Apart(stops=0.0, mired=0.0)] * moves


def test_given_a_correction_when_fitted_to_another_clip_then_it_comes_out_as_wanted():
    (_, one), (_, other) = filmed("jetty-tan", 1, 0.0, 0.0), filmed("jetty-tan", 1, -1.0, 15)
    given = Grade.of(Exposure(stops=0.2), Contrast(amount=12))
    wanted = stand_under(member(one, given))

    trim = fitted(member(other), given, wanted)

    left = stand_under(member(other), trimmed(given, trim)).apart_from(wanted)
    assert abs(left.stops) < 0.05 and abs(left.mired) < 2


def test_given_numbers_that_move_or_are_off_when_trimmed_then_all_moments_move_and_what_is_off_is_zero():
    moving = Grade.of(Exposure(stops=Moments(((0.0, 0.0), (2.0, 1.0)))), Balance(on=False, warmth=30))

    grade = trimmed(moving, Apart(stops=0.25, mired=6.0))

    assert grade.step("exposure").stops.values == (0.25, 1.25)
    assert grade.step("balance") == Balance(warmth=-6.0)


@pytest.mark.parametrize(
    ("warmths", "common"),
    [
        ([30, 34, 28, 31], Balance(warmth=30.5)),
        ([30, 34, 28, 0], Balance(warmth=30.0)),  # three of four
        ([30, 0, 0, 28], None),
        ([60, 10, -40, 110], None),
        ([30], None),
    ],
)
def test_given_the_balances_of_a_light_when_most_agree_then_theirs_is_common(warmths, common):
    assert common_balance([Grade.of(Balance(warmth=w)) for w in warmths]) == common


def test_given_a_shared_layer_when_trimmed_then_it_is_left_alone():
    shared = Layer(id="light", scope=Scope.LIGHT, steps=(Exposure(stops=1),))

    grade = trimmed(Grade().with_layer(shared), Apart(stops=-0.2, mired=0.0))

    assert grade.layer("light") == shared and grade.step("exposure").stops == -0.2

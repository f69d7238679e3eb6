"""Matching: a distance that means something, and corrections that close it without forcing what differs."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer
from morphe.core.grade.steps import Balance, BlackPoint, Exposure, Saturation
from morphe.core.match.distance import directions, distance, tones
from morphe.core.match.knobs import COLOUR, KNOBS, LEVELS, STAGES, WHITE, rounded, steps_of
from morphe.core.match.match import MATCH, Match, match
from morphe.core.measure.skin import skin_of_pixels
from morphe.core.pipeline.reference import evaluate
from morphe.core.reading.reference import skin_masks
from morphe.core.signal.perception import delta_e_2000, encoded_to_lab
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.demo import render_scene


def pictured(scene, time_s=0.3):
    linear = render_scene(scene, time_s, width=256, height=144)
    return np.clip(PROFILES.get("std-709").encode(linear), 0, 1).astype(np.float32)


@pytest.fixture(scope="module")
def jetty():
    return pictured("jetty-tan")


@pytest.fixture(scope="module")
def marsh():
    return pictured("sluice-round")


def seen_by_another(picture):
    """The same place by a camera that is set otherwise."""
    other = Layer(
        id="other",
        steps=(
            Exposure(stops=-0.5),
            Balance(warmth=-20, tint=4),
            BlackPoint(lower=-2),
            Saturation(amount=-20),
        ),
    )
    return np.clip(evaluate(Grade(layers=(Layer(id="clip"), other)), picture), 0, 1)


@pytest.fixture(scope="module")
def found(jetty):
    """The jetty matched to itself by another camera."""
    return match([seen_by_another(jetty)], [jetty])


def taken(found, picture, shares=None):
    layer = found.layer(taken=shares)
    return np.clip(evaluate(Grade().with_layer(layer), picture), 0, 1) if layer.steps else picture


def apart(one, other):
    return float(delta_e_2000(encoded_to_lab(one), encoded_to_lab(other)).mean())


# --- distance ----------------------------------------------------------------------------------------


def test_given_a_shift_when_seen_from_all_sides_then_it_is_half_its_length():
    cloud = np.random.default_rng(1).normal(0, 10, (4000, 3))
    along = directions()

    for way in np.vstack([np.eye(3), np.ones((1, 3)) / np.sqrt(3)]):
        found = np.abs(tones(cloud + 10 * way, along) - tones(cloud, along)).mean()
        assert found == pytest.approx(5.0, abs=0.05)


def test_given_a_wider_spread_when_seen_from_all_sides_then_it_is_the_known_distance():
    cloud = np.random.default_rng(2).normal(0, 10, (40_000, 3))

    found = np.abs(tones(1.5 * cloud, directions()) - tones(cloud, directions())).mean()

    assert found == pytest.approx(3.99, abs=0.06)


@settings(max_examples=8)
@given(st.floats(-0.2, 0.2), st.floats(-0.2, 0.2))
def test_given_any_two_pictures_when_compared_then_the_order_is_nothing_and_itself_is_none(jetty, a, b):
    one, other = (np.clip(jetty + by, 0, 1).astype(np.float32) for by in (a, b))

    assert distance([one], [one]) == 0
    assert distance([one], [other]) == pytest.approx(distance([other], [one]))


# --- matching ----------------------------------------------------------------------------------------


def test_given_one_place_by_two_cameras_when_matched_then_they_are_alike(jetty, found):
    clip = seen_by_another(jetty)

    assert found.after < 0.35 < 1 < found.before
    assert apart(taken(found, clip), jetty) < 0.3 * apart(clip, jetty)
    assert [s.key for s in found.stages] == list(STAGES)
    assert all(a.after == b.before for a, b in zip(found.stages, found.stages[1:], strict=False))


def test_given_another_place_when_matched_then_it_comes_near_and_keeps_its_own_colours(jetty, marsh):
    found = match([marsh], [jetty])

    assert found.after < 0.4 * found.before
    families = dict(next(s for s in found.stages if s.key == "families").numbers)
    assert all(abs(value) <= knob.high for knob, value in families.items())
    assert any("left as they are" in s or "nothing is made of that" in s for s in found.left)


def test_given_a_picture_that_is_the_reference_when_matched_then_next_to_nothing_is_done(marsh):
    found = match([marsh], [marsh])

    assert apart(taken(found, marsh), marsh) < 0.5


def test_given_a_face_when_matched_to_a_cold_picture_then_its_hue_is_held(jetty, marsh):
    (mask,) = skin_masks((jetty,))
    cold = np.clip(marsh * np.array([0.5, 0.9, 1.2], np.float32), 0, 1)

    found = match([jetty], [cold], [mask])

    was, now = (skin_of_pixels(p[mask]).angle_deg for p in (jetty, taken(found, jetty)))
    assert mask.any() and found.after < found.before
    assert abs((now - was + 180) % 360 - 180) < 3


@pytest.mark.parametrize("stage", [LEVELS, WHITE, COLOUR])
def test_given_a_stage_left_out_when_taken_then_none_of_its_steps_are_there(found, stage):
    without = found.layer(taken={stage: 0.0})
    keys = {k.step for k in KNOBS if k.stage == stage}
    names = {"curve": "curves"}
    assert not {names.get(k, k) for k in keys} & {s.key for s in without.steps}
    assert without.id == MATCH and without.steps


def test_given_a_match_when_kept_and_read_back_then_it_is_the_same(found):
    again = Match.of_record(found.record())

    assert again == found
    assert again.layer("To the jetty").steps == found.layer("To the jetty").steps


@given(st.lists(st.floats(-1, 1), min_size=len(KNOBS), max_size=len(KNOBS)))
def test_given_any_numbers_in_their_limits_when_made_steps_then_grey_keeps_its_order(turns):
    values = rounded({k: t * (k.high if t > 0 else -k.low) for k, t in zip(KNOBS, turns, strict=True)})
    ramp = np.linspace(0, 1, 64, dtype=np.float32)[:, None].repeat(3, axis=1)

    steps = steps_of({k: v for k, v in values.items() if k.stage == LEVELS})
    out = evaluate(Grade().with_layer(Layer(id=MATCH, steps=steps)), ramp) if steps else ramp

    assert (np.diff(out[:, 1]) > -1e-4).all()
    steps_of(values)  # all of them are inside the limits of their steps

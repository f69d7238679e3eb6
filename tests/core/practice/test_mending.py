"""Mending and camera decisions: distances fall on the way to the truth, and what remains is what was left."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from morphe.core.errors import ColourError
from morphe.core.practice.decisions import FILTERS, SHUTTERS, decision
from morphe.core.practice.mending import KINDS, TOLERANCE, distance, mending, remains, score
from morphe.core.practice.scenes import Shot, softened
from morphe.core.standins.cameras import Exposure, film, truth

JETTY = Shot(scene="jetty-tan", time_s=0.5)


def seen(**errors):
    return film(JETTY.light, Exposure(noise=0.0, sharpening=0.0, **errors), np.random.default_rng(1))


@pytest.mark.parametrize(
    ("errors", "name", "wanted", "within"),
    [
        ({"exposure_stops": -0.6}, "stops", -0.6, 0.06), ({"exposure_stops": 0.3}, "stops", 0.3, 0.06),
        ({"warm_mired": 25}, "mired", 25, 8), ({"warm_mired": -30}, "mired", -30, 9),
        ({"green_duv": 0.008}, "duv", 0.008, 0.005),
    ],
)  # fmt: skip
def test_given_one_error_when_asked_what_remains_then_it_is_that_one(errors, name, wanted, within):
    found = remains(seen(**errors), JETTY.truth)

    assert getattr(found, name) == pytest.approx(wanted, abs=within)
    assert abs(found.stops) < 0.1 or name == "stops"
    assert found.sentence.startswith("Still ")


def test_given_the_truth_when_measured_then_nothing_remains():
    assert distance(JETTY.truth, JETTY.truth) < 1e-6
    assert "where they were" in remains(JETTY.truth, JETTY.truth).sentence


@settings(max_examples=20)
@given(stops=st.floats(-1.2, 0.4), mired=st.floats(-50, 50), share=st.floats(0.1, 0.9))
def test_given_an_error_when_part_of_it_is_mended_then_the_distance_is_smaller(stops, mired, share):
    if abs(stops) < 0.1 and abs(mired) < 5:
        return
    whole = distance(seen(exposure_stops=stops, warm_mired=mired), JETTY.truth)
    part = distance(seen(exposure_stops=stops * share, warm_mired=mired * share), JETTY.truth)

    assert part < whole


@settings(max_examples=30)
@given(begun=st.floats(3, 40), gone=st.floats(0, 1), more=st.floats(0, 0.5), changes=st.integers(0, 60))
def test_given_a_mending_when_scored_then_nearer_is_never_less_and_more_changes_never_more(
    begun, gone, more, changes
):
    now = begun - gone * (begun - TOLERANCE)
    nearer = max(now - more * begun, 0)

    assert 0 <= score(begun, now, changes) <= score(begun, nearer, changes) <= 100
    assert score(begun, now, changes + 1) <= score(begun, now, changes)
    assert score(begun, TOLERANCE, 2) == 100 and score(begun, begun, 0) == 0


@pytest.mark.parametrize("kind", list(KINDS))
def test_given_a_kind_when_clips_are_made_then_each_is_wrong_in_that_way_and_far_from_the_truth(kind):
    for seed in range(3):
        made = mending(kind, seed, 0.5)
        shown = film(made.light(), made.exposure, np.random.default_rng(seed))

        assert made == mending(kind, seed, 0.5)
        assert (made.exposure.warm_mired != 0) == (kind != "mend-light")
        assert (made.exposure.exposure_stops != 0) == (kind != "mend-colour")
        assert distance(shown, made.truth()) > 2 * TOLERANCE


@pytest.mark.parametrize("seed", range(8))
def test_given_a_scene_when_the_best_settings_are_chosen_then_all_is_right_and_little_is_lost(seed):
    asked = decision(seed)
    verdict = asked.judge(asked.best)

    assert verdict.is_right and verdict.left < 6
    assert str(asked.fps) in asked.question and asked.best.words
    over = replace(asked.best, nd_stops=min(FILTERS), shutter=min(SHUTTERS))
    lost = asked.judge(over)
    assert not lost.is_right and lost.left > verdict.left


def test_given_a_setting_that_the_camera_lacks_when_judged_then_a_sentence_says_so():
    with pytest.raises(ColourError, match="what the camera has"):
        decision(1).judge(replace(decision(1).best, shutter=51))


def test_given_light_when_filmed_rightly_then_it_is_the_truth():
    assert distance(seen(), truth(JETTY.light)) < 0.5


def test_given_hard_edges_when_softened_then_their_stairs_go_and_plain_tones_stay():
    light = np.full((40, 60, 3), 0.1, np.float32)
    light[10:30, 20:40] = 0.8

    soft = softened(light)

    assert np.array_equal(soft[:6], light[:6]) and np.allclose(soft[18:22, 26:34], 0.8, atol=1e-3)
    assert light[20, 19, 0] < soft[20, 19, 0] < soft[20, 20, 0] < light[20, 20, 0]
    assert softened(np.full((20, 20, 3), 0.3, np.float32)).std() < 1e-6

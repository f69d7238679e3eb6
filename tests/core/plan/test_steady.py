"""Steadying ranked, the shutter's angle by school, blur in pixels, colour filters and what red is left."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.plan.cautions import cautions_for
from morphe.core.plan.kit import FilterKind, KitKind, Steadying
from morphe.core.plan.questions import Questions
from morphe.core.plan.scene import scene_of
from morphe.core.plan.shots import SHOTS
from morphe.core.plan.shutter import blur_share, choose_angle, flicker_safe
from morphe.core.plan.steady import rank
from morphe.core.plan.under_water import choose_filter, red_verdict
from morphe.core.standins.kits import KITS
from morphe.core.water.daylight import WATER_TYPES, depth_light

SANDPIPER, CUTTLE, FERN = KITS.values()


def ranked(kit, *, hours=1.0, **answers):
    return [r.way for r in rank(kit, scene_of(Questions.from_json(answers), kit), grading_hours=hours)]


def depth(metres, *, water="II", lamp=False, distance=1.0):
    return depth_light(WATER_TYPES.get(water), depth_m=metres, distance_m=distance, has_lamp=lamp)


def test_given_dim_light_when_ranked_then_gimbal_comes_before_motion_data_before_in_camera():
    ways = ranked(SANDPIPER, shot="flight", light="street")

    order = [w for w in (Steadying.GIMBAL, Steadying.MOTION_DATA, Steadying.IN_CAMERA) if w in ways]
    assert [w for w in ways if w in order] == order
    assert ways[0] is Steadying.GIMBAL


@pytest.mark.parametrize(
    ("light", "hours", "first"), [("sun", 0.0, Steadying.IN_CAMERA), ("street", 2.0, Steadying.MOTION_DATA)]
)
def test_given_an_action_camera_when_ranked_then_light_and_time_decide(light, hours, first):
    ways = ranked(CUTTLE, shot="ride", light=light, hours=hours)

    assert ways[0] is first


def test_given_water_when_ranked_then_in_camera_comes_last_and_a_gimbal_stays_ashore():
    ways = ranked(CUTTLE, shot="dive", light="sun")

    assert ways[-1] is Steadying.IN_CAMERA
    assert Steadying.GIMBAL not in ways


@pytest.mark.parametrize("shot", list(SHOTS))
@pytest.mark.parametrize("kit", KITS.values(), ids=lambda k: k.name)
def test_given_any_shot_when_ranked_then_steady_hands_are_there_and_only_what_the_camera_has(kit, shot):
    ways = ranked(kit, shot=shot, light="sun")

    assert Steadying.GRIP in ways
    assert set(ways) <= {*kit.steadying, Steadying.GRIP}
    assert (Steadying.TRIPOD in ways) <= (not SHOTS.get(shot).moves)


@pytest.mark.parametrize(
    ("steadying", "dim", "fast", "surplus", "angle"),
    [("gimbal", False, False, 3.0, 180), ("gimbal", True, True, 0.0, 180),
     ("in-camera", True, False, 0.0, 90),
     ("in-camera", False, True, 0.0, 90), ("in-camera", True, True, 0.0, 45),
     ("in-camera", False, False, 0.0, 180),
     ("motion-data", True, False, 0.0, 180), ("motion-data", False, False, 3.0, 90),
     ("motion-data", False, False, 0.5, 127.28)],
)  # fmt: skip
def test_given_a_school_when_the_angle_is_chosen_then_it_is_that_of_its_rule(
    steadying, dim, fast, surplus, angle
):
    choice = choose_angle(steadying, is_dim=dim, is_fast=fast, surplus_stops=surplus)

    assert choice.angle_deg == pytest.approx(angle, abs=0.01)
    assert choice.other_deg != choice.angle_deg and choice.reason and choice.other_reason


@given(speed=st.floats(0, 3), one=st.floats(1e-4, 0.04), factor=st.floats(1, 8))
def test_given_a_longer_shutter_when_blur_is_counted_then_it_grows_in_proportion(speed, one, factor):
    assert blur_share(speed, one * factor) == pytest.approx(factor * blur_share(speed, one))


# Safe under mains lamps are k/100 s for 50 Hz and k/120 s for 60 Hz
@pytest.mark.parametrize(
    ("denominator", "fifty", "sixty"),
    [(25, True, False), (50, True, False), (100, True, False), (60, False, True), (120, False, True),
     (30, False, True), (200, False, False), (1000, False, False)],
)  # fmt: skip
def test_given_lamps_when_a_shutter_is_checked_then_whole_pulses_are_safe(denominator, fifty, sixty):
    assert (flicker_safe(1 / denominator, 50), flicker_safe(1 / denominator, 60)) == (fifty, sixty)


# --- filters and red -------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("metres", "water", "lamp", "wears"),
    [(1, "II", False, False), (4, "II", False, False), (8, "II", False, True), (15, "II", False, True),
     (25, "II", False, False), (8, "II", True, False), (8, "5C", False, False)],
)  # fmt: skip
def test_given_a_depth_when_a_filter_is_chosen_then_it_is_worn_only_where_it_helps(
    metres, water, lamp, wears
):
    choice = choose_filter(CUTTLE, depth(metres, water=water, lamp=lamp))

    assert (choice.filter is not None) == wears
    assert choice.reason and choice.runner_up


def test_given_green_water_when_a_filter_is_chosen_then_magenta_is_wanted():
    choice = choose_filter(CUTTLE, depth(8, water="5C"))

    assert CUTTLE.filter_of(FilterKind.MAGENTA) is None
    assert "magenta filter would help here, and you own none" in choice.reason


@pytest.mark.parametrize(
    ("metres", "bits", "words"),
    [(1, 8, "keeps up"), (6, 8, "can be brought back"), (10, 8, "in part"), (20, 8, "cannot be brought back"),
     (14, 10, "can be brought back"), (28, 10, "cannot be brought back")],
)  # fmt: skip
def test_given_a_depth_when_red_is_judged_then_bits_decide_what_comes_back(metres, bits, words):
    assert words in red_verdict(depth(metres, distance=0.5), bits)


@pytest.mark.parametrize("water", list(WATER_TYPES))
def test_given_any_water_when_deeper_then_less_of_every_channel_is_left(water):
    shallow, deep = (depth(m, water=water).daylight for m in (3, 9))

    assert all(d < s for d, s in zip(deep, shallow, strict=True))


@pytest.mark.parametrize("shot", list(SHOTS))
def test_given_a_drone_when_planned_for_any_shot_then_what_concerns_flying_comes_first(shot):
    keys = [caution.key for caution in cautions_for(shot, KitKind.DRONE)]

    assert keys[:3] == ["aviation", "below", "aircraft"] and len(keys) == len(set(keys))
    assert ("dark" in keys) == (shot == "night") and (shot != "dive" or "training" in keys)


@pytest.mark.parametrize(
    ("shot", "word"),
    [
        ("flight", "authority"),
        ("dive", "training"),
        ("snorkel", "training"),
        ("ride", "never handles the camera"),
        ("walk", "footing"),
    ],
)
def test_given_a_shot_that_can_hurt_when_planned_then_its_cautions_defer_to_those_who_decide(shot, word):
    said = " ".join(c.sentence for c in cautions_for(shot, KitKind.ACTION))

    assert word in said and ("aviation" in said) == (shot == "flight")
    assert not any(
        term in said.lower() for term in ("minutes of", "decompress", "you may dive", "permitted to")
    )

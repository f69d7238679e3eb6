"""White to lock: mired, what can be put right, the camera's range; and words for numbers."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.plan.light import LIGHTS
from morphe.core.plan.questions import Questions
from morphe.core.plan.scene import scene_of
from morphe.core.plan.white import fixable_mired, mired, white_balance
from morphe.core.plan.wording import clock, kelvin, minutes, offset, shutter
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.kits import KITS

SANDPIPER, CUTTLE, FERN = KITS.values()
STANDARD, LOG = PROFILES.get("std-709"), PROFILES.get("log-wide")


def white(kit=SANDPIPER, profile=LOG, bits=10, **answers):
    return white_balance(scene_of(Questions.from_json(answers), kit), kit, profile, bits)


# Reciprocal megakelvin: 3200 K = 312.5, 5600 = 178.57, 6500 = 153.85; from 3200 to 5600 are 133.93
@pytest.mark.parametrize(
    ("value", "reciprocal"), [(3200, 312.5), (5600, 178.57), (6500, 153.85), (10_000, 100.0)]
)
def test_given_a_temperature_when_turned_into_mired_then_it_is_as_tabulated(value, reciprocal):
    assert mired(value) == pytest.approx(reciprocal, abs=0.01)


@pytest.mark.parametrize(
    ("light", "low", "high"),
    [("sun", 5200, 5800), ("cloudy", 5800, 6500), ("shade", 6500, 9000), ("room", 2700, 3200),
     ("street", 2000, 3000), ("low-sun", 3200, 4800)],
)  # fmt: skip
def test_given_a_light_when_planned_then_the_white_lies_in_its_usual_span_and_is_locked(light, low, high):
    answer = white(light=light)

    assert low <= answer.numbers["kelvin"] <= high
    assert answer.value.endswith("K, locked")
    assert "drifts during a take" in answer.reason


@pytest.mark.parametrize("light", list(LIGHTS))
@pytest.mark.parametrize("kit", KITS.values(), ids=lambda k: k.name)
def test_given_any_light_when_planned_then_the_camera_can_be_set_to_it(kit, light):
    value = white(kit, light=light).numbers["kelvin"]

    assert kit.kelvin_lowest <= value <= kit.kelvin_highest


def test_given_a_camera_that_ends_short_when_planned_then_the_rest_is_named_in_mired():
    short = replace(SANDPIPER, kelvin_lowest=4000)

    answer = white(short, light="street")

    assert answer.numbers["kelvin"] == 4000
    assert "nearer 2500 K" in answer.warning and "150 mired away" in answer.warning
    assert "more than can be put right later" in answer.warning


@pytest.mark.parametrize(("profile", "bits", "fixable"), [(STANDARD, 8, 25), (LOG, 8, 30), (LOG, 10, 60),
                                                          (STANDARD, 10, 60)])  # fmt: skip
def test_given_bits_and_profile_when_a_white_is_off_then_more_can_be_mended_with_more_bits(
    profile, bits, fixable
):
    answer = white(profile=profile, bits=bits, light="sun")
    low, high = answer.numbers["fixable_from_kelvin"], answer.numbers["fixable_to_kelvin"]

    assert fixable_mired(profile, bits) == fixable
    assert mired(low) - mired(answer.numbers["kelvin"]) == pytest.approx(fixable, abs=0.5)
    assert low < answer.numbers["kelvin"] < high


@pytest.mark.parametrize(("lamp", "words"), [("yes", "Set it for the lamp"), ("no", "No colour temperature")])
def test_given_water_when_planned_then_the_white_is_daylight_and_the_slate_comes_second(lamp, words):
    answer = white(CUTTLE, shot="dive", lamp=lamp, light="sun")

    assert answer.numbers["kelvin"] == 5500
    assert answer.reason.startswith(words)
    assert "white slate at depth" in answer.runner_up


@pytest.mark.parametrize(
    ("lamp", "filtered", "warned"), [("no", False, False), ("no", True, True), ("yes", False, True)]
)
def test_given_a_lamp_or_a_filter_when_planned_then_the_cameras_preset_for_water_is_advised_against(
    lamp, filtered, warned
):
    questions = Questions.from_json({"shot": "dive", "lamp": lamp, "light": "sun"})
    answer = white_balance(scene_of(questions, CUTTLE), CUTTLE, LOG, 10, filtered=filtered)

    assert ("preset for water off" in answer.warning) is warned
    assert ("preset for water" in answer.runner_up) is (lamp == "no")


# --- words -----------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("value", "shown"),
    [(0, "0"), (1 / 3, "+⅓ stop"), (-2 / 3, "−⅔ stop"), (1.0, "+1 stop"), (4 / 3, "+1⅓ stops"),
     (-2.0, "−2 stops"), (0.1, "0")],
)  # fmt: skip
def test_given_an_offset_when_shown_then_it_reads_as_on_a_camera(value, shown):
    assert offset(value) == shown


@pytest.mark.parametrize(
    ("seconds", "shown"), [(1 / 50, "1/50"), (1 / 2.5, "1/2.5"), (1.0, "1 s"), (1 / 8000, "1/8000")]
)
def test_given_a_shutter_when_shown_then_it_reads_as_on_a_camera(seconds, shown):
    assert shutter(seconds) == shown


@pytest.mark.parametrize(
    ("value", "shown"), [(0.5, "30 s"), (0.001, "1 s"), (62, "62 min"), (150, "2.5 h"), (900, "15 h")]
)
def test_given_minutes_when_shown_then_their_unit_suits_them(value, shown):
    assert minutes(value) == shown


@pytest.mark.parametrize(
    ("hour", "shown"), [(0, "00:00"), (10.5, "10:30"), (23.999, "00:00"), (9.25, "09:15")]
)
def test_given_an_hour_when_shown_then_it_is_24_hour_time(hour, shown):
    assert clock(hour) == shown


@given(value=st.floats(1500, 15000))
def test_given_any_temperature_when_shown_then_no_decimals_pretend_to_more(value):
    assert kelvin(value) == f"{round(value)} K" or abs(value - round(value)) == 0.5

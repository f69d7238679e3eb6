"""The whole card: three answers suffice, every line has its reason, nothing goes beyond the camera."""

import json
from dataclasses import replace
from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.errors import MorpheError, PlanError
from morphe.core.plan.card import shoot_card
from morphe.core.plan.exposure import Pins
from morphe.core.plan.kit import Kit, School
from morphe.core.plan.light import LIGHTS, SKIES
from morphe.core.plan.questions import Delivery, Device, Questions
from morphe.core.plan.shots import SHOTS
from morphe.core.signal.profiles import PROFILES, Kind
from morphe.core.standins.kits import KITS

SANDPIPER, CUTTLE, FERN = KITS.values()


def card(kit=SANDPIPER, **answers):
    return shoot_card(Questions.from_json(answers), kit)


kits = st.sampled_from(KITS.values())
answers = st.fixed_dictionaries(
    {"shot": st.sampled_from(list(SHOTS)), "light": st.sampled_from(list(LIGHTS))},
    optional={
        "grading_hours": st.sampled_from([0, 1, 5]),
        "delivery": st.sampled_from(list(Delivery)),
        "device": st.sampled_from(list(Device)),
        "school": st.sampled_from(list(School)),
        "slow": st.sampled_from([1, 2, 4]),
        "mains_hz": st.sampled_from([50, 60]),
        "contrast_stops": st.integers(3, 15),
        "minutes": st.sampled_from([1, 20, 600]),
    },
)


@pytest.mark.parametrize("kit", KITS.values(), ids=lambda k: k.name)
@pytest.mark.parametrize("shot", list(SHOTS))
def test_given_three_answers_when_asked_then_every_line_has_a_value_and_a_reason(kit, shot):
    found = card(kit, shot=shot, light="cloudy")

    assert {"profile", "target", "shutter", "filter", "iso", "white-balance", "recording", "frame-rate",
            "steadying", "storage", "transfer", "editing"} <= {a.key for a in found.answers}  # fmt: skip
    assert all(a.value and a.reason for a in found.answers)
    assert found.cautions and found.checklist
    assert json.loads(json.dumps(found.as_json()))["camera"] == kit.name


@given(kit=kits, asked=answers)
def test_given_any_answers_when_planned_then_the_camera_can_do_all_of_it(kit, asked):
    found = card(kit, **asked)
    plan = found.plan

    assert plan.best.profile.key in kit.profiles
    assert plan.recording in kit.recordings
    assert plan.settings.nd is None or plan.settings.nd in kit.filters
    assert kit.iso_base <= plan.settings.iso <= kit.iso_ceiling
    assert kit.aperture_widest <= plan.settings.aperture <= kit.aperture_narrowest
    assert kit.shutter_fastest_s * 0.999 <= plan.settings.shutter_s <= 1.001 / plan.fps
    assert kit.kelvin_lowest <= found.answer("white-balance").numbers["kelvin"] <= kit.kelvin_highest
    if PROFILES.get(plan.best.profile.key).kind is Kind.HLG:
        assert plan.recording.bit_depth == 10
    if not plan.settings.is_good:
        assert found.answer("filter").warning or found.answer("iso").warning


@given(kit=kits, asked=answers)
def test_given_any_answers_when_the_stack_is_summed_then_the_grey_card_lands_where_it_says(kit, asked):
    stack = card(kit, **asked).stack

    kept_out = sum(share.stops for share in stack[1:-1])
    assert stack[0].stops - kept_out == pytest.approx(stack[-1].stops, abs=1e-6)


@given(kit=kits, shot=st.sampled_from(["flight", "ride", "walk"]), ev=st.floats(4, 15), more=st.floats(0, 5),
       school=st.sampled_from(list(School)))  # fmt: skip
def test_given_more_light_when_planned_then_the_filter_never_gets_weaker(kit, shot, ev, more, school):
    def densities(value):
        found = card(kit, shot=shot, light="measured", measured_ev=value, school=school)
        return found.plan.settings.nd_stops

    assert densities(ev + more) >= densities(ev)


def test_given_no_time_when_planned_then_standard_wins_and_time_would_change_it():
    found = card(SANDPIPER, shot="flight", light="sun", grading_hours=0)

    profile = found.answer("profile")
    assert profile.numbers["kind"] == "standard"
    assert any("for grading" in s for s in profile.numbers["sensitivity"])
    later = card(SANDPIPER, shot="flight", light="sun", grading_hours=4)
    assert later.answer("profile").numbers["kind"] == "log"


def test_given_only_8_bit_when_planned_then_full_log_is_not_proposed():
    eight = replace(SANDPIPER, recordings=tuple(r for r in SANDPIPER.recordings if r.bit_depth == 8))

    profile = card(eight, shot="flight", light="sun", grading_hours=10).answer("profile")

    assert profile.numbers["kind"] in ("standard", "flat")
    assert profile.numbers["scores"]["log-wide"] < profile.numbers["scores"]["flat-a"]


def test_given_hdr_delivery_when_every_camera_has_it_then_hlg_is_proposed_and_otherwise_not():
    asked = Questions.from_json({"shot": "flight", "light": "sun", "delivery": "web-hdr"})

    together = shoot_card(asked, SANDPIPER, companions=[FERN])
    mixed = shoot_card(asked, SANDPIPER, companions=[CUTTLE])

    assert together.answer("profile").numbers["profile"] == "hlg"
    assert mixed.answer("profile").numbers["profile"] != "hlg"


def test_given_log_in_the_sun_when_exposed_bright_then_it_is_more_light_but_never_past_the_clip():
    found = card(SANDPIPER, shot="flight", light="sun", grading_hours=4, school="bright")
    full = card(SANDPIPER, shot="flight", light="sun", grading_hours=4, school="bright", contrast_stops=15)

    assert found.plan.offset_stops == pytest.approx(4 / 3)
    assert found.plan.settings.iso == 100
    assert found.clips_stops == 0
    assert full.plan.offset_stops < 0.6


def test_given_phone_log_when_held_under_then_it_is_one_stop():
    found = card(replace(FERN, profiles=("log-mild",)), shot="talk", light="shade")

    assert found.plan.offset_stops == -1


def test_given_a_lesson_when_taken_then_the_settings_let_in_that_much_more():
    usual = card(FERN, shot="walk", light="cloudy")
    taught = card(FERN, shot="walk", light="cloudy", lesson_stops=2 / 3)

    assert taught.plan.offset_stops - usual.plan.offset_stops == pytest.approx(2 / 3)
    assert "lesson" in taught.answer("target").reason


@pytest.mark.parametrize(
    ("depth", "lamp", "water", "value"),
    [(1.5, "no", "II", "No colour filter"), (9, "no", "II", "Red filter"), (9, "yes", "II", "Lamp on"),
     (25, "no", "II", "No colour filter"), (9, "no", "3C", "No colour filter")],
)  # fmt: skip
def test_given_a_depth_when_planned_then_filter_and_lamp_follow_the_rules(depth, lamp, water, value):
    found = card(CUTTLE, shot="dive", light="sun", depth_m=depth, lamp=lamp, water=water)

    line = found.answer("water")
    assert line.value == value
    assert "Red" in line.reason or "red" in line.reason
    assert ("magenta" in line.reason) == (water == "3C")


def test_given_greater_depth_when_planned_then_more_red_is_missing_and_8_bit_gives_up_first():
    shallow, deep = (card(CUTTLE, shot="dive", light="sun", depth_m=d, lamp="no") for d in (5, 16))

    missing = [c.answer("water").numbers["red_behind_stops"] for c in (shallow, deep)]
    assert missing[0] < missing[1]
    assert "can be brought back" in shallow.answer("water").reason
    assert "in part" in deep.answer("water").reason


def test_given_a_camera_that_is_not_made_for_it_when_planned_then_that_is_said_first():
    assert "does not fly" in card(FERN, shot="flight").problems[0]
    assert "must be kept dry" in card(FERN, shot="dive").problems[0]
    assert "rated to 60 m" in card(CUTTLE, shot="dive", depth_m=70).problems[0]
    assert card(CUTTLE, shot="dive").problems == ()


def test_given_lamps_when_planned_then_the_shutter_is_safe_and_the_white_is_warm():
    found = card(FERN, shot="night", light="street", mains_hz=60)

    assert "Safe under 60 Hz" in found.answer("shutter").warning
    assert found.answer("shutter").numbers["flicker_residual_pct"] < 3
    assert found.answer("white-balance").numbers["kelvin"] == 2500


def test_given_darkness_when_planned_then_the_best_is_given_with_what_would_help():
    found = card(SANDPIPER, shot="flight", light="measured", measured_ev=0)

    assert found.plan.settings.error_stops < -1
    assert "too dark" in found.answer("iso").warning
    assert found.plan.settings.iso == SANDPIPER.iso_ceiling


def test_given_no_filters_in_the_sun_when_planned_then_the_missing_one_is_named():
    found = card(replace(SANDPIPER, filters=()), shot="flight", light="sun")

    assert found.plan.settings.is_good
    assert "An ND64" in found.answer("filter").warning


def test_given_sun_and_sky_at_a_place_when_planned_then_the_light_follows_the_hour():
    def ev(hour):
        return card(
            SANDPIPER, shot="flight", light="sky", place="wrenfleet", day=date(2026, 9, 12), hour=hour
        ).plan.scene.ev

    assert ev(12.8) > ev(9) > ev(7) > ev(5)


def test_given_slow_motion_when_the_camera_lacks_it_then_the_nearest_is_taken_and_said():
    line = card(SANDPIPER, shot="flight", light="sun", slow=8).answer("frame-rate")

    assert line.numbers["fps"] == 100
    assert "no 200 fps" in line.warning


def test_given_pins_when_planned_then_they_hold_and_the_rest_follows():
    questions = Questions.from_json({"shot": "flight", "light": "sun"})

    found = shoot_card(questions, SANDPIPER, pins=Pins(nd_stops=0))

    assert found.plan.settings.nd is None
    assert found.plan.settings.is_good
    assert found.plan.settings.shutter_s < 1 / 2000


def test_given_a_full_card_when_planned_then_it_is_said():
    found = card(SANDPIPER, shot="flight", light="sun", minutes=600, storage_left_gb=5)

    assert "take another card" in found.answer("storage").warning


@pytest.mark.parametrize("sky", list(SKIES))
def test_given_any_sky_when_its_sun_is_typed_then_no_place_is_needed(sky):
    assert card(SANDPIPER, shot="flight", light="sky", sky=sky, sun_deg=30).plan.scene.ev > 11


@pytest.mark.parametrize(
    ("asked", "words"),
    [({"shot": "swim"}, "Kind of shot"), ({"light": "dark"}, "Light must be"),
     ({"light": "measured"}, "exposure "
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            ""
                                                            "value"),
     ({"light": "sky"}, "give a place"), ({"measured_ev": "x"}, "must be a number"),
     ({"hour": 25}, "between 0 and 24"),
     ({"day": "12.9."}, "no date"), ({"depth_m": "nan"}, "Depth"), ({"colour": 1}, "no question colour")],
)  # fmt: skip
def test_given_an_answer_that_makes_no_sense_when_read_then_a_sentence_names_it(asked, words):
    with pytest.raises(PlanError, match=words):
        Questions.from_json(asked)


def test_given_questions_when_written_and_read_then_nothing_is_lost():
    asked = Questions.from_json(
        {"shot": "dive", "light": "sky", "place": "-17.2, 146.1", "place_name": "Reef", "day": "2026-09-12",
         "lamp": "no", "depth_m": 9, "school": "under", "skin": "yes"}
    )  # fmt: skip

    assert Questions.from_json(json.loads(json.dumps(asked.as_json(), default=str))) == asked


def changed(**changes):
    return {**json.loads(json.dumps(SANDPIPER.as_json())), **changes}


@pytest.mark.parametrize(
    ("data", "words"),
    [([], "no camera description"), ({}, "Name of the camera is missing"), (changed(recordings=[]),
     "at least one way"),
     (changed(profiles=["secret"]), "secret"), (changed(profiles=[]), "at least one profile"),
     (changed(iso_base=-1), "Base ISO"), (changed(aperture_narrowest=1.0), "widest aperture"),
     (changed(recordings=[{"codec": "h264"}]), "Sandpiper: Bit depth"), (changed(filters=["ND8"]), "Filters"),
     (changed(filters="ND8"), "Filters must be a list"), (changed(zoom=3), "no field zoom"),
     (changed(steadying=["magic"]), "Way of steadying"), (changed(kind="boat"), "Kind of camera")],
)  # fmt: skip
def test_given_a_broken_camera_when_read_then_a_sentence_names_the_field(data, words):
    with pytest.raises(MorpheError, match=words):
        Kit.from_json(data)

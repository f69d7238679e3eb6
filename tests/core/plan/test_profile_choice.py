"""Profiles scored by what they cost and save: each factor pulls the way the job says."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.errors import PlanError
from morphe.core.plan import fields
from morphe.core.plan.kit import Codec, Kit, Recording
from morphe.core.plan.profile_choice import Circumstances, choose, score_profile, score_recording
from morphe.core.plan.questions import Delivery, Device
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.kits import KITS

SANDPIPER, CUTTLE, FERN = KITS.values()
USUAL = Circumstances(
    contrast_stops=9, iso_stops=0, grading_hours=3, delivery=Delivery.WEB_SDR, device=Device.LAPTOP,
    skin=False, is_under_water=False, fps=25, wanted_minutes=20, usable_gb=100,
)  # fmt: skip


def points(key, bits=10, **changes):
    return sum(f.points for f in score_profile(PROFILES.get(key), bits, replace(USUAL, **changes)))


def recording(**changes):
    plain = Recording(
        codec=Codec.H264, bit_depth=8, chroma="4:2:0", width=1920, height=1080, fps=25, mbit_s=20
    )
    return replace(plain, **changes)


@pytest.mark.parametrize(
    ("better", "worse"),
    [
        (("log-wide", 10, {}), ("log-wide", 8, {})),
        (("std-709", 8, {"grading_hours": 0}), ("log-wide", 8, {"grading_hours": 0})),
        (("log-wide", 10, {"contrast_stops": 13}), ("std-709", 10, {"contrast_stops": 13})),
        (("log-wide", 10, {}), ("log-wide", 10, {"iso_stops": 3})),
        (("log-mild", 10, {}), ("log-mild", 10, {"device": Device.PHONE})),
        (("hlg", 10, {"delivery": Delivery.WEB_HDR}), ("std-709", 10, {"delivery": Delivery.WEB_HDR})),
        (("std-709", 8, {}), ("vivid-a", 8, {})),
        (("vivid-a", 8, {}), ("vivid-a", 8, {"skin": True})),
        (
            ("hlg", 10, {"delivery": Delivery.WEB_HDR}),
            ("hlg", 10, {"delivery": Delivery.WEB_HDR, "all_hdr": False}),
        ),
    ],
)
def test_given_two_choices_when_scored_then_the_one_the_job_prefers_has_more_points(better, worse):
    (one, bits_one, about_one), (two, bits_two, about_two) = better, worse

    assert points(one, bits_one, **about_one) > points(two, bits_two, **about_two)


@given(hours=st.floats(0, 5), more=st.floats(0, 5), key=st.sampled_from(list(PROFILES)))
def test_given_more_time_when_scored_then_no_profile_loses(hours, more, key):
    assert points(key, grading_hours=hours + more) >= points(key, grading_hours=hours) - 1e-9


@given(contrast=st.floats(3, 14), more=st.floats(0, 3), key=st.sampled_from(list(PROFILES)))
def test_given_more_contrast_when_scored_then_standard_falls_behind_log(contrast, more, key):
    def lead(stops):
        return points("log-wide", contrast_stops=stops) - points("std-709", contrast_stops=stops)

    assert lead(contrast + more) >= lead(contrast) - 1e-6


@pytest.mark.parametrize(
    ("better", "worse"),
    [
        ({"mbit_s": 40}, {"mbit_s": 8}),
        ({"codec": Codec.HEVC}, {"codec": Codec.H264}),
        ({}, {"mbit_s": 900}),
    ],
)
def test_given_two_recordings_when_scored_then_bits_help_and_their_burden_counts(better, worse):
    one, two = (
        sum(f.points for f in score_recording(recording(**changes), replace(USUAL, wanted_minutes=60)))
        for changes in (better, worse)
    )

    assert one > two


@pytest.mark.parametrize("kit", KITS.values(), ids=lambda k: k.name)
def test_given_a_camera_when_chosen_for_then_only_what_it_has_is_ranked_best_first(kit):
    verdicts = choose(kit, USUAL)

    assert {v.profile.key for v in verdicts} <= set(kit.profiles)
    assert all(v.recording in kit.recordings for v in verdicts)
    assert [v.points for v in verdicts] == sorted((v.points for v in verdicts), reverse=True)


def test_given_a_profile_all_cameras_share_when_chosen_then_it_gains():
    alone, shared = (choose(SANDPIPER, replace(USUAL, shared=frozenset(s))) for s in ((), ("flat-a",)))

    def of(verdicts):
        return next(v.points for v in verdicts if v.profile.key == "flat-a")

    assert of(shared) > of(alone)


# --- plain values from forms and files -------------------------------------------------------------


@pytest.mark.parametrize(
    ("value", "found"), [("12", 12.0), (" 3,5 ", 3.5), (7, 7.0), ("", 1.0), (None, 1.0), ("1e1", 10.0)]
)
def test_given_a_number_in_any_writing_when_read_then_it_is_understood(value, found):
    assert fields.number({"x": value}, "x", "Depth", 0, 100, 1.0) == found


@pytest.mark.parametrize("value", ["deep", "-1", "101", "nan", "inf", True, [], "1 2"])
def test_given_no_number_when_read_then_its_name_is_in_the_sentence(value):
    with pytest.raises(PlanError, match="Depth must"):
        fields.number({"x": value}, "x", "Depth", 0, 100)


def test_given_nothing_when_it_is_needed_then_it_is_called_missing():
    with pytest.raises(PlanError, match="Depth is missing; give a number from 0 to 100"):
        fields.number({}, "x", "Depth", 0, 100)
    with pytest.raises(PlanError, match="Name is missing"):
        fields.text({"n": "  "}, "n", "Name")


@pytest.mark.parametrize(
    ("value", "on"), [("yes", True), ("on", True), (True, True), ("no", False), ("", False), (0, False)]
)
def test_given_yes_or_no_in_any_writing_when_read_then_it_is_understood(value, on):
    assert fields.flag({"x": value}, "x") is on


def test_given_texts_and_lists_when_read_then_they_are_tidied_and_bounded():
    assert fields.text({"n": "  a   b "}, "n", "Name") == "a b"
    assert fields.items({}, "l", "List") == []
    with pytest.raises(PlanError, match="too long"):
        fields.text({"n": "x" * 500}, "n", "Name")
    with pytest.raises(PlanError, match="at most"):
        fields.items({"l": "many"}, "l", "List")


@pytest.mark.parametrize(
    ("change", "sentence"),
    [({"recordings": []}, "at least one way of recording"), ({"profiles": []}, "at least one profile"),
     ({"iso_base": 3200, "iso_ceiling": 100}, "base ISO"),
     ({"kelvin_lowest": 9000, "kelvin_highest": 4000}, "temperature"),
     ({"aperture_widest": 8, "aperture_narrowest": 2}, "widest aperture"),
     ({"profiles": ["film"]}, "no profile"), ({"recordings": [{"codec": "film"}]}, "Codec must be one of"),
     ({"filters": [{"name": "X", "stops": 90}]}, "Stops")],
)  # fmt: skip
def test_given_a_camera_that_cannot_be_when_read_then_the_sentence_names_the_field(change, sentence):
    with pytest.raises(Exception, match=sentence):
        Kit.from_json({**SANDPIPER.as_json(), **change})

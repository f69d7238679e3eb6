"""Notes against the plan, and lessons from finished clips."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.plan.card import shoot_card
from morphe.core.plan.lessons import learn_exposure
from morphe.core.plan.questions import Questions
from morphe.core.plan.slate import Recorded, check_against_plan, parse_note
from morphe.core.plan.wording import offset, stops
from morphe.core.standins.kits import KITS

PLANNED = shoot_card(
    Questions.from_json({"shot": "flight", "light": "sun"}), KITS.get("sandpiper")
).settings_json()
FILE = {"fps": 25.0, "bit_depth": 10, "kind": "log", "kind_is_sure": False}


@pytest.mark.parametrize(
    ("note", "words"),
    [
        ("1/400 iso 800 ND8 5600K flat", ["1/400", "ISO 800", "ND8", "5600 K", "flat"]),
        ("gust at the sluice, 1/50, ISO100, f/2.8, 25 fps", ["1/50", "ISO 100", "f/2.8", "25 fps"]),
        ("no ND, log", ["no ND", "log"]),
        ("ND 1.8, f1.85", ["ND64", "f/1.85"]),  # a density: the logarithm of what is held back
        ("ND.9 at f 11. Gusts", ["ND8", "f/11"]),
        ("ND1000, 1/50.", ["1/50", "ND1000"]),
        ("take 12 of 1999, 3 people", []),
        ("", []),
    ],
)
def test_given_a_note_when_read_then_only_settings_are_understood(note, words):
    assert parse_note(note).words == words


@given(st.text(max_size=200))
def test_given_any_words_when_read_then_nothing_breaks(note):
    assert isinstance(parse_note(note), Recorded)


def checks(note="", tags="", **file):
    found = check_against_plan(
        PLANNED, slate=parse_note(note) if note else None, tags=parse_note(tags), file={**FILE, **file}
    )
    return {check.label: check for check in found}


def test_given_a_slate_that_differs_when_checked_then_both_numbers_and_the_difference_are_said():
    found = checks("1/400 iso 100")

    assert found["Shutter"].sentence == "Shutter: planned 1/60, slate says 1/400, 2.7 stops shorter."
    assert found["ISO"].agrees is True
    assert found["White balance"].sentence == "White balance: planned 5500 K, not recorded."


def test_given_tags_in_the_file_when_the_slate_is_silent_then_they_speak():
    found = checks(tags="shot at 1/60 ISO 400 6500K")

    assert found["Shutter"].agrees is True
    assert (found["ISO"].source, found["ISO"].agrees) == ("file", False)
    assert found["White balance"].difference == "28 mired off"


def test_given_a_guess_at_the_profile_when_it_is_not_sure_then_it_counts_as_not_recorded():
    assert checks()["Profile"].agrees is None
    assert checks(kind_is_sure=True, kind="standard")["Profile"].agrees is False
    assert checks("flat")["Profile"].agrees is True


def test_given_the_file_when_its_facts_differ_then_it_is_said():
    found = checks(fps=50.0, bit_depth=8)

    assert found["Frame rate"].agrees is found["Bit depth"].agrees is False
    assert "file says 8-bit" in found["Bit depth"].sentence


@pytest.mark.parametrize(
    ("corrections", "taught"),
    [([0.6, 0.7, 0.72], 2 / 3), ([-0.3, -0.35, -0.4, -0.31], -1 / 3), ([0.7, 0.7], None),
     ([1.5, 0.1, -1.2], None),
     ([0.1, 0.0, 0.2], None)],
)  # fmt: skip
def test_given_corrections_when_learnt_from_then_only_what_agrees_becomes_a_lesson(corrections, taught):
    lesson = learn_exposure("log-wide", corrections)

    assert (lesson and lesson.stops) == (taught and pytest.approx(taught))
    if lesson:
        assert "Wide log wanted" in lesson.sentence


@pytest.mark.parametrize(
    ("value", "words", "shown"),
    [(2 / 3, "two thirds of a stop", "+⅔ stop"), (-1 / 3, "a third of a stop", "−⅓ stop"),
     (4 / 3, "1⅓ stops", "+1⅓ "
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
                                                            "stops"),
     (1.0, "1 stop", "+1 stop"), (0.0, "0 stops", "0")],
)  # fmt: skip
def test_given_stops_when_spoken_then_thirds_stay_thirds(value, words, shown):
    assert stops(value) == words
    assert offset(value) == shown

"""Plain values from forms and files: read within their bounds, or refused with one sentence."""

import pytest

from morphe.core.errors import MorpheError, PlanError, is_disk_full
from morphe.core.plan.fields import MAX_ITEMS, MAX_TEXT, choice, flag, items, number, optional_number, text


@pytest.mark.parametrize(("value", "read"), [("12", 12), (" 12,5 ", 12.5), (3, 3), ("1e1", 10), (20, 20)])
def test_given_a_number_when_read_then_comma_and_point_are_alike(value, read):
    assert number({"depth": value}, "depth", "Depth", 0, 20) == read


@pytest.mark.parametrize(
    ("value", "words"),
    [
        (None, "Depth is missing; give a number from 0 to 20"),
        ("  ", "Depth is missing"),
        ("deep", "must be a number, not “deep”"),
        ("21", "between 0 and 20, not 21"),
        ("nan", "between 0 and 20"),
        ("-inf", "between 0 and 20"),
        (True, "must be a number"),
        ("9" * 500, "between 0 and 20"),
    ],
)
def test_given_what_is_no_number_here_when_read_then_a_sentence_says_what_to_give(value, words):
    with pytest.raises(PlanError, match=words) as refused:
        number({"depth": value}, "depth", "Depth", 0, 20)
    assert len(str(refused.value)) < 160


def test_given_a_number_left_out_when_read_then_it_is_the_usual_one_or_none():
    assert number({}, "depth", "Depth", 0, 20, default=4) == 4
    assert optional_number({"depth": ""}, "depth", "Depth", 0, 20) is None
    assert optional_number({"depth": "7"}, "depth", "Depth", 0, 20) == 7
    with pytest.raises(PlanError):
        optional_number({"depth": "70"}, "depth", "Depth", 0, 20)


def test_given_a_word_when_read_then_it_is_a_known_one():
    known = ("phone", "drone")

    assert choice({"kind": "drone"}, "kind", "Kind", known) == "drone"
    assert choice({}, "kind", "Kind", known, default="phone") == "phone"
    for wrong in ("kite", "", None, ["drone"]):
        with pytest.raises(PlanError, match="must be one of phone, drone"):
            choice({"kind": wrong}, "kind", "Kind", known)


@pytest.mark.parametrize(
    ("value", "is_on"), [("yes", True), ("ON", True), ("1", True), (True, True), ("no", False), ("x", False)]
)
def test_given_yes_or_no_when_read_then_it_is_understood(value, is_on):
    assert flag({"grid": value}, "grid") is is_on
    assert flag({}, "grid", default=is_on) is is_on


def test_given_a_text_when_read_then_its_spaces_are_single_and_its_length_has_an_end():
    assert text({"name": "  Harbour \n morning "}, "name", "Name") == "Harbour morning"
    assert text({}, "name", "Name", default="Day") == "Day"
    with pytest.raises(PlanError, match="fill it in"):
        text({"name": " "}, "name", "Name")
    with pytest.raises(PlanError, match="too long"):
        text({"name": "a" * (MAX_TEXT + 1)}, "name", "Name")


def test_given_a_list_when_read_then_it_is_one_of_bounded_length():
    assert items({}, "lenses", "Lenses") == [] and items({"lenses": (1, 2)}, "lenses", "Lenses") == [1, 2]
    for wrong in ("abc", {"a": 1}, [0] * (MAX_ITEMS + 1)):
        with pytest.raises(PlanError, match="list of at most"):
            items({"lenses": wrong}, "lenses", "Lenses")


def test_given_an_error_that_came_from_a_full_disk_when_asked_then_it_is_known_through_all_that_wrapped_it():
    full = OSError(28, "No space left on device")
    wrapped = MorpheError("The file could not be written.")
    wrapped.__cause__ = full

    assert is_disk_full(full) and is_disk_full(wrapped)
    assert not is_disk_full(OSError(13, "Permission denied")) and not is_disk_full(None)

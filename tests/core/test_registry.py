"""The one registry: order, refusal of doubles, and an answer to unknown names."""

import pytest

from morphe.core.errors import MorpheError, UnknownName
from morphe.core.registry import Registry


@pytest.fixture
def shelf():
    made = Registry("jar")
    made.register("plum")("p")
    made.register("apple")("a")
    return made


def test_given_entries_when_listed_then_they_keep_their_order(shelf):
    assert list(shelf) == ["plum", "apple"]
    assert shelf.values() == ["p", "a"]
    assert "plum" in shelf and "pear" not in shelf


def test_given_a_second_entry_of_a_name_when_filed_then_it_is_refused(shelf):
    with pytest.raises(ValueError, match="registered already"):
        shelf.register("plum")("q")

    assert shelf.get("plum") == "p"


def test_given_an_unknown_name_when_asked_then_the_known_ones_are_told(shelf):
    with pytest.raises(UnknownName, match="no jar 'pear'; known are: plum, apple") as told:
        shelf.get("pear")

    assert isinstance(told.value, MorpheError)

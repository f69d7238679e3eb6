"""Footage that takes its reader down: one sentence for its clip, and nothing for anybody else."""

from __future__ import annotations

import html
import re
import time

import pytest

from morphe.web.jobs.services.children import Look
from tests.serving import Visitor, served

FAULTS = {
    "crash": "could not be read; export it as H.264 and try again: it was tried 3 times and never ended.",
    "hang": "it was tried 3 times and never ended.",
    "sleep": "it was tried 3 times and never ended.",
    "bomb": "it takes more memory than there is for it.",
}
SOUND = ("sound", "escape")  # what tries to leave its cage is held, and its clip is read
SHARED_S = 90.0


@pytest.fixture(scope="module")
def visitor(tmp_path_factory):
    """A Morphe whose decoder has faults, and somebody who uses it."""
    home = tmp_path_factory.mktemp("home")
    with served(home, outing="Faults", settings="tests.faults.settings") as address:
        yield Visitor(address)


def card_of(visitor: Visitor, name: str) -> tuple[str, str]:
    """How a clip stands, and what is said of it."""
    page = html.unescape(visitor.get("/clips/"))
    found = re.search(rf'data-clip-state="(\w+)"(?:(?!<article).)*?{name}.mp4.*?</article>', page, re.S)
    return (found[1], found[0]) if found else ("", page)


def test_given_footage_that_breaks_its_reader_when_brought_in_then_each_costs_one_sentence(
    visitor, log_file, tmp_path
):
    for number, name in enumerate([*FAULTS, *SOUND]):
        own = tmp_path / f"{name}.mp4"
        own.write_bytes(log_file.read_bytes() + bytes(number))  # each file is another one
        visitor.send("/clips/upload/", own, own.name)
    until = time.monotonic() + SHARED_S
    while time.monotonic() < until:
        cards = {name: card_of(visitor, name) for name in [*FAULTS, *SOUND]}
        if all(state in ("failed", "ready") for state, _ in cards.values()):
            break
        time.sleep(0.5)

    assert {cards[name][0] for name in SOUND} == {"ready"}
    for name, words in FAULTS.items():
        assert cards[name][0] == "failed", name
        assert words.split(":")[-1] in cards[name][1], name


@pytest.mark.parametrize(("held_up", "least", "most"), [(0.0, 5.0, 5.0), (5.0, 0.3, 1.0), (60.0, 0.0, 0.0)])
def test_given_a_busy_machine_when_a_child_is_watched_then_waiting_for_a_processor_is_no_standing_still(
    held_up, least, most
):
    before = Look(at=100.0, pulse=1.0, written=0, held_up={"1": 7.0, "2": 3.0})
    after = Look(at=105.0, pulse=1.0, written=0, held_up={"1": 7.0 + held_up, "2": 3.0, "3": 90.0})

    assert least <= before.still_until(after) <= most

"""The places: on a phone, the four that this moment of the outing needs, the rest behind one more."""

import re

from morphe.web.shell.context import PLACES

LATER = re.compile(r'class="rail-place rail-later" href="([^"]+)"')


def later(page):
    return set(LATER.findall(page))


def test_given_an_outing_without_clips_when_opened_then_planning_is_at_hand(client, outing):
    page = client.get("/plan/").content.decode()

    assert not {"/plan/", "/clips/", "/library/"} & later(page)
    assert {"/bench/", "/hand-over/", "/match/"} <= later(page)


def test_given_clips_when_opened_then_working_on_them_is_at_hand(client, clip):
    page = client.get("/clips/").content.decode()

    assert not {"/clips/", "/bench/", "/hand-over/"} & later(page)
    assert {"/plan/", "/match/", "/library/"} <= later(page)


def test_given_any_moment_when_opened_then_every_place_is_in_the_rail_and_four_are_at_hand(client, outing):
    page = client.get("/").content.decode()

    assert all(f'href="{place.url}"' in page for place in PLACES)
    assert len(PLACES) - len(later(page)) == 4

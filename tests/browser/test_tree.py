"""What a screen reader is told, and every place's task by keys alone."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.driving import open_on_bench, rung, settle, tab_to

NAMED = {"button", "link", "textbox", "searchbox", "spinbutton", "combobox", "checkbox", "radio", "slider",
         "progressbar", "switch", "DisclosureTriangle", "radiogroup", "image", "dialog"}  # fmt: skip
VALUED = {"slider", "progressbar", "spinbutton"}
PLACES = (
    "/", "/plan/", "/clips/", "/clips/?view=corrected", "/bench/4/?open=balance", "/match/", "/hand-over/",
    "/logbook/", "/library/", "/library/profiles/", "/library/looks/", "/keep/", "/library/devices/",
    "/plan/1/checks/",
)  # fmt: skip


def tree(page):
    """Role, name and value of all that a screen reader meets."""
    session = page.context.new_cdp_session(page)
    session.send("Accessibility.enable")
    nodes = session.send("Accessibility.getFullAXTree")["nodes"]
    session.detach()
    for node in nodes:
        if not node.get("ignored"):
            yield (
                node["role"]["value"], node.get("name", {}).get("value", "").strip(),
                node.get("value", {}).get("value"),
            )  # fmt: skip


@pytest.mark.parametrize("path", PLACES)
def test_given_any_place_when_read_aloud_then_everything_has_a_name_and_every_number_a_value(
    page, address, path
):
    page.goto(f"{address}{path}")
    if "/bench/" in path:
        expect(page.locator("[data-bench][data-shown]")).to_be_visible()

    found = list(tree(page))

    assert [one for one in found if one[0] in NAMED and not one[1]] == []
    assert [one for one in found if one[0] in VALUED and one[2] is None] == []
    assert sum(role == "main" for role, *_ in found) == 1


def test_given_the_bench_read_aloud_when_a_loupe_is_moved_by_keys_then_its_new_value_is_told(page, address):
    open_on_bench(page, address, "fern-jetty-hlg.mp4")
    page.locator("#rung-black").click()
    loupe = page.get_by_role("slider", name=re.compile("^Black point"))
    before = loupe.get_attribute("aria-valuetext")
    loupe.focus()
    page.keyboard.press("Shift+ArrowRight")
    settle(page)

    assert (
        page.get_by_role("slider", name=re.compile("^Black point")).get_attribute("aria-valuetext") != before
    )

    # judging frames are one choice, which arrows make
    page.get_by_role("radio").first.focus()
    page.keyboard.press("ArrowRight")
    expect(page.get_by_role("radio").nth(1)).to_be_focused()
    expect(page.get_by_role("radio").nth(1)).to_be_checked()
    assert page.get_by_role("radio").first.get_attribute("tabindex") == "-1"
    page.keyboard.press("u")
    expect(rung(page, "black").locator(".state")).not_to_have_text("Yours")


def test_given_keys_alone_when_each_place_is_used_then_its_task_is_done(page, address, grey_file):
    # plan: an answer, a take, and its check
    page.goto(f"{address}/plan/?camera=3")
    tab_to(page, "Slate a take")
    page.keyboard.press("Enter")
    tab_to(page, "Note")
    page.keyboard.type("gust at the jetty")
    page.keyboard.press("Enter")
    row = page.locator("table.takes tr", has_text="gust at the jetty")
    expect(row).to_be_visible()
    row.get_by_role("link", name="Check").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Check a take")).to_be_visible()
    tab_to(page, "Choose a clip or still")
    with page.expect_file_chooser() as chooser:
        page.keyboard.press("Enter")
    chooser.value.set_files(str(grey_file))
    expect(page.locator(".verdict")).to_contain_text(re.compile("Keep|Film again"), timeout=60_000)

    # match: a reference is pinned
    page.goto(f"{address}/match/")
    tab_to(page, "Pin it")
    page.keyboard.press("Enter")
    expect(page.locator("img[src*='/match/pin/']").first).to_be_visible()

    # library: a profile's page; logbook: a filter
    page.goto(f"{address}/library/")
    tab_to(page, "Profiles")
    page.keyboard.press("Enter")
    expect(page.locator("a[aria-current=page]", has_text="Profiles")).to_be_visible()
    page.goto(f"{address}/logbook/")
    tab_to(page, "CSV")
    with page.expect_download() as waiting:
        page.keyboard.press("Enter")
    assert waiting.value.suggested_filename.endswith(".csv")

    # today: the tour begins
    page.goto(address)
    tab_to(page, "Take the tour")
    page.keyboard.press("Enter")
    expect(page.get_by_role("status", name="Tour")).to_contain_text("of 5")
    tab_to(page, "End the tour")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Take the tour")).to_have_count(0)

"""What a screen reader is told of what moves, and every place's task by keys alone."""

import re

from playwright.sync_api import expect

from tests.browser.driving import open_on_bench, rung, settle, tab_to


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
    choosers = []
    page.on(
        "filechooser", lambda one: choosers.append(one)
    )  # long before: a key may be quicker than the wish to be told

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
    page.keyboard.press("Enter")
    for _ in range(100):
        if choosers:
            break
        page.wait_for_timeout(100)
    choosers[0].set_files(str(grey_file))
    expect(page.locator(".verdict")).to_contain_text(re.compile("Keep|Film again"), timeout=60_000)

    # match: a reference is pinned
    page.goto(f"{address}/match/")
    if not page.locator("details.pinning[open]").count():  # a journey before this one pinned a frame
        tab_to(page, "Pin another")
        page.keyboard.press("Enter")
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
    expect(page).to_have_url(re.compile("/bench/|/hand-over/"))
    page.goto(address)
    expect(page.get_by_text(re.compile("Tour, . of 5|Five decisions made"))).to_be_visible()
    tab_to(page, "End the tour")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Take the tour")).to_have_count(0)

"""Match by hand: a reference pinned, a clip of another camera brought to it in part, a look put above it."""

import re

from playwright.sync_api import expect

from tests.browser.driving import drag, shown_grade


def pin(page, address, title):
    page.goto(f"{address}/match/")
    if not page.get_by_label("A clip as it looks now").is_visible():
        page.get_by_text("Pin another").click()
    page.get_by_label("A clip as it looks now").select_option(label=title)
    page.locator("form", has=page.get_by_label("A clip as it looks now")).get_by_role("button").click()
    expect(page.locator("[data-reference]")).to_be_visible()


def test_given_two_cameras_when_matched_then_the_way_is_shown_scaled_and_put_on_the_clip(page, address):
    pin(page, address, "fern-jetty-talk.mp4")
    page.get_by_role("link", name="cuttle-jetty-log.mp4").click()
    page.get_by_role("button", name="Find the way from cuttle-jetty-log.mp4").click()
    stages = page.locator("[data-stages]")
    expect(stages).to_be_visible(timeout=120_000)
    expect(page.get_by_role("heading", name="alike")).to_be_visible()

    matched = page.locator("[data-matched]")
    whole = matched.get_attribute("src")
    page.get_by_label("Levels: black, middle and white").fill("60")
    expect(matched).not_to_have_attribute("src", whole)
    page.get_by_role("button", name="Hold: as it is now").dispatch_event("pointerdown")
    expect(page.locator("[data-now]")).to_be_visible()
    page.get_by_role("button", name="Hold: as it is now").dispatch_event("pointerup")
    expect(matched).to_be_visible()
    page.get_by_role("button", name="Reference over it").click()
    edge = page.get_by_label("Edge between reference and clip")
    drag(page, edge, -60, 0)
    edge.press("ArrowLeft")
    assert float(edge.get_attribute("aria-valuenow")) < 45
    expect(page.locator("[data-half]")).to_have_attribute("style", re.compile("clip-path"))
    page.get_by_role("button", name="Put it on this clip").click()

    expect(page.get_by_text("is matched to fern-jetty-talk.mp4")).to_be_visible()
    expect(page.get_by_label("Levels: black, middle and white")).to_have_value("60")
    page.get_by_role("link", name="On the Bench").click()
    expect(page.locator("[data-bench][data-shown]")).to_be_visible()
    expect(page.locator("[data-group=match]")).to_contain_text("Match to fern-jetty-talk.mp4")
    assert "exposure" in shown_grade(page)

    # a style above it, as strong as the clip bears
    page.locator("#shared-style summary").click()
    expect(page.locator(".looks .answer").first).to_be_visible(timeout=90_000)  # each is tried on the clip
    page.locator(".looks .answer", has_text="Matt paper").click()
    expect(page.locator("#shared-style > summary")).to_have_text("Matt paper")
    assert shown_grade(page)["fade"]["black"] == 6


def test_given_a_phone_when_the_rest_of_the_places_is_opened_then_match_fits_the_screen(phone, address):
    phone.goto(f"{address}/clips/")
    expect(phone.get_by_role("link", name="Match")).to_have_count(0)
    phone.locator(".rail-more summary").tap()
    phone.get_by_role("link", name="Match").tap()

    expect(phone.get_by_role("heading", name="Match", exact=True)).to_be_visible()
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390

"""The whole ladder as a person works it: ten clips with few actions, by keys alone, and with a thumb."""

from __future__ import annotations

import math
import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.driving import open_on_bench, rung, settle, shown_grade

CLIPS = 10
MOST_ACTIONS = 60


class Hand:
    """A person's hand: every click and every number that is set is counted."""

    def __init__(self, page: Page) -> None:
        self.page, self.actions = page, 0

    def click(self, locator) -> None:
        self.actions += 1
        locator.click()

    def set(self, locator, value: float) -> None:
        self.actions += 1
        locator.fill(str(value))
        locator.dispatch_event("change")


def families(page: Page) -> list[list[float]]:
    return shown_grade(page).get("families", {}).get("edits", [])


def ready(page: Page, address: str) -> None:
    page.goto(f"{address}/clips/?view=corrected")
    expect(page.locator("[data-clip-state=ready]").nth(CLIPS - 1)).to_be_visible(timeout=240_000)


def calm(hand: Hand, key: str, strength: float) -> None:
    """Open the palette, choose a family and set its strength."""
    page = hand.page
    hand.click(page.locator("#rung-families"))
    hand.click(page.locator(f"[data-swatch={key}]"))
    hand.set(page.locator("[data-edit=strength] input[type=range]"), strength)
    expect(rung(page, "families").locator(".rung-summary")).to_have_text(re.compile(r"\d colours?"))
    settle(page)


def test_given_ten_clips_when_skin_greens_and_a_loud_red_are_seen_to_then_it_takes_few_actions(page, address):
    hand = Hand(page)
    ready(page, address)
    take = page.get_by_role("button", name="Take all proposals")
    if take.count():
        hand.click(take)
        expect(take).to_have_count(0, timeout=60_000)

    hand.actions += 1
    open_on_bench(page, address, "fern-jetty-talk.mp4")
    hand.click(page.locator("#rung-skin"))
    expect(rung(page, "skin").locator(".measured")).to_have_text(re.compile("Skin lies"))
    expect(page.locator("[data-skin-now]")).to_have_text(re.compile("off its line"))
    accept = rung(page, "skin").locator("[data-accept]")
    if accept.count():
        hand.click(accept)
        settle(page)
    calm(hand, "reds", -45)
    assert families(page)[0][4] == -45
    expect(page.locator("[data-palette-rest]")).to_have_text(re.compile(r"moved by 0\.[0-4]"))

    before = families(page)[0]
    ring = page.locator("[data-ring]")
    expect(ring).to_be_visible()
    ring.evaluate("node => node.scrollIntoView({ block: 'center' })")  # at once: the ladder may come anew
    box = ring.bounding_box()
    middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    radius = box["height"] / 2 - 28
    for turn, act in ((before[0] + before[2], "down"), (before[0] + before[2] + 15, "move")):
        angle = math.radians(turn - 90)
        page.mouse.move(middle[0] + radius * math.cos(angle), middle[1] + radius * math.sin(angle))
        if act == "down":
            page.mouse.down()
    page.mouse.up()
    hand.actions += 1
    assert families(page)[0][2] == pytest.approx(before[2] + 15, abs=3)  # it reaches further by so much

    hand.actions += 1
    open_on_bench(page, address, "sandpiper-sluice-quick.mp4")
    calm(hand, "greens", -20)
    expect(page.locator("#fixes-head")).to_be_visible()

    hand.click(page.locator(".ladder-foot").get_by_role("button", name="Hand over"))
    job = page.locator(".job", has_text="sandpiper-sluice-quick.mp4").first
    expect(job.locator(".state")).to_have_text("Done", timeout=180_000)
    expect(job.get_by_text(re.compile("Looked over|All checks"))).to_be_visible()
    assert hand.actions < MOST_ACTIONS


def test_given_keys_alone_when_the_ladder_is_walked_then_a_curve_is_bent_and_history_goes_back(page, address):
    ready(page, address)
    open_on_bench(page, address, "fern-jetty-hlg.mp4")
    page.keyboard.press("1")
    for _ in range(20):
        if page.locator(".rung.open").get_attribute("data-rung") == "curves":
            break
        page.keyboard.press("]")
    plane = page.locator("[data-curves]")
    plane.focus()
    page.keyboard.press("PageDown")
    for key in ("ArrowLeft", "ArrowDown", "ArrowDown"):
        page.keyboard.press(f"Shift+{key}")
    expect(rung(page, "curves").locator(".state")).to_have_text("Yours")
    assert shown_grade(page)["curves"]["luma"][-1][1] < 100
    page.keyboard.press("x")
    expect(rung(page, "curves").locator(".state")).to_have_text("Off")

    page.get_by_role("link", name="History").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Two versions compared")).to_be_attached()
    expect(page.get_by_role("row", name=re.compile("Curves"))).to_be_visible()
    page.get_by_role("button", name="Go back to it").first.focus()
    page.keyboard.press("Enter")
    expect(page.locator(".versions .now").get_by_text("Back to")).to_be_visible()


def test_given_a_phone_when_a_colour_is_tapped_and_calmed_then_only_it_changes(phone, address):
    ready(phone, address)
    phone.get_by_label("Open cuttle-jetty-log.mp4 on the Bench").first.tap()
    expect(phone.locator("[data-bench][data-shown]")).to_be_visible()
    phone.goto(f"{phone.url.split('?')[0]}?open=families")
    expect(phone.locator("[data-bench][data-shown]")).to_be_visible()
    expect(phone.locator("[data-swatch]").first).to_be_visible()

    rung(phone, "families").get_by_role("button", name="A colour to change").tap()
    frame = phone.locator("[data-frame]").bounding_box()
    phone.touchscreen.tap(frame["x"] + 0.2 * frame["width"], frame["y"] + 0.8 * frame["height"])
    expect(phone.locator("[data-swatch^='at-']")).to_be_visible()
    phone.locator("[data-edit=strength] input[type=range]").fill("-30")
    phone.locator("[data-edit=strength] input[type=range]").dispatch_event("change")
    settle(phone)

    assert [edit[4] for edit in families(phone)] == [-30]
    palette = phone.locator("[data-palette]")
    expect(palette).to_be_visible()
    # measured in one go: a ladder that comes anew takes its place between two questions
    left, right = palette.evaluate(
        "node => (({ left, right }) => [left, right])(node.getBoundingClientRect())"
    )
    assert 0 <= left < right <= 390


def test_given_a_touch_that_turns_into_a_scroll_when_a_new_ladder_comes_then_it_is_taken(phone, address):
    ready(phone, address)
    open_on_bench(phone, address, "cuttle-jetty-log.mp4")
    phone.goto(f"{phone.url.split('?')[0]}?open=exposure")
    slider = phone.locator("#ladder .rung.open input[type=range]:visible").first
    expect(slider).to_be_visible()
    marked = phone.locator("#ladder [data-before-the-new]")

    def renewed():
        """Mark the ladder that stands, and have a new one come."""
        phone.evaluate(
            "() => { document.querySelector('#ladder').firstElementChild.dataset.beforeTheNew = ''; }"
        )
        with phone.expect_response(re.compile("/ladder/")):
            phone.evaluate("() => htmx.trigger(document.body, 'ladder-is-old')")

    slider.dispatch_event("pointerdown")
    renewed()
    settle(phone)
    expect(marked).to_have_count(1)  # under the hand it stays
    slider.dispatch_event("pointercancel")
    renewed()

    expect(marked).to_have_count(0)

"""Practice: an exercise of each kind by keys at a desk and by touch on a phone; the record stays."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.driving import settle, tab_to

WORD = re.compile("Right\\.|Not this time")


def answered(page):
    """The answer is told, lit in picture and scope, and the next one is at hand."""
    expect(page.locator(".outcome")).to_contain_text(WORD)
    expect(page.get_by_role("link", name="Next one")).to_be_focused()
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")


def drawn(page, address, key):
    page.goto(f"{address}/practice/{key}/")
    expect(page.locator("canvas[data-drawn]").first).to_be_visible()


def test_given_keys_alone_when_an_exercise_of_each_kind_is_done_then_each_is_answered_and_kept(page, address):
    page.goto(f"{address}/practice/")
    tab_to(page, "Begin")
    page.keyboard.press("Enter")
    expect(page.locator("canvas[data-drawn]").first).to_be_visible()

    drawn(page, address, "leans")
    page.keyboard.press("2")
    answered(page)
    expect(page.locator(".choice-chosen")).to_have_count(1)
    expect(page.get_by_alt_text("What answers, lit")).to_be_visible()
    page.keyboard.press("Enter")  # the next one
    expect(page.locator("canvas[data-drawn]").first).to_be_visible()

    drawn(page, address, "face")
    tab_to(page, "The waveform")
    for key in ("ArrowLeft", "ArrowDown", "Shift+ArrowUp", "ArrowLeft"):
        page.keyboard.press(key)
    expect(page.locator(".tap-mark")).to_be_visible()
    page.keyboard.press("Enter")
    answered(page)
    expect(page.get_by_alt_text("What answers, lit")).to_be_visible()

    page.goto(f"{address}/practice/eyes/warmth/")
    page.keyboard.press("ArrowRight")
    expect(page.locator("#pair")).to_contain_text("1 compared")
    page.keyboard.press("ArrowLeft")
    expect(page.locator("#pair")).to_contain_text("2 compared")

    page.goto(f"{address}/practice/camera/")
    tab_to(page, "Film it so")
    page.keyboard.press("Enter")
    expect(page.get_by_alt_text("Brought back")).to_be_visible()

    # the record is there for another visit
    page.goto(f"{address}/practice/")
    for label in ("Which channel leans", "The face on the waveform", "Camera decisions"):
        expect(page.get_by_role("listitem").filter(has_text=label).first).to_contain_text("of 1 right")


def test_given_a_phone_when_an_exercise_of_each_kind_is_done_by_touch_then_each_is_answered(phone, address):
    drawn(phone, address, "face")
    phone.locator("[data-tap] canvas").tap(position={"x": 100, "y": 120})
    answered(phone)

    drawn(phone, address, "highest")
    phone.locator("[data-tap] img").first.tap(position={"x": 60, "y": 40})
    answered(phone)

    for key in ("belongs", "name-colour", "matches"):
        drawn(phone, address, key)
        choice = phone.locator("[data-choice]").first
        assert choice.bounding_box()["height"] >= 44
        choice.tap()
        answered(phone)

    phone.goto(f"{address}/practice/eyes/tint/")
    phone.get_by_role("button", name="The left one").tap()
    expect(phone.locator("#pair")).to_contain_text("1 compared")

    phone.goto(f"{address}/practice/camera/")
    phone.get_by_label("Filter").select_option("5")
    phone.get_by_role("button", name="Film it so").tap()
    expect(phone.get_by_alt_text("As filmed")).to_be_visible()
    assert phone.evaluate("document.documentElement.scrollWidth <= innerWidth")


@pytest.mark.parametrize("kind", ["mend-colour"])
def test_given_a_clip_to_mend_when_set_by_hand_then_the_number_falls_and_what_remains_is_told(
    page, address, kind
):
    page.goto(f"{address}/practice/mend/{kind}/")
    expect(page).to_have_url(re.compile("/bench/"), timeout=120_000)
    expect(page.locator("[data-distance]")).to_have_text(re.compile("[0-9]"))
    first = float(page.locator("[data-distance]").text_content())
    expect(page.get_by_role("button", name="Accept all")).to_have_count(0)

    if page.locator("[data-rung=balance].open").count() == 0:
        page.locator("#rung-balance").click()

    def set_to(value):
        page.locator("#balance-warmth").fill(value)
        page.locator("#balance-warmth").press("Enter")
        settle(page)
        return float(page.locator("[data-distance]").text_content()) < first

    falls = [set_to(value) for value in ("30", "-30")]
    assert falls.count(True) == 1  # one of them is the right way
    if falls[0]:
        set_to("30")
    page.get_by_role("button", name="Enough").click()

    expect(page.get_by_role("heading", name=re.compile("Mended|What remains"))).to_be_visible()
    expect(page.get_by_text(re.compile(f"from {first}"))).to_be_visible()
    expect(page.get_by_alt_text("The truth")).to_be_visible()


def test_given_a_clip_to_mend_on_a_phone_when_nothing_is_done_then_all_of_it_remains_and_is_told(
    phone, address
):
    phone.goto(f"{address}/practice/mend/mend-light/")
    expect(phone).to_have_url(re.compile("/bench/"), timeout=120_000)
    expect(phone.locator("[data-distance]")).to_have_text(re.compile("[0-9]"), timeout=60_000)
    assert phone.evaluate("document.documentElement.scrollWidth <= innerWidth")
    phone.get_by_role("button", name="Enough").tap()

    expect(phone.get_by_role("heading", name="What remains")).to_be_visible()
    expect(phone.get_by_text(re.compile("Still .* stop too (bright|dark)"))).to_be_visible()

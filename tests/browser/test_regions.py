"""Regions: put on the picture, moved at two moments, followed, by mouse, by touch on a phone and by keys."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.driving import (
    drag,
    expect_played_like_still,
    open_on_bench,
    open_rung,
    settle,
    shown,
    wait_for_proxy,
)

# checked once settling, 20 ms after the swap, is over
LOUPE_IS_DRAWN = """async () => {
  await new Promise((done) => setTimeout(done, 300));
  const loupe = document.querySelector(".rung.open [data-loupe]");
  const { data } = loupe.getContext("2d").getImageData(0, 0, loupe.width, loupe.height);
  return data.some((value) => value > 0);
}"""
CLIP = "fern-jetty-talk.mp4"


def region_of(page):
    """The region that the picture on the screen was made with, and its layer."""
    layer = next(x for x in shown(page)["layers"] if x.get("region"))
    return layer["region"], layer


def add_ellipse(page):
    page.get_by_role("button", name="Ellipse").click()
    expect(page.locator("[data-region][open]")).to_be_visible()
    expect(page.locator("[data-handle=middle]")).to_be_visible()


def take_away(page):
    settle(page)
    page.locator("[data-region][open]").get_by_role("button", name="Take away").click()
    expect(page.locator("[data-region]")).to_have_count(0)


def test_given_the_bench_when_opened_then_one_still_is_asked_for_and_the_pointer_draws_no_gauge(
    page, address
):
    open_on_bench(page, address, CLIP)
    bench, gauges = page.locator("[data-bench]"), page.locator("[data-gauges]")
    expect(page.locator("[data-moment='0'] [data-moment-state]")).to_have_text(re.compile("fits|clip|sink"))
    drawn = gauges.get_attribute("data-drawn")

    box = page.locator("[data-frame]").bounding_box()
    for share in (0.2, 0.5, 0.8):
        page.mouse.move(box["x"] + share * box["width"], box["y"] + share * box["height"])
        expect(page.locator("[data-reading]")).to_contain_text("luma")
    expect(page.locator(".gauge-point").first).to_be_visible()

    assert bench.get_attribute("data-stills") == "1"
    assert gauges.get_attribute("data-drawn") == drawn

    # a ladder that comes anew draws its magnified scope, though no new still is due
    page.locator("#rungs").evaluate("rungs => { rungs.dataset.former = 'yes'; }")
    page.evaluate("document.body.dispatchEvent(new Event('ladder-is-old'))")
    expect(page.locator("#ladder:not(.htmx-settling) #rungs:not([data-former])")).to_be_attached()
    assert page.evaluate(LOUPE_IS_DRAWN)


def test_given_a_region_when_moved_at_two_moments_and_followed_then_it_travels_and_plays(page, address):
    open_on_bench(page, address, CLIP)
    add_ellipse(page)

    drag(page, page.locator("[data-handle=middle]"), -150, -60)
    settle(page)
    slide = page.locator("[data-region][open] [data-step=exposure] input[type=range]")
    slide.fill("1")
    expect(page.locator("[data-region][open] summary")).to_contain_text("1 stops brighter")
    region, layer = region_of(page)
    assert region["moments"][0][1] < 0.45 and layer["steps"][0]["stops"] == 1

    # another place at another moment: two diamonds on the strip
    page.get_by_role("button", name="Moment here").click()
    settle(page)
    page.locator("[data-moment='1']").click()
    drag(page, page.locator("[data-handle=middle]"), 80, 30)
    expect(page.locator(".moment-mark")).to_have_count(2)
    region, _ = region_of(page)
    assert len(region["moments"]) == 2
    assert region["moments"][0][1] < region["moments"][1][1]

    # what is under it is followed by the worker
    page.get_by_role("button", name="Follow from here").click()
    expect(page.locator("[data-region][open]")).to_contain_text(
        re.compile("Followed from|Lost at"), timeout=60_000
    )
    assert len(region_of(page)[0]["moments"]) >= 2

    page.get_by_role("button", name="Play").click()
    expect(page.locator("[data-motion]")).to_have_attribute("data-way", "graphics", timeout=30_000)
    page.get_by_role("button", name="Still", exact=True).click()
    page.get_by_role("button", name="Undo").click()
    expect(page.locator("[data-region][open]")).to_contain_text("2 moments")
    take_away(page)


def test_given_keys_alone_when_a_region_is_placed_then_its_handles_answer(page, address):
    open_on_bench(page, address, CLIP)
    page.get_by_role("button", name="Ellipse").focus()
    page.keyboard.press("Enter")
    middle = page.get_by_role("button", name="Ellipse: move")
    expect(middle).to_be_visible()
    before = region_of(page)[0]["moments"][0]

    middle.focus()
    page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("ArrowDown")
    settle(page)
    expect(middle).to_be_focused()

    after = region_of(page)[0]["moments"][0]
    assert after[1] > before[1] and after[2] > before[2]
    take_away(page)


def test_given_a_phone_when_a_region_is_dragged_by_touch_then_it_moves(phone, address):
    open_on_bench(phone, address, CLIP)
    phone.get_by_role("button", name="Ellipse").tap()
    handle = phone.locator("[data-handle=middle]")
    expect(handle).to_be_visible()
    before = region_of(phone)[0]["moments"][0]

    box = handle.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    client = phone.context.new_cdp_session(phone)
    for kind, points in (
        ("touchStart", [{"x": x, "y": y}]),
        ("touchMove", [{"x": x + 30, "y": y + 10}]),
        ("touchMove", [{"x": x + 60, "y": y + 20}]),
        ("touchEnd", []),
    ):
        client.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})
    settle(phone)

    assert region_of(phone)[0]["moments"][0][1] > before[1] + 0.05
    assert box["width"] >= 44 and box["height"] >= 44
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    settle(phone)
    phone.locator("[data-region][open]").get_by_role("button", name="Take away").tap()
    expect(phone.locator("[data-region]")).to_have_count(0)


@pytest.mark.parametrize("plain", [False, True], ids=["graphics", "script"])
def test_given_a_region_when_played_then_the_picture_is_that_of_the_still(page, address, plain):
    open_on_bench(page, address, CLIP)
    add_ellipse(page)
    page.locator("[data-region][open] [data-step=exposure] input[type=range]").fill("-1.5")
    expect(page.locator("[data-region][open] summary")).to_contain_text("darker")
    settle(page)

    wait_for_proxy(page)
    expect_played_like_still(page, plain)
    take_away(page)


def test_given_an_answer_on_its_way_when_another_rung_is_opened_then_it_stays_open(page, address):
    open_on_bench(page, address, CLIP)
    page.locator("#rung-exposure").click()
    settle(page)
    held = []
    page.route(re.compile(r"/change/keep/"), lambda route: held.append(route))
    page.locator("#exposure-stops").fill("0.4")
    page.locator("#exposure-stops").press("Enter")
    expect(page.locator("[data-bench][data-unsaved]")).to_be_attached()
    page.wait_for_timeout(700)
    page.locator("#rung-black").click()
    assert held
    for route in held:
        route.continue_()
    settle(page)
    expect(page.locator("#loupe-black")).to_be_visible()


def test_given_a_number_set_when_a_ladder_is_fetched_before_it_is_kept_then_it_is_kept_after(page, address):
    open_on_bench(page, address, "fern-jetty-hlg.mp4")
    open_rung(page, "exposure")
    page.locator("#exposure-stops").fill("0.45")  # not let go of: nothing is sent by this alone
    with page.expect_response(re.compile(r"/ladder/")):
        page.evaluate("document.body.dispatchEvent(new Event('ladder-is-old'))")
    settle(page)
    page.reload()

    expect(page.locator("#exposure-stops")).to_have_value("0.45")
    page.locator("#exposure-stops").press("Control+a")
    page.keyboard.type("0.45")  # over itself: to a browser no change
    page.keyboard.press("Tab")
    settle(page)


def test_given_a_place_when_it_is_left_out_then_it_is_listed_followed_and_undone(page, address):
    open_on_bench(page, address, CLIP)
    page.locator(".stage-tools [data-tap-switch]").click()
    box = page.locator("[data-frame]").bounding_box()
    page.mouse.click(box["x"] + 0.4 * box["width"], box["y"] + 0.5 * box["height"])
    page.get_by_role("button", name="Leave it out").first.click()
    expect(page.locator("[data-left-out]")).to_have_text("Left out: “Spot”.")
    expect(page.locator("[data-region][open]")).to_contain_text("left out")

    # its outline is drawn on by hand, and goes with what lies under it
    drag(page, page.locator("[data-handle=wide]"), 60, 0)
    settle(page)
    region, layer = region_of(page)
    assert layer["left_out"] and region["shape"]["wide"] > 0.15
    wait_for_proxy(page)
    page.get_by_role("button", name="Follow from here").click()
    expect(page.locator("[data-region][open]")).to_contain_text(
        re.compile("Followed from|Lost at"), timeout=60_000
    )

    for _ in range(3):
        page.get_by_role("button", name="Undo").click()
        settle(page)
    expect(page.locator("[data-left-out]")).to_be_hidden()
    expect(page.locator("[data-region]")).to_have_count(0)

"""A person's way through: with the mouse on a laptop, with keys alone, and with a thumb on a phone."""

import re

import pytest
from playwright.sync_api import expect

from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frame_at
from tests.browser.driving import bring_in, drag, open_on_bench, picture, rung, scope, settle, shown_grade


def test_given_a_clip_when_worked_on_with_the_mouse_then_it_is_corrected_delivered_and_logged(
    page, address, jetty_file, tmp_path
):
    bring_in(page, address, jetty_file)
    open_on_bench(page, address, jetty_file.name)
    flat_picture, flat_luma = picture(page), scope(page, "luma")

    # accept a proposal: picture and scopes change
    page.get_by_role("button", name=re.compile("Convert from")).click()
    expect(rung(page, "convert").locator(".state")).to_have_text("Taken")
    expect(page.locator("[data-after]")).not_to_have_attribute("src", flat_picture)
    assert "convert" in shown_grade(page)
    expect(page.locator("[data-moment='0'] [data-moment-state]")).to_have_text(re.compile("fits|clip|sink"))
    assert scope(page, "luma") != flat_luma

    # tap something white: the scarf-side sky is grey
    page.locator("#rung-balance").click()
    page.get_by_role("button", name="White or grey").click()
    frame = page.locator("[data-frame]").bounding_box()
    page.mouse.click(frame["x"] + 0.7 * frame["width"], frame["y"] + 0.1 * frame["height"])
    expect(page.locator("[data-said]")).to_contain_text("neutral")
    expect(rung(page, "balance").locator(".state")).to_have_text(re.compile("Yours|Taken"))

    # a slider: the number follows, and so does the picture
    page.locator("#rung-exposure").click()
    before = picture(page)
    page.locator("#exposure-stops-slide").fill("0.6")
    expect(page.locator("#exposure-stops")).to_have_value("0.6")
    expect(page.locator("[data-after]")).not_to_have_attribute("src", before)

    settle(page)

    # a loupe: drag the dark mark down, the number follows
    page.locator("#rung-black").click()
    before, before_luma = picture(page), scope(page, "luma")
    drag(page, page.locator("#loupe-black"), 0, 40)
    expect(page.locator("[data-after]")).not_to_have_attribute("src", before)
    expect(rung(page, "black").locator(".state")).to_have_text("Yours")
    assert abs(float(page.locator("#black-lower").input_value())) > 1
    assert scope(page, "luma") != before_luma

    # undo takes the black point back, and keeps the rest
    page.get_by_role("button", name="Undo").click()
    expect(page.locator("#black-lower")).to_have_value("0.0")
    assert float(page.locator("#exposure-stops").input_value()) == pytest.approx(0.6)

    # render to the end, download, decode
    page.locator(".ladder-foot").get_by_role("button", name="Hand over").click()
    job = page.locator(".job", has_text=jetty_file.name).first
    expect(job.locator(".state")).to_have_text("Done", timeout=180_000)
    with page.expect_download() as waiting:
        job.get_by_role("link", name="Clip").click()
    delivered = tmp_path / "delivered.mp4"
    waiting.value.save_as(delivered)
    assert probe(delivered).frames == 60
    contrast = [frame_at(probe(f), 1.0).encoded().std() for f in (jetty_file, delivered)]
    assert contrast[1] > 1.4 * contrast[0]

    # the logbook has it, with numbers
    page.goto(f"{address}/logbook/")
    row = page.locator("table.log tr", has_text="Handed over my-jetty").first
    expect(row).to_contain_text("60 frames")
    expect(row).to_contain_text("Exposure 0.6 stops brighter")


def test_given_a_clip_when_worked_on_with_keys_alone_then_everything_is_within_reach(
    page, address, grey_file
):
    bring_in(page, address, grey_file)
    open_on_bench(page, address, grey_file.name)
    press = page.keyboard.press

    press("4")
    expect(rung(page, "exposure")).to_have_class(re.compile("open"))
    expect(page.locator("#rung-exposure")).to_be_focused()
    before = picture(page)
    press("ArrowRight")
    press("Shift+ArrowRight")
    expect(page.locator("#exposure-stops")).to_have_value("0.55")
    expect(rung(page, "exposure").locator(".state")).to_have_text("Yours")
    expect(page.locator("[data-after]")).not_to_have_attribute("src", before)
    press("x")
    expect(rung(page, "exposure").locator(".state")).to_have_text("Off")
    press("u")
    expect(rung(page, "exposure").locator(".state")).to_have_text("Yours")
    press("u")
    expect(page.locator("#exposure-stops")).to_have_value("0.0")
    press("r")
    expect(page.locator("#exposure-stops")).to_have_value("0.55")

    page.keyboard.down("b")
    expect(page.locator("[data-before]")).to_be_visible()
    page.keyboard.up("b")
    expect(page.locator("[data-before]")).to_be_hidden()
    press(".")
    expect(page.locator("[data-moment='1']")).to_have_attribute("aria-checked", "true")
    press("g")
    expect(page.locator("#gauges")).to_be_hidden()
    press("?")
    expect(page.get_by_role("dialog")).to_be_visible()
    press("Escape")
    expect(page.get_by_role("dialog")).to_be_hidden()

    hand_over = page.locator(".ladder-foot").get_by_role("button", name="Hand over")
    hand_over.focus()
    press("Enter")
    expect(page.locator(".job", has_text=grey_file.name).first.locator(".state")).to_have_text(
        "Done", timeout=180_000
    )


def test_given_a_phone_when_a_clip_is_corrected_then_picture_rung_and_next_step_are_in_reach(
    phone, address, jetty_file
):
    phone.goto(f"{address}/bench/")
    expect(phone.locator("[data-bench][data-shown]")).to_be_visible()
    width = phone.evaluate("document.documentElement.scrollWidth")

    before = picture(phone)
    phone.get_by_role("button", name="Accept all").tap()
    expect(phone.locator("[data-after]")).not_to_have_attribute("src", before)
    first = phone.locator(".rung.open").get_attribute("data-rung")
    phone.locator(".rung.open").get_by_role("button", name="Next step").tap()
    second = phone.locator(".rung.open").get_attribute("data-rung")
    box = phone.locator("[data-frame]").bounding_box()

    assert width <= 390
    assert first != second
    assert box["y"] >= 0 and box["y"] + box["height"] < 422  # the picture stays in the upper half
    expect(phone.locator(".rung.open .measured")).to_be_in_viewport()
    for place in ("Today", "Clips", "Hand over", "Logbook"):
        link = phone.get_by_role("link", name=place, exact=True)
        if not link.count():  # behind the one for the rest
            phone.locator(".rail-more summary").tap()
        link.tap()
        expect(phone.get_by_role("heading", level=1)).to_be_visible()
        assert phone.evaluate("document.documentElement.scrollWidth") <= 390


def test_given_something_that_is_no_clip_when_brought_in_then_the_card_says_so(page, address, tmp_path):
    letter = tmp_path / "letter.mp4"
    letter.write_text("Dear all,\n" * 50)
    page.goto(f"{address}/clips/")

    page.get_by_label("Clips to bring in").set_input_files(str(letter))

    card = page.locator("[data-clip-state=failed]", has_text="letter.mp4")
    expect(card).to_contain_text("copy it again from the card", timeout=90_000)


def test_given_the_picture_when_compared_probed_and_lit_then_the_page_answers(page, address):
    open_on_bench(page, address, "cuttle-jetty-log.mp4")
    frame = page.locator("[data-frame]")

    page.get_by_role("button", name="Before").click()
    edge = page.get_by_role("slider", name="Edge between before and after")
    drag(page, edge, 120, 0)
    assert int(edge.get_attribute("aria-valuenow")) > 55
    box = frame.bounding_box()
    page.mouse.move(box["x"] + box["width"] * 0.25, box["y"] + box["height"] * 0.3)
    expect(page.locator("[data-reading]")).to_contain_text("luma")
    gauge = page.locator("[data-gauge=luma]").bounding_box()
    page.mouse.move(gauge["x"] + gauge["width"] / 2, gauge["y"] + gauge["height"] / 2)
    page.mouse.down()
    expect(page.locator("[data-lit-picture]")).to_be_visible()
    page.mouse.up()
    expect(page.locator("[data-lit-picture]")).to_be_hidden()


def test_given_the_clips_when_searched_and_a_recipe_is_passed_on_then_the_list_answers(page, address):
    open_on_bench(page, address, "fern-jetty-hlg.mp4")
    page.get_by_role("button", name="Accept all").click()
    expect(rung(page, "convert").locator(".state")).to_have_text("Taken")
    page.goto(f"{address}/clips/")
    expect(page.locator("#cards[data-busy]")).to_have_count(0, timeout=240_000)  # all have been read

    page.get_by_role("searchbox", name="Search clips").fill("sluice")
    expect(page.locator(".card-clip", has_text="fern-jetty-hlg.mp4")).to_have_count(0)
    page.get_by_label("Select sandpiper-sluice-quick.mp4").check()
    page.get_by_role("searchbox", name="Search clips").fill("")
    expect(page.locator(".card-clip", has_text="fern-jetty-hlg.mp4")).to_have_count(1)
    expect(page.get_by_label("Select sandpiper-sluice-quick.mp4")).to_be_checked()  # ticks outlive a new list
    page.get_by_text("Pass a correction on").click()
    page.get_by_label("Correction of").select_option(label="fern-jetty-hlg.mp4")
    page.get_by_role("button", name="Pass it on").click()

    expect(page.locator("#decided")).to_contain_text("Passed fern-jetty-hlg.mp4 on to 1 clip", timeout=30_000)


def test_given_daylight_or_dim_when_switched_then_it_stays_on_the_next_page(page, address):
    page.goto(address)
    first = page.locator("html").get_attribute("data-theme")

    page.get_by_role("button", name="Switch between Dim and Daylight").click()
    page.goto(f"{address}/logbook/")

    assert page.locator("html").get_attribute("data-theme") != first

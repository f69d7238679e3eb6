"""Planning by hand: with a thumb on a phone, by dragging and by keys, on paper, and with no server at all."""

import re

from django.utils.dateparse import parse_datetime
from playwright.sync_api import expect

from morphe.core.plan.slate import parse_notes


def open_plan(page, address: str, camera: str) -> None:
    page.goto(f"{address}/plan/")
    page.get_by_role("navigation", name="Cameras of the day").get_by_role("link", name=camera).click()
    expect(page.get_by_label(f"Settings of {camera}")).to_be_visible()


def setting(page, label: str):
    return page.locator(".setting", has=page.get_by_text(label, exact=True)).locator("dd")


def let_go(page) -> None:
    """Leave the plan as it was found, for the next test."""
    for _ in range(page.locator(".stack-pin").count()):
        pins = page.locator(".stack-pin")
        left = pins.count()
        pins.first.click()
        expect(pins).to_have_count(left - 1)


def test_given_a_phone_when_planning_with_the_thumb_then_three_answers_change_the_card_and_nothing_sticks_out(
    phone, address
):
    open_plan(phone, address, "Fern")
    before = phone.locator(".settings").inner_text()

    phone.get_by_label("Kind of shot").select_option("night")
    expect(phone.locator(".settings")).not_to_have_text(before, use_inner_text=True)
    night = phone.locator(".settings").inner_text()
    phone.get_by_role("combobox", name="Light").select_option("street")
    expect(phone.locator(".light-sentence")).to_contain_text("EV 5")
    phone.get_by_label("Kind of shot").select_option("talk")
    expect(phone.locator(".settings")).not_to_have_text(night, use_inner_text=True)

    width = phone.evaluate("document.documentElement.scrollWidth")
    small = phone.evaluate(
        "[...document.querySelectorAll('.plan button, .plan a.btn, .plan select')]"
        ".filter(e => e.offsetParent && e.getBoundingClientRect().height < 24).map(e => e.textContent)"
    )
    assert width == 390
    assert small == []


def test_given_a_part_of_the_stack_when_dragged_or_nudged_then_the_card_follows_and_the_key_stays_there(
    page, address
):
    open_plan(page, address, "Sandpiper")
    handle = page.get_by_role("slider", name="Shutter")
    free = setting(page, "Shutter").inner_text()

    handle.focus()
    page.keyboard.press("ArrowRight")
    expect(setting(page, "Shutter")).not_to_have_text(free)
    nudged = setting(page, "Shutter").inner_text()
    expect(handle).to_be_focused()

    box = page.locator("#handle-shutter .handle-grip").bounding_box()
    page.mouse.move(box["x"] + 5, box["y"] + 14)
    page.mouse.down()
    page.mouse.move(box["x"] + 60, box["y"] + 14, steps=4)
    page.mouse.up()
    expect(setting(page, "Shutter")).not_to_have_text(nudged)

    let_go(page)
    expect(setting(page, "Shutter")).to_have_text(free)


def test_given_a_place_nobody_knows_when_typed_then_a_sentence_says_so_and_the_card_stays(page, address):
    open_plan(page, address, "Cuttle")
    before = page.locator(".settings").inner_text()

    place = page.get_by_role("combobox", name="Place")
    place.fill("Atlantis")
    place.press("Tab")

    expect(page.locator("#plan-problem")).to_contain_text("Atlantis")
    assert page.locator(".settings").inner_text() == before


def test_given_folded_questions_when_the_card_is_made_anew_then_they_stay_as_they_were_left(page, address):
    open_plan(page, address, "Fern")
    page.locator("#questions-more summary").click()
    before = page.locator(".settings").inner_text()

    page.get_by_label("Slow motion").select_option("2")
    expect(page.locator(".settings")).not_to_have_text(before, use_inner_text=True)
    expect(page.get_by_label("Slow motion")).to_be_visible()
    page.get_by_label("Slow motion").select_option("1")
    expect(page.locator(".settings")).to_have_text(before, use_inner_text=True)


def test_given_cautions_when_ticked_then_they_are_ticked_after_the_page_is_opened_again(page, address):
    open_plan(page, address, "Sandpiper")
    caution = page.locator(".cautions input").first

    with page.expect_response(re.compile("/caution/")):
        caution.check()
    page.reload()

    expect(page.locator(".cautions input").first).to_be_checked()


def test_given_the_print_view_when_printed_then_each_camera_has_one_page(page, address):
    page.goto(f"{address}/plan/print/")
    cameras = page.locator("article.sheet").count()

    paper = page.pdf(format="A4", print_background=True)

    pages = len(re.findall(rb"/Type\s*/Page[^s]", paper))
    assert cameras == 3
    assert pages == cameras


def test_given_the_saved_card_when_opened_with_no_server_then_it_is_read_and_takes_are_kept_and_copied(
    page, browser, address, tmp_path
):
    open_plan(page, address, "Cuttle")
    shutter = setting(page, "Shutter").inner_text()
    with page.expect_download() as saved:
        page.get_by_role("link", name="Save for the phone").click()
    file = tmp_path / saved.value.suggested_filename
    saved.value.save_as(file)

    away = browser.new_context(viewport={"width": 390, "height": 844}, offline=True)
    asked: list[str] = []
    card = away.new_page()
    card.on("request", lambda request: asked.append(request.url))
    card.goto(file.as_uri())
    expect(card.get_by_role("heading", level=1)).to_contain_text("Cuttle")
    expect(card.get_by_text(shutter, exact=True).first).to_be_visible()
    card.get_by_label("Note", exact=True).fill("1/400 iso 800; murky")
    card.get_by_role("button", name="Take").click()
    card.get_by_role("button", name="Take").click()
    card.reload()
    expect(card.locator("[data-takes] li")).to_have_count(2)
    copied = card.get_by_label("Notes to copy").input_value()
    width = card.evaluate("document.documentElement.scrollWidth")
    away.close()

    notes = parse_notes(copied)
    assert [(n.number, n.text) for n in notes] == [(1, "1/400 iso 800, murky"), (2, "")]
    assert parse_datetime(copied.split("; ")[1]) == notes[0].time
    assert {url.split(":")[0] for url in asked} == {"file"}
    assert width == 390

"""Clips by hand: graded motion beside the server's still, an upload that is cut, lights by drag, a card."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.driving import expect_played_like_still, open_on_bench, wait_for_proxy

TWO_CODES = 2.0
UPLOAD = r"/clips/uploads/\w{32}/$"


@pytest.mark.parametrize("plain", [False, True], ids=["graphics", "script"])
def test_given_a_graded_clip_when_played_then_its_frames_are_those_of_the_server(page, address, plain):
    open_on_bench(page, address, "fern-jetty-talk.mp4")
    accept = page.get_by_role("button", name="Accept all")
    if accept.count():
        accept.click()
        expect(page.get_by_role("button", name="All taken")).to_be_visible()
    wait_for_proxy(page)
    expect_played_like_still(page, plain)


def test_given_an_upload_when_cut_three_times_paused_and_loaded_anew_then_nothing_is_sent_twice(
    browser, address, grey_file, tmp_path
):
    file = tmp_path / "weak-signal.mp4"
    file.write_bytes(grey_file.read_bytes() + b"\0" * 19_000_000)  # padding after the last box is ignored
    sent: list[tuple[int, int]] = []
    lost = {"left": 3}

    def piece(route, request):
        at = int(request.headers.get("upload-offset", 0))
        if request.method == "PATCH" and at and lost["left"]:
            lost["left"] -= 1
            route.abort("connectionreset")
            return
        if request.method == "PATCH":
            sent.append((at, len(request.post_data_buffer or b"")))
        route.continue_()

    context = browser.new_context()  # one in which a lost connection is no fault
    page = context.new_page()
    page.route(re.compile(UPLOAD), piece)
    page.goto(f"{address}/clips/")
    page.get_by_label("Clips to bring in").set_input_files(str(file))
    expect(page.locator(".arrival", has_text="what has arrived is safe")).to_be_visible()
    page.get_by_role("button", name="Pause").click()
    expect(page.locator("[data-left]")).to_contain_text("Left to send: 1 clip")

    page.reload()  # the page forgets; the browser kept the file, the server what has arrived of it
    expect(page.locator("[data-clip-state=ready]", has_text=file.name).first).to_be_visible(timeout=60_000)

    context.close()
    assert lost["left"] == 0
    assert [at for at, _ in sent] == sorted({at for at, _ in sent})
    assert sum(size for _, size in sent) == file.stat().st_size


def test_given_three_files_when_the_last_is_to_be_sent_first_then_it_is_and_a_held_line_says_why(
    browser, address, grey_file, tmp_path
):
    files = [tmp_path / f"in-line-{n}.mp4" for n in range(3)]
    for n, file in enumerate(files):
        file.write_bytes(grey_file.read_bytes() + b"\0" * (n + 10))
    context = browser.new_context()
    page = context.new_page()
    page.add_init_script(
        "const charger = Object.assign(new EventTarget(), { charging: false });"
        "navigator.getBattery = async () => charger; window.charger = charger;"
        "localStorage.setItem('only-charging', 'yes');"
    )
    page.goto(f"{address}/clips/")
    page.get_by_label("Clips to bring in").set_input_files([str(file) for file in files])
    expect(page.locator(".arrival").first).to_contain_text("until this device is charging")
    expect(page.get_by_label("only while charging")).to_be_checked()
    page.locator(".arrival", has_text=files[2].name).get_by_role("button", name="Send first").click()
    expect(page.locator(".arrival").first).to_contain_text(files[2].name)

    with page.expect_response(lambda a: re.search(UPLOAD, a.url) and a.request.method == "GET") as first:
        page.evaluate("charger.charging = true; charger.dispatchEvent(new Event('chargingchange'))")
    assert first.value.json()["title"] == files[2].name  # how the first one ended
    for file in files:
        expect(page.locator("[data-clip-state]", has_text=file.name).first).to_be_visible()
    context.close()


def test_given_an_answer_that_is_none_of_ours_when_uploading_then_the_next_clip_still_arrives(
    browser, address, grey_file, tmp_path
):
    files = [tmp_path / f"after-a-fault-{n}.mp4" for n in range(2)]
    for n, file in enumerate(files):
        file.write_bytes(grey_file.read_bytes() + b"\0" * (n + 1))
    left = [1]

    def begin(route):
        if left[0]:
            left[0] -= 1
            route.fulfill(status=403, content_type="text/html", body="<h1>Not now</h1>")
        else:
            route.continue_()

    context = browser.new_context()  # one in which a refusal is no fault
    page = context.new_page()
    page.route(re.compile(r"/clips/uploads/$"), begin)
    page.goto(f"{address}/clips/")
    page.get_by_label("Clips to bring in").set_input_files([str(file) for file in files])

    expect(page.locator(".arrival.notice-error", has_text=files[0].name)).to_contain_text("load this page")
    expect(page.locator("[data-clip-state=ready]", has_text=files[1].name).first).to_be_visible(
        timeout=60_000
    )
    context.close()


def test_given_a_card_in_use_when_all_are_drawn_anew_then_focus_fold_and_tick_stay(page, address):
    page.goto(f"{address}/clips/")
    some = page.locator("[data-clip]", has=page.locator("details.against")).first
    card = page.locator(f"#{some.get_attribute('id')}")  # this one, wherever it stands later
    card.locator("summary").click()
    card.get_by_role("checkbox").check()
    card.locator("summary").focus()

    with page.expect_response(lambda answer: "/clips/?" in answer.url):
        page.evaluate("htmx.trigger('#cards', 'refresh')")
    expect(page.locator("#cards:not(.htmx-request)")).to_be_attached()  # drawn: the next one is not dropped
    page.evaluate("document.querySelectorAll('.card-clip h3')[0].textContent = 'changed meanwhile'")
    with page.expect_response(lambda answer: "/clips/?" in answer.url):
        page.evaluate("htmx.trigger('#cards', 'refresh')")

    expect(page.get_by_text("changed meanwhile")).to_have_count(0)  # it was drawn anew
    expect(card.locator("summary")).to_be_focused()
    expect(card.locator("details.against")).to_have_attribute("open", "")
    expect(card.get_by_role("checkbox")).to_be_checked()

    # another device puts it into another light: it goes there with all of this
    here = card.locator("xpath=ancestor::section").get_attribute("data-light")
    there = page.locator(f"[data-light]:not([data-light=''], [data-light='{here}'])").last
    page.evaluate("delete Element.prototype.moveBefore")  # a browser that drops the focus of what moves
    move(page, card, there.get_attribute("data-light"))
    expect(there.locator(card).locator("summary")).to_be_focused()
    expect(card.locator("details.against")).to_have_attribute("open", "")
    expect(card.get_by_role("checkbox")).to_be_checked()
    move(page, card, here)


def move(page, card, light):
    """Put a clip into another light as another device does, and draw all cards anew."""
    headers = {"X-CSRFToken": page.locator("body").get_attribute("data-csrf"), "Referer": page.url}
    answer = page.request.post(
        page.url + card.get_attribute("data-move").removeprefix("/clips/"),
        form={"group": light}, headers=headers,
    )  # fmt: skip
    assert answer.ok
    with page.expect_response(lambda answer: "/clips/?" in answer.url):
        page.evaluate("htmx.trigger('#cards', 'refresh')")


def test_given_a_clip_when_dragged_onto_another_light_then_it_stands_there(page, address):
    page.goto(f"{address}/clips/")
    expect(page.locator("#cards:not([data-busy])")).to_be_visible(timeout=90_000)  # else lights come anew
    lights = page.locator("[data-light]:not([data-light=''])")
    expect(lights.nth(1)).to_be_visible(timeout=60_000)
    card = lights.nth(1).locator("[data-move]").first
    clip = card.get_attribute("data-clip")
    target = lights.nth(0).get_attribute("data-light")

    moved = page.locator(f"[data-light='{target}'] [data-clip='{clip}']")
    for _ in range(3):  # what is drawn anew beneath a hand is let go by it: a person takes hold again
        card.drag_to(lights.nth(0).locator(".light-head"))
        page.wait_for_timeout(3000)
        if moved.count():
            break

    expect(moved).to_be_visible()
    page.reload()
    expect(page.locator(f"[data-light='{target}'] [data-clip='{clip}']")).to_be_visible()


def test_given_the_demo_card_when_brought_in_then_its_new_clips_arrive(page, address):
    page.goto(f"{address}/clips/card/")
    page.get_by_role("link", name="demo-card").click()
    expect(page.get_by_text("3 of 4 are new")).to_be_visible()

    page.get_by_role("button", name="Bring in the ticked clips").click()

    for name in ("SP0007.mp4", "SP0008.mp4", "SP0009.mp4"):
        expect(page.locator("[data-clip-state=ready]", has_text=name)).to_be_visible(timeout=90_000)


def test_given_the_lab_on_a_phone_when_the_box_is_moved_by_keys_then_it_is_fitted_there(phone, address):
    phone.goto(f"{address}/library/lab/")
    phone.get_by_role("link", name="Unknown camera").click()
    corner = phone.get_by_role("slider", name="Box, top left")
    before = phone.locator("[data-region]").input_value()
    corner.focus()
    phone.keyboard.press("ArrowRight")
    assert phone.locator("[data-region]").input_value() != before

    phone.get_by_role("button", name="Fit the curve").click()

    expect(phone.get_by_text(re.compile("Fits within 0.0"))).to_be_visible()
    assert phone.evaluate("document.documentElement.scrollWidth") == 390


def test_given_a_clip_in_doubt_when_an_answer_is_picked_by_keys_then_it_is_no_longer_asked_about(
    page, address
):
    page.goto(f"{address}/clips/")
    question = page.locator("#question-profile")
    action = question.get_attribute("action")
    first = question.locator(".answer").first
    said = first.locator("strong").inner_text().lower()
    expect(first.locator("img")).to_have_js_property("complete", True)
    assert first.locator("img").evaluate("image => image.naturalWidth") > 100

    first.focus()
    page.keyboard.press("Enter")

    expect(page.locator(f"#question-profile[action='{action}']")).to_have_count(0)
    card = page.locator(f"[data-clip='{action.split('/')[2]}']")
    expect(card.locator(".filmed strong")).to_have_text(said)
    expect(card.locator(".filmed a")).to_have_count(0)

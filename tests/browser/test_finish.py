"""A mood by hand: a look from the wall, tones pulled apart, bars, a title, the file; the look shared."""

from pathlib import Path

import pytest
from playwright.sync_api import expect

from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frames_at
from tests.browser.driving import drag, held_back, open_on_bench, settle, shown_grade

CLIP = "fern-jetty-talk.mp4"


@pytest.fixture
def undressed(page, address):
    """Takes style and finish off the clip again, whatever came of the journey."""
    yield
    open_on_bench(page, address, CLIP)
    bench, token = page.url.split("?")[0], page.locator("body").get_attribute("data-csrf")
    for act, posted in (
        ("look", {"look": ""}), ("finish-shape", {"value": ""}), ("finish-title", {"text": ""}),
        ("layer-take", {"layer": "finish", "value": "grain"}),
    ):  # fmt: skip
        headers = {"X-CSRFToken": token, "HX-Request": "true", "Referer": page.url}
        assert page.request.post(f"{bench}change/{act}/", form=posted, headers=headers).ok
    page.reload()
    expect(page.locator("[data-bench][data-shown]")).to_be_visible()
    assert shown_grade(page).keys().isdisjoint({"grain", "bars", "title", "tint"})


def test_given_a_corrected_clip_when_styled_and_finished_then_the_file_shows_it(
    page, address, undressed, tmp_path
):
    open_on_bench(page, address, CLIP)
    if page.locator("#accept-all").is_enabled():
        page.locator("#accept-all").click()
        settle(page)

    # a look from the wall, as strong as the clip bears, then less of it
    page.locator("#shared-style > summary").click()
    expect(page.locator(".looks .answer").first).to_be_visible(timeout=90_000)  # each is tried on the clip
    page.locator(".looks .answer", has_text="Opposed").click()
    style = page.locator("[data-group=style]")
    expect(style.locator("#shared-style > summary")).to_have_text("Opposed")
    strength = style.get_by_label("Strength of Style, percent")
    strength.fill("40")
    strength.press("Enter")
    settle(page)

    # the tone strip: shadows pulled up, by hand and by keys
    before = shown_grade(page)["tint"]
    drag(page, page.locator("[data-pin=dark]").locator("circle").last, 12, -18)
    pulled = shown_grade(page)["tint"]
    assert pulled["dark"] > before["dark"] and pulled["dark_hue"] != before["dark_hue"]
    page.locator("[data-pin=bright]").focus()
    page.keyboard.press("ArrowUp")
    assert shown_grade(page)["tint"]["bright"] == pulled["bright"] + 2

    # less of the style, where it broke something
    strength = style.get_by_label("Strength of Style, percent")
    strength.fill("100")
    strength.press("Enter")
    page.locator("#shared-style").get_by_label("Put a step inside Opposed").select_option(label="Exposure")
    brighter = page.locator("#shared-style [data-step=exposure] input[type=number]").first
    brighter.fill("1.5")
    brighter.press("Enter")
    less = page.get_by_role("button", name="keeps all within")
    expect(less).to_be_visible(timeout=60_000)
    less.click()
    expect(page.locator(".all-within")).to_be_visible(timeout=60_000)
    settle(page)

    # finish: grain, bars, a title
    page.locator("#shared-finish > summary").click()
    page.locator("#shared-finish").get_by_role("button", name="Grain", exact=True).click()
    expect(page.locator("#shared-finish [data-step=grain]").first).to_be_visible()
    page.locator("#finish-title > summary").click()
    with held_back(page, "**/change/finish-shape/") as late:
        page.locator("#finish-shape").select_option(label="1.85 : 1")
        page.get_by_label("Words").fill("Volunteer day")
        late()  # a ladder comes while words are typed: they stay
        expect(page.locator("#finish-shape")).to_have_value("bars:1.85")
        settle(page)
        expect(page.get_by_label("Words")).to_have_value("Volunteer day")
    with held_back(page, "**/change/finish-shape/") as late:
        page.locator("#finish-shape").select_option(label="2.35 : 1")
        page.get_by_role("button", name="Set title").click()
        expect(page.locator("#finish-title > summary")).to_contain_text("Volunteer day")
        late()  # an answer that was overtaken shows nothing old
        settle(page)
    expect(page.locator("#finish-title > summary")).to_contain_text("Volunteer day")
    expect(page.locator("#finish-shape")).to_have_value("bars:2.35")
    assert {"grain", "bars", "title"} <= set(shown_grade(page))

    # saved as a look, shared, and taken in again
    page.locator("#save-look > summary").click()
    page.locator("#save-look").get_by_label("Name").fill("Jetty evening")
    page.get_by_role("button", name="Save with style and finish").click()
    expect(page.locator("#shared-style > summary")).to_have_text("Jetty evening")
    settle(page)
    page.get_by_role("button", name="Hand over").click()
    page.goto(f"{address}/library/looks/")
    with page.expect_download() as download:
        page.get_by_role("link", name="Share as file").first.click()
    shared = tmp_path / "jetty.look.json"
    download.value.save_as(shared)
    page.get_by_label("A .cube, a .clf, or a look").set_input_files(str(shared))
    page.get_by_role("button", name="Take in").click()
    expect(page.get_by_text("Jetty evening 2").first).to_be_visible(timeout=60_000)

    # the file that was handed over
    page.goto(f"{address}/hand-over/")
    link = page.locator(".job", has_text=CLIP).first.get_by_role("link", name="Clip", exact=True)
    expect(link).to_be_visible(timeout=120_000)
    with page.expect_download() as download:
        link.click()
    file = tmp_path / "out.mp4"
    download.value.save_as(file)
    picture = first_frame(file)
    assert picture[:50].max() < 0.03 and picture[-50:].max() < 0.03
    assert picture[350:600].max() > 0.6


def first_frame(path: Path):
    (frame,) = [planes.encoded() for _, planes in frames_at(probe(path), [0.5])]
    return frame

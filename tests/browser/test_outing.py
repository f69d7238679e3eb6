"""An outing as one piece of work: clips decided together, shared layers, corrections passed on."""

import re

import numpy as np
import pytest
from playwright.sync_api import expect

from morphe.core.standins.cameras import Exposure, film, record
from morphe.core.standins.demo import render_scene
from tests.browser.driving import open_on_bench, open_rung, outing_apart, rung, settle, shown_grade, tab_to

CLIPS = 6


@pytest.fixture(scope="module")
def files(tmp_path_factory):
    """One light, filmed anew and anew by a camera that meters and balances anew each time."""
    folder, generator = tmp_path_factory.mktemp("ten"), np.random.default_rng(8)
    made = []
    for number in range(CLIPS):
        linear = render_scene("jetty-tan", 0.3 * number, width=320, height=180)
        stops, mired = generator.uniform(-1.5, -0.9), 30 + generator.uniform(-7, 7)
        camera = Exposure(exposure_stops=float(stops), warm_mired=float(mired))
        pictures = (film(linear, camera, generator) for _ in range(12))
        made.append(record(pictures, folder / f"pier-{number}.mp4", camera))
    return made


@pytest.fixture(scope="module")
def address(demo, browser, files):
    """An outing of its own with several clips in it, all put into one light."""
    with outing_apart(demo, "Pier in the morning"):
        page = browser.new_page()
        page.goto(f"{demo}/clips/")
        page.get_by_label("Clips to bring in").set_input_files([str(file) for file in files])
        expect(page.locator("[data-clip-state=ready]")).to_have_count(CLIPS, timeout=120_000)
        expect(page.locator(".light-head", has_text=f"{CLIPS} clips")).to_be_visible(timeout=60_000)
        page.reload()
        expect(page.locator("#preparing")).to_have_text("", timeout=120_000)
        page.close()
        yield demo


def test_given_several_clips_when_decided_and_handed_over_by_keys_then_no_clip_was_opened(page, address):
    page.goto(f"{address}/clips/")
    tab_to(page, "As corrected")
    page.keyboard.press("Enter")
    expect(page.locator(".decide")).to_contain_text("proposals")
    tab_to(page, "Take all proposals")
    page.keyboard.press("Enter")

    expect(page.locator("#decided")).to_contain_text(f"Took the proposals of {CLIPS} clips", timeout=60_000)
    expect(page.get_by_text("Sits with its light")).to_have_count(CLIPS, timeout=60_000)
    page.locator("#decided summary").click()
    expect(page.locator("#decided")).to_contain_text("Trimmed: pier-")

    page.goto(f"{address}/hand-over/")
    expect(page.locator(".offers input:checked")).to_have_count(CLIPS)
    tab_to(page, "Hand over the ticked clips")
    page.keyboard.press("Enter")
    jobs = page.locator(".job", has_text="pier-")
    expect(jobs.locator(".state", has_text="Done")).to_have_count(CLIPS, timeout=120_000)

    page.goto(f"{address}/clips/?view=corrected")
    page.get_by_role("button", name="Take it back").click()
    expect(page.get_by_text(re.compile(f"Taken back on {CLIPS} clips"))).to_be_visible()
    expect(page.get_by_role("button", name="Take all proposals")).to_be_visible()


def test_given_a_correction_put_on_a_light_when_undone_on_another_clip_then_it_is_gone_on_all(page, address):
    open_on_bench(page, address, "pier-3.mp4")
    open_rung(page, "exposure")
    page.locator("#exposure-stops").fill("0.6")
    page.locator("#exposure-stops").press("Enter")
    settle(page)
    expect(rung(page, "exposure").locator(".state")).to_have_text("Yours")
    page.get_by_role("button", name=f"Put on this light changes {CLIPS} clips").click()
    expect(page.locator("[data-group=light]")).to_contain_text(f"changes {CLIPS} clips")

    open_on_bench(page, address, "pier-4.mp4")
    expect(page.locator("[data-group=light]")).to_contain_text("0.6 stops brighter")
    assert shown_grade(page)["exposure"]["stops"] == 0.6
    before = page.locator("[data-after]").get_attribute("src")
    page.locator("[data-without=light]").dispatch_event("pointerdown")
    expect(page.locator("[data-after]")).not_to_have_attribute("src", before)
    page.locator("[data-without=light]").dispatch_event("pointerup")
    settle(page)
    page.keyboard.press("u")
    expect(page.locator("[data-group=light]")).to_have_count(0)

    open_on_bench(page, address, "pier-3.mp4")
    expect(page.locator("[data-group=light]")).to_have_count(0)
    page.keyboard.press("r")
    expect(page.locator("[data-group=light]")).to_be_visible()
    page.locator("#shared-light summary").click()
    page.get_by_role("button", name="Split this clip off").click()
    expect(page.locator("[data-group=own-light]")).to_contain_text("split off")
    page.keyboard.press("u")
    page.keyboard.press("u")
    settle(page)


def test_given_ticked_clips_when_a_correction_is_passed_on_then_its_fit_was_told_and_it_goes_back(
    page, address
):
    open_on_bench(page, address, "pier-0.mp4")
    open_rung(page, "exposure")
    page.locator("#exposure-stops").fill("0.4")
    page.locator("#exposure-stops").press("Enter")
    settle(page)

    page.goto(f"{address}/clips/?view=corrected")
    for title in ("pier-1.mp4", "pier-2.mp4"):
        page.get_by_label(f"Select {title}").check()
    page.get_by_text("Pass a correction on").click()
    page.get_by_label("Correction of").select_option(label="pier-0.mp4")
    page.get_by_role("button", name="Would it fit?").click()
    expect(page.locator("#fits li", has_text="pier-0.mp4 fits pier-1.mp4: trimmed by")).to_be_visible()
    page.get_by_role("button", name="Pass it on").click()
    expect(page.locator("#decided")).to_contain_text("Passed pier-0.mp4 on to 2 clips", timeout=60_000)
    page.get_by_role("button", name="Take it back").click()
    expect(page.get_by_text("Taken back on 2 clips.")).to_be_visible()


def test_given_a_number_when_moments_are_set_then_diamonds_stand_on_the_strip_and_it_travels(page, address):
    open_on_bench(page, address, "pier-5.mp4")
    open_rung(page, "exposure")
    page.get_by_label("Moment of Exposure here").click()
    settle(page)
    expect(page.locator(".moment-mark")).to_have_count(1)
    expect(page.get_by_label("Moment of Exposure here")).to_have_attribute("aria-pressed", "true")
    page.keyboard.press(".")
    settle(page)
    page.locator("#exposure-stops").fill("1.2")
    page.locator("#exposure-stops").press("Enter")
    settle(page)

    expect(page.locator(".moment-mark")).to_have_count(2)
    page.locator("[data-moment='0']").click()
    expect(page.locator("#exposure-stops")).to_have_value("0")
    page.locator("[data-moment='1']").click()
    expect(page.locator("#exposure-stops")).to_have_value("1.2")

"""An outing handed over: three deliveries with in and out points, one paused, a failing check mended."""

import re

import numpy as np
import pytest
from playwright.sync_api import expect

from tests.browser.driving import bring_in, open_on_bench, outing_apart, settle
from tests.footage import ClipSpec, scene, write_clip

MINUTE = 60_000


@pytest.fixture(scope="module", autouse=True)
def outing(demo):
    with outing_apart(demo, "Pier day"):
        yield


@pytest.fixture(scope="module")
def files(tmp_path_factory):
    """A steady clip, and one whose last seconds flash."""
    folder = tmp_path_factory.mktemp("card")
    spec = ClipSpec(size=(320, 180), frames=200, sound="aac")

    def flashing(i):
        return np.full((180, 320, 3), 0.9 if i >= 150 and i // 3 % 2 else 0.3, np.float32) * scene(
            320, 180, i
        )

    return [
        write_clip(folder / "steady.mp4", spec, lambda i: scene(320, 180, i)),
        write_clip(folder / "stage.mp4", spec, flashing),
    ]


def choose(page, address, *titles, mode="each", preset="Web"):
    page.goto(f"{address}/hand-over/")
    page.get_by_label("Files").select_option(mode)
    if mode != "still":
        chosen = page.locator(".presets label", has=page.get_by_text(preset, exact=True))
        if not chosen.is_visible():
            page.locator(".more-presets summary").click()
        chosen.click()
        page.wait_for_load_state("networkidle")
    for box in page.locator("[name=clip]").all():
        box.uncheck()
    for title in titles:
        page.get_by_label(title, exact=True).check()
    page.get_by_role("button", name="Hand over the ticked clips").click()


def test_given_an_outing_when_handed_over_in_three_ways_then_one_is_paused_and_a_failing_check_mended(
    page, address, files
):
    for file in files:
        bring_in(page, address, file)

    # Only the good seconds of one clip go out.
    open_on_bench(page, address, "steady.mp4")
    page.get_by_role("button", name="To here").click()
    expect(page.locator("#parts")).to_contain_text(re.compile(r"0\.0–\d"))
    settle(page)

    choose(page, address, "steady.mp4", mode="joined")
    choose(page, address, "steady.mp4", preset="Archive")
    page.get_by_role("button", name=re.compile("Pause steady")).last.click()
    expect(page.locator(".job", has_text="Archive")).to_contain_text(
        re.compile("Paused|Done"), timeout=MINUTE
    )
    choose(page, address, "stage.mp4")

    # The file of the stage flashes: the check says when, and leads back.
    stage = page.locator(".job", has_text="stage.mp4").first
    expect(stage).to_contain_text("Done", timeout=2 * MINUTE)
    expect(stage).to_contain_text(re.compile(r"Flashes at [67]\.\d s"))
    stage.get_by_role("link", name="To the Bench").first.click()
    page.locator(".strip button").first.wait_for()
    page.keyboard.press(".")
    settle(page)
    page.get_by_role("button", name="To here").click()
    expect(page.locator("#parts button", has_text="0.0–").first).to_be_visible()
    choose(page, address, "stage.mp4")
    again = page.locator(".job", has_text="stage.mp4").first
    expect(again).to_contain_text("No more than three within a second", timeout=2 * MINUTE)
    expect(again).not_to_contain_text("Flashes at")

    # What was paused goes on; all three are there, each with its picture.
    go_on = page.get_by_role("button", name=re.compile("Go on with steady"))
    if go_on.count():
        go_on.first.click()
    archive = page.locator(".job", has_text="Archive")
    expect(archive).to_contain_text("Done", timeout=2 * MINUTE)
    for what in ("joined, Web", "Archive"):
        done = page.locator(".job", has_text=what).first
        expect(done.locator("img")).to_be_visible()
    assert page.title().endswith("Morphe")

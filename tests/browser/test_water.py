"""A dive from drop to file, as a person does it: two hints, a way, dry and wet again."""

from __future__ import annotations

import re

import numpy as np
import pytest
from playwright.sync_api import expect

from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frame_at
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.demo import render_scene
from tests.browser.driving import bring_in, open_on_bench, rung, settle, shown_grade
from tests.footage import ClipSpec, write_clip

SIZE = (320, 180)


@pytest.fixture(scope="session")
def dive_file(tmp_path_factory):
    light = np.asarray(render_scene("seagrass-9", 0.5, width=SIZE[0], height=SIZE[1]), np.float32)
    picture = np.clip(PROFILES.get("std-709").encode(light), 0, 1).astype(np.float32)
    folder = tmp_path_factory.mktemp("dives")
    return write_clip(folder / "my-dive.mp4", ClipSpec(size=SIZE, frames=30), lambda i: picture)


def answered(page, act):
    """Wait for the answer to what is done, and until it is shown."""
    return page.expect_response(re.compile(f"/change/{act}/"))


def test_given_a_dive_when_dropped_told_of_and_handed_over_then_its_file_has_the_water_taken_back(
    page, address, dive_file, tmp_path
):
    bring_in(page, address, dive_file)
    open_on_bench(page, address, dive_file.name)
    page.locator("#rung-convert").click()
    with answered(page, "water-wet"):
        page.locator("#wet-convert").select_option("wet")
    settle(page)
    water = rung(page, "restore")
    expect(water).to_be_visible()
    page.locator("#rung-restore").click()

    with answered(page, "water-tell"):
        water.get_by_label("Depth", exact=True).fill("9")
        water.get_by_label("Depth", exact=True).press("Tab")
    expect(water.get_by_role("img", name=re.compile("A subject at 9 m"))).to_be_visible()
    water.get_by_label("Lamp").select_option("yes")
    expect(water.get_by_role("img", name=re.compile("lit by a lamp"))).to_be_visible()
    water.get_by_role("button", name="Take the water back").click()
    expect(water.locator(".state")).to_have_text("Taken")
    assert shown_grade(page)["restore"]["strength"] == 100

    page.locator("#restore-red").fill("60")
    page.locator("#restore-red").press("Tab")
    expect(water.locator(".state")).to_have_text("Yours")
    water.get_by_role("button", name="Show what is invented").click()
    expect(page.locator("[data-lit-picture]")).to_be_visible()

    page.locator("#wet-restore").select_option("dry")
    expect(water).to_have_count(0)
    assert not shown_grade(page).get("restore", {}).get("strength")
    page.locator("#rung-convert").click()
    with answered(page, "water-wet"):
        page.locator("#wet-convert").select_option("wet")
    expect(water).to_be_visible()
    page.locator("#accept-all").click()
    expect(water.locator(".state")).to_have_text("Taken")

    page.locator(".ladder-foot").get_by_role("button", name="Hand over").click()
    job = page.locator(".job", has_text=dive_file.name).first
    expect(job.locator(".state")).to_have_text("Done", timeout=180_000)
    with page.expect_download() as download:
        job.get_by_role("link", name="Clip").click()
    file = tmp_path / "dive.mp4"
    download.value.save_as(file)
    before, after = (frame_at(probe(p), 0.4).encoded().reshape(-1, 3).mean(axis=0) for p in (dive_file, file))
    assert after[0] - after[1] > before[0] - before[1] + 0.05  # red has come back

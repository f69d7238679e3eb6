"""A clip in a log that nobody knows: its curve judged, slid, kept; and a cast taken by one tap."""

import re

import numpy as np
import pytest
from playwright.sync_api import expect

from morphe.core.signal.families import Landing, curve_of
from morphe.core.signal.profiles import Kind
from morphe.core.standins.cameras import Exposure, film, record
from morphe.core.standins.demo import render_scene
from tests.browser.driving import (
    bring_in,
    open_on_bench,
    open_rung,
    outing_apart,
    rung,
    settle,
    shown_grade,
)


@pytest.fixture(scope="module", autouse=True)
def outing(demo):
    with outing_apart(demo, "Unknown cameras"):
        yield


@pytest.fixture(scope="module")
def mild_file(tmp_path_factory):
    """The jetty in a mild log that is none of the built-in ones."""
    linear = render_scene("jetty-tan", 0.5, width=640, height=360)
    code = np.clip(curve_of(Kind.LOG, Landing(black=0.045, grey=0.47, white=0.76)).encode(linear), 0, 1)
    path = tmp_path_factory.mktemp("card") / "unknown-log.mp4"
    return record([code.astype(np.float32)] * 30, path, Exposure())


@pytest.fixture(scope="module")
def warm_file(tmp_path_factory):
    """The jetty balanced far too warm."""
    exposure = Exposure(warm_mired=70)
    generator = np.random.default_rng(6)
    linear = render_scene("jetty-tan", 0.5, width=640, height=360)
    path = tmp_path_factory.mktemp("card") / "too-warm.mp4"
    return record((film(linear, exposure, generator) for _ in range(30)), path, exposure)


@pytest.fixture(scope="module")
def cool_file(tmp_path_factory):
    """The sluice a little too cool: it may be meant so."""
    exposure = Exposure(warm_mired=-25)
    generator = np.random.default_rng(6)
    linear = render_scene("sluice-round", 0.5, width=640, height=360)
    path = tmp_path_factory.mktemp("card") / "cool-sluice.mp4"
    return record((film(linear, exposure, generator) for _ in range(30)), path, exposure)


def test_given_an_unknown_log_when_said_to_be_log_then_its_curve_is_judged_slid_and_kept(
    page, address, mild_file
):
    bring_in(page, address, mild_file)
    open_on_bench(page, address, "unknown-log.mp4")
    open_rung(page, "convert")
    page.get_by_label("Filmed as").select_option(label="Log, curve judged")
    convert = rung(page, "convert")
    expect(convert.locator(".rung-summary")).to_have_text(re.compile("^log, judged"))
    settle(page)
    before = page.locator("[data-after]").get_attribute("src")

    page.locator("#convert-bend").fill("0.6")
    expect(page.locator("[data-after]")).not_to_have_attribute("src", before)
    page.locator("#convert-bend").press("Enter")
    assert shown_grade(page)["convert"]["bend"] == 0.6
    expect(convert.locator(".state")).to_have_text("Yours")

    page.get_by_text("Keep this curve as a profile").click()
    page.get_by_label("Its name, as your camera calls it").fill("Cuttle mild")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_label("Filmed as").locator("option:checked")).to_have_text("Cuttle mild")
    settle(page)
    page.goto(f"{address}/library/profiles/")
    expect(page.get_by_text("Cuttle mild").first).to_be_visible()


def test_given_a_cast_when_its_proposal_is_tapped_once_then_it_is_gone(page, address, warm_file):
    bring_in(page, address, warm_file)
    open_on_bench(page, address, "too-warm.mp4")
    open_rung(page, "balance")
    balance = rung(page, "balance")

    balance.locator("[data-accept]").click()

    expect(balance.locator(".state")).to_have_text("Taken")
    assert shown_grade(page)["balance"]["warmth"] > 20


def test_given_a_light_that_may_be_meant_when_its_picture_is_tapped_then_its_clips_follow(
    page, address, cool_file
):
    bring_in(page, address, cool_file)
    open_on_bench(page, address, cool_file.name)  # how a clip was filmed is asked before its light
    open_rung(page, "convert")
    page.get_by_label("Filmed as").select_option(label="Ordinary video (BT.709)")
    settle(page)
    page.goto(f"{address}/clips/")
    offered = page.locator("#question-light")
    expect(offered).to_contain_text("cool, but a subject of that colour would look the same", timeout=60_000)

    offered.get_by_role("button", name="Warm by").click()

    expect(page.locator("#decided")).to_contain_text("for all its clips")
    open_on_bench(page, address, cool_file.name)
    assert shown_grade(page)["balance"]["warmth"] < -10

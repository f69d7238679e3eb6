"""A file of four shots: split on its card, one corrected otherwise, a cut moved by hand, delivered as one."""

import re
from fractions import Fraction

import numpy as np
import pytest
from playwright.sync_api import expect

from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frame_at
from tests.browser.driving import bring_in, open_rung, outing_apart, settle
from tests.footage import ClipSpec, click_of, frame_times, several_shots, write_clip

MINUTE = 60_000
LENGTHS, FPS = (36, 30, 42, 36), Fraction(24)


@pytest.fixture(scope="module", autouse=True)
def outing(demo):
    with outing_apart(demo, "Joined day"):
        yield


def test_given_a_file_of_four_shots_when_split_graded_and_cut_by_hand_then_one_file_goes_out_whole(
    page, address, tmp_path, fresh_seed
):
    spec = ClipSpec(size=(320, 180), frames=sum(LENGTHS), fps=FPS, sound="aac")
    file = write_clip(tmp_path / "joined.mp4", spec, several_shots(LENGTHS, fresh_seed, size=(320, 180)))
    bring_in(page, address, file)

    page.get_by_role("button", name="Split").click(timeout=2 * MINUTE)
    expect(page.get_by_text("Shot 4 of 4")).to_be_visible()
    expect(page.locator("[data-clip-state=ready]", has_text="joined shot")).to_have_count(4, timeout=MINUTE)

    # The second shot is made a stop brighter; the third begins six frames later.
    page.get_by_label("Open joined shot 2.mp4 on the Bench").first.click()
    expect(page.locator("[data-bench][data-shown]")).to_be_visible()
    open_rung(page, "exposure")
    page.locator("#exposure-stops").fill("1")
    page.keyboard.press("Tab")
    settle(page)
    page.get_by_role("button", name="Play").click()
    expect(page.locator("[data-motion]")).to_be_visible(timeout=MINUTE)
    page.get_by_role("button", name="Play").click()
    begin, end = (float(page.locator("[data-bench]").get_attribute(f"data-{e}")) for e in ("begin", "end"))
    assert (begin, end) == pytest.approx((36 / 24, 66 / 24), abs=0.002)
    page.get_by_label("Time in the clip").fill("0.8")
    page.wait_for_function("Number(document.querySelector('[data-motion]').dataset.time) > 2.4")
    page.locator("#shots summary").click()
    page.get_by_role("button", name="Shot ends here").click()
    expect(page.locator("[data-bench]")).to_have_attribute("data-end", re.compile(r"2\.5"), timeout=MINUTE)

    page.goto(f"{address}/hand-over/")
    page.get_by_role("button", name="Hand over the ticked clips").click()
    link = page.locator(".job", has_text="joined.mp4").locator(".btn-act").first
    expect(link).to_be_visible(timeout=3 * MINUTE)
    with page.expect_download() as coming:
        link.click()
    out = tmp_path / "out.mp4"
    coming.value.save_as(out)

    assert frame_times(out) == pytest.approx(frame_times(file), abs=1e-3)
    assert click_of(out) == pytest.approx(click_of(file), abs=0.003)
    before, after = probe(file), probe(out)
    levels = [[frame_at(info, t).encoded().mean() for t in (1, 2, 2.65, 4)] for info in (before, after)]
    brighter = np.divide(levels[1], levels[0])
    assert brighter[[0, 2, 3]].max() < 1.1 < brighter[1]

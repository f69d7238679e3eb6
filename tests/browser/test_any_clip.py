"""Three clips as people bring them, drawn anew each time: brought in, shown, played, handed over."""

import pytest
from playwright.sync_api import expect

from morphe.core.footage.probe import probe
from tests.browser.driving import outing_apart, settle, wait_for_proxy
from tests.footage import any_clip, frame_times

MINUTE = 60_000


@pytest.fixture(scope="module", autouse=True)
def outing(demo):
    with outing_apart(demo, "Any day"):
        yield


@pytest.fixture
def brought(tmp_path, fresh_seed):
    """Each under a name of its own, with what was drawn."""
    made = []
    for number in range(3):
        path, spec = any_clip(tmp_path, fresh_seed + number)
        made.append((path.rename(path.with_name(f"{number + 1} {path.name}")), spec))
    return made


def test_given_any_three_clips_when_brought_in_then_each_is_shown_played_and_handed_over(
    page, address, brought, tmp_path
):
    page.goto(f"{address}/clips/")
    page.get_by_label("Clips to bring in").set_input_files([str(path) for path, _ in brought])
    expect(page.locator("[data-clip-state=ready]")).to_have_count(3, timeout=3 * MINUTE)

    for path, _ in brought:
        page.goto(f"{address}/clips/")
        page.get_by_label(f"Open {path.name} on the Bench").click()
        expect(page.locator("[data-bench][data-shown]")).to_be_visible()
        wait_for_proxy(page)
        settle(page)
        page.get_by_role("button", name="Play", exact=True).click()
        expect(page.locator("[data-motion]")).to_be_visible(timeout=MINUTE)

    page.goto(f"{address}/hand-over/")
    for path, _ in brought:
        page.get_by_label(path.name, exact=True).check()
    page.get_by_role("button", name="Hand over the ticked clips").click()
    for path, spec in brought:
        job = page.locator(".job", has_text=path.name).first
        link = job.get_by_role("link", name="Clip", exact=True)
        expect(link).to_be_visible(timeout=2 * MINUTE)
        with page.expect_download() as download:
            link.click()
        out = tmp_path / f"out-{path.name[0]}.mp4"
        download.value.save_as(out)
        assert probe(out).frames == spec.frames
        assert frame_times(out) == pytest.approx(spec.times_s, abs=0.002)

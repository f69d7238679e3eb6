"""Take the pictures in docs/screenshots from a running Morphe with the demo outing.

`python docs/take_screenshots.py http://127.0.0.1:8100 docs/screenshots`
"""

from __future__ import annotations

import sys
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

CHROMIUM = "/usr/bin/chromium"
ARGUMENTS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-component-update"]


def _bench(page: Page, address: str, title: str, rung: str) -> None:
    page.goto(f"{address}/clips/")
    page.get_by_label(f"Open {title} on the Bench").click()
    page.locator("[data-bench][data-shown]").wait_for()
    page.locator(f"#rung-{rung}").click()
    page.wait_for_timeout(800)


def main(address: str, folder: Path) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        wide = browser.new_page(viewport={"width": 1280, "height": 800})
        for name, path in (
            ("today", "/"),
            ("clips", "/clips/"),
            ("hand-over", "/hand-over/"),
            ("logbook", "/logbook/"),
        ):
            wide.goto(address + path)
            wide.wait_for_timeout(500)
            wide.screenshot(path=folder / f"{name}.png")
        _bench(wide, address, "fern-jetty-talk.mp4", "balance")
        wide.screenshot(path=folder / "bench.png")
        _bench(wide, address, "sandpiper-sluice-round.mp4", "black")
        wide.locator("[data-compare]").click()
        wide.wait_for_timeout(400)
        wide.screenshot(path=folder / "bench-log.png")
        phone = browser.new_context(
            viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True
        ).new_page()
        _bench_phone(phone, address)
        phone.screenshot(path=folder / "bench-phone.png")
        browser.close()


def _bench_phone(page: Page, address: str) -> None:
    page.goto(f"{address}/bench/")
    page.locator("[data-bench][data-shown]").wait_for()
    page.wait_for_timeout(800)


if __name__ == "__main__":
    main(sys.argv[1], Path(sys.argv[2]))

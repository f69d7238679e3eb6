"""Take the pictures in docs/screenshots: a Morphe of its own with the demo outing, driven by a browser.

`python docs/take_screenshots.py docs/screenshots`
"""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from fractions import Fraction
from itertools import islice
from pathlib import Path

import av
from playwright.sync_api import Browser, Page, sync_playwright

CHROMIUM = os.environ.get("CHROMIUM", "/usr/bin/chromium-headless-shell")
ARGUMENTS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-component-update"]
DEMO = Path(__file__).parents[1] / "src/morphe/web/demo"
WIDE = {"width": 1280, "height": 800}
PHONE = {"width": 390, "height": 844}


@contextmanager
def demo() -> Iterator[str]:
    """Run Morphe with a fresh home and the demo outing; give its address."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    with tempfile.TemporaryDirectory() as home:
        environment = {**os.environ, "MORPHE_HOME": home, "MORPHE_PORT": str(port), "MORPHE_NETWORK": "1"}
        served = subprocess.Popen([sys.executable, "-m", "morphe.web.serve"], env=environment)
        try:
            yield _answering(f"http://127.0.0.1:{port}")
        finally:
            served.send_signal(signal.SIGINT)
            served.wait(30)


def _answering(address: str) -> str:
    for _ in range(240):
        try:
            urllib.request.urlopen(address, timeout=5)
            return address
        except OSError:
            time.sleep(0.5)
    raise SystemExit("Morphe did not start; see the messages above.")


def _all_read(page: Page, address: str, folder: Path) -> None:
    """Wait for the demo's clips, show Today as a first start has it, and bring in the demo's card."""
    page.goto(f"{address}/clips/")
    page.locator("[data-clip-state=ready]").nth(9).wait_for(timeout=240_000)
    page.goto(address)
    page.wait_for_timeout(600)
    page.screenshot(path=folder / "today.png")
    page.goto(f"{address}/clips/card/")
    page.get_by_role("link", name="demo-card").click()
    page.get_by_role("button", name="Bring in the ticked clips").click()
    page.locator("[data-clip-state=ready]").nth(12).wait_for(timeout=240_000)
    wandering = page.locator("[data-clip]", has_text="SP0007.mp4")
    wandering.get_by_text("turns").first.wait_for(state="attached", timeout=120_000)  # its light was followed


def _joined(folder: Path) -> Path:
    """Two seconds each of three clips of the demo in one file, as an editor joins them."""
    path = folder / "volunteer-day.mp4"
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=25, options={"crf": "18"})
        stream.width, stream.height, stream.pix_fmt = 1280, 720, "yuv420p"
        number = 0
        for title in ("fern-jetty-talk", "sandpiper-sluice-quick", "cuttle-meadow-2m-filter"):
            with av.open(str(DEMO / f"{title}.mp4")) as clip:
                for frame in islice(clip.decode(video=0), 50):
                    made = frame.reformat(1280, 720, "yuv420p")
                    made.pts, made.time_base, number = number, Fraction(1, 25), number + 1
                    out.mux(stream.encode(made))
        out.mux(stream.encode())
    return path


def _split(page: Page, address: str, folder: Path) -> None:
    """Bring in a file of three shots, and split it."""
    with tempfile.TemporaryDirectory() as made:
        path = _joined(Path(made))
        page.goto(f"{address}/clips/")
        page.get_by_label("Clips to bring in").set_input_files(str(path))
        page.locator("[data-clip-state=ready]", has_text=path.name).wait_for(timeout=240_000)
    page.get_by_role("button", name="Split").click(timeout=240_000)
    page.locator("[data-clip-state=ready]", has_text="Shot 3 of 3").wait_for(timeout=240_000)
    page.wait_for_timeout(1500)
    page.locator("[data-clip]", has_text="Shot 2 of 3").scroll_into_view_if_needed()
    page.screenshot(path=folder / "clips.png")


def _left_out(page: Page, address: str, folder: Path) -> None:
    """A shot on the Bench, with a part of its picture left out."""
    page.goto(f"{address}/clips/")
    page.locator("[data-clip]", has_text="Shot 1 of 3").get_by_label("on the Bench").first.click()
    page.locator("[data-bench][data-shown]").wait_for()
    _accept_all(page)
    page.locator(".stage-tools [data-tap-switch]").click()
    box = page.locator("[data-frame]").bounding_box()
    page.mouse.click(box["x"] + 0.62 * box["width"], box["y"] + 0.62 * box["height"])
    page.locator("[data-tap-meaning=leave]").click()
    page.locator("[data-region][open]").wait_for()
    page.wait_for_timeout(1500)
    page.screenshot(path=folder / "bench-region.png")


def _open(page: Page, address: str, title: str) -> None:
    page.goto(f"{address}/clips/")
    page.get_by_label(f"Open {title} on the Bench").click()
    page.locator("[data-bench][data-shown]").wait_for()


def _rung(page: Page, key: str) -> None:
    page.locator(f"#rung-{key}").click()
    page.wait_for_timeout(900)


def _region(page: Page) -> None:
    """A brighter face in an ellipse that lies a little elsewhere at the second moment."""
    page.get_by_role("button", name="Ellipse").click()
    middle = page.get_by_role("button", name="Ellipse: move")
    middle.focus()
    for key in 12 * ["Shift+ArrowLeft"] + 5 * ["Shift+ArrowUp"]:
        page.keyboard.press(key)
    page.locator("[data-region][open] [data-step=exposure] input[type=range]").fill("0.6")
    page.locator("[data-bench]:not([data-unsaved], [data-asking], [data-looking])").wait_for()
    page.get_by_role("button", name="Moment here").click()
    page.wait_for_timeout(900)
    page.locator("[data-moment='1']").click()
    middle.focus()
    page.keyboard.press("Shift+ArrowRight")
    page.wait_for_timeout(1500)


def _accept_all(page: Page) -> None:
    accept = page.locator("#accept-all")
    if accept.is_enabled():
        accept.click()
        page.wait_for_timeout(900)


def _deliver(page: Page, address: str) -> None:
    """Accept everything on two clips and render them, so that queue and logbook have something to show."""
    for title in ("sandpiper-sluice-round.mp4", "fern-jetty-talk.mp4"):
        _open(page, address, title)
        _accept_all(page)
        page.locator(".ladder-foot").get_by_role("button", name="Hand over").click()
        page.locator(".job-acts .btn-act").first.wait_for(timeout=120_000)
        page.locator(".job progress").wait_for(state="detached", timeout=120_000)


def _decided(page: Page, address: str) -> None:
    """Take all proposals and wait until every clip has its verdict."""
    page.goto(f"{address}/clips/?view=corrected")
    page.get_by_role("button", name="Take all proposals").click()
    page.locator("#decided").wait_for(timeout=120_000)
    page.get_by_text("Being looked at").first.wait_for(state="detached", timeout=120_000)
    page.wait_for_timeout(2500)


def _plan(page: Page, address: str, camera: str) -> None:
    page.goto(f"{address}/plan/")
    page.locator(".camera-tab", has_text=camera).click()
    page.get_by_label(f"Settings of {camera}").wait_for()
    page.wait_for_timeout(400)


def _planning(browser: Browser, address: str, folder: Path) -> None:
    """The plan on laptop and phone, the Library with cameras and devices."""
    wide = browser.new_page(viewport=WIDE)
    _plan(wide, address, "Sandpiper")
    wide.screenshot(path=folder / "plan.png")
    wide.goto(f"{address}/library/")
    wide.wait_for_timeout(400)
    wide.screenshot(path=folder / "library.png")
    wide.goto(f"{address}/library/devices/")
    wide.get_by_role("button", name="Pair for working").click()
    wide.get_by_role("img", name="QR code of the link").wait_for()
    wide.screenshot(path=folder / "pairing.png")
    phone = browser.new_context(viewport=PHONE, has_touch=True, is_mobile=True).new_page()
    _plan(phone, address, "Fern")
    phone.get_by_role("link", name="Check a take").tap()
    phone.get_by_label("Choose a clip or still").set_input_files(DEMO / "fern-jetty-talk.mp4")
    phone.locator("[data-scope=vector][data-drawn]").wait_for(timeout=60_000)
    phone.wait_for_timeout(600)
    phone.screenshot(path=folder / "take-check.png")


def _matched(page: Page, address: str, folder: Path) -> None:
    """A clip of one camera brought to the frame of another."""
    page.goto(f"{address}/match/")
    source = page.get_by_label("A clip as it looks now")
    source.select_option(label="cuttle-jetty-log.mp4")
    page.locator("form", has=source).get_by_role("button").click()
    page.get_by_role("link", name="fern-jetty-hlg.mp4").click()
    page.get_by_role("button", name="The whole outing").click()
    page.locator("#board:not([data-busy]) [data-stages]").wait_for(timeout=240_000)
    page.wait_for_timeout(1500)
    page.screenshot(path=folder / "match.png")


def _styled(page: Page, phone: Page, address: str, folder: Path) -> None:
    """The wall of looks, the tone strip under a thumb, and a finish that plays."""
    _open(page, address, "sandpiper-sluice-round.mp4")
    page.locator("#shared-style > summary").click()
    page.locator(".looks .answer", has_text="Last light").click()
    page.locator(".looks .on img").wait_for()
    page.wait_for_timeout(2500)
    page.evaluate("document.querySelector('#shared-style').scrollIntoView()")
    page.evaluate("scrollTo(0, 0)")
    page.wait_for_timeout(900)
    page.screenshot(path=folder / "bench-looks.png")
    _open(phone, address, "sandpiper-sluice-round.mp4")
    phone.locator("#shared-style > summary").click()
    phone.locator("[data-strip]").scroll_into_view_if_needed()
    phone.wait_for_timeout(900)
    phone.screenshot(path=folder / "bench-phone.png")
    page.locator("#shared-style > summary").click()
    page.locator("#shared-finish > summary").click()
    for effect in ("Glow", "Grain"):
        page.locator("#shared-finish").get_by_role("button", name=effect, exact=True).click()
        page.locator(f"#shared-finish [data-step={effect.lower()}]").first.wait_for()
    page.locator("#finish-shape").select_option(label="2.35 : 1")
    page.wait_for_timeout(1500)
    page.locator("#finish-title > summary").click()
    page.get_by_label("Words").fill("Where the sluice lets go")
    page.get_by_role("button", name="Set title").click()
    page.locator("#finish-title > summary", has_text="sluice").wait_for()
    page.evaluate("document.querySelector('#finish-shape').scrollIntoView({ block: 'center' })")
    page.evaluate("scrollTo(0, 0)")
    page.get_by_role("button", name="Play").click()
    page.locator("[data-motion]").wait_for(timeout=20_000)
    page.wait_for_timeout(1500)
    page.screenshot(path=folder / "bench-finish.png")


def _colours(page: Page, address: str) -> None:
    """One colour calmed on the palette."""
    _open(page, address, "fern-jetty-talk.mp4")
    _rung(page, "families")
    page.locator("[data-swatch=reds]").click()
    strength = page.locator("[data-edit=strength] input[type=range]")
    strength.fill("-45")
    strength.dispatch_event("change")
    page.wait_for_timeout(1500)


def _compared(page: Page, address: str, folder: Path) -> None:
    """Two decisions of the logbook side by side: one clip as its proposals have it, and darker."""
    _open(page, address, "sandpiper-sluice-flat.mp4")
    _accept_all(page)
    _rung(page, "exposure")
    page.locator("#exposure-stops").fill("-0.5")
    page.locator("#exposure-stops").press("Enter")
    page.wait_for_timeout(1500)
    page.goto(f"{address}/logbook/?clip=sandpiper-sluice-flat.mp4&kind=decided")
    for box in page.locator("[name=entry]").all()[:2]:
        box.check()
    page.get_by_role("button", name="Compare the two ticked").click()
    page.wait_for_timeout(1500)
    page.screenshot(path=folder / "logbook.png")


def _practised(page: Page, address: str, folder: Path) -> None:
    """Some exercises answered; the last one as it lies there, answered; then the record."""
    for key in ("belongs", "clipped", "leans", "name-light", "name-colour", "matches", "belongs", "leans"):
        page.goto(f"{address}/practice/{key}/")
        page.locator("canvas[data-drawn]").first.wait_for()
        page.locator("[data-choice]").nth(len(key) % 3).click()
        page.locator("[data-next]").wait_for()
    page.goto(f"{address}/practice/face/")
    page.locator("canvas[data-drawn]").first.wait_for()
    page.locator("[data-tap] canvas").click(position={"x": 98, "y": 190})
    page.locator("[data-next]").wait_for()
    page.wait_for_timeout(500)
    page.screenshot(path=folder / "practice-exercise.png")
    page.goto(f"{address}/practice/")
    page.wait_for_timeout(400)
    page.screenshot(path=folder / "practice.png", full_page=True)


def shoot(address: str, folder: Path) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        wide = browser.new_page(viewport=WIDE)
        _all_read(wide, address, folder)
        _deliver(wide, address)
        _split(wide, address, folder)
        for name, path in (
            ("hand-over", "/hand-over/"),
            ("report", "/hand-over/report/"),
        ):
            wide.goto(address + path)
            wide.wait_for_timeout(600)
            wide.screenshot(path=folder / f"{name}.png")
        _compared(wide, address, folder)
        _practised(wide, address, folder)
        dim = browser.new_page(viewport=WIDE, color_scheme="dark")
        _open(dim, address, "cuttle-jetty-log.mp4")
        _accept_all(dim)
        _rung(dim, "convert")
        dim.locator("[data-compare]").click()
        dim.wait_for_timeout(400)
        dim.screenshot(path=folder / "bench.png")
        _open(dim, address, "SP0007.mp4")
        _accept_all(dim)
        dim.wait_for_timeout(900)
        dim.locator("#even-amount").fill("100")
        dim.locator("#even-amount").dispatch_event("change")
        dim.wait_for_timeout(900)
        _open(dim, address, "fern-jetty-talk.mp4")
        _region(dim)
        dim.locator("[data-region][open]").get_by_role("button", name="Take away").click()
        dim.locator("[data-region]").wait_for(state="detached")
        _left_out(dim, address, folder)
        _colours(wide, address)
        phone = browser.new_context(viewport=PHONE, has_touch=True, is_mobile=True).new_page()
        _styled(wide, phone, address, folder)
        _open(wide, address, "cuttle-meadow-5m.mp4")
        _accept_all(wide)
        _rung(wide, "restore")
        wide.evaluate(
            "document.querySelector('[data-rung=restore] .ways').scrollIntoView({ block: 'center' })"
        )
        wide.wait_for_timeout(900)
        wide.screenshot(path=folder / "bench-water.png")
        _decided(wide, address)
        wide.screenshot(path=folder / "clips-corrected.png")
        _planning(browser, address, folder)
        _matched(wide, address, folder)
        browser.close()


def main(folder: Path) -> None:
    with demo() as address:
        shoot(address, folder)


if __name__ == "__main__":
    main(Path(sys.argv[1]))

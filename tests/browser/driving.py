"""What a person's hand does in every journey: bring in, open, tap, drag, play, wait."""

from __future__ import annotations

import base64
import io
import json
import re
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
from PIL import Image
from playwright.sync_api import Page, expect

from tests.serving import Visitor

TWO_CODES = 2.0
FOCUSED = """(({ ariaLabel, labels, innerText }) =>
  (ariaLabel || labels?.[0]?.innerText || innerText || "").trim())(document.activeElement)"""


@contextmanager
def outing_apart(address: str, name: str) -> Iterator[None]:
    """An outing without clips, open for a while, so that nothing but a journey's own clips is asked about."""
    visitor = Visitor(address)
    before = re.search(r"<h1>(.+?)</h1>", visitor.get("/"))[1]
    visitor.post("/outings/", name=name, day="2026-09-13")
    yield
    others = re.findall(r'action="(/outings/\d+/open/)"(.+?)</form>', visitor.get("/"), re.S)
    visitor.post(next(way for way, form in others if f">{before}, " in form))


def bring_in(page: Page, address: str, file: Path) -> None:
    """Upload a clip and wait until it has been read."""
    page.goto(f"{address}/clips/")
    page.get_by_label("Clips to bring in").set_input_files(str(file))
    # a small clip may have arrived before its row was looked for
    expect(page.locator(".arrival, [data-clip-state]", has_text=file.name).first).to_be_visible()
    card = page.locator("[data-clip-state=ready]", has_text=file.name)
    expect(card.first).to_be_visible(timeout=240_000)


def open_on_bench(page: Page, address: str, title: str) -> None:
    page.goto(f"{address}/clips/")
    page.get_by_label(f"Open {title} on the Bench").first.click()
    expect(page.locator("[data-bench][data-shown]")).to_be_visible()


def rung(page: Page, key: str):
    return page.locator(f"[data-rung={key}]")


def shown(page: Page) -> dict:
    """The grade that the picture on the screen was made with, once all is kept and shown."""
    settle(page)
    return json.loads(page.locator("[data-bench]").get_attribute("data-shown"))


def shown_grade(page: Page) -> dict[str, dict]:
    """The steps of the grade shown."""
    grade = shown(page)
    layers = [step for layer in grade["layers"] for step in layer["steps"]]
    return {step["step"]: step for step in [*grade["source"], *layers]}


def picture(page: Page) -> str:
    return page.locator("[data-after]").get_attribute("src")


def scope(page: Page, name: str) -> str:
    """The pixels of a gauge."""
    return page.locator(f"[data-gauge={name}]").evaluate("canvas => canvas.toDataURL()")


def drag(page: Page, locator, dx: float, dy: float) -> None:
    settle(page)  # what is still to come may move what is about to be taken hold of
    locator.evaluate("node => node.scrollIntoView({ block: 'center' })")  # at once: a new ladder may come
    box = locator.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + dx / 2, y + dy / 2)
    page.mouse.move(x + dx, y + dy)
    page.mouse.up()


def open_rung(page: Page, key: str) -> None:
    """Open a rung by the key of its number."""
    page.keyboard.press(rung(page, key).get_attribute("data-number"))
    expect(rung(page, key)).to_have_class(re.compile("open"))


def settle(page):
    """Wait until all that was set has been kept and is shown, and no ladder is on its way."""
    expect(page.locator("[data-unsaved], [data-asking], [data-looking]")).to_have_count(0)


@contextmanager
def held_back(page: Page, address: str) -> Iterator[Callable[[], None]]:
    """What is asked of an address is done at once; its answer comes when the given function is called."""
    held = []
    page.route(address, lambda route: held.append((route, route.fetch())))

    def late() -> None:
        while not held:
            page.wait_for_timeout(50)
        route, answer = held.pop()
        route.fulfill(response=answer)

    yield late
    page.unroute(address)


def tab_to(page, name: str):
    """Go on with the tab key until what bears a name has the focus."""
    for _ in range(120):
        page.keyboard.press("Tab")
        if page.evaluate(FOCUSED).startswith(name):
            return
    raise AssertionError(f"{name} cannot be reached by keys")


def pixels(data_url: str) -> np.ndarray:
    return np.asarray(
        Image.open(io.BytesIO(base64.b64decode(data_url.split(",", 1)[1]))).convert("RGB"), float
    )


def play_to(page, time_s: float) -> np.ndarray:
    """Stop the playing clip at a moment and give what is drawn."""
    motion = page.locator("[data-motion]")
    expect(motion).to_be_visible(timeout=30_000)
    begin, end = (
        float(page.locator("[data-bench]").get_attribute(f"data-{edge}")) for edge in ("begin", "end")
    )
    page.get_by_label("Time in the clip").fill(f"{(time_s + 0.01 - begin) / (end - begin):.3f}")
    page.wait_for_function(
        "t => Math.abs(Number(document.querySelector('[data-motion]').dataset.time) - t) < 0.05", arg=time_s
    )
    page.wait_for_timeout(300)  # the frame of this moment is drawn after the seek
    return pixels(motion.evaluate("canvas => canvas.toDataURL('image/png')"))


def wait_for_proxy(page) -> None:
    """Wait until the worker has prepared the open clip for playing."""
    address = page.url.split("?")[0] + "proxy.mp4"
    for _ in range(240):
        if page.request.head(address).status == 200:
            return
        time.sleep(0.5)
    raise AssertionError("The clip was not prepared for playing.")


def expect_played_like_still(page, plain: bool) -> None:
    """Play to the judging frame shown: what graphics or script draw there has to be the server's still."""
    if plain:
        page.evaluate("document.querySelector('[data-bench]').dataset.plain = 'yes'")
    moment = float(re.search(r"[\d.]+", page.locator("[data-moment='0']").inner_text())[0])

    page.get_by_role("button", name="Play").click()
    drawn = play_to(page, moment)

    still = pixels(page.locator("[data-after]").get_attribute("src"))
    if plain:
        assert page.locator("[data-motion]").get_attribute("data-way") == "script"
        size = drawn.shape[1], drawn.shape[0]
        still = np.asarray(Image.fromarray(still.astype(np.uint8)).resize(size, Image.BOX), float)
    assert drawn.shape == still.shape
    assert np.abs(drawn - still).mean() < TWO_CODES
    page.get_by_role("button", name="Still", exact=True).click()
    expect(page.locator("[data-motion]")).to_be_hidden()

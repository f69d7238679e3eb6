"""A whole Morphe of its own (server, worker, rescue) with one small clip, and browsers to drive it."""

from __future__ import annotations

import os
import time
import urllib.request
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import expect, sync_playwright

from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.cameras import Exposure, film, record
from morphe.core.standins.demo import DEMO_CLIPS, render_scene
from tests.footage import scene
from tests.serving import served

CHROMIUM = os.environ.get("CHROMIUM", "/usr/bin/chromium-headless-shell")
ARGUMENTS = [
    "--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-component-update",
    "--disable-sync", "--no-first-run",
    "--ignore-certificate-errors",  # of a computer that signs its own: a service worker asks for a good one
]  # fmt: skip
expect.set_options(timeout=45_000)  # a busy machine is no fault


@pytest.fixture(scope="session")
def demo(tmp_path_factory):
    """A Morphe started as a person starts it, once nothing of the demo outing is at work: its address."""
    with served(tmp_path_factory.mktemp("home")) as address:
        for _ in range(150):
            with urllib.request.urlopen(f"{address}/clips/", timeout=30) as answer:
                page = answer.read()
            if page.count(b'data-clip-state="ready"') >= len(DEMO_CLIPS) and b" data-busy" not in page:
                break
            time.sleep(2)
        yield address


@pytest.fixture
def address(demo):
    """Where the journeys of a file go: the demo, if the file has no other."""
    return demo


@pytest.fixture(scope="session")
def jetty_file(tmp_path_factory) -> Path:
    """A person at the jetty in a lifted log profile, a little warm, as a camera writes it."""
    exposure = Exposure(profile="log-lifted", warm_mired=25)
    linear = render_scene("jetty-tan", 0.5, width=640, height=360)
    generator = np.random.default_rng(4)
    path = tmp_path_factory.mktemp("card") / "my-jetty.mp4"
    return record((film(linear, exposure, generator) for _ in range(60)), path, exposure)


@pytest.fixture(scope="session")
def grey_file(tmp_path_factory) -> Path:
    """An ordinary clip of the test scene."""
    exposure = Exposure(exposure_stops=-1.0)
    linear = PROFILES.get("std-709").decode(scene(320, 180)).astype(np.float32)
    generator = np.random.default_rng(5)
    path = tmp_path_factory.mktemp("card") / "plain.mp4"
    return record((film(linear, exposure, generator) for _ in range(40)), path, exposure)


@pytest.fixture(scope="session")
def browser():
    with sync_playwright() as play:
        started = play.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        yield started
        started.close()


def _page(browser, errors, **options):
    context = browser.new_context(**options)
    page = context.new_page()
    page.on("pageerror", lambda error: errors.append(str(error)))
    page.on("console", lambda message: errors.append(message.text) if message.type == "error" else None)
    return page


@pytest.fixture
def page(browser):
    """A laptop's window; the test fails if a script did."""
    errors: list[str] = []
    opened = _page(browser, errors, viewport={"width": 1280, "height": 800})
    yield opened
    opened.context.close()
    assert errors == []


@pytest.fixture
def phone(browser):
    """A phone held upright."""
    errors: list[str] = []
    opened = _page(browser, errors, viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True)
    yield opened
    opened.context.close()
    assert errors == []

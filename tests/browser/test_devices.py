"""A phone beside the computer: paired by a link, at work where the filming happens, then sent away; and
what it shows when the computer is gone."""

import re
import ssl
import subprocess
import sys
import urllib.request
from contextlib import ExitStack

import pytest
from playwright.sync_api import expect

from tests.browser.driving import bring_in, settle, shown_grade
from tests.serving import environment_of, free_port, served

PHONE = {"viewport": {"width": 390, "height": 844}, "has_touch": True, "is_mobile": True,
         "ignore_https_errors": True}  # fmt: skip
CAMERA = """
import django, json
django.setup()
from morphe.core.standins.kits import KITS
from morphe.web.outings.models import Camera, Outing
from morphe.web.plan.services.current import add_camera, plan_of
kit = KITS.get("fern")
camera = Camera.objects.create(name=kit.name, kit=json.loads(json.dumps(kit.as_json())))
add_camera(plan_of(Outing.objects.get()), camera)
"""
KEPT = "async () => (await (await caches.open('pages')).keys()).map((one) => new URL(one.url).pathname)"
TOO_SMALL = """() => [
    ...document.querySelectorAll("a, button, summary, select, textarea, input, [role=slider]")]
  .filter((node) => node.checkVisibility() && !node.closest("p, h2, td, span, .visually-hidden, .skip"))
  .map((node) => (node.matches("[type=checkbox], [type=radio], [type=file]") && node.closest("label"))
    || node)
  .map((node) => [node, node.getBoundingClientRect()])
  .filter(([node, box]) => box.width && Math.min(box.width, box.height) < 43.5)
  .filter(([node]) => !node.matches("[type=checkbox]"))
  .map(([node, box]) => `${node.outerHTML.slice(0, 60)} ${box.width}x${box.height}`)"""


@pytest.fixture(scope="module")
def network(tmp_path_factory):
    """A Morphe that is open to the network, with one camera planned: its address on the computer itself, and
    what stops it."""
    home = tmp_path_factory.mktemp("home")
    with ExitStack() as stack:
        port = str(free_port())
        morphe = served(home, "Two hands", MORPHE_NETWORK="1", MORPHE_NETWORK_PORT=port)
        address = stack.enter_context(morphe)
        subprocess.run([sys.executable, "-c", CAMERA], env=environment_of(home, 0), check=True)
        yield address, stack.close


def answers(url):
    """Wait until the server for the network answers at all."""
    anyone = ssl._create_unverified_context()
    for _ in range(60):
        try:
            urllib.request.urlopen(url, timeout=5, context=anyone).read()
            return
        except OSError:
            pass
    raise AssertionError(f"{url} does not answer.")


def paired(page, browser, address, name):
    """A phone that was paired by the link on the computer's screen, and where it reaches Morphe."""
    page.goto(f"{address}/library/devices/")
    page.get_by_role("button", name="Pair for working").click()
    expect(page.get_by_role("img", name="QR code of the link")).to_be_visible()
    link = page.locator(".url").inner_text()
    answers(link)
    phone = browser.new_context(**PHONE).new_page()
    phone.goto(link)
    phone.get_by_label("What shall it be called?").fill(name)
    phone.get_by_role("button", name="Pair this device").tap()
    expect(phone.get_by_role("heading", name="Two hands")).to_be_visible()
    return phone, "/".join(link.split("/")[:3])


def upload_over_a_cut_line(phone, outward, file):
    """Send a clip whose connection is lost at every piece but the first, once each."""
    lost = []

    def piece(route, request):
        at = int(request.headers.get("upload-offset", 0))
        if request.method == "PATCH" and at and at not in lost:
            lost.append(at)
            route.abort("connectionreset")
        else:
            route.continue_()

    phone.route(re.compile(r"/clips/uploads/\w{32}/$"), piece)
    phone.goto(f"{outward}/clips/")
    phone.get_by_label("Clips to bring in").set_input_files(str(file))
    expect(phone.locator("[data-clip-state=ready]", has_text=file.name).first).to_be_visible(timeout=120_000)
    assert len(lost) == 3


def test_given_a_phone_when_paired_then_it_checks_sends_and_grades_beside_the_computer_until_it_is_sent_away(
    page, browser, network, grey_file, tmp_path
):
    address, _ = network
    phone, outward = paired(page, browser, address, "Fern's phone")

    # a take is checked on the spot
    phone.goto(f"{outward}/plan/")
    phone.get_by_role("link", name="Check a take").tap()
    phone.get_by_label("Choose a clip or still").set_input_files(str(grey_file))
    expect(phone.locator(".verdict")).to_contain_text(re.compile("Keep|Film again"), timeout=60_000)
    expect(phone.locator("canvas[data-scope=vector][data-drawn]")).to_be_visible()
    assert phone.evaluate("document.documentElement.scrollWidth") == 390

    # a clip is sent over a line that is cut three times
    file = tmp_path / "from-the-boat.mp4"
    file.write_bytes(grey_file.read_bytes() + b"\0" * 26_000_000)  # padding after the last box is ignored
    upload_over_a_cut_line(phone, outward, file)

    # both open the clip; what the phone keeps comes to the computer, which says whose it was
    page.goto(f"{address}/bench/")
    phone.goto(f"{page.url.replace(address, outward)}?open=exposure")
    for one in (page, phone):
        expect(one.locator("[data-bench][data-shown]")).to_be_visible()
    phone.locator("#exposure-stops").fill("0.7")
    phone.locator("#exposure-stops").press("Enter")
    settle(phone)
    expect(page.get_by_text("Fern's phone changed this a moment ago.")).to_be_visible(timeout=40_000)
    expect(page.locator("#exposure-stops")).to_have_value("0.7")
    assert shown_grade(page)["exposure"]["stops"] == 0.7

    # the computer changes something else, the phone's page being older: neither is lost
    page.locator("#rung-contrast").click()
    page.locator("#contrast-amount").fill("9")
    page.locator("#contrast-amount").press("Enter")
    settle(page)
    phone.locator("#exposure-stops").fill("0.5")
    phone.locator("#exposure-stops").press("Enter")
    settle(phone)
    expect(phone.get_by_text("The computer changed this a moment ago.").first).to_be_visible(timeout=40_000)
    expect(phone.locator("#contrast-amount")).to_have_value("9")
    kept = shown_grade(phone)
    assert (kept["exposure"]["stops"], kept["contrast"]["amount"]) == (0.5, 9)

    page.goto(f"{address}/library/devices/")
    expect(page.get_by_text("Fern's phone")).to_be_visible()
    page.get_by_role("button", name="Send away").click()
    phone.reload()
    expect(phone.get_by_text("does not know this device")).to_be_visible()
    phone.context.close()


def move(page, *stations):
    """Fingers on the screen from station to station, each the places of all of them, and lifted."""
    session = page.context.new_cdp_session(page)
    for number, places in enumerate([*stations, ()]):
        kind = "touchStart" if number == 0 else "touchMove" if places else "touchEnd"
        fingers = [{"x": x, "y": y, "id": finger} for finger, (x, y) in enumerate(places)]
        session.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": fingers})
    session.detach()


def swipe(page, box, by):
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    move(page, [(x, y)], [(x + by / 2, y)], [(x + by, y)])


def test_given_a_phone_when_the_computer_is_gone_then_what_it_keeps_opens_and_says_so(
    page, browser, network, grey_file
):
    address, stop = network
    bring_in(page, address, grey_file)
    phone, outward = paired(page, browser, address, "Cuttle's phone")
    phone.evaluate("navigator.serviceWorker.ready")
    phone.goto(f"{outward}/bench/")
    expect(phone.locator("[data-bench][data-shown]")).to_be_visible()

    title = phone.locator("h1").inner_text()

    # everything is within reach of a thumb; a swipe goes on, two fingers bring the picture nearer
    frame, first = phone.locator("[data-frame]"), phone.locator(".rung.open").get_attribute("data-rung")
    swipe(phone, phone.locator(".rung.open .measured").bounding_box(), -140)
    expect(phone.locator(f"[data-rung={first}]")).not_to_have_class(re.compile("open"))
    swipe(phone, frame.bounding_box(), -140)
    expect(phone.locator("[data-moment='1']")).to_have_attribute("aria-checked", "true")
    wide = frame.bounding_box()["width"]
    move(phone, [(150, 150), (250, 150)], [(100, 150), (300, 150)])
    assert frame.bounding_box()["width"] == pytest.approx(2 * wide, rel=0.05)
    phone.get_by_role("button", name="Whole picture").tap()
    assert frame.bounding_box()["width"] == pytest.approx(wide)
    phone.set_viewport_size({"width": 844, "height": 390})  # held sideways: the ladder stands beside
    ladder, picture = phone.locator("#ladder").bounding_box(), frame.bounding_box()
    assert picture["x"] + picture["width"] <= ladder["x"] + 1 and ladder["x"] + ladder["width"] <= 845
    assert phone.locator(".rung.open .measured").bounding_box()["y"] < 390
    phone.set_viewport_size(PHONE["viewport"])

    for path in ("/", "/plan/", "/clips/", "/bench/", "/hand-over/", "/library/", "/logbook/", "/match/"):
        phone.goto(f"{outward}{path}")
        assert phone.evaluate(TOO_SMALL) == [], path
        phone.evaluate("document.documentElement.style.fontSize = '200%'")
        assert phone.evaluate("document.documentElement.scrollWidth") == 390, path

    phone.wait_for_function(f"({KEPT})().then((all) => all.some((path) => path.endsWith('card.html')))")
    kept = phone.evaluate(KEPT)
    assert {"/", "/plan/", "/clips/", "/library/"} <= set(kept)
    page.goto("about:blank")
    stop()

    phone.goto(f"{outward}/")
    expect(phone.get_by_role("heading", name="Two hands")).to_be_visible()
    expect(phone.get_by_text("Morphe's computer does not answer. This is the page as it was")).to_be_visible()
    phone.goto(f"{outward}{next(path for path in kept if path.endswith('card.html'))}?here=yes")
    expect(phone.get_by_role("button", name="Take")).to_be_visible()
    phone.goto(f"{outward}/bench/")
    expect(phone.get_by_role("heading", name=title)).to_be_visible()
    phone.goto(f"{outward}/keep/")
    expect(phone.get_by_role("heading", name="No connection")).to_be_visible()
    expect(phone.get_by_role("link", name="Plan", exact=True).last).to_be_visible()
    phone.context.close()

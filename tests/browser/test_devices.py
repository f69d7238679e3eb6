"""A phone beside the computer: paired by a link, both on one clip, then sent away."""

import ssl
import urllib.request

import pytest
from playwright.sync_api import expect

from tests.browser.driving import bring_in, settle, shown_grade
from tests.serving import free_port, served


@pytest.fixture(scope="module")
def network(tmp_path_factory):
    """A Morphe that is open to the network, with an empty outing: its address on the computer itself."""
    with served(tmp_path_factory.mktemp("home"), "Two hands", MORPHE_NETWORK="1",
                MORPHE_NETWORK_PORT=str(free_port())) as address:  # fmt: skip
        yield address


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


def test_given_a_phone_when_paired_then_it_grades_beside_the_computer_until_it_is_sent_away(
    page, browser, network, grey_file
):
    bring_in(page, network, grey_file)
    page.goto(f"{network}/library/devices/")
    page.get_by_role("button", name="Pair for working").click()
    expect(page.get_by_role("img", name="QR code of the link")).to_be_visible()
    link = page.locator(".url").inner_text()
    answers(link)

    phone = browser.new_context(
        viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True, ignore_https_errors=True
    ).new_page()
    phone.goto(link)
    phone.get_by_label("What shall it be called?").fill("Fern's phone")
    phone.get_by_role("button", name="Pair this device").tap()
    expect(phone.get_by_role("heading", name="Two hands")).to_be_visible()
    outward = "/".join(link.split("/")[:3])

    # both open the clip; what the phone keeps comes to the computer, which says whose it was
    page.goto(f"{network}/bench/")
    phone.goto(f"{page.url.replace(network, outward)}?open=exposure")
    for one in (page, phone):
        expect(one.locator("[data-bench][data-shown]")).to_be_visible()
    phone.locator("#exposure-stops").fill("0.7")
    phone.locator("#exposure-stops").press("Enter")
    settle(phone)
    expect(page.get_by_text("Fern's phone changed this a moment ago.")).to_be_visible(timeout=40_000)
    expect(page.locator("#exposure-stops")).to_have_value("0.7")
    settle(page)
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
    settle(phone)
    kept = shown_grade(phone)
    assert (kept["exposure"]["stops"], kept["contrast"]["amount"]) == (0.5, 9)

    page.goto(f"{network}/library/devices/")
    expect(page.get_by_text("Fern's phone")).to_be_visible()
    page.get_by_role("button", name="Send away").click()
    phone.reload()
    expect(phone.get_by_text("does not know this device")).to_be_visible()
    phone.context.close()

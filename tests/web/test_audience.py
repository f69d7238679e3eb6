"""Whom each route answers over the network, by every method; and that looking changes nothing."""

import pytest
from django.db import connection
from django.http import HttpResponse
from django.test import Client, RequestFactory
from django.urls import path

from morphe.web.devices.middleware import AT_HOME, CLOSED, LOOKS_ONLY, Gate
from morphe.web.devices.models import Device
from morphe.web.devices.services.pairing import COOKIE, make_link, pair
from morphe.web.plan.models import PlannedCamera
from morphe.web.plan.services.current import card_of
from morphe.web.shell.audience import SAFE, audience_of, looks
from tests.web.routes import every_route

BEFORE_PAIRING = {"pair", "pair-style", "root-certificate"}
QUESTIONS = {"bench-still", "bench-frames", "bench-passes", "bench-probe", "bench-lit", "bench-grain"}
# Pages and pictures, no files.
LOOKED_AT = {
    "alive", "news", "today", "manifest", "service-worker", "offline", "offline-wanted", "bench",
    "bench-clip", "bench-ladder", "bench-followed", "bench-over-time", "bench-proxy", "bench-before",
    "bench-thumbnail", "bench-history", "bench-version-picture", "bench-elsewhere", "bench-looks",
    "bench-look", "bench-choice", "bench-ghost", "clips", "clip-corrected", "clips-preparing",
    "clips-imports", "clips-fit", "clips-offer", "clip-asked-picture",
    "clip-shots-read", "plan", "plan-print", "plan-checks", "plan-check", "plan-check-scopes",
    "plan-check-picture", "plan-card", "plan-json", "plan-calendar", "match", "match-pin-picture",
    "match-clip-picture", "match-still", "match-scopes", "hand-over", "hand-over-progress",
    "hand-over-report", "logbook", "logbook-compare", "logbook-picture", "library", "camera", "profiles",
    "judged-curve", "profile", "recipes", "recipe-picture", "recipes-for-clips", "clip-recipes", "presets",
    "styles", "look-picture", "incoming", "incoming-takes", "lab", "lab-series", "lab-take-picture",
}  # fmt: skip
PICTURES = {"/hand-over/1/picture/"}  # of a route whose other files are for whoever works
AT_HOME_ONLY = {
    "devices", "device-link", "device-away", "network-switch", "drop-in", "drop-in-set",
    "keep", "keep-backup", "keep-download", "keep-remove", "keep-restore", "keep-proxies",
}  # fmt: skip
METHODS = ("GET", "HEAD", "OPTIONS", "POST", "PUT", "PATCH", "DELETE")
HOST = "192.0.2.7"


@pytest.fixture
def network(settings, db, tmp_path):
    """This Morphe as the local network reaches it."""
    settings.ENTRY, settings.PAPERS, settings.ALLOWED_HOSTS = "network", tmp_path / "papers", [HOST]


def device(may_work: bool) -> str:
    return pair(make_link(may_work=may_work), "Fern's phone")[1]


def told(gate: Gate, address: str, method: str, shown: str) -> str:
    """What the gate says of a request: "let in", or its refusal."""
    request = RequestFactory(headers={"host": HOST}).generic(method, address)
    request.COOKIES[COOKIE] = shown
    return gate(request).content.decode().strip()


def expected(name: str, address: str, method: str, who: str) -> str:
    if name in BEFORE_PAIRING:
        return "let in"
    if who == "unpaired":
        return CLOSED
    if name in AT_HOME_ONLY:
        return AT_HOME
    if who == "works" or name in QUESTIONS:
        return "let in"
    is_looked_at = name in LOOKED_AT or address in PICTURES
    return "let in" if is_looked_at and method in SAFE else LOOKS_ONLY


def test_given_every_route_when_asked_by_every_audience_and_method_then_the_gate_holds_the_table(network):
    gate = Gate(lambda request: HttpResponse("let in"))
    shown = {"unpaired": "", "works": device(True), "looks": device(False)}
    routes = list(every_route())

    wrong = [
        (who, method, address, found)
        for name, address in routes
        for who, token in shown.items()
        for method in METHODS
        if (found := told(gate, address, method, token)) != expected(name, address, method, who)
    ]

    assert len(routes) > 150 and wrong == []


def test_given_a_route_that_declares_nothing_when_asked_over_the_network_then_it_is_of_this_computer_alone(
    network, settings
):
    routes = [path("plain/", HttpResponse), path("seen/", looks(HttpResponse))]
    settings.ROOT_URLCONF = type("Tree", (), {"urlpatterns": routes})
    gate = Gate(lambda request: HttpResponse("let in"))
    worker = device(True)

    assert told(gate, "/plain/", "GET", worker) == AT_HOME and told(gate, "/seen/", "GET", worker) == "let in"
    assert (
        told(gate, "/static/x.css", "GET", worker) == "let in"
        and told(gate, "/static/x.css", "GET", "") == CLOSED
    )


# When devices were used, how often tables changed, what a browser has open, and work on pictures.
OWN_TABLES = ("devices_device", "shell_change", "django_session", "jobs_job")


def kept() -> set[str]:
    """All that the database holds, apart from what looking itself leaves."""
    return {line for line in connection.connection.iterdump() if not any(t in line for t in OWN_TABLES)}


def test_given_a_device_that_looks_only_when_it_looks_at_everything_then_nothing_is_changed(
    network, everything, media
):
    phone = Client(headers={"host": HOST})
    phone.cookies[COOKIE] = device(False)
    numbers = {"clip_id": everything.pk}
    addresses = [
        address for name, address in every_route(numbers) if audience_of(address).has("GET", may_work=False)
    ]
    card_of(PlannedCamera.objects.get())  # its settings are kept as they were last shown
    before = kept()

    answers = {address: phone.get(address).status_code for address in addresses}

    assert kept() ^ before == set()
    assert sum(code == 200 for code in answers.values()) > 40 and 500 not in answers.values()
    assert Device.objects.count() == 1

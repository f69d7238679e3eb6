"""Devices: over the network nothing is answered without pairing; links are spent once, devices sent away."""

import ssl
import stat
import subprocess
import sys
import time
import urllib.error
import urllib.request
from datetime import timedelta

import pytest
from cryptography import x509
from django.core.cache import cache
from django.test import Client
from django.urls import reverse
from django.utils import timezone
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from morphe.web.devices.middleware import AT_HOME, CLOSED, LOOKS_ONLY
from morphe.web.devices.models import Device, PairLink
from morphe.web.devices.services.pairing import COOKIE, MOST_FAILED, make_link, pair, recognise, send_away
from morphe.web.network import papers
from morphe.web.outings.models import Outing
from morphe.web.plan.services.current import add_camera, plan_of
from tests.serving import environment_of, free_port
from tests.web.test_plan import camera_of


@pytest.fixture
def network(settings, db, tmp_path):
    """This Morphe as the local network reaches it."""
    cache.clear()
    settings.ENTRY, settings.PAPERS = "network", tmp_path / "papers"
    settings.ALLOWED_HOSTS = ["192.0.2.7"]
    return Client(headers={"host": "192.0.2.7"})


def paired(network, *, may_work=True, name="Fern's phone"):
    device, shown = pair(make_link(may_work=may_work), name)
    network.cookies[COOKIE] = shown
    return device


@pytest.mark.parametrize(
    "address", ["/static/shell/theme.css", "/static/bench/bench.js", "/media/x.mp4", "/none/"]
)
def test_given_statics_when_asked_without_pairing_then_they_are_behind_the_gate(network, address):
    assert network.get(address).content.decode() == CLOSED + "\n"


def test_given_a_link_when_looked_at_then_posted_then_it_pairs_once(network):
    Outing.objects.create(name="Marsh", date="2026-05-01")
    way = reverse("pair", args=(make_link(may_work=True),))

    looked = [network.get(way).status_code for _ in range(2)]  # a preview of a message spends nothing
    network.post(way, {"name": "  Fern's   phone "})
    again = Client(headers={"host": "192.0.2.7"}).post(way, {"name": "Another"})

    device = Device.objects.get()
    cookie = network.cookies[COOKIE]
    assert looked == [200, 200] and device.name == "Fern's phone"
    assert cookie["httponly"] and cookie["secure"] and cookie["samesite"] == "Lax"
    assert network.get("/").status_code == 200
    assert again.status_code == 403 and COOKIE not in again.cookies and b"used up" in again.content
    assert cookie.value not in str(Device.objects.values())  # only its hash is kept


def test_given_a_link_that_is_old_replaced_or_guessed_when_used_then_it_pairs_nothing(network):
    old = make_link(may_work=True)
    PairLink.objects.update(made=timezone.now() - timedelta(minutes=11))
    before = make_link(may_work=True)
    make_link(may_work=True)  # a new one voids it

    for token in (old, before, "guessed", "x" * 43):
        assert network.post(reverse("pair", args=(token,)), {"name": "A"}).status_code == 403
    assert not Device.objects.exists()


def test_given_many_wrong_tries_when_one_address_goes_on_then_it_is_slowed_down(network):
    answers = [network.get(f"/pair/guess-{n}/").status_code for n in range(MOST_FAILED + 2)]

    assert answers[:MOST_FAILED] == [403] * MOST_FAILED and answers[-1] == 429
    good = reverse("pair", args=(make_link(may_work=True),))
    assert network.get(good).status_code == 429
    assert Client(headers={"host": "192.0.2.7"}).get(good, REMOTE_ADDR="192.0.2.9").status_code == 200


def test_given_a_wrong_cookie_when_shown_then_it_is_counted_and_refused(network):
    network.cookies[COOKIE] = "made-up"

    assert [network.get("/").status_code for _ in range(MOST_FAILED + 1)][-1] == 429


def test_given_a_device_when_sent_away_then_it_sees_nothing_from_then_on(network):
    device = paired(network)
    assert network.get("/clips/").status_code == 200

    send_away(device)

    assert network.get("/clips/").content.decode() == CLOSED + "\n"


def test_given_a_device_that_looks_only_when_it_works_then_it_may_not_but_it_may_look(network):
    paired(network, may_work=False)

    assert network.get("/clips/").status_code == 200
    refused = network.post("/clips/decide/", {})
    assert (refused.status_code, refused.content.decode()) == (403, LOOKS_ONLY + "\n")
    assert network.post("/bench/1/still/", "{}", content_type="application/json").status_code == 422


@pytest.mark.parametrize(
    "address", ["/library/devices/", "/library/devices/link/", "/library/devices/1/away/"]
)
def test_given_a_paired_device_when_it_wants_to_pair_or_send_away_then_it_may_not(network, address):
    paired(network)

    assert network.get(address).content.decode() == AT_HOME + "\n"
    assert "Devices" not in network.get("/library/").content.decode()


def test_given_a_paired_device_when_it_is_used_then_it_can_be_installed_and_told_what_to_keep(network):
    outing = Outing.objects.create(name="Marsh", date="2026-05-01")
    add_camera(plan_of(outing), camera_of("fern"))
    paired(network)

    page = network.get("/").content.decode()
    manifest = network.get("/manifest.webmanifest").json()
    worker = network.get("/service-worker.js")
    wanted = network.get("/offline/wanted.json").json()["pages"]

    assert 'data-worker="/service-worker.js"' in page and 'crossorigin="use-credentials"' in page
    assert manifest["start_url"] == "/" and {i["sizes"] for i in manifest["icons"]} == {"192x192", "512x512"}
    assert worker["Content-Type"].startswith("text/javascript")
    assert worker.content.decode().startswith("self.MORPHE = {")
    card = next(url for url in wanted if "card.html" in url)
    assert {"/", "/plan/"} <= set(wanted)
    shown = network.get(card)
    assert "Content-Disposition" not in shown and "'sha256-" in shown["Content-Security-Policy"]


def test_given_a_device_that_was_sent_away_when_it_comes_back_then_it_is_told_to_forget(network):
    send_away(paired(network))

    assert network.get("/")["Clear-Site-Data"] == '"cache"'  # not what it has kept to send
    assert "Clear-Site-Data" not in Client(headers={"host": "192.0.2.7"}).get("/")


@given(lost=st.lists(st.booleans(), min_size=1, max_size=8))
@settings(suppress_health_check=[HealthCheck.function_scoped_fixture], deadline=None, max_examples=25)
def test_given_lost_answers_when_a_token_is_a_day_old_then_it_holds_until_a_fresh_one_is_shown(network, lost):
    Device.objects.all().delete()
    paired(network)
    old = network.cookies[COOKIE].value
    Device.objects.update(token_since=timezone.now() - timedelta(days=2))
    offered = set()

    for is_lost in lost:
        answer = network.get("/manifest.webmanifest")
        assert answer.status_code == 200  # over days, for what that is worth
        if COOKIE in answer.cookies:
            offered.add(answer.cookies[COOKIE].value)
        if is_lost:
            network.cookies[COOKIE] = old

    assert len(offered) == 1 and old not in offered  # answers that cross each other agree
    network.cookies[COOKIE] = fresh = offered.pop()
    assert network.get("/manifest.webmanifest").status_code == 200
    assert recognise(old) is not None  # requests that are on their way
    Device.objects.update(token_since=timezone.now() - timedelta(minutes=6))
    assert recognise(old) is None and recognise(fresh) is not None


@pytest.mark.parametrize("host", ["evil.example", "127.0.0.1", "192.0.2.8"])
def test_given_a_forged_host_when_asked_then_it_is_refused(network, host):
    paired(network)

    answer = network.get("/", headers={"host": host})

    assert answer.status_code == 400 and b"no such name" in answer.content


def test_given_this_computer_itself_when_asked_then_there_is_no_gate_and_devices_are_kept_there(
    client, db, settings, tmp_path
):
    settings.HOME = tmp_path
    pair(make_link(may_work=True), "Fern's phone")

    page = client.get("/library/devices/").content.decode()
    assert "data-worker" not in page  # its pages need no keeping
    client.post("/library/devices/network/", {"open": "yes"})
    opened = client.post("/library/devices/link/", {"may": "look"}).content.decode()
    client.post(f"/library/devices/{Device.objects.get().pk}/away/")
    client.post("/library/devices/network/", {"open": "no"})

    assert "On this computer alone" in page and "Fern" in page
    assert "<svg" in opened and PairLink.objects.get().may_work is False
    assert not Device.objects.exists() and not (tmp_path / "network-open").exists()


def test_given_hosts_when_papers_are_made_then_they_are_signed_private_and_kept(
    tmp_path,
):
    one = papers(tmp_path, ("192.0.2.7", "marsh.local"))
    again = papers(tmp_path, ("192.0.2.7", "marsh.local"))
    moved = papers(tmp_path, ("192.0.2.9", "marsh.local"))

    assert one == again and moved.fingerprint != one.fingerprint and moved.root_print == one.root_print
    root, here = (x509.load_pem_x509_certificate(p.read_bytes()) for p in (moved.root, moved.certificate))
    here.verify_directly_issued_by(root)
    named = here.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    assert [str(n) for n in named.get_values_for_type(x509.IPAddress)] == ["192.0.2.9"]
    assert stat.S_IMODE(moved.key.stat().st_mode) == 0o600 and stat.S_IMODE(tmp_path.stat().st_mode) == 0o700


def test_given_a_start_on_the_network_when_reached_over_tls_then_only_paired_devices_are_answered(tmp_path):
    port, outward = free_port(), free_port()
    environment = environment_of(tmp_path, port)
    network = {"MORPHE_NETWORK": "1", "MORPHE_NETWORK_PORT": str(outward)}
    started = subprocess.Popen([sys.executable, "-m", "morphe.web.serve"], env={**environment, **network})
    try:
        answer = until_refused(tmp_path, outward)
    finally:
        started.send_signal(2)
        started.wait(30)
    assert answer == (403, CLOSED + "\n")
    with pytest.raises(urllib.error.URLError):  # and no longer once it has ended
        urllib.request.urlopen(f"https://127.0.0.1:{outward}/", timeout=2)


def until_refused(home, port):
    """What a stranger is told over TLS by the server, once it answers."""
    for _ in range(120):
        root = home / "papers" / "root.pem"
        if root.exists():
            trusted = ssl.create_default_context(cafile=str(root))
            trusted.check_hostname = False  # asked here by another name than on the network
            asked = urllib.request.Request(f"https://127.0.0.1:{port}/", headers={"Host": host_of(home)})
            try:
                urllib.request.urlopen(asked, timeout=5, context=trusted)
            except urllib.error.HTTPError as refused:
                return refused.code, refused.read().decode()
            except OSError:
                pass
        time.sleep(0.5)
    raise AssertionError("The server for the network did not come up.")


def host_of(home):
    here = x509.load_pem_x509_certificate((home / "papers" / "here.pem").read_bytes())
    named = here.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    return str(named.get_values_for_type(x509.IPAddress)[0])

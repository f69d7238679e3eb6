"""Devices: the network opened and closed, links made and spent, devices listed and sent away."""

from __future__ import annotations

from pathlib import Path

import segno
from django.conf import settings
from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.safestring import mark_safe
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from morphe.core.errors import MorpheError
from morphe.web.devices.middleware import keep_cookie
from morphe.web.devices.models import Device
from morphe.web.devices.services.pairing import failed, link_is_good, make_link, pair, send_away
from morphe.web.network import OPEN, addresses, papers
from morphe.web.shell.files import attached

STYLE = Path(__file__).with_name("pair.css")


@never_cache
@require_safe
def devices(request: HttpRequest) -> HttpResponse:
    """Devices that are paired; while the network is open, a link for the next one."""
    return render(request, "devices/devices.html", _context())


def _context(token: str = "") -> dict[str, object]:
    is_open, hosts = (settings.HOME / OPEN).exists(), addresses()
    url = (
        f"https://{hosts[0]}:{settings.NETWORK_PORT}{reverse('pair', args=(token,))}"
        if token and hosts
        else ""
    )
    return {
        "place": "devices", "devices": Device.objects.all(), "is_open": is_open, "hosts": hosts, "url": url,
        "port": settings.NETWORK_PORT, "code": _code(url) if url else "",
        "papers": papers(settings.PAPERS, hosts) if is_open and hosts else None,
    }  # fmt: skip


def _code(url: str) -> str:
    """A QR code as an SVG that takes its colours from the page."""
    drawn = segno.make(url, error="m").svg_inline(
        border=2, omitsize=True, lineclass=None, dark="#000", light="#fff"
    )
    return str(mark_safe(drawn))


@never_cache
@require_POST
def link(request: HttpRequest) -> HttpResponse:
    """Make a link that pairs one device."""
    token = make_link(may_work=request.POST.get("may") != "look")
    return render(request, "devices/devices.html", _context(token))


@require_POST
def switch(request: HttpRequest) -> HttpResponse:
    """Open Morphe to the local network, or close it; the start that watches over it does the rest."""
    wanted = settings.HOME / OPEN
    if request.POST.get("open") == "yes":
        if not addresses():
            messages.error(request, "This computer is on no network now; join one, then open Morphe to it.")
            return redirect("devices")
        wanted.touch()
    else:
        wanted.unlink(missing_ok=True)
    return redirect("devices")


@require_POST
def away(request: HttpRequest, device_id: int) -> HttpResponse:
    device = get_object_or_404(Device, pk=device_id)
    send_away(device)
    messages.success(request, f"{device} is sent away; it sees nothing from now on.")
    return redirect("devices")


@never_cache
@require_http_methods(["GET", "HEAD", "POST"])
def pair_device(request: HttpRequest, token: str) -> HttpResponse:
    """Looked at, a link says what it does; posted, it pairs: a preview of a message must not spend it."""
    if request.method == "POST":
        try:
            _, shown = pair(token, request.POST.get("name", ""))
        except MorpheError as error:
            failed(request.META.get("REMOTE_ADDR", ""))
            return render(request, "devices/pair.html", {"problem": str(error)}, status=403)
        response = redirect("today")
        keep_cookie(response, shown)
        return response
    if not link_is_good(token):
        failed(request.META.get("REMOTE_ADDR", ""))
        problem = "This link is used up or too old; make a new one in Library, Devices."
        return render(request, "devices/pair.html", {"problem": problem}, status=403)
    return render(request, "devices/pair.html", {"token": token})


@require_safe
def pair_style(request: HttpRequest) -> HttpResponse:
    return HttpResponse(STYLE.read_bytes(), content_type="text/css")


@require_safe
def root_certificate(request: HttpRequest) -> HttpResponse:
    """The root that this computer's certificate is signed by, to be installed on a device."""
    path = settings.PAPERS / "root.pem"
    if not path.exists():
        raise Http404("Morphe was not open to the network yet.")
    return attached(path.read_bytes(), "morphe-root.crt", "application/x-x509-ca-cert")

"""The gate: over the network nothing is answered to a device that is not paired, statics included."""

from __future__ import annotations

from collections.abc import Callable

from django.conf import settings
from django.core.exceptions import DisallowedHost
from django.http import HttpRequest, HttpResponse
from django.urls import Resolver404, resolve

from morphe.core.errors import MorpheError
from morphe.web.devices.services.pairing import COOKIE, COOKIE_AGE_S, Known, check_rate, failed, recognise
from morphe.web.shell.who import DEVICE

__all__ = ["Gate", "keep_cookie"]

Answering = Callable[[HttpRequest], HttpResponse]
SAFE = ("GET", "HEAD", "OPTIONS")
BEFORE_PAIRING = ("pair", "pair-style", "root-certificate")
# Posts that change nothing: pictures and readings that are asked for with a grade.
LOOKING = ("bench-still", "bench-frames", "bench-passes", "bench-probe", "bench-lit", "bench-grain")
OWN_ONLY = ("devices", "device-link", "device-away", "network-switch")  # on this computer alone
CLOSED = "This Morphe does not know this device; pair it in Library, Devices, on the computer."
LOOKS_ONLY = "This device was paired for looking only; nothing was changed."
AT_HOME = "Devices are paired and sent away on the computer itself."


class Gate:
    """Lets paired devices in; on the computer itself, at its own address, there is no gate.

    Which of the two a server is, its start says (`settings.ENTRY`): an address in a request can be forged.
    """

    def __init__(self, get_response: Answering) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        request.device = None  # type: ignore[attr-defined]
        if settings.ENTRY != "network":
            return self.get_response(request)
        try:
            request.get_host()
        except DisallowedHost:
            return _refused("This Morphe has no such name or address.", 400)
        address, name = request.META.get("REMOTE_ADDR", ""), _name_of(request)
        try:
            check_rate(address)
        except MorpheError as error:
            return _refused(str(error), 429)
        if name in BEFORE_PAIRING:
            return self.get_response(request)
        shown = request.COOKIES.get(COOKIE, "")
        known = recognise(shown)
        if known is None:
            if shown:
                failed(address)
            return _refused(CLOSED, 403, forget=bool(shown))
        return self._answered(request, known, name)

    def _answered(self, request: HttpRequest, known: Known, name: str) -> HttpResponse:
        if name in OWN_ONLY:
            return _refused(AT_HOME, 403)
        if not known.device.may_work and request.method not in SAFE and name not in LOOKING:
            return _refused(LOOKS_ONLY, 403)
        request.device = known.device  # type: ignore[attr-defined]
        before = DEVICE.set(known.device.name)
        try:
            response = self.get_response(request)
        finally:
            DEVICE.reset(before)
        if known.fresh:
            keep_cookie(response, known.fresh)
        return response


def keep_cookie(response: HttpResponse, token: str) -> None:
    """Have the device show a token from now on: over TLS alone, and never to a script."""
    response.set_cookie(COOKIE, token, max_age=COOKIE_AGE_S, secure=True, httponly=True, samesite="Lax")


def _name_of(request: HttpRequest) -> str:
    try:
        return resolve(request.path_info).url_name or ""
    except Resolver404:
        return ""


def _refused(sentence: str, status: int, *, forget: bool = False) -> HttpResponse:
    """A refusal in a sentence; a device that was known is told to forget what it has kept."""
    headers = {"Cache-Control": "no-store"}
    if forget:
        headers["Clear-Site-Data"] = '"cache", "storage"'
    return HttpResponse(
        sentence + "\n", status=status, content_type="text/plain; charset=utf-8", headers=headers
    )

"""The gate: over the network nothing is answered to a device that is not paired, statics included."""

from __future__ import annotations

from collections.abc import Callable

from django.conf import settings
from django.core.exceptions import DisallowedHost
from django.http import HttpRequest, HttpResponse

from morphe.core.errors import MorpheError
from morphe.web.devices.services.pairing import COOKIE, COOKIE_AGE_S, Known, check_rate, failed, recognise
from morphe.web.shell.audience import Audience, audience_of
from morphe.web.shell.who import DEVICE

__all__ = ["Gate", "keep_cookie"]

Answering = Callable[[HttpRequest], HttpResponse]
CLOSED = "This Morphe does not know this device; pair it in Library, Devices, on the computer."
LOOKS_ONLY = "This device was paired for looking only; nothing was changed."
AT_HOME = "This is done on the computer that Morphe runs on."


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
        address, audience = request.META.get("REMOTE_ADDR", ""), audience_of(request.path_info)
        try:
            check_rate(address)
        except MorpheError as error:
            return _refused(str(error), 429)
        if audience is Audience.ANYBODY:
            return self.get_response(request)
        shown = request.COOKIES.get(COOKIE, "")
        known = recognise(shown)
        if known is None:
            if shown:
                failed(address)
            return _refused(CLOSED, 403, forget=bool(shown))
        response = self._answered(request, known, audience)
        if known.fresh:
            keep_cookie(response, known.fresh)
        return response

    def _answered(self, request: HttpRequest, known: Known, audience: Audience) -> HttpResponse:
        if not audience.has(request.method, may_work=known.device.may_work):
            return _refused(AT_HOME if audience is Audience.OWN else LOOKS_ONLY, 403)
        request.device = known.device  # type: ignore[attr-defined]
        before = DEVICE.set(known.device.name)
        try:
            return self.get_response(request)
        finally:
            DEVICE.reset(before)


def keep_cookie(response: HttpResponse, token: str) -> None:
    """Have the device show a token from now on: over TLS alone, and never to a script."""
    response.set_cookie(COOKIE, token, max_age=COOKIE_AGE_S, secure=True, httponly=True, samesite="Lax")


def _refused(sentence: str, status: int, *, forget: bool = False) -> HttpResponse:
    """A refusal in a sentence; a device that was known forgets pages, but nothing that it has to send."""
    headers = {"Cache-Control": "no-store"}
    if forget:
        headers["Clear-Site-Data"] = '"cache"'
    return HttpResponse(
        sentence + "\n", status=status, content_type="text/plain; charset=utf-8", headers=headers
    )

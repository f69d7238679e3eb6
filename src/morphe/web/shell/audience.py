"""Whom a route answers over the network: declared beside its address.

What declares nothing answers this computer alone.
"""

from __future__ import annotations

from collections.abc import Callable
from enum import Enum
from functools import wraps
from typing import Any

from django.http import HttpRequest
from django.http.response import HttpResponseBase
from django.urls import Resolver404, resolve

__all__ = ["Audience", "anybody", "asks", "audience_of", "looks", "works"]

View = Callable[..., HttpResponseBase]
SAFE = ("GET", "HEAD", "OPTIONS")


class Audience(Enum):
    """Who is answered, each with those before it."""

    OWN = 0  # this computer at its own address
    WORKS = 1  # devices that were paired to work
    LOOKS = 2  # and those that look only, by methods that change nothing
    ASKS = 3  # and those, by any method: what is posted is a question
    ANYBODY = 4  # also who is not paired yet

    def has(self, method: str | None, *, may_work: bool) -> bool:
        """Whether it takes in a paired device that asks by a method."""
        if may_work:
            return self is not Audience.OWN
        return self.value >= Audience.ASKS.value or (self is Audience.LOOKS and method in SAFE)


def _declared(audience: Audience) -> Callable[[View], View]:
    def declare(view: View) -> View:
        @wraps(view)
        def route(request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponseBase:
            return view(request, *args, **kwargs)

        route.audience = audience  # type: ignore[attr-defined]
        return route

    return declare


works, looks, asks, anybody = (
    _declared(audience) for audience in (Audience.WORKS, Audience.LOOKS, Audience.ASKS, Audience.ANYBODY)
)


def audience_of(path: str) -> Audience:
    """Whom the route of an address answers; statics, and addresses of nothing, all that are paired."""
    try:
        view = resolve(path).func
    except Resolver404:
        return Audience.LOOKS
    return getattr(view, "audience", Audience.OWN)

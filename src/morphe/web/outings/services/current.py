"""The outing that is open, and the one that a page was about."""

from __future__ import annotations

from django.http import HttpRequest
from django.utils import timezone

from morphe.core.errors import MorpheError
from morphe.web.outings.models import Outing
from morphe.web.shell.numbers import number

__all__ = ["current_outing", "outing_of"]


def current_outing() -> Outing:
    """The outing opened last; the first run without one makes it."""
    outing = Outing.objects.first()
    return outing or Outing.objects.create(name="My first outing", date=timezone.localdate())


def outing_of(request: HttpRequest, named: str | None = None) -> Outing:
    """The outing that a page names as its own, whichever was opened since; the open one where none is named.

    Raises
    ------
    MorpheError
        If it is no longer there.
    """
    named = (
        named or request.headers.get("X-Outing") or request.POST.get("outing") or request.GET.get("outing")
    )
    if not named:
        return current_outing()
    outing = Outing.objects.filter(pk=number(named)).first()
    if outing is None:
        raise MorpheError("The outing of this page is no longer there; reload the page.")
    return outing

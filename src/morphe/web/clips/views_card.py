"""Clips from cards of this computer."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST, require_safe

from morphe.core.errors import MediaError, MorpheError
from morphe.web.clips.models import CardImport
from morphe.web.clips.services.intake import card as cards
from morphe.web.clips.services.space.room import room
from morphe.web.outings.services.current import outing_of

LOCAL = ("127.0.0.1", "::1")


@require_safe
def card(request: HttpRequest) -> HttpResponse:
    """The cards of this computer, and what is on the chosen one. Other devices see only those it found."""
    found = cards.cards_found()
    folder = request.GET.get("folder", "").strip()
    context: dict[str, object] = {"outing": outing_of(request), "found": found, "folder": folder,
                                  "may_type": _is_here(request), "room": room()}  # fmt: skip
    if folder:
        try:
            _allow(request, folder, found)
            context["card"] = cards.look_at(outing_of(request), folder)
        except MorpheError as error:
            context["problem"] = str(error)
    return render(request, "clips/card.html", context)


def _is_here(request: HttpRequest) -> bool:
    return request.META.get("REMOTE_ADDR", "") in LOCAL


def _allow(request: HttpRequest, folder: str, found: list[str]) -> None:
    if folder not in found and not _is_here(request):
        raise MediaError("Only this computer itself may name a folder; choose one of the cards it found.")


@require_POST
def card_begin(request: HttpRequest) -> HttpResponse:
    folder = request.POST.get("folder", "")
    try:
        _allow(request, folder, cards.cards_found())
        cards.begin_import(outing_of(request), folder, request.POST.getlist("clip"))
    except MorpheError as error:
        messages.error(request, str(error))
        return redirect("clips-card")
    return redirect("clips")


@require_POST
def card_stop(request: HttpRequest, job_id: int) -> HttpResponse:
    cards.stop_import(get_object_or_404(CardImport, pk=job_id))
    return redirect("clips")

"""Camera decisions: what is chosen is filmed, and brought back as far as it goes."""

from __future__ import annotations

import base64
import secrets

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_http_methods

from morphe.core.errors import MorpheError
from morphe.core.practice.decisions import BALANCES, FILTERS, PROFILES_OFFERED, SHUTTERS, Chosen, decision
from morphe.core.screen.pictures import jpeg
from morphe.web.practice.services.record import answered, level_of
from morphe.web.practice.services.topics import CAMERA, topic
from morphe.web.shell.numbers import number

LARGEST_SEED = 2**31


@require_http_methods(["GET", "HEAD", "POST"])
def show(request: HttpRequest) -> HttpResponse:
    """A scene to decide on; with a choice, what came of it."""
    seed = number(request.POST.get("seed") or request.GET.get("seed"))
    if seed is None or not 0 <= seed < LARGEST_SEED:
        seed = secrets.randbelow(LARGEST_SEED)
    asked = decision(seed)
    context: dict[str, object] = {
        "topic": topic(CAMERA), "asked": asked, "shutters": SHUTTERS, "filters": FILTERS,
        "balances": BALANCES, "profiles": PROFILES_OFFERED,
    }  # fmt: skip
    if request.method == "POST":
        chosen = Chosen(
            profile=request.POST.get("profile", ""), shutter=number(request.POST.get("shutter")) or 0,
            nd_stops=_or(number(request.POST.get("nd")), -1), kelvin=number(request.POST.get("kelvin")) or 0,
        )  # fmt: skip
        context["chosen"] = chosen
        try:
            context |= _result(asked, chosen)
        except MorpheError as error:
            context["problem"] = str(error)
    return render(request, "practice/camera.html", context)


def _or(found: int | None, other: int) -> int:
    return other if found is None else found


def _result(asked, chosen: Chosen) -> dict[str, object]:  # type: ignore[no-untyped-def]
    verdict = asked.judge(chosen)
    answered(CAMERA, asked.seed, level_of(CAMERA), right=verdict.is_right)
    pictures = (
        ("As filmed", verdict.filmed),
        ("Brought back", verdict.brought_back),
        ("As it was", verdict.truth),
    )
    return {
        "verdict": verdict, "best": asked.best,
        "pictures": [(words, base64.b64encode(jpeg(p)).decode()) for words, p in pictures],
    }  # fmt: skip

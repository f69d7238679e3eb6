"""Library: presets by which clips go out."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST, require_safe

from morphe.core.errors import MorpheError
from morphe.core.handover.device_fit import device_fit
from morphe.core.handover.presets import CODECS, Preset
from morphe.web.library.services.presets import all_presets, keep_preset, remove_preset

HD = (1920, 1080)
QUALITIES = ((-12, "finest"), (-6, "finer"), (0, "as Web"), (6, "coarser, half the size"), (12, "coarsest"))


@require_safe
def presets(request: HttpRequest) -> HttpResponse:
    """All presets, with the devices that play them, and a form for one more."""
    context = {
        "presets": [_shown(p) for p in all_presets()], "codecs": CODECS.items(), "qualities": QUALITIES,
        "place": "presets",
    }  # fmt: skip
    return render(request, "library/presets.html", context)


def _shown(preset: Preset) -> dict[str, object]:
    fits = device_fit(preset, preset.bits_for(8), HD, 25)
    return {"preset": preset, "is_own": preset.key.startswith("preset-"), "fits": fits}


@require_POST
def keep(request: HttpRequest) -> HttpResponse:
    try:
        kept = keep_preset(request.POST.dict())
        messages.success(request, f"{kept.label} can be chosen under Hand over.")
    except MorpheError as error:
        messages.error(request, str(error))
    return redirect("presets")


@require_POST
def remove(request: HttpRequest, key: str) -> HttpResponse:
    try:
        messages.success(request, remove_preset(key))
    except MorpheError as error:
        messages.error(request, str(error))
    return redirect("presets")

"""The profile lab: a card in steps and a target become a profile."""

from __future__ import annotations

import json
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_POST, require_safe

from morphe.core.errors import ColourError, MorpheError
from morphe.core.interchange.reference import reference_csv
from morphe.core.signal.camera_log import CameraLog
from morphe.core.signal.point_curve import PointCurve
from morphe.web.library.models import LabSeries, LabTake
from morphe.web.library.services import lab as laboratory
from morphe.web.library.services.drawing import fit_drawn
from morphe.web.library.services.incoming import bring_in, under_way
from morphe.web.library.views_incoming import tell
from morphe.web.shell.changes import marked
from morphe.web.shell.files import attached

MAX_REFERENCE = 200_000


def _series(series_id: int) -> LabSeries:
    return get_object_or_404(LabSeries.objects.prefetch_related("takes"), pk=series_id)


@require_safe
def lab(request: HttpRequest) -> HttpResponse:
    return render(request, "library/lab.html", {"all_series": LabSeries.objects.all(), "place": "lab"})


@require_POST
def lab_begin(request: HttpRequest) -> HttpResponse:
    try:
        series = laboratory.begin_series(request.POST.get("name", ""))
    except MorpheError as error:
        messages.error(request, str(error))
        return redirect("lab")
    return redirect("lab-series", series.pk)


@require_safe
@marked("incoming")
def series(request: HttpRequest, series_id: int) -> HttpResponse:
    found = _series(series_id)
    takes = list(found.takes.all())
    card = [t for t in takes if t.stops is not None]
    middle = min(card, key=lambda t: abs(t.stops or 0), default=None)
    target = next((t for t in takes if t.stops is None), None)
    fit = found.fit
    drawing = None
    if fit:
        curve = CameraLog.of(fit["log"]) if fit["log"] else PointCurve.of(fit["points"])
        used = [(u["stops"], u["level"]) for u in fit["used"]]
        drawing = fit_drawn(curve.encode, fit["clip"], used, (fit["usable"][0], fit["usable"][1]))
    tell(request, found)
    context = {
        "incoming": under_way(found), "series": found, "takes": takes,
        "middle": middle, "target": target, "drawing": drawing,
        "place": "lab", "values": reference_csv(laboratory.reference_of(found)),
    }  # fmt: skip
    return render(request, "library/series.html", context)


@require_POST
def takes_add(request: HttpRequest, series_id: int) -> HttpResponse:
    found = _series(series_id)
    for file in request.FILES.getlist("takes"):
        try:
            bring_in(file, {}, found)
        except MorpheError as error:
            messages.error(request, str(error))
    return redirect("lab-series", series_id)


@require_POST
def take_change(request: HttpRequest, take_id: int) -> HttpResponse:
    """Set a take's step, call it the target, or remove it."""
    take = get_object_or_404(LabTake, pk=take_id)
    typed = request.POST.get("stops", "").strip().replace(",", ".").replace("\u2212", "-")
    if "remove" in request.POST:
        take.delete()
        return redirect("lab-series", take.series_id)
    try:
        stops = None if typed.lower() in ("", "target") else float(typed)
        if stops is not None and not -12 <= stops <= 12:
            raise ValueError
    except ValueError:
        messages.error(request, f"“{typed[:20]}” is no step; type stops from the metered grey, such as -2.")
        return redirect("lab-series", take.series_id)
    take.stops = stops
    take.save(update_fields=["stops"])
    return redirect("lab-series", take.series_id)


def _numbers(text: str) -> Any:
    try:
        return json.loads(text)
    except (ValueError, RecursionError) as error:
        raise ColourError("The places are not readable; reload the page.") from error


@require_POST
def fit(request: HttpRequest, series_id: int) -> HttpResponse:
    """Keep the places and fit."""
    found = _series(series_id)
    try:
        region, corners = (_numbers(request.POST.get(name, "[]")) for name in ("region", "corners"))
        laboratory.set_places(found, [float(v) for v in region], [[float(v) for v in c] for c in corners])
        laboratory.fit_series(found)
    except (TypeError, ValueError) as error:
        told = (
            str(error) if isinstance(error, MorpheError) else "The places are not readable; reload the page."
        )
        messages.error(request, told)
    return redirect("lab-series", series_id)


@require_POST
def reference(request: HttpRequest, series_id: int) -> HttpResponse:
    """Take the target's reference values from a file, or edited by hand."""
    found, file = _series(series_id), request.FILES.get("reference")
    try:
        if file is not None:
            text = file.read(MAX_REFERENCE).decode("utf-8", errors="replace")
            laboratory.take_reference(found, text, str(file.name))
        else:
            laboratory.take_reference(found, request.POST.get("values", ""), "The values")
    except MorpheError as error:
        messages.error(request, str(error))
    else:
        messages.success(request, "The target's values are kept; fit again.")
    return redirect("lab-series", series_id)


@require_safe
def reference_file(request: HttpRequest, series_id: int) -> HttpResponse:
    return attached(reference_csv(laboratory.reference_of(_series(series_id))), "target.csv", "text/csv")


@require_POST
def series_save(request: HttpRequest, series_id: int) -> HttpResponse:
    try:
        kept = laboratory.save_profile(
            _series(series_id), request.POST.get("name", ""), with_colour="colour" in request.POST
        )
    except MorpheError as error:
        messages.error(request, str(error))
        return redirect("lab-series", series_id)
    messages.success(request, f"{kept} is kept; choose it under “Filmed as” on the Bench.")
    return redirect("profile", kept.key)


@require_POST
def series_remove(request: HttpRequest, series_id: int) -> HttpResponse:
    found = _series(series_id)
    for take in found.takes.all():
        take.frames.delete(save=False)
        take.thumbnail.delete(save=False)
    found.delete()
    messages.success(request, f"{found} was removed; profiles made from it stay.")
    return redirect("lab")


@require_safe
@cache_control(private=True, max_age=3600)
def take_picture(request: HttpRequest, take_id: int) -> HttpResponse:
    take = get_object_or_404(LabTake, pk=take_id)
    return HttpResponse(take.thumbnail.open("rb").read(), content_type="image/jpeg")

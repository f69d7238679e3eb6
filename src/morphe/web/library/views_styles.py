"""Library: looks and LUTs, taken in, corrected by hand, handed out; and LUTs for a camera's screen."""

from __future__ import annotations

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST, require_safe

from morphe.core.errors import MorpheError
from morphe.core.grade.steps.lut import ROLES
from morphe.web.library.models import KeptLook, KeptLut
from morphe.web.library.services.incoming import bring_in, under_way
from morphe.web.library.services.monitoring import monitoring_lut
from morphe.web.library.services.styles import (
    change_role,
    kept_look,
    kept_lut,
    look_cube,
    look_file,
    remove_style,
)
from morphe.web.library.views_incoming import tell
from morphe.web.outings.services.current import current_outing
from morphe.web.shell.changes import marked
from morphe.web.shell.files import attached


@require_safe
@marked("incoming")
def styles(request: HttpRequest) -> HttpResponse:
    """Looks of the person's own, and LUTs with what they expect."""
    tell(request)
    context = {
        "looks": KeptLook.objects.all(), "luts": KeptLut.objects.all(), "roles": ROLES,
        "incoming": under_way(None), "place": "styles",
        "clip": current_outing().clips.ready().first(),  # a look is seen on a clip of one's own at once
    }  # fmt: skip
    return render(request, "library/styles.html", context)


@require_POST
def take_in(request: HttpRequest) -> HttpResponse:
    """Take in a LUT or a look from a file."""
    file = request.FILES.get("file")
    try:
        if file is None:
            raise MorpheError("No file arrived; choose a .cube, a .clf or a look.")
        bring_in(file, {"name": request.POST.get("name", ""), "as": "style"})
    except MorpheError as error:
        messages.error(request, str(error))
    return redirect("styles")


@require_POST
def role(request: HttpRequest, key: str) -> HttpResponse:
    """Correct by hand what a LUT expects."""
    try:
        lut = kept_lut(key)
        change_role(lut, request.POST.get("role", ""))
        messages.success(request, f"{lut} is taken to expect {lut.role}.")
    except MorpheError as error:
        messages.error(request, str(error))
    return redirect("styles")


@require_POST
def remove(request: HttpRequest, key: str) -> HttpResponse:
    try:
        messages.success(request, remove_style(key))
    except MorpheError as error:
        messages.error(request, str(error))
    return redirect("styles")


@require_safe
def picture(request: HttpRequest, key: str) -> HttpResponse:
    """The picture that a look came with."""
    try:
        look = kept_look(key)
    except MorpheError as error:
        raise Http404(str(error)) from error
    if not look.picture:
        raise Http404("This look has no picture.")
    return HttpResponse(look.picture.open("rb").read(), content_type="image/jpeg")


@require_safe
def handed_out(request: HttpRequest, key: str, ending: str) -> HttpResponse:
    """A look as one file, or its colours as a .cube."""
    try:
        text, name = (look_file if ending == "json" else look_cube)(kept_look(key))
    except MorpheError as error:
        messages.error(request, str(error))
        return redirect("styles")
    return _file(text, name, "application/json" if ending == "json" else "text/plain")


@require_safe
def monitoring(request: HttpRequest, key: str) -> HttpResponse:
    """A profile's conversion and a look as a .cube for the camera's or a field screen."""
    try:
        text, name = monitoring_lut(key, request.GET.dict())
    except MorpheError as error:
        messages.error(request, str(error))
        return redirect("profile", key)
    return _file(text, name, "text/plain")


def _file(text: str, name: str, kind: str) -> HttpResponse:
    return attached(text, name, kind)

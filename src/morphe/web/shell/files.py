"""Files that a page hands out to be saved."""

from __future__ import annotations

import re

from django.http import HttpResponse
from django.utils.http import content_disposition_header

from morphe.core.handover.output import shortened

__all__ = ["attached", "plain_name"]

LONGEST = 180  # bytes: room is left for numbers and endings
FOREIGN = re.compile(r"[^\w .,+-]+")


def attached(content: str | bytes, name: str, kind: str) -> HttpResponse:
    """An answer that a browser saves under a name, whatever its letters."""
    headers = {"Content-Disposition": str(content_disposition_header(as_attachment=True, filename=name))}
    return HttpResponse(content, content_type=kind, headers=headers)


def plain_name(text: str) -> str:
    """A name that every system takes, in letters of any script; empty where nothing is left."""
    return shortened(FOREIGN.sub("-", text).strip(" .-"), LONGEST).strip(" .-")

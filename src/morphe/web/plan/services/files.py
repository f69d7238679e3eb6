"""What a person takes along: the card as one file for the phone, as JSON, and the sun as a calendar."""

from __future__ import annotations

import json
from base64 import b64encode
from functools import lru_cache
from hashlib import sha256

from django.contrib.staticfiles import finders
from django.template.loader import render_to_string
from django.utils.text import slugify

from morphe.core.plan.card import ShootCard
from morphe.web.plan.models import PlannedCamera
from morphe.web.plan.services.sheet import sheet_of

__all__ = ["card_json", "card_policy", "file_name", "saved_card"]


STYLE, SCRIPT = "plan/sheet.css", "plan/saved.js"


def file_name(planned: PlannedCamera, ending: str) -> str:
    """A name that sorts by day: 2026-09-12-sandpiper.html."""
    return f"{planned.plan.outing.date.isoformat()}-{slugify(planned.camera.name) or 'camera'}{ending}"


def card_json(planned: PlannedCamera, card: ShootCard) -> str:
    """The card as the command line prints it, with the day it is for."""
    outing = planned.plan.outing
    return json.dumps({"outing": outing.name, "day": outing.date.isoformat(), **card.as_json()}, indent=2)


@lru_cache(maxsize=4)
def _static_text(name: str) -> str:
    path = finders.find(name)
    with open(str(path), encoding="utf-8") as file:
        return file.read()


def card_policy() -> str:
    """The content security policy of a saved card opened here: its own style and script, nothing else."""
    digests = (sha256(_static_text(name).encode()).digest() for name in (STYLE, SCRIPT))
    style, script = (f"'sha256-{b64encode(digest).decode()}'" for digest in digests)
    return f"default-src 'none'; img-src data:; style-src {style}; script-src {script}; base-uri 'none'"


def saved_card(planned: PlannedCamera, card: ShootCard) -> str:
    """One HTML file that needs nothing else: style, script and notes travel inside."""
    return render_to_string(
        "plan/saved.html",
        {
            "sheet": sheet_of(planned, card),
            "key": f"morphe-{planned.plan.outing.date.isoformat()}-{planned.pk}",
            "style": _static_text(STYLE),
            "script": _static_text(SCRIPT),
        },
    )

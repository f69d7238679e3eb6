"""Queue hand-overs, and stop them."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from django.db import transaction

from morphe.core.errors import OutputError
from morphe.core.grade import recipe
from morphe.core.handover.presets import PRESETS
from morphe.core.handover.sound import Heard
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades import grade_of
from morphe.web.handover.models import HandOver
from morphe.web.jobs.services.ask import ask, stop

__all__ = ["Wish", "queue_hand_over", "stop_hand_over", "wish_of"]

LEAST_MB, MOST_MB = 0.5, 4000.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Wish:
    """As what a clip is delivered."""

    preset: str = "web"
    megabytes: float = 0.0  # a size that is kept; 0 leaves that to the preset
    sound: Heard = Heard.KEPT


def wish_of(posted: Mapping[str, str]) -> Wish:
    """What a form wishes.

    Raises
    ------
    MorpheError
        If there is no such preset or sound, or the size cannot be kept.
    """
    preset = PRESETS.get(posted.get("preset") or "web")
    sound = posted.get("sound") or Heard.KEPT
    if sound not in list(Heard):
        raise OutputError("Sound is kept, left out or levelled; choose one of these.")
    megabytes = 0.0
    if preset.megabytes:
        megabytes = _megabytes(posted.get("megabytes") or str(preset.megabytes))
    return Wish(preset=preset.key, megabytes=megabytes, sound=Heard(sound))


def _megabytes(text: str) -> float:
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        value = math.nan
    if not LEAST_MB <= value <= MOST_MB:
        raise OutputError(f"A size that can be kept lies between {LEAST_MB:g} and {MOST_MB:g} MB.")
    return value


def queue_hand_over(clip: Clip, wish: Wish) -> HandOver:
    """Put a clip with its grade of now into the queue."""
    with transaction.atomic():
        order = HandOver.objects.create(
            clip=clip, version=clip.version, grade=recipe.to_json(grade_of(clip)), preset=wish.preset,
            megabytes=wish.megabytes, sound=wish.sound, parts=clip.parts,
        )  # fmt: skip
        order.job = ask("hand-over", order.pk, total=int(clip.info.get("frames", 0)))
        order.save(update_fields=["job"])
    return order


def stop_hand_over(order: HandOver) -> None:
    """Stop a render; one that still waits never starts."""
    if order.job is not None:
        stop(order.job)

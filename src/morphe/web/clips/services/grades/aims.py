"""Where readings are wanted: kept for the outing, the hour also for a light; and where a person sees skin."""

from __future__ import annotations

from collections.abc import Mapping

from morphe.core.advise.aims import Aims, Hour
from morphe.core.errors import ColourError
from morphe.core.measure.skin import Patch
from morphe.web.clips.models import Clip
from morphe.web.jobs.services.ask import ask
from morphe.web.outings.models import Outing

__all__ = ["BLACKS", "WHITES", "aims_of", "choose_aims", "choose_hour", "patch_of"]

BLACKS = {"deep": "0–5 %", "open": "0–10 %"}
WHITES = {"any": "80–100 %", "light": "90–100 %, a light in frame", "none": "80–90 %, none in frame"}


def aims_of(clip: Clip) -> Aims:
    """What is wanted of a clip: its light's word before its outing's."""
    group = clip.present_group
    return Aims.of(clip.outing.aims, group.aims if group else {})


def patch_of(clip: Clip) -> Patch | None:
    """Where a person pointed to skin."""
    return Patch(**clip.skin_at) if clip.skin_at else None


def choose_aims(outing: Outing, said: Mapping[str, str]) -> None:
    """Keep what is wanted in an outing; clips that wait for a decision are judged anew."""
    aims = Aims.of(outing.aims, {k: v for k, v in said.items() if k in ("black", "white", "hour")})
    if aims.as_json() != Aims.of(outing.aims).as_json():
        outing.aims = aims.as_json()
        outing.save(update_fields=["aims"])
        _judge_waiting(outing.clips.undecided())


def choose_hour(clip: Clip, hour: str, reach: str) -> None:
    """Keep the hour that is meant, for the clip's light or for the whole outing. The clip is judged later."""
    if hour not in tuple(Hour):
        raise ColourError("The hour is noon, as filmed, or dusk.")
    group = clip.present_group if reach == "light" else None
    if group is not None:
        group.aims = {"hour": hour}
        group.save(update_fields=["aims"])
        _judge_waiting(group.clips.undecided().exclude(pk=clip.pk))
        return
    clip.outing.aims = {**clip.outing.aims, "hour": hour}
    clip.outing.save(update_fields=["aims"])
    for group in clip.outing.light_groups.exclude(aims={}):  # the outing's word goes for all its lights
        group.aims = {}
        group.save(update_fields=["aims"])
    if (group := clip.present_group) is not None:
        group.aims = {}
    _judge_waiting(clip.outing.clips.undecided().exclude(pk=clip.pk))


def _judge_waiting(clips: object) -> None:
    for clip_id in clips.values_list("pk", flat=True):  # type: ignore[attr-defined]
        ask("judge", clip_id)

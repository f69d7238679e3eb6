"""Clips grouped by their light, and moved by hand."""

from __future__ import annotations

from django.db import transaction
from django.db.models import F, Max

from morphe.core.errors import MediaError
from morphe.core.measure.light import LightOfClip, group_by_light
from morphe.web.clips.models import Clip, LightGroup
from morphe.web.clips.services.grades.shared import carry_layers
from morphe.web.jobs.services.ask import ask
from morphe.web.outings.models import Outing

__all__ = ["group_anew", "move_to"]

OUT_OF_THE_WAY = 10_000  # of lights


def _light(clip: Clip) -> LightOfClip | None:
    return LightOfClip.from_json(clip.light) if clip.light else None


def group_anew(outing: Outing) -> None:
    """Group the clips of an outing by light; those that a person moved stay where they are."""
    clips = [c for c in outing.clips.ready().order_by("filmed_at", "pk") if c.light]
    free = [c for c in clips if not c.group_is_chosen]
    lights = [LightOfClip.from_json(c.light) for c in free]
    numbers = group_by_light(lights, [c.filmed_at for c in free])
    taken = {c.group_id for c in clips if c.group_is_chosen}
    with transaction.atomic():
        kept = {g.pk: g for g in outing.light_groups.filter(pk__in=taken)}
        old = list(outing.light_groups.exclude(pk__in=taken))
        # Former lights go last, once what was set on them is handed on; until then their numbers are apart.
        outing.light_groups.filter(pk__in=[g.pk for g in old]).update(number=F("number") + OUT_OF_THE_WAY)
        start = max((g.number for g in kept.values()), default=0)
        groups: dict[int, LightGroup] = {}
        was = {c.pk: c.group_id for c in free}
        for clip, number in zip(free, numbers, strict=True):
            if number not in groups:
                groups[number] = LightGroup.objects.create(
                    outing=outing, number=start + number, words=LightOfClip.from_json(clip.light).words
                )
            Clip.objects.filter(pk=clip.pk).update(group=groups[number])
        carry_layers({c.pk: groups[n] for c, n in zip(free, numbers, strict=True)}, was, set(kept))
        outing.light_groups.filter(pk__in=[g.pk for g in old]).delete()


def move_to(clip: Clip, group_id: int | None) -> LightGroup:
    """Put a clip into a group of its outing, or into one of its own; it stays there."""
    if group_id is None:
        last = clip.outing.light_groups.aggregate(last=Max("number"))["last"] or 0
        light = _light(clip)
        group = LightGroup.objects.create(
            outing=clip.outing, number=last + 1, words=light.words if light else ""
        )
    else:
        found = clip.outing.light_groups.filter(pk=group_id).first()
        if found is None:
            raise MediaError("There is no such light in this outing; reload the page.")
        group = found
    clip.group, clip.group_is_chosen = group, True
    clip.save(update_fields=["group", "group_is_chosen"])
    clip.outing.light_groups.filter(clips=None).exclude(pk=group.pk).delete()
    Clip.objects.filter(pk=clip.pk).update(advice_version=0)  # it is read through what is set for its light
    ask("judge", clip.pk)
    ask("stand", clip.outing_id)
    return group

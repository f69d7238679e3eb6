"""Remove a clip from Morphe with all that was made from it alone."""

from __future__ import annotations

from typing import Any

from morphe.web.clips.models import Clip
from morphe.web.jobs.services.ask import stop

__all__ = ["remove_clip"]


def remove_clip(clip: Clip) -> None:
    """Delete the kept copy, and pictures and results of it and its shots; the logbook keeps its entries."""
    clip = clip.whole or clip
    files = [clip.file, *(f for f in (clip.proxy, clip.over_time) if f)]
    for one in (clip, *Clip.everything.filter(whole=clip)):
        for frame in one.frames.all():
            files += [f for f in (frame.picture, frame.thumbnail, frame.grain) if f]
        for order in one.hand_overs.all():
            if (other := _another_of(order, clip)) is not None:
                order.clip, order.version = other, None  # a film of several clips stays
                order.save(update_fields=["clip", "version"])
                continue
            if order.job is not None:
                stop(order.job)
            files += [f for f in (order.result, order.cube, order.recipe, order.picture) if f]
            order.delete()
    clip.delete()
    clip.outing.light_groups.filter(clips=None).delete()
    for file in files:
        file.delete(save=False)


def _another_of(order: Any, leaving: Clip) -> Clip | None:
    """Another clip that a finished file of several was made of, or of its outing."""
    if not order.is_done or not order.others:
        return None
    here = Clip.everything.exclude(pk=leaving.pk).exclude(whole=leaving)
    shown = here.filter(pk__in=[other["clip"] for other in order.others]).first()
    return shown or here.filter(outing=leaving.outing).first()

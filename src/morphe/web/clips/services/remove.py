"""Remove a clip from Morphe with all that was made from it alone."""

from __future__ import annotations

from typing import Any

from morphe.web.clips.models import Clip

__all__ = ["remove_clip"]


def remove_clip(clip: Clip) -> None:
    """Delete the kept copy, and pictures and results of it and its shots; the logbook keeps its entries."""
    clip = clip.whole or clip
    files = [clip.file, *(f for f in (clip.proxy, clip.over_time) if f)]
    for one in (clip, *Clip.everything.filter(whole=clip)):
        for frame in one.frames.all():
            files += [f for f in (frame.picture, frame.thumbnail, frame.grain) if f]
        for job in one.hand_overs.all():
            if (other := _another_of(job, clip)) is not None:
                job.clip, job.version = other, None  # a film of several clips stays
                job.save(update_fields=["clip", "version"])
                continue
            files += [f for f in (job.result, job.cube, job.recipe, job.picture) if f]
            job.delete()
    clip.delete()
    clip.outing.light_groups.filter(clips=None).delete()
    for file in files:
        file.delete(save=False)


def _another_of(job: Any, leaving: Clip) -> Clip | None:
    """Another clip that a finished file of several was made of, or of its outing."""
    if not job.is_done or not job.others:
        return None
    here = Clip.everything.exclude(pk=leaving.pk).exclude(whole=leaving)
    shown = here.filter(pk__in=[other["clip"] for other in job.others]).first()
    return shown or here.filter(outing=leaving.outing).first()

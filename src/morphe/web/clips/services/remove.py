"""Remove a clip from Morphe with all that was made from it."""

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
            files += [f for f in (job.result, job.cube, job.recipe, job.picture) if f]
        one.hand_overs.all().delete()
    clip.delete()
    clip.outing.light_groups.filter(clips=None).delete()
    for file in files:
        file.delete(save=False)

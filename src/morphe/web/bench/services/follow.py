"""Regions that follow what lies under them, through the clip's proxy."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from django.db import transaction

from morphe.core.advise.hand.follow import MOST_KEPT, WITHIN, follow_region
from morphe.core.errors import ColourError, MediaError
from morphe.core.footage.planes import planes_from_frame
from morphe.core.footage.probe import open_clip, probe
from morphe.core.footage.reader import clock
from morphe.core.grade.moments import thinned
from morphe.core.pulse import alive
from morphe.core.signal.arrays import Plane
from morphe.web.bench.models import Following
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades import versions
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.jobs.services.ask import ask
from morphe.web.jobs.services.run import Run

__all__ = ["FollowState", "begin_following", "follow_state", "work"]


@dataclass(frozen=True, slots=True, kw_only=True)
class FollowState:
    """How far the latest following of a region has come, in words."""

    is_live: bool
    sentence: str


def begin_following(clip: Clip, layer_id: str, start_s: float) -> Following:
    """Have a region followed from a moment on."""
    if grade_of(clip).layer(layer_id).region is None:
        raise ColourError("There is no such region; reload the page.")
    if not clip.proxy:
        raise MediaError("The clip is being prepared for playing; follow the region in a moment.")
    with transaction.atomic():
        wish = Following.objects.create(clip=clip, layer=layer_id, start_s=start_s)
        wish.job = ask("track", wish.pk, total=int(clip.info.get("frames", 0)))
        wish.save(update_fields=["job"])
    return wish


def follow_state(clip: Clip) -> dict[str, FollowState]:
    """What is to be said of each region's latest following."""
    latest: dict[str, Following] = {}
    for wish in clip.followings.select_related("job").order_by("pk"):
        latest[wish.layer] = wish
    return {layer: _said(wish, _end_of_shot(clip, wish.start_s)) for layer, wish in latest.items()}


def _end_of_shot(clip: Clip, start_s: float) -> float | None:
    """When the shot ends in which a moment lies; None where nothing comes after it."""
    if clip.shot is not None:
        return clip.shot.end_s
    cuts = clip.shots_now.cuts if clip.shots_now else ()
    return next((cut.time_s for cut in cuts if cut.time_s > start_s + 1e-3), None)


def _said(wish: Following, end_s: float | None) -> FollowState:
    job = wish.job
    if job is not None and job.is_live:
        return FollowState(is_live=True, sentence=f"It is being followed: {job.percent} %.")
    if job is not None and job.problem:
        return FollowState(is_live=False, sentence=job.problem)
    if wish.lost_s is None:
        end = "the end" if end_s is None else f"the cut at {end_s:.1f} s"
        return FollowState(is_live=False, sentence=f"Followed from {wish.start_s:.1f} s to {end}.")
    return FollowState(
        is_live=False,
        sentence=f"Lost at {wish.lost_s:.1f} s: go there, move the region by hand, and follow it on.",
    )


def work(run: Run) -> None:
    """Follow a region in the worker, and keep where it went as a version of the clip's grade."""
    wish = Following.objects.select_related("clip").filter(pk=run.subject).first()
    if wish is None or not wish.clip.proxy:
        return
    clip = Clip.everything.with_grades().get(pk=wish.clip_id)
    region = grade_of(clip).layer(wish.layer).region
    if region is None:
        return
    frames = _lumas(run, Path(clip.proxy.path), wish.start_s, _end_of_shot(clip, wish.start_s))
    found = follow_region(region, frames, start_s=wish.start_s)
    with run.keeping():
        clip = Clip.everything.with_grades().get(pk=wish.clip_id)
        grade = grade_of(clip)
        layer = grade.layer(wish.layer)
        if layer.region is None:
            return  # it was taken away meanwhile
        earlier = tuple(m for m in layer.region.moments if m[0] < wish.start_s - 1e-3)
        whole = (*(earlier if layer.region.moves else ()), *found.moments)
        moved = replace(
            layer.region,
            moments=tuple((t, x, y, s, a) for t, x, y, s, a in thinned(whole, WITHIN, MOST_KEPT)),
        )
        end = f"to {found.lost_s:.1f} s" if found.lost_s is not None else "to the end"
        change = f"{layer.label} follows the picture {end}"
        versions.keep(clip, grade.with_layer(replace(layer, region=moved)), change)
        wish.lost_s = found.lost_s
        wish.save(update_fields=["lost_s"])


def _lumas(run: Run, path: Path, start_s: float, end_s: float | None) -> Iterator[tuple[float, Plane]]:
    info = probe(path)
    with open_clip(path) as container:
        stream = container.streams.video[0]
        stream.thread_type = "AUTO"
        for done, frame in enumerate(alive(container.decode(stream))):
            if not run.progress(done, info.frames):
                run.check()
            time_s = clock(info, stream.time_base, frame)
            if end_s is not None and time_s >= end_s - 1e-6:
                return
            if time_s >= start_s - 1e-6:
                yield time_s, np.ascontiguousarray(planes_from_frame(frame, info).luma)

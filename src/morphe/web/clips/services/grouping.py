"""Clips grouped by their light, moved by hand, and whether one clip's correction would fit another."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from django.db import transaction
from django.db.models import Max

from morphe.core.errors import MediaError
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.measure.light import LightOfClip, apart, group_by_light, nearness, reason_apart
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.perception import delta_e_2000, encoded_to_lab
from morphe.web.clips.models import Clip, LightGroup
from morphe.web.clips.services.storage import load_picture
from morphe.web.outings.models import Outing

__all__ = ["Fit", "group_anew", "move_to", "would_fit"]

STEP = 8  # every eighth pixel of a judging frame tells
TRIM, MATCH = 3.0, 7.0  # CIEDE2000 up to which a correction fits, or fits with a trim


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
        outing.light_groups.exclude(pk__in=taken).delete()
        start = max((g.number for g in kept.values()), default=0)
        groups: dict[int, LightGroup] = {}
        for clip, number in zip(free, numbers, strict=True):
            if number not in groups:
                groups[number] = LightGroup.objects.create(
                    outing=outing, number=start + number, words=LightOfClip.from_json(clip.light).words
                )
            Clip.objects.filter(pk=clip.pk).update(group=groups[number])


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
    return group


@dataclass(frozen=True, slots=True, kw_only=True)
class Fit:
    """Whether a correction would fit: the light's distance, what would be left, and both in words."""

    distance: float
    residual: float  # mean CIEDE2000 from the clip's own proposal
    verdict: str
    sentence: str
    fits: bool


def would_fit(source: Clip, target: Clip) -> Fit:
    """Predict what one clip's correction would do to another.

    The target is converted by its own profile, takes the rest of the source's grade, and is compared with its
    own proposal.
    """
    one, two = _light(source), _light(target)
    if one is None or two is None:
        raise MediaError("A clip has not been read yet; wait until it is ready.")
    distance = apart(one, two)
    given = (
        recipe.from_json(source.version.grade) if source.is_corrected else recipe.from_json(source.proposal)
    )
    own = recipe.from_json(target.proposal)
    residual = _left_over(target, replace(given, source=own.source), own)
    verdict = "fits" if residual < TRIM else "fits with a trim" if residual < MATCH else "does not fit"
    why = f"{target.title} is {reason_apart(one, two)}" if distance >= 0.5 else "both lie in the same light"
    return Fit(
        distance=distance, residual=residual, verdict=verdict, fits=residual < MATCH,
        sentence=f"The correction of {source.title} {verdict} {target.title}: about {residual:.1f} ΔE would "
        f"be left; {why} ({nearness(distance)}).",
    )  # fmt: skip


def _left_over(clip: Clip, given: Grade, own: Grade) -> float:
    distances = []
    for frame in clip.frames.all():
        sample = load_picture(frame.picture.path)[::STEP, ::STEP]
        look = partial(_lab, sample, frame.time_s)
        distances.append(float(delta_e_2000(look(given), look(own)).mean()))
    return float(np.median(distances)) if distances else 0.0


def _lab(sample: np.ndarray, time_s: float, grade: Grade) -> np.ndarray:
    return encoded_to_lab(np.clip(evaluate(grade, sample, time_s=time_s), 0, 1))

"""Clips of one camera and folder tell of each other: together they say what one alone leaves open."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping

from django.db.models import QuerySet

from morphe.core.advise.profile.verdict import ASK_BELOW
from morphe.core.grade.convert import FAMILY_OF
from morphe.web.clips.models import Clip
from morphe.web.outings.models import Outing

__all__ = [
    "Sort",
    "alike_to",
    "asked_about",
    "doubtful",
    "in_doubt",
    "of_its_folder",
    "others_of",
    "sort_of",
]

FORMAT = ("codec", "bit_depth", "width", "height", "transfer")  # a camera keeps these within one profile
Sort = tuple[object, ...]


def _sort(camera_id: int | None, folder: str, info: Mapping[str, object]) -> Sort | None:
    """What clips have in common that may be judged together; None where nothing ties a clip to others."""
    if not camera_id and not folder:
        return None
    return (camera_id, folder, *(info.get(key) for key in FORMAT))


def sort_of(clip: Clip) -> Sort | None:
    """What a clip has in common with those that tell of it."""
    return _sort(clip.camera_id, clip.folder, clip.info)


def _judged(outing: Outing) -> QuerySet[Clip]:
    """Clips whose profile was judged by their picture, most of their columns left unread."""
    columns = ("outing", "camera", "folder", "info", "profile")
    return outing.clips.ready().filter(profile_choice="auto").only(*columns)


def others_of(clip: Clip) -> tuple[Mapping[str, float], ...]:
    """How well each profile explains the other clips of this one's camera, folder and format."""
    alike = alike_to(clip, _judged(clip.outing))
    return tuple(found for c in alike if (found := c.profile.get("likelihoods")))


def alike_to(clip: Clip, clips: QuerySet[Clip]) -> Iterator[Clip]:
    """Those of some clips that are of another one's camera, folder and format."""
    sort = sort_of(clip)
    if sort is not None:
        yield from (c for c in clips if c.pk != clip.pk and sort_of(c) == sort)


def doubtful(outing: Outing) -> list[int]:
    """Numbers of clips worth a second look: they ask, disagree with most of their like, or share a curve."""
    sorts: dict[Sort, list[Clip]] = {}
    for clip in _judged(outing):
        if (sort := sort_of(clip)) is not None:
            sorts.setdefault(sort, []).append(clip)
    found = []
    for alike in sorts.values():
        usual = Counter(c.profile.get("kind") for c in alike).most_common(1)[0][0]
        found += [c.pk for c in alike if _is_doubtful(c.profile, usual)]
    return found


def _is_doubtful(profile: Mapping[str, object], usual: object) -> bool:
    unsure = float(str(profile.get("confidence", 1.0))) < ASK_BELOW
    return unsure or profile.get("kind") != usual or profile.get("name") in FAMILY_OF


def of_its_folder(clip: Clip) -> list[int]:
    """Numbers of the clips that a word on this one is remembered for: those of its camera and folder."""
    if not clip.camera_id and not clip.folder:
        return []
    alike = _judged(clip.outing).filter(camera=clip.camera_id, folder=clip.folder)
    return list(alike.exclude(pk=clip.pk).values_list("pk", flat=True))


def asked_about(outing: Outing) -> QuerySet[Clip]:
    """Clips whose profile is in doubt, and whose grade still goes by what Morphe judged."""
    asked = outing.clips.open_to_judgement().filter(pk__in=_judged(outing).values("pk"))
    return asked.filter(profile__confidence__lt=ASK_BELOW, profile__has_key="kinds")


def in_doubt(outing: Outing) -> list[list[int]]:
    """Numbers of clips that are asked about, in sorts that one answer is meant for; the least sure first."""
    asked = asked_about(outing).order_by("profile__confidence", "pk")
    sorts: dict[Sort, list[int]] = {}
    for number, camera_id, folder, info in asked.values_list("pk", "camera_id", "folder", "info"):
        sorts.setdefault(_sort(camera_id, folder, info) or (number,), []).append(number)
    return list(sorts.values())

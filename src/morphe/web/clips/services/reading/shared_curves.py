"""Curves judged from clips: what those of one camera, folder and format say of each other's, and all there
are."""

from __future__ import annotations

from dataclasses import dataclass

from django.db.models import QuerySet

from morphe.core.advise.profile.filmed_as import KINDS_SAID
from morphe.core.advise.profile.landing import Judged
from morphe.core.advise.profile.pooled_curve import shared_curve
from morphe.core.grade.convert import FAMILY_OF
from morphe.core.signal.profiles import Kind
from morphe.web.clips.models import Clip
from morphe.web.clips.services.questions.together import Sort, alike_to, sort_of

__all__ = ["SharedCurve", "curves_of_others", "shared_curve_of", "shared_curves"]


@dataclass(frozen=True, slots=True, kw_only=True)
class SharedCurve:
    """A curve that was judged from clips of one camera, folder and format; the first stands for them."""

    kind: Kind
    clips: tuple[Clip, ...]
    judged: Judged


def curves_of_others(clip: Clip) -> dict[Kind, tuple[Judged, ...]]:
    """The curves judged from the other clips of this one's camera, folder and format, by their kinds."""
    found: dict[Kind, tuple[Judged, ...]] = {}
    for other in alike_to(clip, _by_curve().filter(outing=clip.outing_id)):
        kind, curve = _curve(other)
        found[kind] = (*found.get(kind, ()), curve)
    return found


def shared_curves() -> list[SharedCurve]:
    """All curves that were judged, each from the clips filmed with it; the newest first."""
    sorts: dict[tuple[int, str, Sort | int], list[Clip]] = {}
    for clip in _by_curve().select_related("camera", "outing").order_by("-outing_id", "pk"):
        sort = sort_of(clip) or clip.pk
        sorts.setdefault((clip.outing_id, clip.profile["kind"], sort), []).append(clip)
    return [_shared(clips) for clips in sorts.values()]


def shared_curve_of(clip_id: int) -> SharedCurve | None:
    """The curve that a clip was filmed with, from all clips that share it; None if it has no judged one."""
    clip = _by_curve().select_related("camera", "outing").filter(pk=clip_id).first()
    if clip is None:
        return None
    same = _by_curve().filter(outing=clip.outing_id, profile__kind=clip.profile["kind"])
    return _shared([clip, *alike_to(clip, same)])


def _by_curve() -> QuerySet[Clip]:
    """Clips that are converted by a curve judged from their pictures."""
    chosen = ("auto", *KINDS_SAID)
    judged = Clip.objects.ready().filter(profile_choice__in=chosen, profile__name__in=list(FAMILY_OF))
    columns = ("outing", "camera", "folder", "title", "info", "profile")
    return judged.filter(profile__has_key="curves").only(*columns)


def _curve(clip: Clip) -> tuple[Kind, Judged]:
    kind = Kind(clip.profile["kind"])
    return kind, Judged.from_json(clip.profile["curves"][kind])


def _shared(clips: list[Clip]) -> SharedCurve:
    found = [_curve(c) for c in clips]
    kind = found[0][0]
    return SharedCurve(kind=kind, clips=tuple(clips), judged=shared_curve([c for _, c in found], kind))

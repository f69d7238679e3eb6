"""A clip's grade, put together: what is its own, and what it shares with its outing and its light."""

from __future__ import annotations

from dataclasses import replace

from morphe.core.advise.counted import edges_about
from morphe.core.errors import MorpheError
from morphe.core.grade import recipe
from morphe.core.grade.edges import Edges
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer, Scope
from morphe.core.grade.merge import merge
from morphe.web.clips.models import Clip, GradeVersion, SharedLayer
from morphe.web.clips.services.reading.counted import area_of_clip
from morphe.web.shell.numbers import numbers

__all__ = [
    "SHARED",
    "Holder",
    "grade_of",
    "holder_of",
    "is_split",
    "merged",
    "own_id",
    "own_part",
    "shared_layers",
    "stored",
    "under",
    "unreadable",
    "with_shared",
]

SHARED = tuple(scope for scope in Scope if scope.is_shared)
Holder = Clip | SharedLayer  # what has a version of now, and a history


def own_id(scope: Scope) -> str:
    """Id of the layer that a clip has of its own once it was split off from a shared one."""
    return f"own-{scope}"


def is_split(grade: Grade, scope: Scope) -> bool:
    return grade.has_layer(own_id(scope))


def holder_of(clip: Clip, scope: Scope) -> SharedLayer | None:
    """The shared layer that a clip belongs under, if anything was ever set on it."""
    owner = clip.outing if scope is Scope.OUTING else clip.present_group
    return getattr(owner, "layer", None)


def stored(version: GradeVersion | None) -> Grade:
    """The grade that a version holds; one that is outside what a grade may be changes nothing."""
    try:
        return recipe.from_json(version.grade) if version is not None else Grade()
    except MorpheError:
        return Grade()


def unreadable(clip: Clip) -> str:
    """Why a part of the clip's grade is left out, and the way back; empty if all of it is at work."""
    for holder in (clip, *(holder_of(clip, scope) for scope in SHARED)):
        try:
            if holder is not None and holder.version is not None:
                recipe.from_json(holder.version.grade)
        except MorpheError as error:
            return f"What was set here last is left out: {error} Undo goes back to what was set before."
    return ""


def grade_of(clip: Clip) -> Grade:
    """The clip's grade of now, layers of its outing and its light among it."""
    return with_shared(clip, stored(clip.version))


def with_shared(clip: Clip, grade: Grade) -> Grade:
    """What is a clip's own in a grade, under what it shares by now."""
    grade = own_part(grade)
    if (edges := edges_about(area_of_clip(clip).surround)).at_work:
        grade = grade.with_step(edges)
    for scope in SHARED:
        holder = holder_of(clip, scope)
        if holder is None or holder.version is None or is_split(grade, scope):
            continue
        layer = stored(holder.version).layer(scope)
        grade = grade.with_layer(layer) if layer.steps else grade
    return grade


def own_part(grade: Grade) -> Grade:
    """A grade without what is shared with other clips, and without the bars that a file came with."""
    grade = grade.without_step(Edges.key)
    return replace(grade, layers=tuple(layer for layer in grade.layers if layer.id not in SHARED))


def merged(clip: Clip, posted: Grade, known: str) -> Grade:
    """A grade that a page made from older versions: what it did not change is as it is now.

    Parameters
    ----------
    known : the versions that the page was made from, as `under` gives them
    """
    own, *shared = known.split(".")
    base = GradeVersion.objects.filter(pk__in=numbers([own]), clip=clip).first()
    if base is not None and base.pk != clip.version_id:
        posted = merge(own_part(stored(base)), posted, own_part(stored(clip.version)))
    versions = GradeVersion.objects.filter(pk__in=numbers(shared), layer__isnull=False)
    before = {layer.id: layer for v in versions for layer in stored(v).layers}
    now = grade_of(clip)
    for scope in SHARED:
        if not is_split(posted, scope) and posted.layer(scope) == before.get(
            scope, Layer(id=scope, scope=scope)
        ):
            posted = posted.with_layer(now.layer(scope))
    return posted


def shared_layers(clip: Clip) -> tuple[Layer, ...]:
    """Layers that come before the clip's own: shared ones, and what was split off from them.

    They are read anew: long work may hold a clip whose light was grouped anew meanwhile.
    """
    now = Clip.objects.with_grades().filter(pk=clip.pk).first()
    return () if now is None else tuple(layer for layer in grade_of(now).layers if layer.scope.is_shared)


def under(clip: Clip) -> str:
    """By which versions the clip's grade is put together: what was made under others is old."""
    holders = [holder_of(clip, scope) for scope in SHARED]
    return ".".join(str(h.version_id or 0) if h else "0" for h in (clip, *holders))

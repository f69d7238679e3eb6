"""Layers that clips share: a correction put on a light or on the outing, and splitting off from it."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from django.db.models import QuerySet

from morphe.core.errors import ColourError
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import CLIP, Layer, Scope
from morphe.core.grade.step import Step
from morphe.core.grade.steps import Balance, Exposure
from morphe.web.clips.models import Clip, GradeVersion, LightGroup, SharedLayer
from morphe.web.clips.services.grades.grade import grade_of, holder_of, is_split, own_id, stored
from morphe.web.jobs.services.ask import ask

__all__ = [
    "back_under",
    "carry_layers",
    "changed_for_all",
    "joined",
    "made_holder",
    "members",
    "put_on",
    "reach",
    "split_off",
]


def members(clip: Clip, scope: Scope) -> QuerySet[Clip]:
    """Clips that share a layer with this one, itself among them; those that were split off are not."""
    alike = clip.outing.clips.ready()
    if scope is Scope.LIGHT:
        alike = alike.filter(group=clip.group_id) if clip.group_id else alike.filter(pk=clip.pk)
    return alike.exclude(version__grade__icontains=own_id(scope))


def reach(clip: Clip, scope: Scope) -> int:
    """How many clips a change of a shared layer changes."""
    return members(clip, scope).count()


def made_holder(clip: Clip, scope: Scope) -> SharedLayer:
    """The shared layer of a clip's outing or light, made if nothing was set on it yet.

    Raises
    ------
    ColourError
        If the clip has no light yet.
    """
    if scope is Scope.LIGHT:  # lights may have been grouped anew since the clip was read
        clip.refresh_from_db(fields=["group"])
    found = holder_of(clip, scope)
    if found is not None:
        return found
    if scope is Scope.LIGHT and clip.group is None:
        raise ColourError("This clip belongs to no light yet; group the clips by light first.")
    owner = {"outing": clip.outing} if scope is Scope.OUTING else {"group": clip.group}
    holder, is_new = SharedLayer.objects.get_or_create(**owner)  # another page may have made it meanwhile
    if is_new:
        _begin(holder, Grade(layers=(Layer(id=scope, scope=scope),)), "Nothing set")
    return holder


def _begin(holder: SharedLayer, grade: Grade, change: str) -> None:
    """Every shared layer begins with a version that undo ends at."""
    holder.version = GradeVersion.objects.create(layer=holder, grade=recipe.to_json(grade), change=change)
    holder.save(update_fields=["version"])


def changed_for_all(holder: SharedLayer) -> None:
    """Have all clips under a shared layer judged anew: their rungs are read through it."""
    of = holder.outing if holder.outing is not None else holder.group
    found = [] if of is None else list(of.clips.ready().values_list("pk", flat=True))
    Clip.objects.filter(pk__in=found).update(advice_version=0)
    for pk in found:
        ask("judge", pk)


def put_on(
    clip: Clip, key: str, scope: Scope, proposal: Step, *, proposed: bool = False
) -> tuple[Grade, str]:
    """The clip's grade with a rung's step moved to a shared layer, and the change in words.

    What the clip has there is moved; where it has nothing, or `proposed` is asked for, the proposal is taken.
    Numbers of light add up.
    """
    grade = grade_of(clip)
    if is_split(grade, scope):
        raise ColourError(f"This clip was split off: put it back under {scope.label.lower()} first.")
    own = grade.step(key, CLIP)
    step = own if own.at_work and not proposed else proposal
    if not step.at_work:
        raise ColourError(f"{step.label} changes nothing yet; set it first.")
    grade = grade.without_step(key, CLIP).with_step(joined(grade.step(key, scope), step), scope)
    return grade, f"{step.label} {step.summary}"


def joined(there: Step, more: Step) -> Step:
    """Two steps in one: light adds up; of other steps the new one counts."""
    if not there.at_work or there.moving or more.moving:
        return more
    if isinstance(there, Exposure) and isinstance(more, Exposure):
        return replace(more, stops=Exposure.within("stops", there.number("stops") + more.number("stops")))
    if isinstance(there, Balance) and isinstance(more, Balance):
        sums: dict[str, Any] = {
            name: Balance.within(name, there.number(name) + more.number(name)) for name in Balance.params
        }
        return replace(more, **sums)
    return more


def split_off(clip: Clip, scope: Scope) -> tuple[Grade, str]:
    """The clip's grade with a shared layer turned into its own: it looks the same, and no longer follows."""
    grade = grade_of(clip)
    shared = grade.layer(scope)
    own = replace(shared, id=own_id(scope), name=f"{scope.label}, split off")
    if grade.has_layer(scope):
        grade = grade.without_layer(scope)
    return grade.with_layer(own), f"Split off from {scope.label.lower()}"


def back_under(clip: Clip, scope: Scope) -> tuple[Grade, str]:
    """The clip's grade without what was split off: it follows the shared layer again."""
    grade = grade_of(clip).without_layer(own_id(scope))
    holder = holder_of(clip, scope)
    if holder is not None and holder.version is not None:
        grade = grade.with_layer(stored(holder.version).layer(scope))
    return grade, f"Follows {scope.label.lower()} again"


def carry_layers(groups: dict[int, LightGroup], was: dict[int, int | None], stay: set[int]) -> None:
    """Give lights that were grouped anew the layers of those that most of their clips come from.

    Parameters
    ----------
    groups : new light of each clip, by the clip's number; was : number of its former light
    stay : former lights that stay, and keep what was set on them
    """
    layers = {
        layer.group_id: layer for layer in SharedLayer.objects.filter(group__in=set(was.values()) - {None})
    }
    by_light: dict[int, list[int]] = {}
    for clip_id, group in groups.items():
        by_light.setdefault(group.pk, []).append(clip_id)
    lights = {group.pk: group for group in groups.values()}
    taken = {layer.pk for layer in layers.values() if layer.group_id in stay}
    for pk, clip_ids in by_light.items():
        former = [was.get(c) for c in clip_ids]
        layer = layers.get(max(set(former), key=former.count))
        if layer is None or layer.group_id == pk:
            continue
        if layer.pk in taken and layer.version is not None:  # one light became two: both keep what was set
            twin = SharedLayer.objects.create(group=lights[pk])
            _begin(twin, stored(layer.version), "As in the light it comes from")
            continue
        taken.add(layer.pk)
        SharedLayer.objects.filter(pk=layer.pk).update(group=lights[pk])

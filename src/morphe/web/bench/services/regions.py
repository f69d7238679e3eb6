"""Regions on the Bench: added, named, switched, scaled, taken away; steps put inside."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from morphe.core.errors import ColourError
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer
from morphe.core.grade.moments import held
from morphe.core.grade.param import Param
from morphe.core.grade.region import Ellipse, Line, Outline, Region, Shape
from morphe.core.grade.step import FrameStep
from morphe.core.grade.steps import ORDER, STEPS
from morphe.web.bench.services.follow import FollowState, follow_state
from morphe.web.clips.models import Clip
from morphe.web.clips.services import versions

__all__ = ["ShownRegion", "act_on_region", "shown_regions"]

INSIDE = tuple(kind for kind in ORDER if not issubclass(kind, FrameStep))
SHAPES: dict[str, tuple[str, Shape]] = {
    "ellipse": ("Ellipse", Ellipse(wide=0.22, tall=0.22)),
    "line": ("Upper part", Line()),
    "outline": (
        "Outline",
        Outline(
            points=((-0.22, -0.18), (0.0, -0.24), (0.22, -0.18), (0.22, 0.18), (0.0, 0.24), (-0.22, 0.18))
        ),
    ),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownNumber:
    """One number of a step inside a region."""

    step: str
    name: str
    param: Param
    value: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownRegion:
    """A region ready for the template."""

    layer: Layer
    strength: int
    feather: int
    steps: tuple[tuple[str, str, tuple[ShownNumber, ...]], ...]  # key, label, numbers
    more: tuple[tuple[str, str], ...]  # steps that can be put inside
    summary: str
    travel: str  # whether it moves, in words
    has_moments: bool
    follow: FollowState | None


def shown_regions(clip: Clip, grade: Grade) -> tuple[ShownRegion, ...]:
    """All regions of a grade, in the order in which they work."""
    follows = follow_state(clip)
    return tuple(_shown(x, follows.get(x.id)) for x in grade.layers if x.region is not None)


def _shown(layer: Layer, follow: FollowState | None) -> ShownRegion:
    region = layer.region
    assert region is not None
    used = {step.key for step in layer.steps}
    steps = tuple(
        (step.key, step.label, tuple(
            ShownNumber(step=step.key, name=n, param=p, value=round(held(getattr(step, n), 0.0), 2))
            for n, p in step.params.items()
        ))
        for step in layer.steps
    )  # fmt: skip
    return ShownRegion(
        layer=layer, strength=round(100 * layer.strength), feather=round(100 * region.feather), steps=steps,
        more=tuple((kind.key, kind.label) for kind in INSIDE if kind.key not in used),
        summary="; ".join(s.summary for s in layer.steps if s.at_work) or "nothing inside yet",
        travel=_travel(region), has_moments=region.moves or region.moments[0][0] > 0, follow=follow,
    )  # fmt: skip


def _travel(region: Region) -> str:
    if region.moves:
        return f"It moves: {len(region.moments)} moments, marked on the strip."
    if region.moments[0][0] > 0:
        return f"Its first moment is at {region.moments[0][0]:.1f} s: go to another one and move it there."
    return "It holds still."


def act_on_region(clip: Clip, act: str, posted: Mapping[str, str]) -> str:
    """Do one thing to a region and give the id of its layer, or "" when it is gone."""
    grade = versions.grade_of(clip)
    if act == "add":
        return _add(clip, grade, posted.get("shape", ""))
    layer = grade.layer(posted.get("layer", ""))
    if layer.region is None:
        raise ColourError("There is no such region; reload the page.")
    if act == "remove":
        versions.keep(clip, grade.without_layer(layer.id), f"{layer.label} taken away")
        return ""
    changed, change = _changed(layer, act, posted)
    versions.keep(clip, grade.with_layer(changed), change)
    return layer.id


def _add(clip: Clip, grade: Grade, shape: str) -> str:
    if shape not in SHAPES:
        raise ColourError(f"A region is one of: {', '.join(SHAPES)}.")
    label, made = SHAPES[shape]
    taken = {layer.id for layer in grade.layers}
    number = next(n for n in range(1, 100) if f"region-{n}" not in taken)
    same = sum(layer.name.startswith(label) for layer in grade.layers)
    name = f"{label} {same + 1}" if same else label
    feather = 0.3 if shape == "line" else 0.12
    layer = Layer(id=f"region-{number}", name=name, region=Region(shape=made, feather=feather),
                  steps=(STEPS.get("exposure")(),))  # fmt: skip
    versions.keep(clip, grade.with_layer(layer), f"{name} added")
    return layer.id


def _changed(layer: Layer, act: str, posted: Mapping[str, str]) -> tuple[Layer, str]:
    region = layer.region
    assert region is not None
    value = posted.get("value", "")
    if act == "switch":
        return replace(layer, on=not layer.on), f"{layer.label} {'off' if layer.on else 'on'}"
    if act == "inverse":
        side = "inside" if region.inverse else "outside"
        return replace(layer, region=replace(region, inverse=not region.inverse)), f"{layer.label}: {side}"
    if act == "still":
        place = region.place(region.moments[0][0])
        return replace(layer, region=region.put(place)), f"{layer.label} holds still"
    if act == "name":
        name = " ".join(value.split())[:60]
        return replace(layer, name=name), f"Region named {name or 'Region'}"
    if act == "put":
        return layer.with_step(STEPS.get(value)()), f"{layer.label}: {STEPS.get(value).label} put inside"
    if act == "take":
        return layer.without_step(value), f"{layer.label}: {STEPS.get(value).label} taken out"
    raise ColourError("That cannot be done to a region; reload the page.")

"""Regions on the Bench, as they are shown, added, and left out by a tap."""

from __future__ import annotations

from dataclasses import dataclass

from morphe.core.errors import ColourError
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer, new_region_id
from morphe.core.grade.region import Ellipse, Line, Outline, Region, Shape
from morphe.core.grade.steps import STEPS
from morphe.web.bench.services.follow import FollowState, follow_state
from morphe.web.bench.services.layers import ShownStep, more_for, steps_of
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades import versions
from morphe.web.clips.services.grades.grade import grade_of

__all__ = ["ShownRegion", "add_region", "left_out_at", "shown_regions"]

AROUND_A_TAP = Ellipse(wide=0.1, tall=0.1)

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
class ShownRegion:
    """A region ready for the template."""

    layer: Layer
    strength: int
    feather: int
    steps: tuple[ShownStep, ...]
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
    return ShownRegion(
        layer=layer, strength=round(100 * layer.strength), feather=round(100 * region.feather),
        steps=steps_of(layer), more=more_for(layer),
        summary=_summary(layer),
        travel=_travel(region), has_moments=region.moves or region.moments[0][0] > 0, follow=follow,
    )  # fmt: skip


def _summary(layer: Layer) -> str:
    said = ["left out"] if layer.left_out else []
    said += [s.summary for s in layer.steps if s.at_work]
    return "; ".join(said) or "nothing inside yet"


def left_out_at(grade: Grade, x: float, y: float) -> tuple[Grade, str]:
    """A copy in which what lies about a place (shares of the frame) is left out, and the id of that part."""
    region = Region(shape=AROUND_A_TAP, feather=0.02, moments=((0.0, x, y, 1.0, 0.0),))
    layer = Layer(id=new_region_id(grade.ids), name="Spot", region=region, left_out=True)
    return grade.with_layer(layer), layer.id


def _travel(region: Region) -> str:
    if region.moves:
        return f"It moves: {len(region.moments)} moments, marked on the strip."
    if region.moments[0][0] > 0:
        return f"Its first moment is at {region.moments[0][0]:.1f} s: go to another one and move it there."
    return "It holds still."


def add_region(clip: Clip, shape: str) -> str:
    """Put a region on a clip and give the id of its layer."""
    grade = grade_of(clip)
    if shape not in SHAPES:
        raise ColourError(f"A region is one of: {', '.join(SHAPES)}.")
    label, made = SHAPES[shape]
    same = sum(layer.name.startswith(label) for layer in grade.layers)
    name = f"{label} {same + 1}" if same else label
    feather = 0.3 if shape == "line" else 0.12
    layer = Layer(id=new_region_id(grade.ids), name=name, region=Region(shape=made, feather=feather),
                  steps=(STEPS.get("exposure")(),))  # fmt: skip
    versions.keep(clip, grade.with_layer(layer), f"{name} added")
    return layer.id

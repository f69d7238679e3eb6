"""Finish on the Bench: effects put on gently, a shape, a title, and what follows a subject."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any

from morphe.core.errors import ColourError
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer, Scope
from morphe.core.grade.moments import Moments, Number
from morphe.core.grade.region import Region
from morphe.core.grade.step import FrameStep, Step
from morphe.core.grade.steps import (
    Bars,
    Crop,
    EdgeBlur,
    Flare,
    Fringe,
    Glow,
    Grain,
    Halation,
    Soften,
    Title,
)
from morphe.core.grade.steps.bars import BARS, CROPS
from morphe.core.grade.steps.title import MANNERS, SPOTS
from morphe.web.bench.services.layers import ShownStep, steps_of
from morphe.web.clips.models import Clip
from morphe.web.clips.services.reading.counted import area_of_clip
from morphe.web.shell.numbers import decimal

__all__ = [
    "ShownFinish",
    "finish_of",
    "lit_flare",
    "title_inside",
    "with_effect",
    "with_shape",
    "with_subject",
    "with_title",
]

EFFECTS: tuple[type[FrameStep], ...] = (Glow, Halation, Flare, Soften, EdgeBlur, Fringe, Grain)
COSTS = {
    "glow": "Lights lose their edge; those who film to inform leave it out.",
    "halation": "Reads as film; some find it dated.",
    "flare": "Reads as a lens that was shone into; purists never add what the lens did not do.",
    "soften": "Gives away detail that the file has kept.",
    "edge-blur": "Fine until the subject leaves it; a large sensor does it better.",
    "fringe": "A fault of lenses: many take it out, few put it in.",
    "grain": "Hides bands; the file grows by a fifth or more, and clean-picture people dislike it.",
}
GENTLE = 0.5  # of what looks natural
FOLLOWERS = (EdgeBlur.key, Crop.key)


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownFinish:
    """What the template needs: effects on the layer and those left, shapes, the title, and subjects."""

    layer: Layer
    steps: tuple[ShownStep, ...]
    more: tuple[tuple[str, str, str], ...]  # key, label, cost
    shapes: tuple[tuple[str, str, bool], ...]  # value, label, whether it is on
    place: Step | None  # the shape that can be placed
    title: Title
    manners: tuple[tuple[str, str], ...]
    spots: tuple[tuple[str, str], ...]
    own_shape: str  # the crop that leaves the bars away which a clip came with; empty without any
    subjects: tuple[Layer, ...]
    summary: str


def finish_of(grade: Grade, clip: Clip) -> ShownFinish:
    """The finish of a clip's grade, ready for the template."""
    layer = grade.layer(Scope.FINISH)
    keys = [kind.key for kind in EFFECTS]
    on = replace(layer, steps=tuple(s for s in layer.steps if s.key in keys))
    bars, crop, title = layer.step(Bars.key), layer.step(Crop.key), layer.step(Title.key)
    assert isinstance(bars, Bars) and isinstance(crop, Crop) and isinstance(title, Title)
    shapes = [("", "As filmed", not (bars.at_work or crop.at_work))]
    shapes += [(f"bars:{r}", f"{r:g} : 1", bars.ratio == r) for r in BARS]
    shapes += [(f"crop:{r:.4f}", label, abs(crop.ratio - r) < 1e-3) for label, r in CROPS]
    own = _own_shape(clip)
    if own:
        shapes.append((f"crop:{own:.4f}", "without its bars", abs(crop.ratio - own) < 1e-3))
    return ShownFinish(
        layer=layer,
        steps=tuple(replace(step, note=COSTS[step.key]) for step in steps_of(on)),
        shapes=tuple(shapes), own_shape=f"crop:{own:.4f}" if own else "", title=title,
        more=tuple((k.key, k.label, COSTS[k.key]) for k in EFFECTS if layer.step(k.key).is_neutral),
        place=next((s for s in (crop, bars) if s.at_work), None),
        manners=tuple((key, entry[0]) for key, entry in MANNERS.items()),
        spots=tuple((key, entry[0]) for key, entry in SPOTS.items()),
        subjects=tuple(x for x in grade.layers if x.region is not None),
        summary="; ".join(f"{s.label} {s.summary}" for s in layer.steps if s.at_work),
    )  # fmt: skip


def _own_shape(clip: Clip) -> float:
    """Width to height of the picture between the bars that a clip came with; 0 without any."""
    surround = area_of_clip(clip).surround
    if not surround.kind:
        return 0.0
    left, top, right, bottom = surround.window(*clip.signal.upright_size)
    return (right - left) / (bottom - top)


def title_inside(layer: Layer) -> Layer:
    """A copy whose title stands inside what bars or a crop leave."""
    title = layer.step(Title.key)
    shape = next((s for s in layer.steps if isinstance(s, (Bars, Crop)) and s.at_work), Bars())
    if not isinstance(title, Title) or not title.at_work:
        return layer
    return layer.with_step(replace(title, ratio=shape.ratio, place=shape.place))


def lit_flare(grade: Grade, x: float, y: float) -> Grade:
    """A copy whose flare comes from a place (shares of the frame); one at rest begins gently."""
    layer = grade.layer(Scope.FINISH)
    flare = layer.step(Flare.key)
    assert isinstance(flare, Flare)
    at_work = flare if flare.at_work else _gentle(Flare)
    placed: dict[str, Any] = {"x": round(100 * x, 1), "y": round(100 * y, 1), "on": True}
    return grade.with_layer(layer.with_step(replace(at_work, **placed)))


def _gentle(kind: type[FrameStep]) -> Step:
    natural = kind.params["amount"].natural
    amount: dict[str, Any] = {"amount": GENTLE * natural[1] if natural else 1.0}
    return kind(**amount)


# --- what can be changed: the layer then, and the change in words ------------------------------------------


def with_effect(layer: Layer, key: str) -> tuple[Layer, str]:
    """Begin an effect gently."""
    kind = next((k for k in EFFECTS if k.key == key), None)
    if kind is None:
        raise ColourError("There is no such effect; reload the page.")
    return layer.with_step(_gentle(kind)), f"{kind.label} put on"


def with_shape(layer: Layer, chosen: str) -> tuple[Layer, str]:
    """Lay bars, crop, or leave the shape as filmed; chosen such as bars:2.35."""
    bare = layer.without_step(Bars.key).without_step(Crop.key)
    key, _, ratio = chosen.partition(":")
    if not key:
        return bare, "Shape as filmed"
    try:
        wanted = float(ratio)
    except ValueError:
        raise ColourError("A shape is a width to a height, such as 2.35; choose one of the list.") from None
    if key == Bars.key:
        return bare.with_step(Bars(ratio=wanted)), f"Bars {wanted:g} : 1"
    label = next((name for name, r in CROPS if abs(r - wanted) < 1e-3), f"{wanted:.2f} : 1")
    return bare.with_step(Crop(ratio=wanted)), f"Cropped to {label}"


def with_title(layer: Layer, posted: Mapping[str, str]) -> tuple[Layer, str]:
    """Write a title, or take it off where its text is empty."""
    text = posted.get("text", "").replace("\r\n", "\n").strip()
    if not text:
        return layer.without_step(Title.key), "Title taken off"
    numbers: dict[str, Any] = {}
    for name in ("size", "margin", "start", "end"):
        try:
            numbers[name] = decimal(posted.get(name, ""))
        except ValueError:
            raise ColourError(f"{Title.params[name].label} is no number; type one.") from None
    title = Title(text=text, manner=posted.get("manner", ""), spot=posted.get("spot", ""), **numbers)
    if title.is_neutral:
        raise ColourError("The title goes before it comes; let it go later.")
    return layer.with_step(title), f"Title {title.summary}"


def with_subject(clip: Clip, grade: Grade, key: str, layer_id: str) -> tuple[Layer, str]:
    """Have a step of the finish follow a region."""
    subject = grade.layer(layer_id)
    if key not in FOLLOWERS or subject.region is None:
        raise ColourError("There is no such part of the picture; reload the page.")
    layer = grade.layer(Scope.FINISH)
    step = layer.step(key)
    if isinstance(step, Crop):
        moved: dict[str, Any] = {"place": _centred(step, subject.region, *clip.signal.upright_size)}
    else:
        moved = {"x": _way(subject.region, 1), "y": _way(subject.region, 2)}
    return layer.with_step(replace(step, **moved)), f"{step.label} follows {subject.label}"


def _way(region: Region, column: int, out: Callable[[float], float] = lambda share: 100 * share) -> Number:
    """Where a region lies over time, as a number within 0 to 100, or as `out` makes one of a share 0..1."""
    rows = tuple((m[0], out(min(max(m[column], 0.0), 1.0))) for m in region.moments)
    return Moments(rows) if len(rows) > 1 else rows[0][1]


def _centred(crop: Crop, region: Region, width: int, height: int) -> Number:
    """Where a crop is placed so that a region lies in its middle, as far as the frame reaches."""
    left, top, right, bottom = crop.window(width, height)
    across = right - left < width
    kept = (right - left) / width if across else (bottom - top) / height

    def placed(share: float) -> float:
        return min(max(200 * ((share - kept / 2) / max(1 - kept, 1e-6) - 0.5), -100.0), 100.0)

    return _way(region, 1 if across else 2, placed)

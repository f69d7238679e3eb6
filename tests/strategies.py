"""Hypothesis strategies shared by all tests."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from morphe.core.grade.convert import Convert
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer, Scope
from morphe.core.grade.moments import Moments
from morphe.core.grade.region import Ellipse, Line, Outline, Region
from morphe.core.grade.step import FrameStep, Step
from morphe.core.grade.steps import STEPS, Curves, Families
from morphe.core.grade.steps.curves import CHANNELS
from morphe.core.grade.steps.families import EDIT, Edit
from morphe.core.signal.profiles import PROFILES

__all__ = ["COLOUR", "encoded_pictures", "grades", "regions", "stacked_grades", "steps", "unit_floats"]

unit_floats = st.floats(0, 1, width=32)
SECONDS = 4.0
COLOUR = tuple(key for key in STEPS if not issubclass(STEPS.get(key), FrameStep))


def encoded_pictures(low: float = 0.0, high: float = 1.0) -> st.SearchStrategy[np.ndarray]:
    """Small encoded pictures (H, W, 3)."""
    shapes = st.tuples(st.integers(1, 5), st.integers(1, 5), st.just(3))
    values = st.floats(np.float32(low).item(), np.float32(high).item(), width=32)
    return shapes.flatmap(lambda shape: hnp.arrays(np.float32, shape, elements=values))


@st.composite
def steps(draw: st.DrawFn, keys: tuple[str, ...] = COLOUR, share: float = 1.0, moves: bool = False) -> Step:
    """Any step with numbers inside their limits, or a share of the way to them; some may move."""
    kind = STEPS.get(draw(st.sampled_from(keys)))
    values = {}
    for name, param in kind.params.items():
        low, high = (param.neutral + share * (end - param.neutral) for end in (param.low, param.high))
        number = st.floats(low, high, allow_nan=False)
        values[name] = draw(number)
        if moves and param.may_move and draw(st.booleans()):
            values[name] = Moments(((0.5, draw(number)), (SECONDS - 0.5, draw(number))))
    if kind is Families:
        values["edits"] = tuple(draw(st.lists(edits(share), max_size=3, unique_by=lambda e: round(e.at))))
    if kind is Curves:
        values |= {name: draw(points(share)) for name in draw(st.sets(st.sampled_from(CHANNELS)))}
    return kind(on=draw(st.booleans()) if share == 1.0 else True, **values)


@st.composite
def edits(draw: st.DrawFn, share: float = 1.0) -> Edit:
    """Any edit of a hue inside its limits, or a share of the way to them."""

    def number(name: str) -> float:
        param = EDIT[name]
        if name in ("at", "below", "above"):
            return draw(st.floats(param.low, param.high))
        return draw(st.floats(share * param.low, share * param.high))

    return Edit(**{name: number(name) for name in EDIT})


@st.composite
def points(draw: st.DrawFn, share: float = 1.0) -> tuple[tuple[float, float], ...]:
    """A rising curve of three points."""
    at = draw(st.floats(20, 80))
    return ((0.0, 0.0), (at, at + share * draw(st.floats(-18, 18))), (100.0, 100.0))


@st.composite
def regions(draw: st.DrawFn) -> Region:
    """A region of any shape, somewhere in the frame; some move."""
    shape = draw(
        st.one_of(
            st.builds(Ellipse, wide=st.floats(0.1, 0.5), tall=st.floats(0.1, 0.5)),
            st.just(Line()),
            st.just(Outline(points=((-0.3, -0.2), (0.25, -0.3), (0.3, 0.2), (0.0, 0.05), (-0.2, 0.3)))),
        )
    )
    inside, size, turn = st.floats(0.2, 0.8), st.floats(0.6, 1.5), st.floats(-90, 90)
    place = st.tuples(inside, inside, size, turn)
    times = (0.0, SECONDS) if draw(st.booleans()) else (0.0,)
    return Region(
        shape=shape, feather=draw(st.floats(0.05, 0.4)), inverse=draw(st.booleans()),
        moments=tuple((t, *draw(place)) for t in times),
    )  # fmt: skip


@st.composite
def grades(draw: st.DrawFn) -> Grade:
    """A grade with a profile and some of the steps on the clip, each at most once."""
    keys = draw(st.lists(st.sampled_from(list(STEPS)), unique=True, max_size=5))
    return Grade.of(
        Convert(profile=draw(st.sampled_from(list(PROFILES)))), *(draw(steps((key,))) for key in keys)
    )


@st.composite
def stacked_grades(draw: st.DrawFn, profiles: tuple[str, ...] = ("log-mild", "flat-a")) -> Grade:
    """A moderate correction on several layers: shared ones, a clip's, one or two regions, a finish."""
    light = draw(st.sampled_from(["std-709", *profiles]))
    grade = Grade.of(Convert(profile=light)) if light != "std-709" else Grade()

    def some(least: int, most: int) -> tuple[Step, ...]:
        chosen = st.lists(st.sampled_from(COLOUR), unique=True, min_size=least, max_size=most)
        ordered = sorted(draw(chosen), key=COLOUR.index)
        return tuple(draw(steps((key,), share=0.12, moves=True)) for key in ordered)

    strength = st.floats(0.3, 1.0)
    grade = grade.with_layer(
        Layer(id="outing", scope=Scope.OUTING, steps=some(0, 2), strength=draw(strength))
    )
    grade = grade.with_layer(replace(grade.layer("clip"), steps=some(1, 4)))
    for number in range(draw(st.integers(0, 2))):
        layer = Layer(id=f"part-{number}", steps=some(1, 2), strength=draw(strength), region=draw(regions()))
        grade = grade.with_layer(layer)
    finish = tuple(draw(steps((key,), share=0.3)) for key in ("vignette",) if draw(st.booleans()))
    return grade.with_layer(Layer(id="finish", scope=Scope.FINISH, steps=finish))

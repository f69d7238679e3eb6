"""Hypothesis strategies shared by all tests."""

from __future__ import annotations

import numpy as np
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import STEPS, Convert, Step
from morphe.core.signal.profiles import PROFILES

__all__ = ["encoded_pictures", "grades", "steps", "unit_floats"]

unit_floats = st.floats(0, 1, width=32)


def encoded_pictures(low: float = 0.0, high: float = 1.0) -> st.SearchStrategy[np.ndarray]:
    """Small encoded pictures (H, W, 3)."""
    shapes = st.tuples(st.integers(1, 5), st.integers(1, 5), st.just(3))
    values = st.floats(np.float32(low).item(), np.float32(high).item(), width=32)
    return shapes.flatmap(lambda shape: hnp.arrays(np.float32, shape, elements=values))


@st.composite
def steps(draw: st.DrawFn, keys: tuple[str, ...] = tuple(STEPS)) -> Step:
    """Any step with parameters somewhere inside their limits."""
    kind = STEPS.get(draw(st.sampled_from(keys)))
    values = {name: draw(st.floats(low, high, allow_nan=False)) for name, (low, high) in kind.limits.items()}
    if kind is Convert:
        values["profile"] = draw(st.sampled_from(list(PROFILES)))
    return kind(on=draw(st.booleans()), **values)


@st.composite
def grades(draw: st.DrawFn) -> Grade:
    """A grade with some of the steps, each at most once."""
    keys = draw(st.lists(st.sampled_from(list(STEPS)), unique=True, max_size=5))
    return Grade.of(*(draw(steps((key,))) for key in keys))

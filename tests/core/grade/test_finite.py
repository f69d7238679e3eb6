"""No number that is not finite leaves a step, whatever a clip brings and whatever is set."""

from __future__ import annotations

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from morphe.core.errors import ColourError
from morphe.core.grade.convert import FAMILY_OF, OWN, Convert
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import STEPS
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.families import Landing, curve_of
from morphe.core.signal.profiles import PROFILES, Kind
from tests.strategies import COLOUR, steps

# Codes as files hold them: Y'CbCr at its ends reaches −1.1 and 2.2; also single channels, and greys.
CODES = st.lists(
    st.one_of(
        st.tuples(*[st.floats(-1.0, 2.25, width=32)] * 3),
        st.floats(-1.0, 2.25, width=32).map(lambda v: (v, v, v)),
        st.sampled_from([(0.0, 0.0, 0.0), (1.0, 1.0, 1.0), (-0.07, 1.09, -0.07), (1.09, -0.07, 0.0)]),
    ),
    min_size=1, max_size=12,
)  # fmt: skip


@st.composite
def sources(draw: st.DrawFn) -> Convert:
    """Any conversion that a clip may get: built in, judged from it and bent, or the person's own."""
    wide, kind = draw(st.booleans()), draw(st.sampled_from(["built-in", *FAMILY_OF, OWN]))
    if kind == "built-in":
        return Convert(profile=draw(st.sampled_from(list(PROFILES))), wide=wide)
    if kind == OWN:
        codes = sorted(draw(st.sets(st.integers(0, 110), min_size=3, max_size=8)))
        stops = sorted(draw(st.sets(st.integers(-12, 12), min_size=len(codes), max_size=len(codes))))
        return Convert(
            profile=OWN, points=tuple((c / 100, s) for c, s in zip(codes, stops, strict=True)), wide=wide
        )
    black, span, bend = (draw(st.floats(*ends)) for ends in ((-0.1, 0.3), (0.15, 1.0), (0.05, 0.95)))
    landing = Landing(black=black, grey=black + bend * span, white=black + span)
    chroma, by = (Convert.within(name, draw(st.floats(-2, 3))) for name in ("chroma", "bend"))
    try:
        return Convert(
            profile=kind, curve=curve_of(Kind(FAMILY_OF[kind]), landing).numbers, bend=by, chroma=chroma
        )
    except ColourError:  # refused, which is an answer too
        return Convert()


def picture_of(codes: list[tuple[float, float, float]]) -> np.ndarray:
    return np.array(codes, np.float32)[None]


@settings(max_examples=600, deadline=None)
@given(codes=CODES, source=sources(), step=steps())
def test_given_any_source_when_any_step_follows_then_every_number_is_finite(codes, source, step):
    grade = Grade.of(source, step)

    with np.errstate(divide="raise", invalid="raise"):
        out = evaluate(grade, picture_of(codes))

    assert np.isfinite(out).all()


@settings(max_examples=200, deadline=None)
@given(
    codes=CODES, chosen=st.lists(st.sampled_from(COLOUR), min_size=2, max_size=6, unique=True), step=st.data()
)
def test_given_many_steps_at_their_limits_when_they_follow_each_other_then_all_is_finite(codes, chosen, step):
    grade = Grade.of(*(step.draw(steps((key,))) for key in sorted(chosen, key=list(STEPS).index)))

    out = evaluate(grade, picture_of(codes))

    assert np.isfinite(out).all()

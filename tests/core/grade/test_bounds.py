"""Whatever numbers a recipe holds, its grade is refused in words or gives finite light."""

import copy
import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.errors import MorpheError
from morphe.core.grade import recipe
from morphe.core.grade.convert import Convert, convert_of
from morphe.core.grade.even_out import EvenOut
from morphe.core.grade.grade import Grade
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.camera_log import CameraLog
from morphe.core.signal.own_profile import OwnProfile
from morphe.core.signal.point_curve import PointCurve
from morphe.core.signal.profiles import Kind
from tests.strategies import grades

ABSURD = (1e308, -1e308, 1e30, -1e30, 1e-300)
LOG = CameraLog.of((0.1258, 0.6825, 0.03086, 0.012))
MEASURED = PointCurve.of([(0.1, -4.0), (0.3, -1.0), (0.5, 0.5), (0.9, 3.0)])
SOURCES = [
    convert_of(OwnProfile(name="x", kind=Kind.LOG, curve=LOG, matrix=tuple(np.eye(3).ravel()), clip_stops=5)),
    convert_of(OwnProfile(name="y", kind=Kind.LOG, curve=MEASURED, clip_stops=3)),
    Convert(profile="hand", name="By hand", points=((0.1, 0.1), (0.5, 0.5), (0.9, 0.9))),
    EvenOut(amount=80, track=((0.0, 0.1, 0.1, 0.1), (1.0, 0.2, 0.2, 0.2))),
]


def places(data, before=()):
    """Where the numbers of plain values lie."""
    if isinstance(data, dict | list):
        for key, inner in data.items() if isinstance(data, dict) else enumerate(data):
            yield from places(inner, (*before, key))
    elif isinstance(data, int | float) and not isinstance(data, bool):
        yield before


def with_number(data, place, value):
    changed = inner = copy.deepcopy(data)
    for key in place[:-1]:
        inner = inner[key]
    inner[place[-1]] = value
    return changed


def refused_or_finite(data):
    try:
        grade = recipe.from_json(data)
    except MorpheError as error:
        return str(error)
    out = evaluate(grade, np.full((2, 3, 3), 0.5, np.float32), time_s=0.5)
    assert np.isfinite(out).all()
    return ""


@pytest.mark.parametrize("step", SOURCES, ids=lambda s: f"{s.key}-{getattr(s, 'profile', '')}")
def test_given_absurd_numbers_of_a_source_when_read_then_they_are_refused_or_the_light_is_finite(step):
    data = json.loads(json.dumps(recipe.to_json(Grade.of(step))))
    said = [refused_or_finite(with_number(data, p, v)) for p in places(data) for v in ABSURD]
    assert sum(bool(s) for s in said) > len(said) / 2
    assert all(s.endswith(".") for s in said if s)


@given(grades(), st.data())
def test_given_an_absurd_number_anywhere_when_read_then_it_is_refused_or_the_light_is_finite(grade, drawn):
    data = json.loads(json.dumps(recipe.to_json(grade)))
    found = list(places(data))
    place = drawn.draw(st.sampled_from(found))
    refused_or_finite(with_number(data, place, drawn.draw(st.sampled_from(ABSURD))))

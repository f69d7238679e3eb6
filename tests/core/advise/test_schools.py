"""Schools of correcting: another order of the same work, nothing lost and nothing changed in number."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.advise.schools import SCHOOLS_KNOWN, in_school, school_of
from morphe.core.errors import UnknownName
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import CLIP
from morphe.core.grade.steps import Balance, BlackPoint, Contrast, Exposure, Saturation

STEPS = (
    Exposure(stops=0.3), Balance(warmth=12), BlackPoint(lower=3), Contrast(amount=8), Saturation(amount=10),
)  # fmt: skip


def of_clip(grade):
    return [step.key for layer, step in grade.steps() if layer == CLIP and step.at_work]


@pytest.mark.parametrize("key", list(SCHOOLS_KNOWN))
def test_given_a_school_when_a_grade_is_put_in_it_then_its_steps_stand_in_that_order(key):
    school = school_of(key)
    grade = Grade.of(*STEPS)
    found = of_clip(in_school(grade, school))

    assert sorted(found) == sorted(of_clip(grade))
    assert found == sorted(found, key=school.order.index)
    assert school.sentence.endswith(".") and set(school.folded) <= set(school.order)


@given(path=st.lists(st.sampled_from(list(SCHOOLS_KNOWN)), max_size=5))
def test_given_schools_one_after_another_when_back_in_the_first_then_the_grade_is_as_it_was(path):
    usual = in_school(Grade.of(*STEPS), school_of("usual"))
    grade = usual
    for key in path:
        grade = in_school(grade, school_of(key))

    assert in_school(grade, school_of("usual")) == usual


def test_given_a_layer_that_is_shared_when_the_school_changes_then_it_keeps_its_own_order():
    grade = Grade.of(*STEPS).with_step(Contrast(amount=5), "style").with_step(Balance(warmth=5), "style")
    for key in SCHOOLS_KNOWN:
        before = [step for layer, step in grade.steps() if layer == "style"]
        after = [step for layer, step in in_school(grade, school_of(key)).steps() if layer == "style"]
        assert after == before


def test_given_the_orders_when_compared_then_white_comes_first_where_it_is_called_so():
    white, colour = school_of("white first").order, school_of("colour first").order

    assert white.index("balance") < white.index("exposure")
    assert colour.index("saturation") < colour.index("balance")


def test_given_a_school_nobody_knows_when_asked_for_then_the_known_ones_are_named():
    with pytest.raises(UnknownName, match="known are: usual"):
        school_of("backwards and upside down")

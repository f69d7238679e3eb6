"""ASC decision lists: as the standard computes them, there and back, and with what they cannot hold said."""

import numpy as np
import PyOpenColorIO as ocio
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.errors import LutError
from morphe.core.grade.convert import Convert
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer, Scope
from morphe.core.grade.recipe import from_text, to_text
from morphe.core.grade.steps import Cdl, Exposure, Grain, Saturation
from morphe.core.interchange.cdl import cdl_of, cdl_text, read_cdl
from morphe.core.interchange.clf import clf_of_cube, read_clf
from morphe.core.interchange.cube import cube_of
from morphe.core.pipeline.reference import evaluate

WARM = Cdl(slope=(1.2, 1.0, 0.9), offset=(0.02, 0.0, -0.02), power=(1.1, 1.0, 0.95), saturation=1.3)
SOP = st.tuples(*[st.floats(0.5, 2)] * 3)


def by_ocio(cdl, colours):
    config = ocio.Config.CreateRaw()
    transform = ocio.CDLTransform(
        slope=list(cdl.slope), offset=list(cdl.offset), power=list(cdl.power), sat=cdl.saturation
    )
    transform.setStyle(ocio.CDL_ASC)
    out = np.ascontiguousarray(colours, np.float32).copy()
    config.getProcessor(transform).getDefaultCPUProcessor().applyRGB(out)
    return out


@given(slope=SOP, offset=st.tuples(*[st.floats(-0.3, 0.3)] * 3), power=SOP, saturation=st.floats(0, 2))
def test_given_any_decision_list_when_applied_then_it_is_what_the_standard_says(
    slope, offset, power, saturation
):
    cdl = Cdl(slope=slope, offset=offset, power=power, saturation=saturation)
    colours = np.random.default_rng(3).random((200, 3)).astype(np.float32)

    assert np.abs(cdl.apply(colours) - by_ocio(cdl, colours)).max() < 1e-4


def test_given_a_decision_list_when_written_and_read_then_it_is_the_same_as_a_recipe_too():
    [(name, read)] = read_cdl(cdl_text(WARM, "warm"), "warm.cc")

    assert name == "warm" and read == WARM
    assert from_text(to_text(Grade.of(WARM))) == Grade.of(WARM)


def test_given_a_grade_that_is_one_when_asked_then_its_decision_list_is_found_again():
    found = cdl_of(Grade.of(WARM))

    assert found.residual < 0.05 and found.left_out == ()
    assert np.allclose(found.cdl.slope, WARM.slope, atol=0.02) and found.cdl.saturation == pytest.approx(
        1.3, abs=0.02
    )


def test_given_a_grade_that_is_more_when_asked_then_what_is_lost_is_said():
    grade = Grade.of(Exposure(stops=0.4), Saturation(amount=10), Convert(profile="log-mild"))
    grade = grade.with_layer(Layer(id="finish", scope=Scope.FINISH, steps=(Grain(amount=2),)))

    found = cdl_of(grade)

    assert found.residual < 3
    assert "conversion of the profile" in found.sentence and "grain" in found.sentence


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "no readable"), ("<a/>", "no ColorCorrection"),
        ('<!DOCTYPE a [<!ENTITY x "y">]><ColorCorrection/>', "entities"),
        ("<ColorCorrection><SOPNode><Slope>1 2</Slope></SOPNode></ColorCorrection>", "numbers"),
        ("<ColorCorrection><SOPNode><Power>1 2 0</Power></SOPNode></ColorCorrection>", "numbers"),
        ("<ColorCorrection><SatNode><Saturation>nan</Saturation></SatNode></ColorCorrection>", "numbers"),
    ],
)  # fmt: skip
def test_given_something_that_is_no_decision_list_when_read_then_a_sentence_says_so(text, words):
    with pytest.raises(LutError, match=words):
        read_cdl(text, "x.cdl")


@pytest.mark.parametrize("outside", [False, True])
def test_given_a_grade_as_clf_when_read_back_then_it_does_the_same(outside):
    grade = Grade.of(WARM)
    lut = cube_of(grade, outside_nominal=outside)

    text = clf_of_cube(lut, title="warm", left_out=["grain"])
    table = read_clf(text, "warm.clf", gives_light=False).table

    assert "cannot hold grain" in text
    colours = np.random.default_rng(4).random((500, 3)).astype(np.float32)
    assert np.abs(table.apply(colours) - evaluate(grade, colours)).mean() < 0.01

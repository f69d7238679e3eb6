"""The live picture: the same colours as the render, and instruments that tell what is there."""

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from morphe.core.errors import ColourError
from morphe.core.grade.convert import Convert
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import BlackPoint, Exposure
from morphe.core.pipeline.reference import evaluate
from morphe.core.pipeline.screen import graded_still
from morphe.core.screen.pictures import jpeg
from morphe.core.screen.scopes import light_up, scope_pictures
from morphe.core.screen.still import frame_state, marks, pixel_reading
from morphe.core.signal.perception import delta_e_2000, encoded_to_lab
from tests.footage import scene


@pytest.mark.parametrize(
    "grade", [Grade.of(Exposure(stops=0.7)), Grade.of(Convert(profile="log-lifted"), BlackPoint(lower=3))]
)
def test_given_a_grade_when_previewed_then_the_picture_is_that_of_the_grade(grade):
    still = scene(160, 90)

    shown = graded_still(still, grade)

    wanted = np.clip(evaluate(grade, still), 0, 1)
    assert delta_e_2000(encoded_to_lab(shown), encoded_to_lab(wanted)).mean() < 0.3


def test_given_a_still_when_encoded_for_the_browser_then_it_is_the_picture(tmp_path):
    picture = cv2.imdecode(np.frombuffer(jpeg(scene(160, 90)), np.uint8), cv2.IMREAD_COLOR)[..., ::-1]

    assert np.abs(picture / 255 - scene(160, 90)).mean() < 0.02


def test_given_black_moved_when_marks_are_read_then_the_dark_mark_follows():
    still = scene(160, 90)

    before, after = marks(still), marks(graded_still(still, Grade.of(BlackPoint(lower=4))))

    assert after["black"].value == pytest.approx((before["black"].value - 4) / 0.96, abs=0.5)
    assert after["black"].at == pytest.approx((after["black"].value,), abs=0.01)


@pytest.mark.parametrize(("stops", "state"), [(0, "fits"), (3, "lights clip"), (-6, "shadows sink")])
def test_given_a_frame_under_a_grade_when_judged_then_a_word_says_whether_it_fits(stops, state):
    grade = Grade.of(Exposure(stops=stops), BlackPoint(lower=15 if stops < 0 else 0))

    assert frame_state(graded_still(scene(160, 90), grade)) == state


def test_given_a_point_when_probed_then_levels_angle_and_distance_are_those_of_the_pixel():
    picture = np.full((40, 40, 3), 0.5, np.float32)
    picture[10:20, 10:20] = (0.75, 0.0, 0.0)

    red, grey = pixel_reading(picture, 15 / 39, 15 / 39), pixel_reading(picture, 0.9, 0.9)

    assert (red["r"], red["g"]) == pytest.approx((75, 0), abs=0.1)
    assert red["angle"] == pytest.approx(102.9, abs=0.2)  # BT.709 red on the vectorscope
    assert grey["from_neutral"] == pytest.approx(0, abs=1e-3)


@pytest.mark.parametrize("scope", ["luma", "parade", "histogram", "vector"])
def test_given_an_area_of_a_scope_when_touched_then_just_its_pixels_are_lit(scope):
    picture = np.full((30, 30, 3), 0.2, np.float32)
    picture[:, 15:] = 0.8
    bright_y = (109 - 80) / 116
    region = {
        "luma": (0.5, bright_y - 0.05, 1.0, bright_y + 0.05),
        "parade": (0.5 / 3, bright_y - 0.05, 1 / 3, bright_y + 0.05),
        "histogram": (87 / 116 - 0.05, 0, 87 / 116 + 0.05, 1),
        "vector": (0.45, 0.45, 0.55, 0.55),
    }[scope]

    overlay = cv2.imdecode(np.frombuffer(light_up(picture, scope, region), np.uint8), cv2.IMREAD_UNCHANGED)

    lit = overlay[..., 3] == 0
    assert lit[:, 15:].all()
    assert lit[:, :15].all() == (scope == "vector")  # both halves are neutral


def test_given_an_unknown_scope_when_touched_then_it_is_refused():
    with pytest.raises(ColourError, match="no scope"):
        light_up(scene(16, 16), "radar", (0, 0, 1, 1))


@settings(max_examples=20)
@given(level=st.floats(0, 1))
def test_given_any_flat_picture_when_scopes_are_drawn_then_there_is_something_to_see(level):
    shown = scope_pictures(np.full((9, 16, 3), level, np.float32))

    assert shown.luma.max() == shown.vector.max() == 255
    assert shown.parade.shape[0] == 3
    assert shown.histogram.shape[0] == 4

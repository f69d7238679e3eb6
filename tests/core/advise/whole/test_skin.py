"""The watch over skin: where it ends up, and which step took it off its line."""

import numpy as np

from morphe.core.advise.whole.skin import watch_skin
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Balance, Contrast, Exposure, SkinTurn
from morphe.core.measure.skin import skin_of_pixels

SKIN = np.repeat(np.array([[0.70, 0.52, 0.40]], np.float32), 400, axis=0)
SET_RIGHT = SkinTurn(turn=-round(skin_of_pixels(SKIN).off_deg, 1))


def test_given_skin_when_followed_then_it_is_told_where_it_ends_up():
    as_filmed, brighter = watch_skin(SKIN, Grade()), watch_skin(SKIN, Grade.of(Exposure(stops=0.5)))

    assert as_filmed.off_deg == skin_of_pixels(SKIN).off_deg and as_filmed.warning == ""
    assert brighter.luma > as_filmed.luma + 5


def test_given_skin_set_right_when_nothing_moves_it_then_there_is_no_warning():
    found = watch_skin(SKIN, Grade.of(SET_RIGHT, Contrast(amount=10)))

    assert abs(found.off_deg) < 6 and found.warning == ""


def test_given_a_style_that_turns_skin_when_followed_then_the_step_is_named():
    grade = Grade.of(SET_RIGHT).with_step(Balance(tint=25, warmth=-60), "style")
    found = watch_skin(SKIN, grade)

    assert abs(found.off_deg) > 6
    assert found.warning.startswith("White balance") and "off its line" in found.warning


def test_given_the_same_turn_before_skin_was_set_right_when_followed_then_nobody_is_blamed():
    grade = Grade().with_step(Balance(tint=25, warmth=-60), "style")

    assert watch_skin(SKIN, grade).warning == ""

"""A place in the picture and what a person says it is: it becomes that, or a sentence says why it cannot."""

import numpy as np
import pytest

from morphe.core.advise.hand.tap import Meaning, answer_tap, before_step, contrast_between
from morphe.core.errors import ColourError
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Balance, BlackPoint, Exposure, Saturation
from morphe.core.measure.readings import luma_of, oklab_of
from morphe.core.measure.skin import skin_of_pixels
from morphe.core.pipeline.reference import evaluate

HERE = (0.5, 0.5)


def patch(*colour, about=0.0):
    """A plain picture of one colour (or grey), with a little noise."""
    colour = colour if len(colour) == 3 else colour * 3
    noise = np.random.default_rng(1).normal(0, about, (90, 160, 1))
    return np.clip(np.full((90, 160, 3), colour) + noise, 0, 1).astype(np.float32)


def tapped(picture, meaning, grade=None):
    """The picture after its step, and what was said."""
    grade = grade or Grade()
    step, said = answer_tap(picture, grade, *HERE, Meaning(meaning))
    return evaluate(grade.with_step(step, "clip"), picture), said


def test_given_a_cast_when_something_is_said_to_be_grey_then_it_is_neutral():
    after, said = tapped(patch(0.58, 0.50, 0.42, about=0.01), "neutral")

    assert np.ptp(np.median(after.reshape(-1, 3), axis=0)) < 0.01
    assert "mired warm" in said and "neutral now" in said


def test_given_a_colour_that_no_light_makes_of_grey_when_said_to_be_grey_then_it_is_doubted():
    assert "probably not grey" in tapped(patch(0.70, 0.40, 0.20), "neutral")[1]


@pytest.mark.parametrize(("level", "wanted"), [(0.60, 92.0), (0.80, 92.0)])
def test_given_something_bright_when_said_to_be_the_brightest_then_it_is_put_near_white(level, wanted):
    after, _ = tapped(patch(level), "white")

    assert 100 * np.median(luma_of(after)) == pytest.approx(wanted, abs=1.0)


def test_given_a_lifted_shadow_when_said_to_be_black_then_it_is_put_near_black():
    after, said = tapped(patch(0.14), "black")

    assert 100 * np.median(luma_of(after)) == pytest.approx(2.5, abs=0.6)
    assert said.startswith("It lay at 14.0 %")


def test_given_leaves_too_yellow_when_said_to_be_green_then_their_hue_alone_is_turned():
    leaf = patch(0.45, 0.50, 0.18)
    after, said = tapped(leaf, "green")

    def hue(picture):
        a, b = np.median(oklab_of(picture.reshape(-1, 3)), axis=0)[1:]
        return np.degrees(np.arctan2(b, a)) % 360

    assert abs(hue(after) - 132) < abs(hue(leaf) - 132) and "leaf green" in said
    assert luma_of(after).mean() == pytest.approx(luma_of(leaf).mean(), abs=0.03)


@pytest.mark.parametrize("turned", [(0.72, 0.50, 0.44), (0.71, 0.54, 0.39)])
def test_given_skin_off_its_line_when_pointed_to_then_it_lies_on_it(turned):
    after, said = tapped(patch(*turned), "skin")

    assert abs(skin_of_pixels(after.reshape(-1, 3)).off_deg) < 1.5
    assert "lies on its line now" in said


def test_given_a_colour_when_picked_then_it_is_one_to_change_and_nothing_moves_yet():
    door = patch(0.70, 0.15, 0.12)
    after, said = tapped(door, "colour")

    assert np.allclose(after, door, atol=2e-3) and "nothing else moves" in said


@pytest.mark.parametrize(
    ("picture", "meaning", "words"),
    [
        (patch(0.99), "neutral", "clipped"),
        (patch(0.03), "neutral", "too dark"),
        (patch(0.5, about=0.2), "neutral", "uneven"),
        (patch(0.99), "white", "clipped"),
        (patch(0.30), "white", "too dark to be the brightest"),
        (patch(0.60), "black", "too bright for black"),
        (patch(0.50), "green", "as good as grey"),
        (patch(0.80, 0.10, 0.30), "green", "too far from any green"),
        (patch(0.50), "colour", "as good as grey"),
        (patch(0.20, 0.30, 0.80), "skin", "No skin has that colour"),
        (patch(0.50), "skin", "No skin has that colour"),
        (patch(0.70, 0.56, 0.38), "skin", "balance the light first"),
    ],
)
def test_given_what_it_cannot_be_when_tapped_then_a_sentence_says_what_to_tap_instead(
    picture, meaning, words
):
    with pytest.raises(ColourError, match=words):
        tapped(picture, meaning)


def test_given_several_colours_in_one_place_when_picked_then_a_plain_part_is_asked_for():
    picture = patch(0.7, 0.2, 0.2)
    picture[:, ::2] = (0.2, 0.6, 0.3)

    with pytest.raises(ColourError, match="several colours"):
        tapped(picture, "colour")


def test_given_two_tones_when_set_apart_then_they_lie_further_apart_about_their_middle():
    picture = patch(0.40)
    picture[:, 80:] = 0.60

    step, said = contrast_between(picture, Grade(), (0.2, 0.5), (0.8, 0.5))
    after = evaluate(Grade.of(step), picture)

    assert after[0, 120, 1] - after[0, 20, 1] > 0.2 and step.pivot == pytest.approx(50, abs=0.5)
    assert said.startswith("They lay 20 % apart, now 2")
    with pytest.raises(ColourError, match="as good as one tone"):
        contrast_between(picture, Grade(), (0.1, 0.5), (0.2, 0.5))


def test_given_steps_before_and_after_when_a_place_is_measured_then_only_those_before_are_heeded():
    grade = Grade.of(Exposure(stops=0.5), Balance(warmth=20), BlackPoint(lower=3), Saturation(amount=30))
    kept = [step.key for _, step in before_step(grade, "balance").steps() if step.at_work]

    assert "balance" not in kept and "saturation" not in kept and len(kept) < 4


def test_given_each_meaning_when_offered_then_it_says_what_to_tap():
    assert all(m.asks.endswith(".") and m.label for m in Meaning)

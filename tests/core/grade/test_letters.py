"""Titles in letters of the world: drawn from a typeface that has them, and what none has is named."""

import numpy as np
import pytest

from morphe.core.grade.letters import drawn_words, missing_letters
from morphe.core.grade.steps.title import MANNERS, Title

WORDS = {
    "Polish": "Zażółć gęślą jaźń", "Turkish": "Iğdır İstanbul şişe", "Greek": "Ωκεανός",
    "Cyrillic": "Привет, їжак", "Arabic": "مرحبا", "Hebrew": "שלום", "Hindi": "हिन्दी", "Thai": "ที่ทะเล",
    "Chinese": "深海 龍", "Japanese": "ダイビングの日", "Korean": "바다",
    "signs": "Dive Ⅱ · ½ → 4 °C “ok” – €",
}  # fmt: skip


@pytest.mark.parametrize("script", list(WORDS))
@pytest.mark.parametrize("manner", list(MANNERS))
def test_given_words_in_any_script_when_drawn_then_every_letter_is_there_and_none_is_a_box(script, manner):
    text, (_, face, weight, _) = WORDS[script], MANNERS[manner]

    words = drawn_words(text, face, weight, 40, 10)

    assert missing_letters(text) == Title(text=text).unseen == ""
    box = drawn_words("\U0001f41f", face, weight, 40, 10)[10:-10, 10:-10]
    assert words.max() > 0.9 and not holds(words, box)
    assert np.abs(words[:5]).max() == np.abs(words[:, :5]).max() == 0  # nothing is cut


def holds(picture, part):
    """Whether a picture holds another, pixel for pixel, anywhere."""
    windows = np.lib.stride_tricks.sliding_window_view(picture, part.shape)
    return bool((np.abs(windows - part).mean(axis=(2, 3)) < 0.02).any())


def test_given_letters_that_no_face_has_when_asked_then_each_is_named_once():
    assert missing_letters("Cuttle 🐟🐟 Bay \n\t𓂀") == "🐟𓂀"


def test_given_two_lines_in_two_scripts_when_drawn_then_they_lie_one_below_the_other():
    _, face, weight, _ = MANNERS["quiet"]

    one, two = (drawn_words(t, face, weight, 40, 10) for t in ("深海", "深海\nDive"))

    assert two.shape[0] > one.shape[0] + 25 and two.shape[1] >= one.shape[1]

"""Looks: at the strength that is proposed, what the correction won is kept."""

import numpy as np
import pytest

from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import BlackPoint, Fade, WhitePoint
from morphe.core.measure.skin import skin_of_pixels
from morphe.core.pipeline.reference import evaluate
from morphe.core.reading.reference import skin_masks
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.demo import render_scene
from morphe.core.style.looks import LOOKS
from morphe.core.style.strength import borne_strength, style_layer

SCENES = ("jetty-tan", "jetty-deep", "sluice-round", "sluice-approach")


@pytest.fixture(scope="module")
def frames():
    """Corrected pictures of people and places, with their skin."""
    pictures = {
        (scene, at): np.clip(
            PROFILES.get("std-709").encode(render_scene(scene, at, width=192, height=108)), 0, 1
        ).astype(np.float32)
        for scene in SCENES
        for at in (0.2, 1.5)
    }
    return {key: (picture, skin_masks((picture,))) for key, picture in pictures.items()}


@pytest.mark.parametrize("key", list(LOOKS))
def test_given_a_look_at_its_strength_when_put_on_then_skin_and_ends_are_kept(frames, key):
    look = LOOKS.get(key)
    for picture, masks in frames.values():
        borne = borne_strength((picture,), look.steps, masks)
        out = evaluate(Grade().with_layer(style_layer(look.steps, borne.strength)), picture)

        assert 0.1 <= borne.strength <= 1
        was_inside = picture.max(axis=-1) < 0.998 - 1 / 219  # by a code
        lost = ((out.max(axis=-1) >= 0.998) & was_inside).mean()
        assert lost <= 0.003
        if masks[0].any():
            was, now = (skin_of_pixels(p[masks[0]]).off_deg for p in (picture, out))
            assert abs(now) <= max(6.0, abs(was))
        assert np.abs(out - picture).max() > 0.004  # it does something


def test_given_a_look_that_sinks_shadows_when_weighed_then_less_is_proposed_and_the_sentence_says_why():
    ramp = np.linspace(0.03, 0.9, 160 * 90 * 3, dtype=np.float32).reshape(90, 160, 3)
    crushing = (BlackPoint(lower=6), WhitePoint(raise_by=6))

    borne = borne_strength((ramp,), crushing)

    assert borne.strength < 1 and "at full" in borne.sentence and "sink" in borne.sentence


def test_given_a_gentle_look_when_weighed_then_all_of_it_is_proposed():
    ramp = np.linspace(0.1, 0.8, 160 * 90 * 3, dtype=np.float32).reshape(90, 160, 3)

    borne = borne_strength((ramp,), (Fade(black=2),))

    assert borne.strength == 1 and borne.sentence.endswith("clips nothing.")


def test_given_every_look_when_kept_in_a_recipe_then_it_is_read_back():
    for look in LOOKS.values():
        grade = Grade().with_layer(style_layer(look.steps, 0.4, look.label))
        assert recipe.from_json(recipe.to_json(grade)) == grade

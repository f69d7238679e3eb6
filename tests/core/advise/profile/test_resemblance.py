"""What the codes of a clip say of its profile, as learned from made-up footage."""

from dataclasses import replace

import numpy as np
import pytest

from morphe.core.advise.profile.resemblance import CLASSES, resemblance, traits_of
from morphe.core.advise.profile.verdict import guess_profile
from morphe.core.signal.profiles import PROFILES
from morphe.core.signal.ycbcr import Matrix, rgb_to_ycbcr, ycbcr_to_rgb
from morphe.core.standins.cameras import Exposure, film
from morphe.core.standins.demo import render_scene
from tests.core.advise.profile.test_hints import evidence

KNOWN = [key for key in CLASSES if key in PROFILES]
HDR = ("hlg", "pq")


@pytest.fixture(scope="module")
def subjects():
    """Scene-linear frames of the stand-ins; none of them was taught."""
    names = ("sluice-round", "sluice-approach", "jetty-tan", "jetty-deep")
    return [render_scene(name, 1.5, width=256, height=144) for name in names]


def filmed(subject, key):
    """A subject as a camera writes it in a profile, read by the matrix that its kind has."""
    picture = film(subject, Exposure(profile=key), np.random.default_rng(7))
    matrix = Matrix.BT2020 if key in HDR else Matrix.BT709
    plain = evidence(transfer=key if key in HDR else "bt709", bits=10)
    return replace(plain, info=replace(plain.info, matrix=matrix), frames=(picture,))


def traits_of_clip(clip):
    return traits_of(clip.pixels, clip.info.effective_matrix)


def read_by(pixels, matrix, other):
    return ycbcr_to_rgb(rgb_to_ycbcr(pixels, matrix), other)


@pytest.mark.parametrize("key", KNOWN)
def test_given_the_same_codes_when_read_by_another_matrix_then_their_traits_are_the_same(key):
    pixels = evidence(key).pixels

    wrongly = traits_of(read_by(pixels, Matrix.BT709, Matrix.BT2020), Matrix.BT2020)

    np.testing.assert_allclose(wrongly, traits_of(pixels), atol=1e-4)


def test_given_pixels_in_another_order_when_described_then_their_traits_are_the_same():
    pixels = evidence().pixels[:12_000]
    shuffled = np.random.default_rng(3).permutation(pixels)

    np.testing.assert_allclose(traits_of(shuffled), traits_of(pixels), atol=2e-3)


def test_given_a_lighter_picture_when_described_then_no_tone_of_luma_is_darker():
    pixels = evidence().pixels
    tones = slice(0, 19)

    assert (traits_of(np.clip(pixels + 0.05, 0, 1))[tones] >= traits_of(pixels)[tones]).all()


@pytest.mark.parametrize("level", [0.0, 0.4, 1.0])
def test_given_a_picture_of_one_level_when_judged_then_every_class_has_a_likelihood(level):
    blank = replace(evidence(), frames=(np.full((90, 160, 3), level, np.float32),))

    likelihoods = resemblance(traits_of(blank.pixels))

    assert list(likelihoods) == list(CLASSES)
    assert max(likelihoods.values()) == 1 and min(likelihoods.values()) > 0


def test_given_subjects_in_every_profile_when_judged_then_a_class_is_likelier_where_it_was_used(subjects):
    keys = [key for key in KNOWN if key != "vivid-a"]  # ordinary video too, and of its kind
    found = [[resemblance(traits_of_clip(filmed(subject, key))) for key in keys] for subject in subjects]

    told = np.mean([[[np.log(r[c]) for c in keys] for r in of_one] for of_one in found], axis=0)

    own = told.diagonal()
    elsewhere = (told.sum(axis=0) - own) / (len(keys) - 1)
    assert (own > elsewhere + np.log(3)).all()


def test_given_what_it_resembles_when_the_profile_is_judged_then_that_is_among_its_likelihoods(subjects):
    for key in ("std-709", "log-lifted"):
        likelihoods = guess_profile(filmed(subjects[0], key)).likelihoods

        assert likelihoods[key] > 0.1


@pytest.mark.parametrize("key", ["std-709", "log-lifted"])
def test_given_a_picture_judged_by_its_codes_when_explained_then_what_they_resemble_is_said(subjects, key):
    said = [sentence for sentence in guess_profile(filmed(subjects[2], key)).evidence if "spread" in sentence]

    assert len(said) == 1 and {"std-709": "ordinary video", "log-lifted": "log"}[key] in said[0]

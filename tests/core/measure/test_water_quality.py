"""Indices of underwater pictures: the value known for a ramp of greys, and what each rewards."""

import numpy as np
import pytest

from morphe.core.measure.water_quality import uciqe, uiqm


def ramp():
    return np.repeat((np.arange(64) * 255 / 63 / 255).astype(np.float32)[None, :, None], 3, axis=2).repeat(
        16, 0
    )


def test_given_a_ramp_of_greys_when_judged_then_contrast_alone_counts():
    assert uciqe(ramp()) == pytest.approx(0.2748, abs=1e-3)


@pytest.mark.parametrize("index", [uciqe, uiqm])
def test_given_more_colour_or_contrast_when_judged_then_the_index_rises(index):
    rng = np.random.default_rng(0)
    picture = (0.5 + 0.1 * rng.standard_normal((64, 64, 3))).clip(0, 1).astype(np.float32)
    grey = picture.mean(axis=-1, keepdims=True).repeat(3, axis=-1)

    assert index(picture) > index(grey)
    assert index(0.5 + 2 * (grey - 0.5)) > index(0.5 + 0.5 * (grey - 0.5))


def test_given_one_tone_when_judged_then_there_is_nothing_to_reward():
    assert uiqm(np.full((32, 32, 3), 0.4, np.float32)) == pytest.approx(0.0, abs=1e-6)

"""Tints, density and fade: neutral ends, opposed hues, greys that keep their light."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer, Scope
from morphe.core.grade.steps import Density, Fade, Tint
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.perception import linear_to_oklab
from morphe.core.signal.transfer import decode_bt1886

RAMP = np.linspace(0, 1, 201, dtype=np.float32)[:, None].repeat(3, axis=1)


def oklab(encoded):
    return linear_to_oklab(decode_bt1886(np.clip(encoded, 0, 1)))


def hue_of(lab):
    return np.degrees(np.arctan2(lab[..., 2], lab[..., 1])) % 360


@given(st.floats(0, 360), st.floats(0, 360), st.floats(0, 360), st.floats(1, 100))
def test_given_any_tint_when_laid_on_greys_then_black_and_white_stay_neutral(dark, mid, bright, amount):
    step = Tint(dark_hue=dark, dark=amount, mid_hue=mid, mid=amount, bright_hue=bright, bright=amount)

    out = step.apply(RAMP)

    assert np.ptp(out[[0, -1]], axis=1).max() < 1e-3
    assert np.abs(oklab(out)[:, 0] - oklab(RAMP)[:, 0]).max() < 0.02  # lightness stays
    assert np.hypot(*oklab(out)[:, 1:].T).max() <= 0.0401


def test_given_opposed_hues_when_laid_on_then_shadows_and_lights_have_them_at_full():
    out = oklab(Tint(dark_hue=240, dark=100, bright_hue=60, bright=100).apply(RAMP))

    lightness = oklab(RAMP)[:, 0]
    dark, bright = (int(np.argmin(np.abs(lightness - at))) for at in (0.3, 0.85))
    assert hue_of(out[dark]) == pytest.approx(240, abs=4)
    assert hue_of(out[bright]) == pytest.approx(60, abs=4)


@given(st.floats(0, 100))
def test_given_skin_when_tinted_then_it_moves_less_than_grey_of_its_light(amount):
    skin = np.array([[0.72, 0.55, 0.45]], np.float32)
    grey = np.full((1, 3), 0.6, np.float32)
    step = Tint(bright_hue=200, bright=amount, mid_hue=200, mid=amount)

    moved = [np.abs(oklab(step.apply(p)) - oklab(p))[0, 1:].max() for p in (skin, grey)]

    assert moved[0] <= 0.75 * moved[1] + 1e-4


@given(st.floats(-100, 100))
def test_given_density_when_changed_then_greys_stay_and_strong_colours_deepen(amount):
    colours = np.array([[0.8, 0.2, 0.2], [0.2, 0.5, 0.8]], np.float32)
    step = Density(amount=amount)

    assert np.abs(step.apply(RAMP) - RAMP).max() < 2e-3
    change = oklab(step.apply(colours))[:, 0] - oklab(colours)[:, 0]
    assert (np.sign(change) == -np.sign(amount)).all() or abs(amount) < 0.5
    assert np.abs(hue_of(oklab(step.apply(colours))) - hue_of(oklab(colours))).max() < 3


@given(st.floats(0, 20), st.floats(0, 20))
def test_given_a_fade_when_laid_on_then_its_ends_are_the_numbers_and_order_stays(black, white):
    out = Fade(black=black, white=white).apply(RAMP)[:, 0]

    assert out[0] == pytest.approx(black / 100, abs=1e-5) and out[-1] == pytest.approx(
        1 - white / 100, abs=1e-5
    )
    assert (np.diff(out) > 0).all()


def test_given_half_a_style_when_mixed_then_every_tone_lies_half_way():
    full = Layer(id="style", scope=Scope.STYLE, steps=(Fade(black=10), Tint(dark=60)))
    half = Layer(id="style", scope=Scope.STYLE, steps=full.steps, strength=0.5)

    one, whole = (evaluate(Grade().with_layer(layer), RAMP) for layer in (half, full))

    assert np.abs(one - (RAMP + whole) / 2).max() < 1e-4

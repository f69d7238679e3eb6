"""Banding: smooth parts that fall into steps are found, edges and noise are not taken for it."""

import numpy as np
import pytest

from morphe.core.measure.banding import BANDS, Runs, banding_index, runs_of, step_lightness

WIDTH, HEIGHT = 480, 60


def sky(low, high, *, depth=8, step=1):
    """A smooth sky (H, W) in narrow-range codes, its codes `step` apart as after a strong stretch."""
    unit = 2 ** (depth - 8)
    level = 16 * unit + 219 * unit * np.linspace(low, high, WIDTH)
    codes = np.rint(level / step) * step
    return np.repeat(codes[None].astype(np.uint16 if depth > 8 else np.uint8), HEIGHT, axis=0)


def index(codes, depth=8):
    return banding_index(runs_of(codes, depth), step_lightness(depth))


def test_given_a_sky_when_its_codes_lie_further_apart_then_it_bands_more():
    found = [index(sky(0.4, 0.5, step=step)) for step in (1, 2, 4)]

    assert found == sorted(found) and found[0] < found[-1] / 3
    assert found[-1] > 0.3  # it shows


def test_given_more_bits_when_the_same_sky_is_held_then_it_bands_less():
    assert index(sky(0.4, 0.46, depth=10), 10) < 0.5 * index(sky(0.4, 0.46))


@pytest.mark.parametrize("deviation", [1.5, 3.0])
def test_given_noise_when_laid_over_steps_then_they_are_no_runs_any_more(deviation):
    steps = sky(0.4, 0.5, step=4)
    noise = np.random.default_rng(2).normal(0, deviation, steps.shape)

    assert index(np.clip(np.rint(steps + noise), 0, 255).astype(np.uint8)) < 0.15 * index(steps)


def test_given_edges_or_one_flat_tone_when_looked_at_then_there_is_no_banding():
    edges = np.where(np.arange(WIDTH) // 40 % 2, 200, 40).astype(np.uint8)[None].repeat(HEIGHT, axis=0)

    assert index(edges) == 0 == index(np.full((HEIGHT, WIDTH), 120, np.uint8))
    assert index(sky(0.4, 0.5)[:, :20]) == 0  # too narrow to tell


def test_given_steps_in_one_tone_when_counted_then_they_are_found_in_its_band_alone():
    runs = runs_of(sky(0.50, 0.56, step=3), 8)

    band = int(0.53 * BANDS)
    assert runs.shares[band] > 0.5 and runs.shares[: band - 1].sum() == 0 == runs.shares[band + 2 :].sum()
    assert runs.steps[band] == pytest.approx(3, abs=0.01)


def test_given_runs_when_written_and_read_then_they_are_the_same():
    runs = runs_of(sky(0.2, 0.4, step=2), 8)
    again = Runs.from_json(runs.as_json())

    assert np.allclose(again.shares, runs.shares, atol=1e-4) and np.allclose(
        again.steps, runs.steps, atol=1e-4
    )


def test_given_codes_when_their_lightness_is_asked_then_dark_steps_are_the_larger_and_ten_bits_a_quarter():
    eight, ten = step_lightness(8), step_lightness(10)

    assert eight.shape == (BANDS,) and (eight > 0).all()
    assert ten == pytest.approx(eight / 4, rel=0.05)

"""Following a region: a movement that is known is found, and what cannot be followed is said to be lost."""

from dataclasses import replace

import cv2
import numpy as np
import pytest

from morphe.core.advise.hand.follow import MOST_KEPT, follow_region
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer
from morphe.core.grade.region import Ellipse, Place, Region

WIDTH, HEIGHT, FPS = 320, 180, 25
REGION = Region(shape=Ellipse(wide=0.15, tall=0.15)).put(Place(x=0.4, y=0.5))


@pytest.fixture(scope="module")
def ground():
    """A texture twice the frame's size."""
    noise = np.random.default_rng(7).uniform(0, 255, (2 * HEIGHT, 2 * WIDTH)).astype(np.float32)
    soft = cv2.GaussianBlur(noise, (0, 0), 2.5)
    return cv2.normalize(soft, None, 20, 235, cv2.NORM_MINMAX).astype(np.uint8)


def frames(ground, matrices):
    for number, matrix in enumerate(matrices):
        moved = cv2.warpAffine(ground, matrix[:2], (2 * WIDTH, 2 * HEIGHT), borderMode=cv2.BORDER_REFLECT)
        yield (
            number / FPS,
            np.ascontiguousarray(moved[HEIGHT // 2 : HEIGHT // 2 + HEIGHT, WIDTH // 2 : WIDTH // 2 + WIDTH]),
        )


def about_middle(angle, scale, dx, dy):
    matrix = np.vstack([cv2.getRotationMatrix2D((WIDTH, HEIGHT), -angle, scale), [0, 0, 1]])
    matrix[:2, 2] += (dx, dy)
    return matrix


def test_given_a_pan_when_followed_then_the_region_goes_with_it(ground):
    pan = [about_middle(0, 1, 1.5 * n, -0.8 * n) for n in range(40)]

    found = follow_region(REGION, frames(ground, pan), start_s=0.0)

    last = found.moments[-1]
    assert found.lost_s is None and last[0] == pytest.approx(39 / FPS)
    assert (last[1], last[2]) == pytest.approx((0.4 + 1.5 * 39 / WIDTH, 0.5 - 0.8 * 39 / HEIGHT), abs=0.01)
    assert last[3:] == pytest.approx((1.0, 0.0), abs=0.3)


def test_given_a_turn_and_a_zoom_when_followed_then_size_and_turn_follow(ground):
    turning = [about_middle(0.5 * n, 1 + 0.006 * n, 0, 0) for n in range(31)]

    last = follow_region(REGION, frames(ground, turning), start_s=0.0).moments[-1]

    assert last[3] == pytest.approx(1.18, rel=0.03)
    assert last[4] == pytest.approx(15, abs=1)


def test_given_a_cut_when_followed_then_it_says_where_it_was_lost(ground):
    still = [about_middle(0, 1, 0, 0)] * 12
    other = cv2.flip(255 - ground, -1)

    def cut():
        yield from frames(ground, still)
        for time_s, luma in frames(other, still):
            yield time_s + 12 / FPS, luma

    found = follow_region(REGION, cut(), start_s=0.0)

    assert found.lost_s == pytest.approx(11 / FPS)
    assert found.moments[-1][0] <= found.lost_s


def test_given_nothing_to_hold_on_to_when_followed_then_it_is_lost_at_once():
    flat = [(n / FPS, np.full((HEIGHT, WIDTH), 128, np.uint8)) for n in range(5)]

    found = follow_region(REGION, flat, start_s=0.0)

    assert found.lost_s == 0.0 and len(found.moments) == 1


def test_given_ten_minutes_walked_when_followed_then_few_moments_tell_them_and_a_recipe_bears_it(
    ground, fresh_seed
):
    dice = np.random.default_rng(fresh_seed)
    steps = np.cumsum(dice.normal(0, 1.2, (3000, 2)), axis=0)
    walk = 60 * np.sin(steps / 40)  # pixels
    wander = (about_middle(0, 1, *where) for where in walk)

    five_a_second = ((at_s * FPS / 5, luma) for at_s, luma in frames(ground, wander))
    found = follow_region(REGION, five_a_second, start_s=0.0)

    assert found.lost_s is None and found.moments[-1][0] == pytest.approx(2999 / 5)
    assert len(found.moments) <= MOST_KEPT
    followed = replace(REGION, moments=found.moments)
    regions = tuple(Layer(id=f"region-{n}", region=followed) for n in range(8))
    assert len(recipe.to_text(Grade(layers=regions))) < recipe.MAX_BYTES

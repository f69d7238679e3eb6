"""Scopes: every pixel is counted once, where the definitions put it."""

import numpy as np
import pytest
from hypothesis import given

from morphe.core.measure.scopes import VECTOR_REACH, brightness, scopes, vector_angle_deg
from morphe.core.signal.ycbcr import rgb_to_ycbcr
from tests.strategies import encoded_pictures


def row_of(percent, rows=256):
    return int(np.clip(np.floor((109 - percent) * rows / 116), 0, rows - 1))


@pytest.mark.parametrize("percent", [-6.9, 0, 18, 40.9, 75, 100, 108])
def test_given_a_level_when_drawn_then_it_lies_on_its_row(percent):
    picture = np.full((8, 16, 3), percent / 100, np.float32)

    drawn = scopes(picture)

    assert set(np.flatnonzero(drawn.luma.sum(axis=1))) <= {row_of(percent), row_of(percent - 1e-3)}
    assert drawn.luma.shape[1] == 16


def test_given_a_bright_column_when_drawn_then_it_stays_in_its_column():
    picture = np.full((8, 32, 3), 0.2, np.float32)
    picture[:, 20] = 0.8

    bright = scopes(picture).luma[: row_of(50)].sum(axis=0)

    assert np.flatnonzero(bright).tolist() == [20]


@given(picture=encoded_pictures(-0.3, 1.4))
def test_given_any_picture_when_drawn_then_every_pixel_is_counted_once(picture):
    drawn = scopes(picture)
    pixels = picture.shape[0] * picture.shape[1]

    assert drawn.luma.sum() == drawn.vector.sum() == pixels
    assert (drawn.parade.sum(axis=(1, 2)) == pixels).all()
    assert (drawn.histogram.sum(axis=1) == pixels).all()


# BT.709-6: angle and place of the 75 % bars
BARS = {
    "red": ((0.75, 0, 0), 102.91, (-0.0859, 0.3750)),
    "magenta": ((0.75, 0, 0.75), 49.68, (0.2891, 0.3406)),
    "blue": ((0, 0, 0.75), 354.76, (0.3750, -0.0344)),
    "cyan": ((0, 0.75, 0.75), 282.91, (0.0859, -0.3750)),
    "green": ((0, 0.75, 0), 229.68, (-0.2891, -0.3406)),
    "yellow": ((0.75, 0.75, 0), 174.76, (-0.3750, 0.0344)),
}


@pytest.mark.parametrize("bar", BARS)
def test_given_a_bar_when_drawn_on_the_vectorscope_then_it_hits_its_place(bar):
    rgb, angle, place = BARS[bar]
    picture = np.tile(np.array(rgb, np.float32), (4, 4, 1))

    _, cb, cr = rgb_to_ycbcr(picture)[0, 0]
    row, column = np.argwhere(scopes(picture).vector)[0]

    assert (cb, cr) == pytest.approx(place, abs=1e-4)
    assert float(vector_angle_deg(cb, cr)) == pytest.approx(angle, abs=0.01)
    assert (column + 0.5) / 256 == pytest.approx((cb + VECTOR_REACH) / (2 * VECTOR_REACH), abs=1 / 256)
    assert (row + 0.5) / 256 == pytest.approx((VECTOR_REACH - cr) / (2 * VECTOR_REACH), abs=1 / 256)


def test_given_counts_when_shown_then_more_is_never_darker_and_none_is_black():
    counts = np.array([[0, 1, 2, 5, 50, 1000]], np.uint32)

    shown = brightness(counts)

    assert shown[0, 0] == 0
    assert (np.diff(shown[0].astype(int)) >= 0).all() and shown[0, -1] == 255
    assert not brightness(np.zeros((3, 3), np.uint32)).any()

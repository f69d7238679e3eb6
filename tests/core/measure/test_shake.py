"""A camera that is moved evenly does not tremble, at whatever rate it films."""

import numpy as np
import pytest

from morphe.core.measure.shake import shake_of

SMOOTH_PCT = 0.3  # of the width: phase correlation's own rounding


def shots(rate: int, frames: int, tremble: float) -> tuple[list[np.ndarray], np.ndarray]:
    """Frames of a pan over noise, with a tremble of so many pixels, six times a second."""
    wall = np.kron(np.random.default_rng(3).uniform(0, 1, (40, 400)), np.ones((4, 4))).astype(np.float32)
    times = np.arange(frames) / rate
    at = 40 + 60 * times + tremble * np.sin(2 * np.pi * 6 * times)
    columns = [np.clip(np.arange(192) + x, 0, 1590) for x in at]
    rows = [(1 - c % 1) * wall[:108, c.astype(int)] + c % 1 * wall[:108, c.astype(int) + 1] for c in columns]
    return [np.repeat(r[..., None], 3, axis=2).astype(np.float32) for r in rows], times


@pytest.mark.parametrize("rate", [12, 24, 50, 120, 240])
def test_given_an_even_pan_when_filmed_at_any_rate_then_it_is_no_shake(rate):
    assert shake_of(*shots(rate, 60, 0.0)) < SMOOTH_PCT


def test_given_a_trembling_hand_when_measured_then_its_way_is_told():
    # a sine of 2 px, its root mean square 1.41 of 192
    assert shake_of(*shots(60, 100, 2.0)) == pytest.approx(100 * 1.41 / 192, rel=0.35)

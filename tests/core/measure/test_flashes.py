"""Flashes: counted as the standards' examples say, wherever on the screen they are."""

import numpy as np
import pytest

from morphe.core.measure.flashes import CELLS, FlashMeter

FPS = 30


def measured(values, *, area=(slice(None), slice(None)), ground=0.2):
    meter = FlashMeter()
    for number, value in enumerate(values):
        picture = np.full((CELLS[1], CELLS[0], 3), ground, np.float32)
        picture[area] = value
        meter.push(picture, number / FPS)
    return meter.result()


def square(low, high, hertz, seconds=1.0):
    return [low if int(2 * hertz * i / FPS) % 2 == 0 else high for i in range(round(FPS * seconds))]


@pytest.mark.parametrize(("hertz", "most", "state"), [(3, 5, "good"), (4, 7, "caution"), (5, 9, "bad")])
def test_given_a_square_wave_of_one_second_when_measured_then_its_edges_are_counted(hertz, most, state):
    found = measured(square(0.2, 0.5, hertz))

    assert (found.most, found.state, found.is_red) == (most, state, False)


@pytest.mark.parametrize(("hertz", "most"), [(3, 6), (4, 8), (5, 10)])
def test_given_a_wave_that_goes_on_when_measured_then_the_border_adds_an_edge(hertz, most):
    assert abs(measured(square(0.2, 0.5, hertz, 4)).most - most) <= 1


@pytest.mark.parametrize(("low", "high"), [(0.2, 0.25), (0.85, 0.97)])
def test_given_small_or_bright_changes_when_measured_then_none_is_a_flash(low, high):
    assert measured(square(low, high, 5)).most == 0


def test_given_a_sine_or_a_ramp_when_measured_then_each_turn_counts_once():
    sine = [0.4 + 0.2 * np.sin(2 * np.pi * 2 * i / FPS) for i in range(FPS + 1)]

    assert measured(sine).most == 5
    assert measured(np.linspace(0, 1, 3 * FPS)).most == 1


def test_given_a_small_or_a_large_area_when_it_flashes_then_only_the_large_one_counts():
    small = measured(square(0.2, 0.6, 5), area=(slice(0, 6), slice(0, 10)))
    corner = measured(square(0.2, 0.6, 5), area=(slice(24, 36), slice(42, 64)))

    assert small.most == 0 and corner.most == 9


def test_given_red_that_comes_and_goes_when_measured_then_it_is_named_and_orange_is_not():
    red, grey, orange = (0.15, 0, 0), (0.0319, 0.0319, 0.0319), (0.1, 0.02, 0)

    found = measured([red if i // 3 % 2 else grey for i in range(FPS)])
    mild = measured([red if i // 3 % 2 else orange for i in range(FPS)])

    assert found.is_red and found.state == "bad"
    assert mild.most == 0

"""Light under water against the tabulated values: Beer-Lambert, Jerlov's types, the flat surface."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.water.daylight import (
    WATER_TYPES,
    depth_light,
    lamp_left,
    light_left,
    path_factor,
    stops_lost,
    surface_reflection,
)

# Red (600 nm) left of surface light in percent, from Jerlov's K_d: type, then 1, 3, 5, 10, 15, 20 m.
RED_LEFT = {
    "I": (79, 49, 31, 9.5, 3.0, 0.91),
    "IB": (78, 48, 29, 8.6, 2.5, 0.74),
    "II": (77, 46, 27, 7.4, 2.0, 0.55),
    "III": (74, 41, 23, 5.2, 1.2, 0.27),
    "1C": (74, 41, 22, 5.0, 1.1, 0.25),
    "3C": (72, 37, 19, 3.7, 0.71, 0.14),
    "5C": (67, 30, 14, 1.8, 0.25, 0.03),
    "7C": (62, 24, 9.1, 0.82, 0.07, 0.01),
    "9C": (55, 17, 5.0, 0.25, 0.01, 0),
}
DEPTHS = (1, 3, 5, 10, 15, 20)
kinds = st.sampled_from(list(WATER_TYPES))


@pytest.mark.parametrize("key", RED_LEFT)
def test_given_a_water_type_when_going_down_then_red_fades_as_tabulated(key):
    water = WATER_TYPES.get(key)

    left = [100 * light_left(water, depth_m=d)[0] for d in DEPTHS]

    assert left == pytest.approx(RED_LEFT[key], rel=0.04, abs=0.006)  # the table has two digits


@pytest.mark.parametrize(
    ("key", "depth", "distance", "percent"),
    [("IB", 5, 1, 22.4), ("IB", 10, 2, 5.0), ("IB", 15, 2, 1.5), ("II", 10, 2, 3.1), ("3C", 10, 2, 0.50)],
)
def test_given_depth_and_distance_when_added_up_then_both_paths_count(key, depth, distance, percent):
    left = light_left(WATER_TYPES.get(key), depth_m=depth, distance_m=distance)[0]

    assert 100 * left == pytest.approx(percent, rel=0.02)


def test_given_a_path_when_counted_in_stops_then_it_is_144_hundredths_of_k_times_d():
    assert stops_lost(1.0, 1.0) == pytest.approx(1.4427, abs=1e-4)


@pytest.mark.parametrize(("key", "per_metre"), [("I", 0.26), ("III", 0.255), ("3C", 0.20), ("5C", 0.14)])
def test_given_daylight_alone_when_red_is_set_against_green_then_it_falls_behind_as_tabulated(key, per_metre):
    light = depth_light(WATER_TYPES.get(key), depth_m=10, distance_m=0)

    assert light.red_behind_stops / 10 == pytest.approx(per_metre, abs=0.006)


def test_given_a_lamp_when_it_lights_the_subject_then_depth_drops_out():
    water = WATER_TYPES.get("II")
    shallow = depth_light(water, depth_m=2, distance_m=1, has_lamp=True)
    deep = depth_light(water, depth_m=30, distance_m=1, has_lamp=True)

    assert shallow.red_behind_stops == deep.red_behind_stops
    assert lamp_left(water, distance_m=1)[0] == pytest.approx(math.exp(-2 * 0.43))


@pytest.mark.parametrize(
    ("elevation", "reflected", "path"),
    [(90, 2.1, 1.0), (60, 2.2, 1.08), (45, 2.9, 1.18), (30, 6.1, 1.31), (20, 13.5, 1.40), (15, 21.5, 1.44),
     (10, 35.0, 1.48), (5, 58.5, 1.50)],
)  # fmt: skip
def test_given_a_sun_height_when_it_meets_the_surface_then_fresnel_and_snell_hold(elevation, reflected, path):
    assert 100 * surface_reflection(elevation) == pytest.approx(reflected, abs=0.06)
    assert path_factor(elevation) == pytest.approx(path, abs=0.006)


@given(key=kinds, depth=st.floats(0.1, 60), more=st.floats(0.1, 20), distance=st.floats(0, 10))
def test_given_any_water_when_going_deeper_then_no_channel_gains(key, depth, more, distance):
    water = WATER_TYPES.get(key)

    upper = light_left(water, depth_m=depth, distance_m=distance)
    lower = light_left(water, depth_m=depth + more, distance_m=distance)

    assert all(0 <= b < a <= 1 for a, b in zip(upper, lower, strict=True))


def test_given_a_sun_below_the_horizon_when_asked_then_nothing_enters():
    assert surface_reflection(-3) == surface_reflection(0) == 1.0

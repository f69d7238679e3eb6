"""Exposure arithmetic, and the solver: never beyond the camera, always the best compromise."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.plan.exposure import GOOD, Pins, range_of, solve
from morphe.core.plan.kit import Codec, Filter, FilterKind, Kit, Recording
from morphe.core.plan.light import SKIES, daylight_ev, ev100
from morphe.core.plan.shutter import (
    angle_of,
    band_beat_hz,
    choose_angle,
    flicker_residual,
    flicker_safe,
    time_of,
)
from morphe.core.standins.kits import KITS

RECORDING = Recording(
    codec=Codec.HEVC, bit_depth=10, chroma="4:2:0", width=3840, height=2160, fps=25, mbit_s=100
)


def camera(*, nd=(2, 3, 4, 5, 6), widest=2.8, narrowest=2.8, base=100, ceiling=1600, fastest=1 / 8000):
    densities = tuple(Filter(name=f"ND{2**n}", kind=FilterKind.ND, stops=n) for n in nd)
    return Kit(
        name="Test", recordings=(RECORDING,), filters=densities, aperture_widest=widest,
        aperture_narrowest=narrowest, iso_base=base, iso_ceiling=ceiling, shutter_fastest_s=fastest,
    )  # fmt: skip


cameras = st.builds(
    camera,
    nd=st.lists(st.integers(1, 10), max_size=6, unique=True).map(sorted),
    widest=st.sampled_from([1.7, 1.8, 2.4, 2.8]),
    narrowest=st.sampled_from([2.8, 5.6, 11.0]),
    base=st.sampled_from([50, 100, 200, 400]),
    ceiling=st.sampled_from([400, 800, 1600, 6400]),
    fastest=st.sampled_from([1 / 2000, 1 / 8000, 1 / 16000]),
)
lights = st.floats(-4, 18)
rates = st.sampled_from([24, 25, 30, 50, 60, 100])
lamps = st.sampled_from([None, 50, 60])


@pytest.mark.parametrize(
    ("aperture", "time", "iso", "ev"),
    [(16, 1 / 100, 100, 14.64), (2.8, 1 / 50, 100, 8.61), (2.8, 1 / 60, 100, 8.88), (1.8, 1 / 60, 800, 4.60)],
)
def test_given_settings_when_summed_then_ev_is_as_tabulated(aperture, time, iso, ev):
    assert ev100(aperture, time, iso) == pytest.approx(ev, abs=0.01)


def test_given_sun_on_a_drone_when_solved_then_the_filter_takes_six_stops_and_the_shutter_the_rest():
    # EV 15 at f/2.8, 1/50, ISO 100 needs 6.39 stops.
    settings = solve(range_of(camera(), fps=25), needed_ev=15, shutter_s=1 / 50)

    assert 15 - ev100(2.8, 1 / 50, 100) == pytest.approx(6.39, abs=0.01)
    assert (settings.nd_stops, settings.iso) == (6, 100)
    assert settings.shutter_s == pytest.approx(1 / 60)
    assert settings.is_good


@pytest.mark.parametrize(
    ("angle", "fps", "denominator"),
    [(180, 24, 48), (180, 25, 50), (180, 30, 60), (180, 50, 100), (180, 60, 120), (90, 25, 100)]
)  # fmt: skip
def test_given_an_angle_when_turned_into_time_and_back_then_both_agree(angle, fps, denominator):
    assert time_of(angle, fps) == pytest.approx(1 / denominator)
    assert angle_of(1 / denominator, fps) == pytest.approx(angle)


@pytest.mark.parametrize(
    ("mains", "denominator", "left"),
    [(50, 25, 0), (50, 50, 0), (50, 100, 0), (50, 60, 0.165), (50, 120, 0.191), (50, 200, 0.637),
     (60, 30, 0), (60, 60, 0), (60, 120, 0), (60, 50, 0.126), (60, 100, 0.156), (60, 240, 0.637)],
)  # fmt: skip
def test_given_lamps_when_filmed_then_the_flicker_left_is_as_tabulated(mains, denominator, left):
    assert flicker_residual(1 / denominator, mains) == pytest.approx(left, abs=0.001)
    assert flicker_safe(1 / denominator, mains) == (left == 0)


@pytest.mark.parametrize(
    ("mains", "fps", "beat"),
    [(50, 25, 0), (50, 50, 0), (50, 24, 4), (50, 30, 10), (50, 60, 20), (60, 24, 0), (60, 30, 0), (60, 60, 0),
     (60, 29.97, 0.12), (60, 25, 5), (60, 50, 20)],
)  # fmt: skip
def test_given_a_frame_rate_under_lamps_when_bands_wander_then_as_tabulated(mains, fps, beat):
    assert band_beat_hz(fps, mains) == pytest.approx(beat, abs=0.001)


@pytest.mark.parametrize(
    ("sky", "height", "ev"),
    [("clear", 60, 15), ("clear", 30, 14.4), ("overcast", 45, 12.5), ("clear", 5, 11), ("clear", -6, 0.4)]
)  # fmt: skip
def test_given_sun_and_sky_when_light_is_worked_out_then_it_lies_on_the_usual_scale(sky, height, ev):
    assert daylight_ev(SKIES.get(sky), height) == pytest.approx(ev, abs=0.5)


@given(kit=cameras, ev=lights, fps=rates, mains=lamps)
def test_given_any_light_when_solved_then_nothing_lies_outside_what_the_camera_can_do(kit, ev, fps, mains):
    settings = solve(range_of(kit, fps=fps, flicker_hz=mains), needed_ev=ev, shutter_s=time_of(180, fps))

    assert settings.nd is None or settings.nd in kit.filters
    assert kit.iso_base <= settings.iso <= kit.iso_ceiling or kit.iso_base == settings.iso
    assert kit.aperture_widest <= settings.aperture <= kit.aperture_narrowest
    assert kit.shutter_fastest_s * 0.999 <= settings.shutter_s <= 1 / fps * 1.001
    said = ev - settings.nd_stops - ev100(settings.aperture, settings.shutter_s, settings.iso)
    assert settings.error_stops == pytest.approx(said)


@given(kit=cameras, ev=lights, more=st.floats(0, 8), fps=rates, mains=lamps)
def test_given_more_light_when_solved_then_the_filter_never_gets_weaker(kit, ev, more, fps, mains):
    ability = range_of(kit, fps=fps, flicker_hz=mains)

    less = solve(ability, needed_ev=ev, shutter_s=time_of(180, fps))
    bright = solve(ability, needed_ev=ev + more, shutter_s=time_of(180, fps))

    assert bright.nd_stops >= less.nd_stops
    assert bright.iso <= less.iso * 2**0.68  # a filter two thirds of a stop too strong is made up for by ISO


@given(kit=cameras, ev=lights, fps=rates)
def test_given_an_error_when_it_is_left_then_everything_that_helps_is_at_its_end(kit, ev, fps):
    ability = range_of(kit, fps=fps)

    settings = solve(ability, needed_ev=ev, shutter_s=time_of(180, fps))

    if settings.error_stops > GOOD:
        assert settings.aperture == kit.aperture_narrowest
        assert settings.shutter_s == pytest.approx(kit.shutter_fastest_s)
        assert settings.nd_stops == max((f.stops for f in kit.densities), default=0)
    if settings.error_stops < -GOOD:
        assert settings.nd is None
        assert settings.aperture == kit.aperture_widest
        assert settings.iso == max(ability.isos)
        assert settings.shutter_s == pytest.approx(max(ability.shutters_s))


@given(kit=cameras, ev=lights, denominator=st.sampled_from([50, 100, 400]), iso=st.sampled_from([100, 400]))
def test_given_pinned_settings_when_solved_then_they_are_held_as_far_as_the_camera_has_them(
    kit, ev, denominator, iso
):
    ability = range_of(kit, fps=25)

    settings = solve(
        ability, needed_ev=ev, shutter_s=1 / 50, pins=Pins(shutter_s=1 / denominator, iso=iso, nd_stops=0)
    )

    assert settings.nd is None
    assert settings.shutter_s == min(ability.shutters_s, key=lambda t: abs(math.log2(t * denominator)))
    assert settings.iso == min(ability.isos, key=lambda i: abs(math.log2(i / iso)))


def test_given_lamps_when_solved_then_the_shutter_spans_whole_pulses():
    # 24 fps under 50 Hz: 1/48 would flicker, 1/50 does not.
    settings = solve(range_of(camera(), fps=24, flicker_hz=50), needed_ev=5, shutter_s=1 / 48)

    assert flicker_safe(settings.shutter_s, 50)
    assert settings.shutter_s == pytest.approx(1 / 50)


@pytest.mark.parametrize(
    ("way", "dim", "fast", "surplus", "angle"),
    [("gimbal", True, False, -3, 180), ("in-camera", True, False, -3, 90), ("in-camera", True, True, -3, 45),
     ("in-camera", False, False, 3, 180), ("motion-data", True, False, -3, 180),
     ("motion-data", False, False, 3, 90),
     ("motion-data", False, False, 0.5, 127.3), ("tripod", False, False, 3, 180)],
)  # fmt: skip
def test_given_a_way_of_steadying_when_the_angle_is_chosen_then_the_schools_hold(
    way, dim, fast, surplus, angle
):
    chosen = choose_angle(way, is_dim=dim, is_fast=fast, surplus_stops=surplus)

    assert chosen.angle_deg == pytest.approx(angle, abs=0.1)
    assert chosen.reason and chosen.other_reason


def test_given_a_variable_aperture_when_it_is_bright_then_it_closes_before_the_shutter_gets_faster():
    settings = solve(range_of(camera(nd=(), narrowest=11), fps=25), needed_ev=12, shutter_s=1 / 50)

    assert settings.aperture > 8
    assert settings.shutter_s == pytest.approx(1 / 50, rel=0.2)


def test_given_the_made_up_cameras_when_listed_then_all_three_are_whole():
    assert [k.name for k in KITS.values()] == ["Sandpiper", "Cuttle", "Fern"]
    assert all(Kit.from_json(k.as_json()) == k for k in KITS.values())

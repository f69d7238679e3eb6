"""A take checked on the spot: made-up footage with one known fault at a time."""

from dataclasses import replace
from pathlib import Path

import cv2
import numpy as np
import pytest

from morphe.core.footage.probe import probe
from morphe.core.footage.stretch import Stretch, stretch_of
from morphe.core.measure.focus import edge_width_of
from morphe.core.measure.shake import shake_of
from morphe.core.plan.take_check import State, check_take
from morphe.core.plan.take_seen import see_clip, see_still
from morphe.core.standins.cameras import Exposure, film, record
from morphe.core.standins.demo import render_scene

PLANNED = {"profile": "std-709", "shutter_s": 0.02, "iso": 100, "nd_stops": 0.0, "aperture": None,
           "kelvin": 5600.0, "fps": 25.0, "bit_depth": 8, "offset_stops": 0.0}  # fmt: skip


@pytest.fixture(scope="module")
def scenery():
    return render_scene("jetty-tan", 0.5, width=480, height=270)


@pytest.fixture(scope="module")
def filmed(scenery, tmp_path_factory):
    """Films the jetty with a fault, and looks at it; `change` turns each frame's light into another."""

    def filming(change=lambda linear, index: linear, **faults):
        exposure = Exposure(**faults)
        generator = np.random.default_rng(8)
        frames = (film(change(scenery, n), exposure, generator) for n in range(45))
        return see_clip(record(frames, tmp_path_factory.mktemp("take") / "take.mp4", exposure))

    return filming


@pytest.fixture(scope="module")
def plain(filmed):
    return filmed()


def found(check, key):
    return next(f for f in check.findings if f.key == key)


def test_given_a_good_take_when_checked_then_it_is_kept_and_every_finding_has_a_sentence(plain):
    check = check_take(plain, planned=PLANNED)

    assert check.keep and check.verdict.startswith("Keep.")
    assert [f.label for f in check.findings][:6] == [
        "Exposure", "Clipping", "Balance", "Focus", "Shake", "Noise"
    ]  # fmt: skip
    assert all(f.sentence for f in check.findings)
    assert found(check, "plan").state is State.GOOD


@pytest.mark.parametrize(
    ("faults", "key", "words"),
    [
        ({"exposure_stops": -2.0}, "exposure", "brighter"),
        ({"exposure_stops": 2.0}, "exposure", "darker"),
        ({"warm_mired": 110.0}, "balance", "cooler"),
        ({"warm_mired": -110.0}, "balance", "warmer"),
        ({"noise": 0.03, "bits_per_pixel": 3.0}, "noise", "lower ISO"),
    ],
)
def test_given_one_fault_when_checked_then_it_is_filmed_again_with_that_changed(filmed, faults, key, words):
    check = check_take(filmed(**faults), planned=PLANNED)

    assert found(check, key).state is State.AGAIN
    assert words in found(check, key).change and found(check, key).change in check.verdict
    assert not check.keep and check.verdict.startswith("Film again: ")
    assert "still safe" in check.verdict


def test_given_light_that_beats_when_checked_then_flicker_is_named_with_a_shutter_for_the_mains(filmed):
    def beats(linear, index):
        return linear * np.float32(2 ** (0.25 * np.sin(2 * np.pi * 4 * index / 25)))

    check = check_take(filmed(beats), mains_hz=60.0)

    assert found(check, "flicker").state is State.AGAIN
    assert "1/60 or 1/120 s" in found(check, "flicker").change


def test_given_exposure_that_moves_when_checked_then_the_automatics_are_named(filmed):
    def ramps(linear, index):
        return linear * np.float32(2 ** (-1.5 * index / 45))

    assert found(check_take(filmed(ramps)), "automatics").state is State.AGAIN


def test_given_another_profile_than_planned_when_sure_then_it_is_filmed_again_in_that_one(plain):
    check = check_take(plain, planned={**PLANNED, "profile": "log-lifted", "fps": 50.0})

    assert (
        found(check, "profile").state is State.AGAIN
        and "set the profile to" in found(check, "profile").change
    )
    assert found(check, "frame-rate").change == "set 50 fps"


def test_given_pictures_ever_softer_when_measured_then_edges_grow_wider_and_noise_does_not_help(scenery):
    luma = np.clip(scenery.mean(axis=2), 0, 1) ** 0.45
    noise = np.random.default_rng(3).normal(0, 0.008, luma.shape)
    widths = [
        edge_width_of((cv2.GaussianBlur(luma, (0, 0), s) if s else luma) + noise) for s in (0, 1, 2, 3, 5)
    ]

    assert widths == sorted(widths)
    assert widths[0] < 2.5 and widths[3] > 4.5
    assert edge_width_of(np.full((90, 160), 0.4)) is None


@pytest.mark.parametrize("amplitude", [0.5, 1.0, 2.0])
def test_given_a_tremble_of_known_size_over_a_slow_pan_when_measured_then_its_size_is_found(amplitude):
    wide = cv2.GaussianBlur(np.random.default_rng(1).random((160, 420, 3), np.float32), (0, 0), 2)
    times = np.arange(75) / 25
    tremble = amplitude * np.sin(2 * np.pi * 6 * times)
    shifted = [
        cv2.warpAffine(wide, np.float32([[1, 0, -(100 + 20 * t + d)], [0, 1, -20]]), (192, 108))
        for t, d in zip(times, tremble, strict=True)
    ]

    assert shake_of(shifted, times) == pytest.approx(100 * amplitude / np.sqrt(2) / 192, abs=0.12)


def test_given_a_still_of_a_screen_when_checked_then_what_only_a_clip_tells_is_left_out(scenery):
    picture = np.clip(scenery, 0, 1) ** 0.45
    check = check_take(see_still(picture.astype(np.float32), Path("screen.jpg")), planned=PLANNED)

    assert {f.key for f in check.findings} == {"exposure", "clipping", "balance", "focus", "noise"}


def test_given_a_clip_when_a_stretch_is_taken_then_it_lies_in_the_middle_and_is_complete(plain):
    stretch = stretch_of(replace(probe(plain.info.path)))

    assert isinstance(stretch, Stretch)
    assert np.allclose(np.diff(stretch.times_s), 0.04, atol=0.002)
    assert len(stretch.pictures) == 45 and stretch.pictures[0].shape[1] == 192

"""Lights that lie near and far, groups of clips, and how far footage bends."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import cv2
import numpy as np
import pytest

from morphe.core.advise.findings import look
from morphe.core.measure.light import LightOfClip, apart, group_by_light, light_of, nearness, reason_apart
from morphe.core.measure.strain import blockiness, headroom
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.cameras import Exposure, film, record
from tests.footage import scene

NOON = LightOfClip(middle=-2.0, warmth=0.0, tint=0.0, contrast=3.0, colour=-3.0)
START = datetime(2026, 9, 12, 10, tzinfo=UTC)


# D² = (ΔE/.5)² + (ΔM/15)² + (ΔT/.003)² + (ΔK/1)² + (ΔS/.3)²
@pytest.mark.parametrize(
    ("change", "distance", "reason"),
    [
        ({}, 0.0, ""),
        ({"middle": -3.0}, 2.0, "1.0 stops darker"),
        ({"warmth": 30.0}, 2.0, "30 mired warmer"),
        ({"tint": 3.0}, 1.0, "3 greener"),
        ({"contrast": 4.0, "warmth": 15.0 * 3**0.5}, 2.0, "26 mired warmer"),
        ({"colour": -2.4}, 2.0, "more colourful by 52 %"),
    ],
)
def test_given_two_lights_when_compared_then_distance_and_reason_follow_the_formula(change, distance, reason):
    other = replace(NOON, **change)

    assert apart(NOON, other) == pytest.approx(distance)
    assert apart(other, NOON) == pytest.approx(distance)
    assert not reason or reason_apart(NOON, other) == reason


@pytest.mark.parametrize(
    ("distance", "words"),
    [(0.5, "same light"), (1.5, "a small trim"), (3, "needs a match"), (5, "another light")],
)
def test_given_a_distance_when_named_then_its_band_is_said(distance, words):
    assert nearness(distance) == words


def test_given_clips_in_two_lights_when_grouped_then_each_group_holds_its_own():
    dusk = replace(NOON, middle=-4.0, warmth=60.0)
    lights = [NOON, dusk, replace(NOON, middle=-2.2), replace(dusk, warmth=55.0)]

    assert group_by_light(lights, [None] * 4) == [1, 2, 1, 2]


def test_given_one_light_at_two_times_when_grouped_then_hours_part_them():
    times = [START, START + timedelta(minutes=5), START + timedelta(hours=4)]

    assert group_by_light([NOON] * 3, times) == [1, 1, 2]
    assert group_by_light([NOON], [None]) == [1]
    assert group_by_light([], []) == []


def test_given_more_light_when_described_then_only_its_middle_moves():
    picture = PROFILES.get("std-709").decode(0.6 * scene(96, 54)).astype(np.float32)

    one, two = (light_of([gain * picture], warmth=10, tint=1) for gain in (1.0, 1.5))

    assert two.middle - one.middle == pytest.approx(np.log2(1.5), abs=0.02)
    assert two.contrast == pytest.approx(one.contrast, abs=0.02)
    assert LightOfClip.from_json(one.as_json()).middle == pytest.approx(one.middle, abs=1e-3)


def strained(tmp_path, **changes):
    exposure = Exposure(**changes)
    linear = PROFILES.get("std-709").decode(scene(320, 180)).astype(np.float32)
    generator = np.random.default_rng(2)
    path = record((film(linear, exposure, generator) for _ in range(6)), tmp_path / "clip.mp4", exposure)
    found = look(path)
    pictures = [f.encoded for f in found.frames]
    noise, blocks = found.noise_codes, found.blockiness
    return headroom(found.info, pictures, PROFILES.get(exposure.profile), noise=noise, blocks=blocks)


def test_given_more_bits_when_judged_then_footage_bends_further(tmp_path):
    eight = strained(tmp_path, profile="log-wide", noise=0.0003)
    ten = strained(tmp_path, profile="log-wide", noise=0.0003, bit_depth=10, codec="libx265")

    assert ten.codes_per_stop == pytest.approx(4 * eight.codes_per_stop, rel=0.01)
    assert ten.stops >= eight.stops and ten.saturation >= eight.saturation
    assert ten.stops > 0


def test_given_noise_when_judged_then_footage_bends_less_and_the_sentence_says_why(tmp_path):
    clean = strained(tmp_path, profile="std-709", noise=0.0003, bits_per_pixel=1.0)
    noisy = strained(tmp_path, profile="std-709", noise=0.02, bits_per_pixel=1.0)

    assert noisy.noise_codes > 2 * clean.noise_codes
    assert noisy.stops < clean.stops
    assert noisy.sentence.startswith("8-bit, ordinary video") and "noisy" in noisy.sentence
    assert noisy.sentence.endswith("before shadows break.")


@pytest.mark.parametrize(("quality", "low", "high"), [(95, 0.9, 1.3), (50, 1.4, 4.0), (8, 4.0, 99.0)])
def test_given_a_picture_in_blocks_when_measured_then_coarser_ones_stand_out_more(quality, low, high):
    # synthetic JPEG of a smooth picture: near 1.07, 1.95 and 6.7
    y, x = np.mgrid[0:256, 0:384].astype(np.float32)
    noise = np.random.default_rng(4).normal(0, 2.0, y.shape)
    picture = 90 + 40 * np.sin(x / 60) * np.cos(y / 45) + noise
    data = cv2.imencode(
        ".jpg", np.clip(picture, 0, 255).astype(np.uint8), [cv2.IMWRITE_JPEG_QUALITY, quality]
    )[1]

    assert low <= blockiness(cv2.imdecode(data, cv2.IMREAD_GRAYSCALE)) <= high

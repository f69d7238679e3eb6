"""Judging frames stand for the light of the whole clip."""

import numpy as np
import pytest

from morphe.core.footage.judging import judging_frames
from morphe.core.footage.probe import probe
from morphe.core.measure.readings import luma_of
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.cameras import Exposure, film, record
from tests.footage import ClipSpec, scene, write_clip

FOUR_CODES = 4 / 219  # chroma is quantised, and its siting rounds


def filmed(path, gains):
    linear = PROFILES.get("std-709").decode(scene(192, 108)).astype(np.float32)
    generator = np.random.default_rng(1)
    return probe(
        record((film(linear * np.float32(g), Exposure(), generator) for g in gains), path, Exposure())
    )


def test_given_light_that_swings_when_chosen_then_every_level_has_a_frame_near_it(tmp_path):
    gains = 0.5 * 2.0 ** (1.6 * np.sin(np.linspace(0, 2 * np.pi, 120)))

    frames = judging_frames(filmed(tmp_path / "swing.mp4", gains))

    levels = sorted(float(np.median(luma_of(f.encoded))) for f in frames)
    assert len(frames) == 5
    assert levels[-1] > 2 * levels[0]
    assert [f.time_s for f in frames] == sorted(f.time_s for f in frames)


def test_given_steady_light_when_chosen_then_three_frames_are_enough(tmp_path):
    frames = judging_frames(filmed(tmp_path / "steady.mp4", np.full(60, 0.8)))

    assert 2 <= len(frames) <= 3


@pytest.mark.parametrize("size", [(853, 481), (481, 853), (641, 360), (640, 361), (321, 201), (97, 63)])
def test_given_odd_sides_when_a_part_is_taken_then_its_colours_are_those_of_its_place(tmp_path, size):
    def ramp(index):  # a colour that tells the place
        x, y = np.meshgrid(np.linspace(0.2, 0.8, size[0]), np.linspace(0.2, 0.8, size[1]))
        return np.stack([x, y, 1 - x], axis=-1).astype(np.float32)

    spec = ClipSpec(codec="ffv1", size=size, frames=1)
    (frame,) = judging_frames(probe(write_clip(tmp_path / "odd.mkv", spec, ramp)))

    grain, whole = frame.grain, frame.planes.encoded()
    tall, wide = grain.shape[:2]
    luma = luma_of(whole)
    apart = [
        (float(np.abs(luma[y : y + tall, x : x + wide] - luma_of(grain)).max()), y, x)
        for y in range(0, size[1] - tall + 1, 2)
        for x in range(0, size[0] - wide + 1, 2)
    ]
    _, y, x = min(apart)
    assert np.abs(whole[y : y + tall, x : x + wide] - grain)[2:-2, 2:-2].max() < FOUR_CODES

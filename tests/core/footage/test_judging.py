"""Judging frames stand for the light of the whole clip."""

import numpy as np

from morphe.core.footage.judging import judging_frames
from morphe.core.footage.probe import probe
from morphe.core.measure.readings import luma_of
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.cameras import Exposure, film, record
from tests.footage import scene


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

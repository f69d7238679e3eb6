"""Simulated series: steps of exposure, the target's patches, a wander that is known; the demo's own files."""

from pathlib import Path

import numpy as np
import pytest

import morphe
from morphe.core.footage.probe import probe
from morphe.core.measure.target import COLUMNS, MADE_UP, ROWS
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.cameras import Exposure
from morphe.core.standins.demo_card import CARD_CLIPS
from morphe.core.standins.drift import wander, wandering_clip
from morphe.core.standins.lab import CARD_REGION, CARD_STEPS, card_scene, card_series, target_scene

DEMO = Path(morphe.__file__).parent / "web" / "demo"


def middle(picture):
    left, top, right, bottom = CARD_REGION
    height, width = picture.shape[:2]
    return picture[int(top * height) : int(bottom * height), int(left * width) : int(right * width)]


def test_given_the_card_when_rendered_then_its_region_is_plain_grey_of_18_percent():
    region = middle(card_scene())

    assert region.min() == region.max() == pytest.approx(0.18)


def test_given_a_series_when_filmed_then_each_step_is_one_stop_brighter_until_it_clips():
    exposure = Exposure(profile="log-wide", noise=0.0002, sharpening=0)
    decode = PROFILES.get("log-wide").decode
    light = [
        float(np.median(decode(np.stack([middle(f) for f in frames]))))
        for _, frames in card_series(exposure, np.random.default_rng(1))
    ]

    assert len(light) == len(CARD_STEPS)
    assert np.diff(np.log2(light)) == pytest.approx(np.ones(len(light) - 1), abs=0.03)


def test_given_the_target_when_rendered_then_it_has_a_patch_for_every_value_and_each_fits_the_gamut():
    picture = target_scene()

    assert len(MADE_UP.lab) == COLUMNS * ROWS
    assert MADE_UP.linear.min() >= 0 and MADE_UP.linear.max() <= 1
    assert picture.min() >= 0 and picture.dtype == np.float32


@pytest.mark.parametrize(
    ("share", "stops", "mired"), [(0, 0, 0), (0.25, 1, None), (0.5, 0, 30), (0.75, -1, None), (1, 0, 60)]
)
def test_given_a_moment_when_light_wanders_then_it_is_where_it_was_set(share, stops, mired):
    found = wander(8 * share, 8, 1.0, 60.0)

    assert found[0] == pytest.approx(stops, abs=1e-9)
    assert mired is None or found[1] == pytest.approx(mired)


def test_given_a_wandering_clip_when_recorded_then_its_truth_has_a_row_for_every_frame(tmp_path):
    path, truth = wandering_clip(
        tmp_path / "w.mp4", Exposure(), stops=0.5, mired=20, seconds=1, width=160, title="Sandpiper at sea"
    )

    info = probe(path)
    assert truth.shape == (info.frames, 3)
    assert info.metadata["title"] == "Sandpiper at sea"


@pytest.mark.parametrize("clip", CARD_CLIPS, ids=lambda c: c.path)
def test_given_the_demos_card_when_probed_then_its_clips_are_those_that_were_described(clip):
    info = probe(DEMO / "card" / clip.path)

    assert info.bit_depth == clip.exposure.bit_depth
    assert info.duration_s == pytest.approx(4.0, abs=0.1)


@pytest.mark.parametrize("step", CARD_STEPS)
def test_given_the_demos_series_when_listed_then_every_step_is_there(step):
    assert probe(DEMO / "lab" / f"card-{'minus' if step < 0 else 'plus'}-{abs(step)}.mp4").frames == 12

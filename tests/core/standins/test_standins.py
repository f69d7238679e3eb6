"""Stand-ins: scenes that repeat exactly, cameras that write what they say, and the demo that ships."""

from pathlib import Path

import numpy as np
import pytest

import morphe
from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frame_at
from morphe.core.measure.readings import luma_of
from morphe.core.signal.profiles import PROFILES, Kind
from morphe.core.standins.cameras import Exposure, film, record, truth
from morphe.core.standins.demo import DEMO_CLIPS, SCENES, render_scene

DEMO = Path(morphe.__file__).parent / "web" / "demo"


@pytest.mark.parametrize("name", list(SCENES))
def test_given_a_scene_when_rendered_twice_then_it_is_the_same_light(name):
    first, second = (render_scene(name, 1.0, width=96, height=54) for _ in range(2))

    assert first.shape == (54, 96, 3)
    assert (first == second).all()
    assert first.min() >= 0
    assert np.isfinite(first).all()


@pytest.mark.parametrize("name", [name for name in SCENES if not name.startswith("seagrass")])
def test_given_a_scene_when_metered_then_its_picture_uses_the_range_as_ordinary_pictures_do(name):
    luma = luma_of(truth(render_scene(name, 1.0, width=192, height=108)))

    low, middle, high = np.percentile(luma, [2, 50, 98]) * 100
    assert low < 25
    assert 18 < middle < 65
    assert high > 45


def test_given_a_flight_round_the_sluice_when_rendered_then_the_light_changes_on_the_way():
    away, into = (luma_of(truth(render_scene("sluice-round", t, width=96, height=54))) for t in (0.2, 3.8))

    assert np.percentile(into, 98) > np.percentile(away, 98) + 0.1  # the sky about the sun


@pytest.mark.parametrize("profile", [k for k in PROFILES if PROFILES.get(k).kind is not Kind.PQ])
def test_given_a_grey_card_when_filmed_in_any_profile_then_it_lies_on_its_code(profile):
    card = np.full((32, 32, 3), 0.18, np.float32)

    picture = film(card, Exposure(profile=profile, noise=0), np.random.default_rng(0))

    wanted = float(PROFILES.get(profile).encode(np.array(0.18)))
    assert picture == pytest.approx(wanted, abs=2e-3)


def test_given_more_exposure_and_warmth_when_filmed_then_the_picture_is_brighter_and_warmer():
    card = np.full((16, 16, 3), 0.18, np.float32)

    plain, bright, warm = (
        film(card, Exposure(noise=0, **wrong), np.random.default_rng(0)).mean(axis=(0, 1))
        for wrong in ({}, {"exposure_stops": 1}, {"warm_mired": 40})
    )

    assert (bright > plain + 0.1).all()
    assert warm[0] > plain[0] + 0.02
    assert warm[2] < plain[2] - 0.02


@pytest.mark.parametrize(("codec", "bits"), [("libx264", 8), ("libx265", 10)])
def test_given_a_made_up_camera_when_it_records_then_the_file_is_what_it_says(tmp_path, codec, bits):
    exposure = Exposure(profile="hlg", codec=codec, bit_depth=bits)
    picture = film(np.full((90, 160, 3), 0.3, np.float32), exposure, np.random.default_rng(0))

    info = probe(record([picture] * 10, tmp_path / "clip.mp4", exposure))

    assert (info.bit_depth, info.frames, info.transfer) == (bits, 10, "hlg")
    assert frame_at(info, 0).encoded().mean() == pytest.approx(float(picture.mean()), abs=0.02)


def test_given_the_demo_when_read_then_all_kinds_of_profile_and_both_depths_are_there():
    kinds = {PROFILES.get(c.exposure.profile).kind for c in DEMO_CLIPS}
    depths = {c.exposure.bit_depth for c in DEMO_CLIPS}

    assert {Kind.STANDARD, Kind.FLAT, Kind.LOG, Kind.HLG} <= kinds
    assert depths == {8, 10}


@pytest.mark.parametrize("clip", DEMO_CLIPS, ids=lambda c: c.name)
def test_given_a_demo_clip_when_probed_then_it_is_small_and_as_described(clip):
    path = DEMO / clip.name

    info = probe(path)

    assert path.stat().st_size < 4_000_000
    assert (info.width, info.height, info.bit_depth) == (1280, 720, clip.exposure.bit_depth)
    assert info.duration_s == pytest.approx(4, abs=0.05)
    assert info.bitrate / (1280 * 720 * 25) > 0.2  # bits per pixel

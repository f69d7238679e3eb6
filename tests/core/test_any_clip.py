"""Clips as people bring them, drawn by chance: read, judged, made ready for playing and delivered."""

from __future__ import annotations

import os
from pathlib import Path

import numpy as np
import pytest

from morphe.core.footage.probe import probe
from morphe.core.footage.proxy import make_proxy
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Exposure
from morphe.core.handover.delivery import Delivery
from morphe.core.handover.presets import PRESETS
from morphe.core.handover.render import render
from morphe.core.measure.shake import shake_of
from morphe.core.plan.take_seen import see_clip
from morphe.core.reading.clip import read_clip
from tests.footage import CLICK_S, ClipSpec, any_clip, click_of, frame_times

ONE_MS = 0.0011  # containers may count in milliseconds
BLURRED_S = 0.003  # where a click is blurred by a coder


COUNT = int(os.environ.get("MORPHE_CLIPS") or 4)


@pytest.fixture(params=range(COUNT))
def brought(request: pytest.FixtureRequest, tmp_path: Path, fresh_seed: int) -> tuple[Path, ClipSpec]:
    return any_clip(tmp_path, fresh_seed + request.param)


def test_given_any_clip_when_corrected_then_facts_frames_times_and_sound_are_kept(brought, tmp_path):
    path, spec = brought
    out = tmp_path / "corrected.mp4"

    report = read_clip(path, over_time=True)
    info = report.info
    done = render(info, report.advice.grade, out)

    assert done.frames == info.frames == spec.frames
    assert info.upright_size == (spec.size[::-1] if spec.rotation in (90, 270) else spec.size)
    assert info.bit_depth == spec.bit_depth
    if spec.frames > 2 and spec.pts is None:
        assert float(info.fps) == pytest.approx(float(spec.fps), rel=0.02)
        assert info.duration_s == pytest.approx(spec.frames / float(spec.fps), rel=0.02, abs=3 * ONE_MS)
    assert np.abs(np.array(frame_times(out)) - spec.times_s).max() <= ONE_MS
    if spec.sound and spec.times_s[-1] > CLICK_S + 0.1:
        assert click_of(out) == pytest.approx(click_of(path), abs=BLURRED_S)


def test_given_any_clip_when_played_checked_and_delivered_by_any_preset_then_all_frames_are_there(
    brought, tmp_path, fresh_seed
):
    path, spec = brought
    ordinary = [key for key in PRESETS if not PRESETS.get(key).hdr]
    preset = ordinary[fresh_seed % len(ordinary)]
    print(f"preset {preset}")

    seen = see_clip(path)
    frames = make_proxy(seen.info, tmp_path / "proxy.mp4")
    done = render(seen.info, Grade.of(Exposure(stops=0.3)), tmp_path / "out.mp4", Delivery.of(preset))

    assert frames == done.frames == probe(done.out).frames == spec.frames
    assert seen.stretch is not None
    assert np.isfinite(shake_of(seen.stretch.pictures, seen.stretch.times_s))

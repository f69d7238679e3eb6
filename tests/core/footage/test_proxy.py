"""Proxies: the same picture and times, small, upright, in codes that a browser reads; stopping half way."""

import numpy as np
import pytest

from morphe.core.footage.probe import probe
from morphe.core.footage.proxy import PROXY_WIDTH, make_proxy
from morphe.core.footage.reader import frame_at
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.cameras import Exposure, film, record
from tests.footage import ClipSpec, scene, write_clip

CODE = 1 / 219


def filmed(path, **changes):
    exposure = Exposure(bits_per_pixel=1.5, noise=0.0003, **changes)
    linear = PROFILES.get("std-709").decode(scene(320, 180)).astype(np.float32)
    generator = np.random.default_rng(2)
    return record((film(linear, exposure, generator) for _ in range(20)), path, exposure)


@pytest.mark.parametrize(
    "changes",
    [{}, {"profile": "log-wide", "bit_depth": 10, "codec": "libx265"},
     {"profile": "hlg", "bit_depth": 10, "codec": "libx265"}],
)  # fmt: skip
def test_given_any_clip_when_its_proxy_is_made_then_picture_and_times_are_the_same(tmp_path, changes):
    source = probe(filmed(tmp_path / "clip.mp4", **changes))

    frames = make_proxy(source, tmp_path / "proxy.mp4")

    proxy = probe(tmp_path / "proxy.mp4")
    assert (frames, proxy.frames, proxy.bit_depth) == (source.frames, source.frames, 8)
    assert proxy.duration_s == pytest.approx(source.duration_s, abs=1e-3)
    pictures = [frame_at(info, 0.4).encoded() for info in (source, proxy)]
    assert np.abs(pictures[0] - pictures[1]).mean() < 1.5 * CODE


def test_given_a_large_turned_clip_when_its_proxy_is_made_then_it_is_upright_and_small(tmp_path):
    path = write_clip(tmp_path / "tall.mp4", ClipSpec(size=(1280, 720), frames=4, rotation=90))

    make_proxy(probe(path), tmp_path / "proxy.mp4")

    proxy = probe(tmp_path / "proxy.mp4")
    assert (proxy.rotation, proxy.height, proxy.width) == (0, PROXY_WIDTH, PROXY_WIDTH * 720 // 1280)


def test_given_a_person_who_removed_the_clip_when_asked_then_the_proxy_is_given_up(tmp_path):
    path = write_clip(tmp_path / "clip.mp4", ClipSpec(size=(160, 96), frames=60))

    assert make_proxy(probe(path), tmp_path / "proxy.mp4", progress=lambda done, total: False) == 0

"""Proxies: the same picture and times, small, upright, in codes that a browser reads; stopping half way."""

import numpy as np
import pytest

from morphe.core.footage.probe import probe
from morphe.core.footage.proxy import (
    PROXY_WIDTH,
    fitting_chroma_gain,
    make_proxy,
    without_chroma_gain,
)
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


def test_given_muted_footage_when_its_colour_is_spread_then_it_returns_finer_than_before(tmp_path):
    source = probe(filmed(tmp_path / "clip.mp4", profile="log-wide", bit_depth=10, codec="libx265"))
    truth = frame_at(source, 0.4).encoded()
    gain = fitting_chroma_gain([truth])
    errors = []
    for used in (1.0, gain):
        make_proxy(source, tmp_path / f"proxy-{used}.mp4", chroma_gain=used)
        seen = without_chroma_gain(frame_at(probe(tmp_path / f"proxy-{used}.mp4"), 0.4).encoded(), used)
        errors.append(
            float(
                np.abs((seen - seen.mean(-1, keepdims=True)) - (truth - truth.mean(-1, keepdims=True))).mean()
            )
        )

    assert gain > 1
    assert errors[1] < 0.75 * errors[0]


@pytest.mark.parametrize(("chroma", "gain"), [(0.05, 3.0), (0.22, 2.0), (0.5, 1.0)])
def test_given_more_colour_when_a_gain_is_chosen_then_it_is_spread_less(chroma, gain):
    grey = np.full((40, 40, 1), 0.5, np.float32)
    colour = grey + chroma * np.array([1, 0, -1], np.float32)

    assert fitting_chroma_gain([colour]) == gain
    assert fitting_chroma_gain([]) == 1.0

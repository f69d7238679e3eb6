"""Every delivery decoded again: codec, depth, shape, tags; a size that is kept; sound left out or level."""

import re
from dataclasses import replace

import av
import numpy as np
import pytest

from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frame_at
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Scope
from morphe.core.grade.steps import Contrast, Exposure
from morphe.core.grade.steps.bars import Crop
from morphe.core.handover.delivery import Delivery
from morphe.core.handover.presets import PRESETS
from morphe.core.handover.render import render
from morphe.core.handover.size_kept import LEAST_BITS_PER_PIXEL, fitted_size, rate_for
from morphe.core.handover.sound import Heard
from morphe.core.measure.file_strength import strength_of_planes
from morphe.core.pipeline import tables
from tests.footage import ClipSpec, write_clip

BRIGHTER = Grade.of(Exposure(stops=0.3))
WANTED = {
    "web": ("h264", "yuv420p", (320, 180)),
    "web-hevc": ("hevc", "yuv420p", (320, 180)),
    "web-av1": ("av1", "yuv420p", (320, 180)),
    "upright": ("h264", "yuv420p", (100, 180)),
    "square": ("h264", "yuv420p", (180, 180)),
    "small": ("h264", "yuv420p", (320, 180)),
    "fine": ("h264", "yuv420p", (320, 180)),
    "editing": ("h264", "yuv422p10le", (320, 180)),
    "archive": ("hevc", "yuv420p10le", (320, 180)),
}


@pytest.fixture(scope="module")
def clip(tmp_path_factory):
    return write_clip(
        tmp_path_factory.mktemp("clip") / "clip.mp4", ClipSpec(size=(320, 180), frames=30, sound="aac")
    )


def looked_at(path):
    with av.open(str(path)) as file:
        video = file.streams.video[0]
        found = (video.codec_context.codec.canonical_name.replace("libdav1d", "av1"), video.pix_fmt)
        size, keys = (video.width, video.height), [p.is_keyframe for p in file.demux(video) if p.size]
    return found, size, keys


@pytest.mark.parametrize("key", [preset.key for preset in PRESETS.values() if not preset.hdr])
def test_given_any_preset_when_rendered_then_the_file_is_what_it_says(clip, tmp_path, key):
    done = render(probe(clip), BRIGHTER, tmp_path / "out.mp4", Delivery.of(key))

    found, size, keys = looked_at(done.out)
    codec, pixels, wanted = WANTED[key]
    assert found == (codec, pixels) and size == wanted == (done.width, done.height)
    info = probe(done.out)
    assert info.frames == done.frames == 30 and info.audio is not None
    assert (str(info.matrix), info.transfer) == ("bt709", "bt709")
    assert all(keys) == (key == "editing")
    if PRESETS.get(key).ratio == 0:
        other = render(probe(clip), BRIGHTER, tmp_path / "fine.mp4", Delivery.of("fine")).out
        apart = [frame_at(probe(f), 0.5).encoded() for f in (done.out, other)]
        assert np.abs(apart[0] - apart[1]).mean() < 0.012


def test_given_a_crop_that_was_placed_when_delivered_upright_then_it_stays_where_it_is(clip, tmp_path):
    placed = BRIGHTER.with_step(Crop(ratio=1.0, place=-100.0), Scope.FINISH)

    left = render(probe(clip), placed, tmp_path / "left.mp4", Delivery.of("upright")).out
    whole = render(probe(clip), BRIGHTER, tmp_path / "whole.mp4").out

    part, of = (frame_at(probe(f), 0.5).encoded() for f in (left, whole))
    assert np.abs(part - of[:, :100]).mean() < 0.01


def test_given_a_size_when_rendered_then_it_is_kept_within_three_percent(tmp_path):
    generator = np.random.default_rng(1)
    rough = generator.random((180, 320, 3)).astype(np.float32)
    source = write_clip(
        tmp_path / "rough.mp4", ClipSpec(size=(320, 180), frames=100, sound="aac"),
        lambda i: np.roll(rough, 7 * i, axis=1),
    )  # fmt: skip

    told = []
    done = render(
        probe(source), Grade(), tmp_path / "out.mp4", Delivery.of("small", megabytes=0.4),
        progress=lambda done, total: not told.append((done, total)),
    )  # fmt: skip

    assert 0.97 * 400_000 <= done.out.stat().st_size <= 400_000
    assert {total for _, total in told} == {200} and told == sorted(told)
    assert done.frames == 100 and probe(done.out).audio is not None
    assert [p.name for p in tmp_path.iterdir() if p.name.startswith((".", "tmp"))] == []


def test_given_few_bits_when_a_size_is_fitted_then_the_picture_is_smaller_even_and_of_its_shape():
    sizes = [fitted_size(1920, 1080, 25, rate) for rate in (10_000_000, 1_200_000, 500_000, 50_000)]

    assert sizes[0] == (1920, 1080) and sizes == sorted(sizes, reverse=True)
    assert all(w % 2 == h % 2 == 0 and abs(w / h - 16 / 9) < 0.01 for w, h in sizes)
    assert 1_200_000 / (sizes[1][0] * sizes[1][1] * 25) >= LEAST_BITS_PER_PIXEL
    assert fitted_size(606, 1080, 25, 10**9) == (606, 1080)
    assert rate_for(10, 100, 1e6) < rate_for(10, 50, 1e6) and rate_for(10, 50, 9e9) > 0


def loudness(path):
    """Integrated loudness in LUFS, as FFmpeg's meter says it."""
    with av.open(str(path)) as file, av.logging.Capture() as said:
        av.logging.set_level(av.logging.INFO)
        graph = av.filter.Graph()
        meter = graph.add("ebur128")
        graph.add_abuffer(template=file.streams.audio[0]).link_to(meter)
        meter.link_to(graph.add("abuffersink"))
        graph.configure()
        for frame in file.decode(audio=0):
            graph.push(frame)
            graph.pull()
    av.logging.set_level(None)
    return float(re.findall(r"I:\s+(-?[\d.]+) LUFS", "".join(text for *_, text in said))[-1])


def test_given_sound_when_left_out_or_levelled_then_there_is_none_or_it_is_at_minus_23(tmp_path):
    source = write_clip(tmp_path / "loud.mp4", ClipSpec(size=(96, 64), frames=250, sound="aac"))
    info = probe(source)

    silent = render(info, Grade(), tmp_path / "silent.mp4", Delivery(sound=Heard.LEFT_OUT)).out
    level = render(info, Grade(), tmp_path / "level.mp4", Delivery(sound=Heard.LEVELLED)).out

    assert probe(silent).audio is None
    assert loudness(level) == pytest.approx(-23, abs=1.0)
    with av.open(str(level)) as file:
        heard = file.streams.audio[0]
        assert float(heard.duration * heard.time_base) == pytest.approx(info.duration_s, abs=0.1)


def test_given_a_preset_that_may_be_refused_when_asked_then_it_says_what_to_try():
    assert "Fine" in PRESETS.get("editing").advice
    assert all(PRESETS.get(key).advice for key in ("web-hevc", "web-av1", "archive"))
    assert replace(PRESETS.get("web")).advice == ""


def test_given_a_size_that_is_never_reached_when_rendered_then_the_file_is_not_made_larger(clip, tmp_path):
    small = render(probe(clip), BRIGHTER, tmp_path / "small.mp4", Delivery.of("small")).out
    web = render(probe(clip), BRIGHTER, tmp_path / "web.mp4").out

    assert small.stat().st_size < 2 * web.stat().st_size


def test_given_ten_bits_of_smooth_sky_when_web_is_made_then_eight_bits_band_less_than_plain_rounding(
    tmp_path, monkeypatch
):
    rise = np.linspace(0.55, 0.72, 180)[:, None] + 0.02 * np.linspace(0, 1, 320)
    sky = np.stack([0.7 * rise, 0.85 * rise, rise], axis=-1).astype(np.float32)
    spec = ClipSpec(codec="libx265", pixel_format="yuv420p10le", size=(320, 180), frames=8)
    source = probe(write_clip(tmp_path / "sky.mp4", spec, lambda index: sky))

    def banding() -> float:
        out = render(source, Grade.of(Contrast(amount=10)), tmp_path / "out.mp4", Delivery.of("web")).out
        made = probe(out)
        assert made.bit_depth == 8
        return strength_of_planes([frame_at(made, 0.1)]).banding

    dithered = banding()
    monkeypatch.setattr(tables, "rounding", lambda **_: np.full((1, 1), 0.5))

    assert dithered < 0.8 * banding()

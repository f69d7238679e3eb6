"""Renders: what comes out is the graded clip, whole, upright, tagged, with its sound, times and marks."""

import errno
from fractions import Fraction

import av
import numpy as np
import pytest

from morphe.core.errors import OutputError
from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frame_at
from morphe.core.grade.convert import Convert
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Balance, Exposure
from morphe.core.handover.delivery import Delivery
from morphe.core.handover.output import whole_file
from morphe.core.handover.presets import PRESETS
from morphe.core.handover.render import Cancelled, render
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.perception import delta_e_2000, encoded_to_lab
from morphe.core.signal.primaries import Primaries
from morphe.core.signal.profiles import PROFILES
from morphe.core.signal.ycbcr import Matrix, Range
from tests.footage import ClipSpec, decoded_planes, scene, write_clip

BRIGHTER = Grade.of(Exposure(stops=0.5), Balance(warmth=15))


def rendered(path, out, grade=BRIGHTER, delivery=None):
    render(probe(path), grade, out, delivery)
    return probe(out)


def times_of(path):
    with av.open(str(path)) as container:
        return [float(f.pts * f.time_base) for f in container.decode(video=0)]


@pytest.mark.parametrize(
    ("name", "spec"),
    [
        ("h264.mp4", ClipSpec()),
        ("hevc.mov", ClipSpec(codec="libx265", pixel_format="yuv420p10le")),
        ("film.mkv", ClipSpec(fps=Fraction(24000, 1001), pixel_format="yuv422p10le")),
        ("fast.mp4", ClipSpec(fps=Fraction(120), frames=30)),
        ("full.mp4", ClipSpec(range=Range.FULL)),
        ("wide.mov", ClipSpec(pixel_format="yuv444p", matrix=Matrix.BT601)),
        ("bare.mp4", ClipSpec(range=None, matrix=None)),
    ],
)
def test_given_any_common_clip_when_rendered_then_frames_times_depth_and_tags_are_right(tmp_path, name, spec):
    source, out = write_clip(tmp_path / name, spec), tmp_path / "out.mp4"

    info = rendered(source, out)

    assert info.codec == "h264"
    assert (info.width, info.height, info.frames, info.rotation) == (96, 64, spec.frames, 0)
    assert info.bit_depth == 8
    assert info.chroma == "4:2:0"
    assert (info.range, info.matrix, info.primaries, info.transfer) == (
        Range.NARROW, Matrix.BT709, Primaries.BT709, "bt709"
    )  # fmt: skip
    assert times_of(out) == pytest.approx([t - times_of(source)[0] for t in times_of(source)], abs=2e-3)


@pytest.mark.parametrize(("pixel_format", "limit"), [("yuv420p", 1.0), ("yuv420p10le", 0.6)])
def test_given_a_grade_when_rendered_then_the_picture_is_the_grade_of_the_source(
    tmp_path, pixel_format, limit
):
    source = write_clip(tmp_path / "clip.mp4", ClipSpec(pixel_format=pixel_format, size=(320, 180)))
    out = tmp_path / "out.mp4"

    info = rendered(source, out, delivery=Delivery.of("fine"))

    wanted = np.clip(evaluate(BRIGHTER, frame_at(probe(source), 0.2).encoded()), 0, 1)
    found = frame_at(info, 0.2).encoded()
    assert delta_e_2000(encoded_to_lab(found), encoded_to_lab(wanted)).mean() < limit


def test_given_a_log_clip_when_converted_then_it_is_the_ordinary_picture_of_the_scene(tmp_path):
    linear = PROFILES.get("std-709").decode(scene(320, 180))
    log = PROFILES.get("log-mild").encode(linear).astype(np.float32)
    source = write_clip(tmp_path / "log.mp4", ClipSpec(size=(320, 180)), lambda i: log)

    info = rendered(source, tmp_path / "out.mp4", Grade.of(Convert(profile="log-mild")), Delivery.of("fine"))

    found = frame_at(info, 0).encoded()
    assert delta_e_2000(encoded_to_lab(found), encoded_to_lab(scene(320, 180))).mean() < 1.5


def test_given_no_step_at_work_when_rendered_losslessly_then_planes_are_handed_on_unchanged(tmp_path):
    from dataclasses import replace

    lossless = Delivery(preset=replace(PRESETS.get("web"), options={"preset": "ultrafast", "qp": "0"}))
    source, out = write_clip(tmp_path / "clip.mp4"), tmp_path / "out.mp4"

    render(probe(source), Grade.of(Exposure(stops=1, on=False)), out, lossless)

    for before, after in zip(decoded_planes(source), decoded_planes(out), strict=True):
        assert all((a == b).all() for a, b in zip(before, after, strict=True))


def test_given_uneven_times_when_rendered_then_the_rate_stays_variable(tmp_path):
    spec = ClipSpec(pts=[0, 1, 2, 5, 6, 7, 12, 13, 14, 15, 20, 21])
    source, out = write_clip(tmp_path / "phone.mp4", spec), tmp_path / "out.mp4"

    info = rendered(source, out)

    assert info.variable_rate
    assert times_of(out) == pytest.approx([p / 25 for p in spec.pts], abs=2e-3)


@pytest.mark.parametrize("rotation", [90, 180, 270])
def test_given_a_turned_phone_when_rendered_then_the_result_stands_upright_without_a_tag(tmp_path, rotation):
    size = (64, 96) if rotation in (90, 270) else (96, 64)
    upright = scene(*size)
    stored = np.ascontiguousarray(np.rot90(upright, rotation // 90))
    source = write_clip(tmp_path / "turned.mp4", ClipSpec(rotation=rotation), lambda i: stored)

    info = rendered(source, tmp_path / "out.mp4", Grade(), Delivery.of("fine"))

    assert (info.width, info.height, info.rotation) == (*size, 0)
    found = frame_at(info, 0).encoded()
    assert delta_e_2000(encoded_to_lab(found), encoded_to_lab(upright)).mean() < 2


@pytest.mark.parametrize(
    ("size", "kept", "words"), [((97, 65), (96, 64), "last column and row"), ((96, 65), (96, 64), "last row")]
)
def test_given_odd_sizes_when_rendered_then_the_last_ones_are_dropped_and_it_is_said(
    tmp_path, size, kept, words
):
    spec = ClipSpec(codec="mjpeg", pixel_format="yuvj420p", size=size, range=Range.FULL)
    source = write_clip(tmp_path / "odd.mov", spec, lossless=False)

    done = render(probe(source), BRIGHTER, tmp_path / "out.mp4")

    assert (done.width, done.height) == kept
    assert done.dropped == words


@pytest.mark.parametrize(
    ("suffix", "codec", "expected"), [(".mp4", "aac", "aac"), (".mkv", "mp3", "mp3"), (".mkv", "ac3", "ac3"),
                                      (".mov", "pcm_s16le", "aac")]
)  # fmt: skip
def test_given_sound_when_rendered_then_it_is_copied_where_mp4_can_hold_it_else_encoded(
    tmp_path, suffix, codec, expected
):
    source = write_clip(tmp_path / f"sound{suffix}", ClipSpec(sound=codec, frames=50))
    out = tmp_path / "out.mp4"

    info = rendered(source, out)

    assert info.audio == expected
    with av.open(str(out)) as container:
        samples = sum(f.samples for f in container.decode(audio=0))
    assert samples / 48000 == pytest.approx(2.0, abs=0.1)


def test_given_creation_time_and_timecode_when_rendered_then_they_are_kept(tmp_path):
    spec = ClipSpec(metadata={"creation_time": "2026-05-01T10:00:00.000000Z"}, timecode="01:02:03:04")
    source = write_clip(tmp_path / "marked.mp4", spec)

    info = rendered(source, tmp_path / "out.mp4")

    assert info.creation_time == probe(source).creation_time
    assert info.timecode == "01:02:03:04"


# --- things that go wrong --------------------------------------------------------------------------


def test_given_the_source_as_output_when_rendered_then_it_is_refused_and_untouched(tmp_path):
    source = write_clip(tmp_path / "clip.mp4")
    before = source.read_bytes()
    link = tmp_path / "link.mp4"
    link.symlink_to(source)

    for out in (source, link):
        with pytest.raises(OutputError, match="read from"):
            render(probe(source), BRIGHTER, out)
    assert source.read_bytes() == before


@pytest.mark.parametrize("where", ["missing/out.mp4", "."])
def test_given_an_impossible_place_when_rendered_then_it_is_refused_before_work(tmp_path, where):
    source = write_clip(tmp_path / "clip.mp4")

    with pytest.raises(OutputError, match="folder"):
        render(probe(source), BRIGHTER, tmp_path / where)


def test_given_a_wish_to_stop_when_rendering_then_nothing_is_left(tmp_path):
    source = write_clip(tmp_path / "clip.mp4", ClipSpec(size=(640, 360), frames=200))
    out = tmp_path / "out.mp4"

    with pytest.raises(Cancelled):
        render(probe(source), BRIGHTER, out, progress=lambda done, total: False)

    assert [p.name for p in tmp_path.iterdir()] == ["clip.mp4"]


def failing_write(out, number, words):
    with whole_file(out) as part:
        part.write_bytes(b"half")
        raise OSError(number, words)


def test_given_a_full_disk_when_rendering_then_one_sentence_is_said_and_nothing_is_left(tmp_path):
    with pytest.raises(OutputError, match="disk is full"):
        failing_write(tmp_path / "out.mp4", errno.ENOSPC, "No space left on device")

    assert not list(tmp_path.iterdir())


def test_given_an_older_result_when_a_render_fails_then_the_older_one_stays(tmp_path):
    out = tmp_path / "out.mp4"
    out.write_bytes(b"yesterday")

    with pytest.raises(OutputError):
        failing_write(out, errno.EIO, "Input/output error")

    assert out.read_bytes() == b"yesterday"
    assert len(list(tmp_path.iterdir())) == 1

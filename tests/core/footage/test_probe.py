"""Probing: what real files say of themselves, what is assumed where they do not, and what is refused."""

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from morphe.core.errors import (
    DecodeError,
    EmptyFile,
    MediaError,
    NoPicture,
    SourceMissing,
    TooLarge,
    UnsupportedPixelFormat,
)
from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frame_at
from morphe.core.signal.primaries import Primaries
from morphe.core.signal.ycbcr import Matrix, Range
from tests.footage import ClipSpec, write_clip, write_sound

UNTAGGED = {"range": None, "matrix": None}


@pytest.mark.parametrize(
    ("suffix", "spec", "facts"),
    [
        (".mp4", ClipSpec(), ("h264", "mp4", 8, "4:2:0")),
        (".mov", ClipSpec(codec="libx265", pixel_format="yuv420p10le"), ("hevc", "mov", 10, "4:2:0")),
        (".mkv", ClipSpec(pixel_format="yuv422p10le"), ("h264", "mkv", 10, "4:2:2")),
        (".mp4", ClipSpec(pixel_format="yuv444p"), ("h264", "mp4", 8, "4:4:4")),
        (".mkv", ClipSpec(codec="libx265"), ("hevc", "mkv", 8, "4:2:0")),
    ],
)
def test_given_a_clip_of_any_common_kind_when_probed_then_its_facts_are_told(tmp_path, suffix, spec, facts):
    path = write_clip(tmp_path / f"clip{suffix}", spec)

    info = probe(path)

    assert (info.codec, info.container, info.bit_depth, info.chroma) == facts
    assert (info.width, info.height, info.frames, info.fps) == (96, 64, 12, 25)
    assert info.duration_s == pytest.approx(12 / 25, abs=1e-3)
    assert not info.variable_rate
    assert info.assumed == ()


@pytest.mark.parametrize("fps", [Fraction(24000, 1001), Fraction(30), Fraction(60000, 1001), Fraction(120)])
def test_given_any_common_rate_when_probed_then_it_is_exact(tmp_path, fps):
    info = probe(write_clip(tmp_path / "rate.mp4", ClipSpec(fps=fps, frames=20)))

    assert float(info.fps) == pytest.approx(float(fps), rel=1e-4)
    assert not info.variable_rate


def test_given_uneven_times_when_probed_then_the_rate_is_variable(tmp_path):
    times = [0, 1, 2, 5, 6, 7, 12, 13, 14, 15, 20, 21]

    info = probe(write_clip(tmp_path / "phone.mp4", ClipSpec(pts=times)))

    assert info.variable_rate
    assert info.frames == 12
    assert info.duration_s == pytest.approx(22 / 25, abs=0.05)


@pytest.mark.parametrize("rotation", [90, 180, 270])
def test_given_a_turned_phone_when_probed_then_rotation_is_told(tmp_path, rotation):
    info = probe(write_clip(tmp_path / "turned.mp4", ClipSpec(rotation=rotation)))

    assert info.rotation == rotation
    assert info.upright_size == ((64, 96) if rotation != 180 else (96, 64))


@pytest.mark.parametrize(("height", "matrix"), [(720, Matrix.BT709), (480, Matrix.BT601)])
def test_given_no_tags_when_probed_then_assumptions_are_made_and_said(tmp_path, height, matrix):
    spec = ClipSpec(size=(64, height), frames=2, **UNTAGGED)

    info = probe(write_clip(tmp_path / "bare.mp4", spec))

    assert (info.range, info.matrix, info.primaries) == (
        Range.UNSPECIFIED, Matrix.UNSPECIFIED, Primaries.UNSPECIFIED
    )  # fmt: skip
    assert info.effective_matrix is matrix
    assert any(a.startswith(f"matrix: {matrix}") for a in info.assumed)
    assert any(a.startswith("range: narrow") for a in info.assumed)


def test_given_tags_when_probed_then_they_are_believed(tmp_path):
    spec = ClipSpec(codec="libx265", pixel_format="yuv420p10le", range=Range.FULL, matrix=Matrix.BT2020,
                    primaries=9, transfer=18)  # fmt: skip

    info = probe(write_clip(tmp_path / "hlg.mp4", spec))

    assert (info.range, info.matrix, info.primaries, info.transfer) == (
        Range.FULL, Matrix.BT2020, Primaries.BT2020, "hlg"
    )  # fmt: skip


def test_given_sound_time_and_timecode_when_probed_then_they_are_found(tmp_path):
    spec = ClipSpec(
        sound="aac", metadata={"creation_time": "2026-05-01T10:00:00.000000Z"}, timecode="01:02:03:04"
    )

    info = probe(write_clip(tmp_path / "marked.mp4", spec))

    assert info.audio == "aac"
    assert info.creation_time and info.creation_time.startswith("2026-05-01T10:00:00")
    assert info.timecode == "01:02:03:04"


# --- refusals --------------------------------------------------------------------------------------


def refused(path, kind, words):
    with pytest.raises(kind, match=words) as told:
        probe(path)
    assert "\n" not in str(told.value) and path.name in str(told.value)


def test_given_a_missing_file_when_probed_then_the_path_is_named(tmp_path):
    refused(tmp_path / "none.mp4", SourceMissing, "check the path")


def test_given_an_empty_file_when_probed_then_it_is_said(tmp_path):
    path = tmp_path / "empty.mp4"
    path.touch()

    refused(path, EmptyFile, "empty")


@pytest.mark.parametrize(
    "content", [b"dear diary\n" * 400, bytes(5000), b"\x00\x00\x00\x18ftypmp42" + b"x" * 999]
)
def test_given_another_kind_of_file_when_probed_then_it_is_said(tmp_path, content):
    path = tmp_path / "diary.mp4"
    path.write_bytes(content)

    refused(path, MediaError, "copy it again|choose")


@pytest.mark.parametrize("share", [0.3, 0.6, 0.8])
@pytest.mark.parametrize("suffix", [".mp4", ".mkv"])
def test_given_a_cut_file_when_probed_then_it_is_said(tmp_path, share, suffix):
    whole = write_clip(tmp_path / f"whole{suffix}", ClipSpec(frames=60, size=(320, 180)), noisy)
    cut = tmp_path / f"cut{suffix}"
    cut.write_bytes(whole.read_bytes()[: int(whole.stat().st_size * share)])

    refused(cut, DecodeError, "copy it again")


def noisy(index):
    return np.random.default_rng(index).uniform(0, 1, (180, 320, 3)).astype(np.float32)


def test_given_sound_alone_when_probed_then_no_picture_is_said(tmp_path):
    refused(write_sound(tmp_path / "song.mp4"), NoPicture, "no picture")


def test_given_no_frames_when_probed_then_it_is_said(tmp_path):
    path = tmp_path / "none.mkv"
    with av.open(str(path), "w") as container:
        stream = container.add_stream("libx264", rate=25)
        stream.width, stream.height, stream.pix_fmt = 64, 64, "yuv420p"
        container.start_encoding()

    refused(path, MediaError, "no frame|copy it again|no picture")


def test_given_an_absurd_size_when_probed_then_it_is_refused(tmp_path):
    spec = ClipSpec(codec="mjpeg", pixel_format="yuvj420p", size=(8208, 32), frames=1)

    refused(write_clip(tmp_path / "wide.mov", spec), TooLarge, "8208×32")


def test_given_a_tiny_size_when_probed_then_it_is_refused(tmp_path):
    refused(write_clip(tmp_path / "dot.mkv", ClipSpec(size=(8, 8), frames=2)), TooLarge, "8×8")


def test_given_pixels_that_cannot_be_measured_when_probed_then_it_is_said(tmp_path):
    path = tmp_path / "picture.mov"
    with av.open(str(path), "w") as container:
        stream = container.add_stream("png", rate=25)
        stream.width, stream.height, stream.pix_fmt = 64, 64, "rgb24"
        frame = av.VideoFrame.from_ndarray(np.zeros((64, 64, 3), np.uint8), format="rgb24")
        for packet in [*stream.encode(frame), *stream.encode(None)]:
            container.mux(packet)

    refused(path, UnsupportedPixelFormat, "rgb24")


def trimmed(path: Path, source: Path, begin: int) -> Path:
    """A clip without its first frames, nothing encoded anew: an edit list hides what comes before."""
    with av.open(str(source)) as container, av.open(str(path), "w") as target:
        stream = container.streams.video[0]
        track = target.add_stream_from_template(stream)
        for packet in container.demux(stream):
            if packet.size:
                by = round(begin / stream.average_rate / stream.time_base)
                packet.pts, packet.dts, packet.stream = packet.pts - by, packet.dts - by, track
                target.mux(packet)
    return path


@pytest.mark.parametrize(("rate", "begin", "gop"), [(24, 11, "250"), (30, 5, "12"), (120, 31, "30")])
def test_given_a_clip_trimmed_without_encoding_when_probed_then_only_frames_that_are_shown_count(
    tmp_path, rate, begin, gop
):
    spec = ClipSpec(frames=60, fps=Fraction(rate), options={"g": gop, "bf": "2"})
    path = trimmed(tmp_path / "part.mp4", write_clip(tmp_path / "whole.mp4", spec), begin)

    info = probe(path)

    assert info.frames == 60 - begin
    assert info.duration_s == pytest.approx((60 - begin) / rate, abs=0.002)
    last = frame_at(info, info.duration_s - 0.5 / rate)
    assert (
        np.abs(last.encoded() - frame_at(probe(tmp_path / "whole.mp4"), 59.5 / rate).encoded()).max() < 0.01
    )


def test_given_a_colon_in_a_name_when_probed_then_it_is_no_protocol(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    write_clip(Path("10:05.mp4"))

    assert probe(Path("10:05.mp4")).frames == 12

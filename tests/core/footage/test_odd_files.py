"""Files that carry more or less than a picture and a sound: read, or refused in one clear sentence."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from morphe.core.errors import MorpheError
from morphe.core.footage.probe import probe
from morphe.core.handover.render import render
from morphe.core.reading.clip import read_clip
from tests.footage import ClipSpec, other_scene, write_clip

SIZE, FRAMES = (128, 96), 12


def written(path: Path, *streams: tuple[str, str, tuple[int, int]], **options: str) -> Path:
    """A file with one or more pictures: (codec, pixel format, size) each."""
    with av.open(str(path), "w", options={k.replace("_", "-"): v for k, v in options.items()}) as container:
        made = []
        for codec, pixel_format, size in streams:
            stream = container.add_stream(codec, rate=Fraction(25))
            stream.width, stream.height = size
            stream.pix_fmt, stream.time_base = pixel_format, Fraction(1, 25)
            if codec == "libx265":
                stream.options = {"x265-params": "log-level=0"}
            made.append(stream)
        for index in range(FRAMES):
            for stream in made:
                picture = other_scene(stream.width, stream.height, 5, at=0.01 * index)
                frame = av.VideoFrame.from_ndarray(np.uint8(255 * picture), "rgb24")
                frame.pts, frame.time_base = index, Fraction(1, 25)
                for packet in stream.encode(frame.reformat(format=stream.pix_fmt)):
                    container.mux(packet)
        for stream in made:
            for packet in stream.encode():
                container.mux(packet)
    return path


@pytest.mark.parametrize(
    ("name", "streams"),
    [
        ("444.mp4", [("libx264", "yuv444p", SIZE)]),
        ("422-10.mov", [("libx265", "yuv422p10le", SIZE)]),
        ("12-bit.mp4", [("libx265", "yuv420p12le", SIZE)]),
        ("two-pictures.mkv", [("libx264", "yuv420p", SIZE), ("libx264", "yuv420p", (64, 48))]),
        ("grey.mp4", [("libx265", "gray", SIZE)]),
    ],
)
def test_given_a_file_of_another_make_when_corrected_then_all_its_frames_come_out(name, streams, tmp_path):
    path = written(tmp_path / name, *streams)

    report = read_clip(path)
    done = render(report.info, report.advice.grade, tmp_path / "out.mp4")

    assert (report.info.width, report.info.height) == SIZE
    assert done.frames == probe(done.out).frames == FRAMES


@pytest.mark.parametrize(
    ("name", "streams", "words"),
    [
        ("alpha.mov", [("prores_ks", "yuva444p10le", SIZE)], "alpha.mov stores its pixels as"),
        ("rgb.mp4", [("libx264rgb", "rgb24", SIZE)], "rgb.mp4 stores its pixels as gbrp"),
    ],
)
def test_given_pixels_that_cannot_be_read_when_corrected_then_the_file_is_named_and_what_to_do(
    name, streams, words, tmp_path
):
    path = written(tmp_path / name, *streams)

    with pytest.raises(MorpheError, match=words) as refused:
        read_clip(path)

    assert "export it as" in str(refused.value)


@pytest.mark.parametrize("share", [0.02, 0.3, 0.7, 0.98])
@pytest.mark.parametrize("box", ["mp4", "mkv", "mov"])
def test_given_a_file_that_ends_in_the_middle_when_read_then_it_says_so_or_is_whole(share, box, tmp_path):
    """What is missing may be the index alone, of which a reader needs nothing."""
    whole = write_clip(tmp_path / f"whole.{box}", ClipSpec(size=SIZE, frames=40, sound="aac"))
    path = tmp_path / f"torn.{box}"
    path.write_bytes(whole.read_bytes()[: int(share * whole.stat().st_size)])

    said, frames = _read_or_refused(path)

    assert ("torn" in said and "copy it again" in said) or 30 <= frames <= 40


def _read_or_refused(path: Path) -> tuple[str, int]:
    try:
        return "", read_clip(path).info.frames
    except MorpheError as refused:
        return str(refused), 0

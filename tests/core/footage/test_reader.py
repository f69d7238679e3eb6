"""Frames as encoded pictures: matrix, range, depth, rotation and time are honoured and nothing is clipped."""

import numpy as np
import pytest

from morphe.core.errors import OutsideClip
from morphe.core.footage.judging import judging_frames
from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frame_at, frames_at, key_frames_at
from morphe.core.signal.ycbcr import Matrix, Range, rgb_to_ycbcr
from tests.footage import ClipSpec, picture_planes, scene, write_clip

ONE_CODE_8, ONE_CODE_10 = 1 / 219, 1 / 876
CHROMA_ROUNDING = 1.9  # a chroma code moves R'G'B' by up to this many luma codes


@pytest.mark.parametrize("matrix", [Matrix.BT601, Matrix.BT709, Matrix.BT2020])
@pytest.mark.parametrize("code_range", [Range.NARROW, Range.FULL])
@pytest.mark.parametrize(("pixel_format", "code"), [("yuv444p", ONE_CODE_8), ("yuv444p10le", ONE_CODE_10)])
def test_given_a_tagged_clip_when_read_then_colours_are_those_that_were_coded(
    tmp_path, matrix, code_range, pixel_format, code
):
    spec = ClipSpec(pixel_format=pixel_format, matrix=matrix, range=code_range, frames=2)
    path = write_clip(tmp_path / "tagged.mkv", spec)

    picture = frame_at(probe(path), 0).encoded()

    assert np.abs(picture - scene(96, 64)).max() < CHROMA_ROUNDING * code


def test_given_no_tags_when_read_then_red_is_that_of_the_assumed_matrix(tmp_path):
    red = np.zeros((720, 64, 3), np.float32)
    red[..., 0] = 1
    spec = ClipSpec(size=(64, 720), frames=1)
    tagged = write_clip(tmp_path / "tagged.mp4", spec, lambda i: red)
    bare = write_clip(tmp_path / "bare.mp4", ClipSpec(size=(64, 720), frames=1, range=None, matrix=None),
                      lambda i: red)  # fmt: skip

    with_tags, without = (frame_at(probe(p), 0).encoded()[0, 0] for p in (tagged, bare))

    assert without == pytest.approx(with_tags, abs=1e-6)
    assert without == pytest.approx([1, 0, 0], abs=2 * ONE_CODE_8)


def test_given_codes_beyond_nominal_when_read_then_they_are_kept(tmp_path):
    level = {0: 1.08, 1: -0.06}
    pictures = lambda i: np.full((64, 96, 3), level[i % 2], np.float32)  # noqa: E731

    info = probe(write_clip(tmp_path / "super.mp4", ClipSpec(frames=2), pictures))

    assert frame_at(info, 0).encoded().mean() == pytest.approx(1.08, abs=ONE_CODE_8)
    assert frame_at(info, 1 / 25).encoded().mean() == pytest.approx(-0.06, abs=ONE_CODE_8)


@pytest.mark.parametrize("rotation", [0, 90, 180, 270])
def test_given_a_turned_clip_when_read_then_it_stands_upright(tmp_path, rotation):
    upright = scene(*((64, 96) if rotation in (90, 270) else (96, 64)))
    stored = np.ascontiguousarray(np.rot90(upright, rotation // 90))
    spec = ClipSpec(rotation=rotation, frames=2, pixel_format="yuv444p")

    picture = frame_at(probe(write_clip(tmp_path / "turned.mp4", spec, lambda i: stored)), 0).encoded()

    assert picture.shape == upright.shape
    assert np.abs(picture - upright).max() < CHROMA_ROUNDING * ONE_CODE_8


def test_given_4_2_0_when_read_then_luma_is_exact_and_chroma_lies_on_its_pixel(tmp_path):
    spec = ClipSpec(frames=1)
    picture = scene(96, 64)

    planes = frame_at(probe(write_clip(tmp_path / "half.mp4", spec)), 0)

    luma, *_ = picture_planes(picture, spec)
    assert (planes.luma == luma).all()
    smooth = np.abs(planes.signal() - rgb_to_ycbcr(picture))[:16, 2:-2]  # above the bright square
    assert smooth[..., 1:].max() < 2 * ONE_CODE_8


def test_given_odd_sizes_when_read_then_every_column_is_there(tmp_path):
    spec = ClipSpec(codec="mjpeg", pixel_format="yuvj420p", size=(97, 65), frames=2, range=Range.FULL)

    planes = frame_at(probe(write_clip(tmp_path / "odd.mov", spec, lossless=False)), 0)

    assert planes.encoded().shape == (65, 97, 3)
    assert planes.cb.shape == (33, 49)


def test_given_times_when_read_then_the_frame_shown_then_is_given(tmp_path):
    level = lambda i: np.full((64, 96, 3), 0.1 + 0.05 * i, np.float32)  # noqa: E731
    info = probe(write_clip(tmp_path / "steps.mp4", ClipSpec(frames=12), level))

    seen = [round((frame_at(info, t).encoded().mean() - 0.1) / 0.05) for t in (0, 0.039, 0.041, 0.2, 0.479)]

    assert seen == [0, 0, 1, 5, 11]


def test_given_variable_times_when_read_then_the_frame_holds_until_the_next(tmp_path):
    level = lambda i: np.full((64, 96, 3), 0.1 + 0.05 * i, np.float32)  # noqa: E731
    spec = ClipSpec(frames=6, pts=[0, 1, 10, 11, 12, 30])
    info = probe(write_clip(tmp_path / "phone.mp4", spec, level))

    times = [t for t, _ in frames_at(info, [0.1, 0.41, 1.0])]

    assert times == pytest.approx([0.04, 0.40, 0.48], abs=0.021)


@pytest.mark.parametrize("time_s", [-0.1, 0.48, 99])
def test_given_a_time_outside_when_read_then_it_is_refused_with_the_range(tmp_path, time_s):
    info = probe(write_clip(tmp_path / "short.mp4"))

    with pytest.raises(OutsideClip, match=r"from 0 to 0\.48 s"):
        frame_at(info, time_s)


# --- judging frames --------------------------------------------------------------------------------


def test_given_a_flight_into_the_sun_when_judged_then_the_other_light_is_among_the_frames(tmp_path):
    def flight(index):
        return np.clip(scene(96, 64, index) * (0.5 if index < 40 else 1.3), 0, 1)

    info = probe(write_clip(tmp_path / "flight.mp4", ClipSpec(frames=60), flight))

    frames = judging_frames(info)

    assert [f.time_s for f in frames] == sorted(f.time_s for f in frames)
    assert {f.role for f in frames} == {"first", "middle", "other light"}
    assert min(f.time_s for f in frames) < 1.6 <= max(f.time_s for f in frames)
    assert all(f.encoded.shape == (64, 96, 3) for f in frames)


def test_given_a_fade_in_when_judged_then_the_first_frame_is_not_black(tmp_path):
    fade = lambda i: scene(96, 64, i) * min(i / 20, 1)  # noqa: E731

    frames = judging_frames(probe(write_clip(tmp_path / "fade.mp4", ClipSpec(frames=50), fade)))

    assert all(f.encoded.mean() > 0.03 for f in frames)


@pytest.mark.parametrize("codec", ["libx264", "libx265"])
def test_given_a_long_clip_when_judged_then_key_frames_over_its_length_are_taken(tmp_path, codec):
    slow = lambda i: scene(96, 64, i) * (0.6 + 0.002 * i)  # noqa: E731
    keys = {"g": "25", "bf": "2"} if codec == "libx264" else {"x265-params": "keyint=25:log-level=0"}
    spec = ClipSpec(codec=codec, frames=225, options=keys)
    info = probe(write_clip(tmp_path / "long.mp4", spec, slow, lossless=False))

    shots = list(key_frames_at(info, [0.3, 0.5, 2.1, 4.2, 8.6]))
    frames = judging_frames(info)

    assert [t for t, _ in shots] == pytest.approx([0, 2, 4, 8], abs=1e-3)
    for time_s, planes in shots:
        assert np.abs(planes.encoded() - slow(round(time_s * 25))).mean() < 0.02
    assert frames[-1].time_s - frames[0].time_s > 3


def test_given_one_frame_when_judged_then_it_is_the_judging_frame(tmp_path):
    frames = judging_frames(probe(write_clip(tmp_path / "one.mp4", ClipSpec(frames=1))))

    assert len(frames) == 1 and frames[0].time_s == 0

"""Good parts of a clip: frames counted and compared with the source, sound in step, timecode carried on."""

from fractions import Fraction
from itertools import pairwise

import av
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.errors import OutputError
from morphe.core.footage.probe import probe
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Exposure
from morphe.core.handover.delivery import Delivery
from morphe.core.handover.parts import Part, cuts_of, with_begin, with_end
from morphe.core.handover.render import render
from morphe.core.handover.timecode import later
from tests.footage import ClipSpec, decoded_planes, write_clip

FPS = 25


@pytest.fixture(scope="module")
def clip(tmp_path_factory):
    """Four seconds in which every frame has another grey."""
    spec = ClipSpec(size=(96, 64), frames=100, sound="aac", timecode="10:00:00:00", options={"g": "30"})
    greys = lambda i: np.full((64, 96, 3), 0.1 + 0.007 * i, np.float32)  # noqa: E731
    return write_clip(tmp_path_factory.mktemp("clip") / "clip.mp4", spec, greys)


def greys_of(path):
    return [float(planes[0].mean()) for planes in decoded_planes(path)]


def times_of(path, kind):
    with av.open(str(path)) as file:
        stream = getattr(file.streams, kind)[0]
        return [float(p.pts * p.time_base) for p in file.demux(stream) if p.pts is not None]


@pytest.mark.parametrize("grade", [Grade(), Grade.of(Exposure(stops=0.01))], ids=["as filmed", "graded"])
def test_given_two_parts_when_delivered_then_exactly_their_frames_follow_each_other(clip, tmp_path, grade):
    parts = (Part(begin_s=2.0, end_s=2.8), Part(begin_s=0.4, end_s=1.0))

    done = render(probe(clip), grade, tmp_path / "out.mp4", Delivery.of("fine", parts=parts))

    wanted = greys_of(clip)
    wanted = wanted[10:25] + wanted[50:70]
    assert done.frames == 35
    assert greys_of(done.out) == pytest.approx(wanted, abs=1.2)
    assert np.diff(sorted(times_of(done.out, "video"))) == pytest.approx(1 / FPS, abs=1e-3)
    sound = times_of(done.out, "audio")
    assert sound == sorted(sound) and sound[-1] == pytest.approx(1.4, abs=0.06)
    assert np.diff(sound).max() < 0.05
    assert probe(done.out).timecode == "10:00:00:10"


def test_given_a_part_in_a_size_when_delivered_then_size_and_frames_are_kept(clip, tmp_path):
    done = render(
        probe(clip), Grade(), tmp_path / "out.mp4", Delivery.of("small", parts=(Part(begin_s=1, end_s=2),))
    )

    assert done.frames == len(greys_of(done.out)) == 25


@pytest.mark.parametrize(
    "parts", [[(1, 1.05)], [(-1, 1)], [(9, 10)], [(0, 2), (1, 3)], [(i, i + 0.5) for i in range(50)]]
)
def test_given_parts_that_are_none_when_cut_then_a_sentence_says_so(clip, parts):
    with pytest.raises(OutputError):
        cuts_of([Part(begin_s=begin, end_s=end) for begin, end in parts], probe(clip))


@given(st.lists(st.tuples(st.booleans(), st.floats(0, 20)), max_size=12))
def test_given_any_ins_and_outs_when_set_then_parts_stay_apart_and_in_order(marks):
    parts = ()
    for is_begin, time_s in marks:
        try:
            parts = with_begin(parts, time_s, 20.0) if is_begin else with_end(parts, time_s)
        except OutputError:
            continue
    assert list(parts) == sorted(parts)
    assert all(one.end_s <= two.begin_s for one, two in pairwise(parts))
    assert all(p.length_s >= 0.2 and p.begin_s >= 0 and p.end_s <= 20 for p in parts)


@pytest.mark.parametrize(
    ("timecode", "frames", "fps", "wanted"),
    [
        ("10:00:00:00", 10, 25, "10:00:00:10"),
        ("10:59:59:24", 1, 25, "11:00:00:00"),
        ("01:00:59;29", 1, Fraction(30000, 1001), "01:01:00;02"),
        ("01:09:59;29", 1, Fraction(30000, 1001), "01:10:00;00"),
        ("00:00:00;00", 17982, Fraction(30000, 1001), "00:10:00;00"),
        ("23:59:59:29", 1, 30, "00:00:00:00"),
        ("later", 5, 25, "later"),
    ],
)
def test_given_a_timecode_when_frames_have_passed_then_it_is_the_one_of_the_standard(
    timecode, frames, fps, wanted
):
    assert later(timecode, frames, float(fps)) == wanted

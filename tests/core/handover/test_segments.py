"""Long renders in segments: the same file whoever made which, nothing twice and nothing missing."""

import hashlib
from fractions import Fraction

import av
import numpy as np
import pytest

from morphe.core.footage.probe import probe
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Scope
from morphe.core.grade.steps import Exposure
from morphe.core.grade.steps.grain import Grain
from morphe.core.handover import segments as cutting
from morphe.core.handover.delivery import Delivery, Order
from morphe.core.handover.film import film_of
from morphe.core.handover.parts import Part
from morphe.core.handover.render import render
from morphe.core.handover.segments import one_after_another, render_segment, segments_of
from tests.footage import ClipSpec, blocks_apart, frame_times, scene, write_clip

GRADE = Grade.of(Exposure(stops=0.5)).with_step(Grain(amount=3.0), Scope.FINISH)


@pytest.fixture(scope="module")
def clip(tmp_path_factory):
    """Five seconds with a key frame every second."""
    spec = ClipSpec(
        size=(160, 96), frames=125, sound="aac", options={"g": "25", "bf": "2"}, timecode="10:00:00:00"
    )
    return write_clip(
        tmp_path_factory.mktemp("long") / "long.mp4", spec, lambda i: scene(160, 96, i), lossless=False
    )


@pytest.fixture(autouse=True)
def short(monkeypatch):
    monkeypatch.setattr(cutting, "SEGMENT_S", 1.0)


def frames_of(path):
    """Time and digest of every frame."""
    with av.open(str(path)) as file:
        return [
            (float(f.pts * f.time_base), hashlib.sha1(f.to_ndarray().tobytes()).hexdigest())
            for f in file.decode(video=0)
        ]


def sound_of(path):
    with av.open(str(path)) as file:
        return np.concatenate([f.to_ndarray() for f in file.decode(audio=0)], axis=1)


@pytest.mark.parametrize("preset", ["web", "web-hevc", "web-av1", "editing"])
def test_given_segments_made_in_any_order_when_joined_then_the_file_is_that_of_one_machine(
    clip, tmp_path, preset
):
    def backwards(segments, progress):
        for segment in reversed(segments):
            render_segment(segment, lambda done, total: True)

    one = render(probe(clip), GRADE, tmp_path / "one.mp4", Delivery.of(preset))
    many = render(probe(clip), GRADE, tmp_path / "many.mp4", Delivery.of(preset), make=backwards)

    found = frames_of(many.out)
    assert [t for t, _ in found] == [t for t, _ in frames_of(one.out)]
    assert blocks_apart(one.out, many.out) < 0.5
    assert one.frames == many.frames == len(found) == 125
    assert [t for t, _ in found] == pytest.approx([i / 25 for i in range(125)], abs=1e-3)
    assert probe(many.out).timecode == "10:00:00:00"
    assert sorted(p.name for p in tmp_path.iterdir()) == ["many.mp4", "one.mp4"]


def test_given_a_long_clip_when_cut_then_pieces_lie_end_to_end_at_key_frames(clip, tmp_path):
    info = probe(clip)

    def film(*parts):
        return film_of([Order(info=info, grade=Grade(), delivery=Delivery(parts=parts))])

    whole = segments_of(film(), tmp_path)
    part = segments_of(film(Part(begin_s=1.0, end_s=4.0)), tmp_path)

    edges = [s.cut.begin_s for s in whole[1:]]
    assert len(whole) >= 4 and edges == [s.cut.end_s for s in whole[:-1]]
    assert all(abs(e - round(e)) < 1e-3 for e in edges)
    assert sum(s.frames for s in whole) == 125 and sum(s.frames for s in part) == 75


def test_given_a_segmented_and_a_straight_render_when_compared_then_sound_and_picture_are_alike(
    clip, tmp_path, monkeypatch
):
    cut = render(probe(clip), Grade(), tmp_path / "cut.mp4", Delivery.of("fine")).out
    monkeypatch.setattr(cutting, "SEGMENT_S", 10.0)
    straight = render(probe(clip), Grade(), tmp_path / "straight.mp4", Delivery.of("fine")).out

    assert [t for t, _ in frames_of(cut)] == [t for t, _ in frames_of(straight)]
    assert np.array_equal(sound_of(cut), sound_of(straight))


def test_given_finished_segments_when_begun_again_then_only_the_rest_is_rendered(clip, tmp_path):
    made, workshop = [], tmp_path / "workshop"

    def until_killed(segments, progress):
        for segment in segments:
            if len(made) == 3:
                raise KeyboardInterrupt
            made.append(segment.out.name)
            render_segment(segment, lambda done, total: True)

    with pytest.raises(KeyboardInterrupt):
        render(probe(clip), GRADE, tmp_path / "out.mp4", make=until_killed, workshop=workshop)
    before = {p.name: p.stat().st_mtime_ns for p in workshop.glob("*.seg")}
    done = render(probe(clip), GRADE, tmp_path / "out.mp4", workshop=workshop)

    assert len(before) == 3 and done.frames == 125
    assert all((workshop / name).stat().st_mtime_ns == when for name, when in before.items())
    assert blocks_apart(done.out, render(probe(clip), GRADE, tmp_path / "new.mp4").out) < 0.5


@pytest.mark.parametrize(("fps", "frames"), [(50, 250), (24, 120), (Fraction(30000, 1001), 150), (12.5, 62)])
def test_given_another_rate_when_delivered_then_frames_lie_on_its_ticks(clip, tmp_path, fps, frames):
    wanted = Delivery(fps=Fraction(fps).limit_denominator(1001))

    done = render(probe(clip), Grade(), tmp_path / "out.mp4", wanted)

    times = [t for t, _ in frames_of(done.out)]
    assert abs(done.frames - frames) <= 1 and len(times) == done.frames
    assert np.diff(times) == pytest.approx(1 / float(wanted.fps), abs=1e-3)
    assert not probe(done.out).variable_rate


def test_given_uneven_frames_and_a_timecode_when_rendered_in_segments_then_both_are_kept(tmp_path):
    ticks = [i + (i % 7 == 3) for i in range(0, 120)]
    spec = ClipSpec(
        size=(96, 64),
        frames=len(set(ticks)),
        pts=sorted(set(ticks)),
        timecode="10:00:00:00",
        options={"g": "25"},
    )
    source = write_clip(tmp_path / "phone.mp4", spec)
    counted = []

    def several(segments, progress):
        counted.append(len(segments))
        one_after_another(segments, progress)

    done = render(probe(source), Grade(), tmp_path / "out.mp4", make=several)

    made = probe(done.out)
    assert probe(source).variable_rate and made.variable_rate and counted[0] > 2
    assert done.frames == spec.frames and made.timecode == "10:00:00:00"
    assert np.abs(np.array(frame_times(done.out)) - spec.times_s).max() < 1e-3

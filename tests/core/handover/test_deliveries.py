"""What goes out beside a plain clip: HDR, joined files, wipes, stills, motion data; each looked over."""

import hashlib
from dataclasses import replace
from fractions import Fraction
from types import SimpleNamespace

import av
import cv2
import numpy as np
import pytest

from morphe.core.errors import OutputError
from morphe.core.footage.motion import Motion, motion_of
from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frame_at
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Scope
from morphe.core.grade.steps import Exposure
from morphe.core.grade.steps.bars import Crop
from morphe.core.handover.delivery import Delivery, Order
from morphe.core.handover.device_fit import device_fit
from morphe.core.handover.joined import Piece, joined
from morphe.core.handover.output_check import check_output_file
from morphe.core.handover.parts import Part
from morphe.core.handover.presets import PRESETS, own_preset, preset_from_json
from morphe.core.handover.render import render, render_film
from morphe.core.handover.rhythm import Rhythm, rhythm_cost
from morphe.core.handover.sound import Heard
from morphe.core.handover.stills import STILLS, graded_picture, write_still
from morphe.core.handover.verdict import State, Way
from morphe.core.handover.wipe import edge_of
from morphe.core.measure.file_strength import strength_of_planes
from morphe.core.pipeline.hdr_space import HdrSpace
from morphe.core.signal.transfer import encode_hlg
from tests.footage import ClipSpec, scene, write_clip

BRIGHTER = Grade.of(Exposure(stops=0.5))
HLG = ClipSpec(
    codec="libx265", pixel_format="yuv420p10le", size=(160, 96), frames=20, matrix="bt2020", primaries=9,
    transfer=18, sound="aac",
)  # fmt: skip


@pytest.fixture(scope="module")
def clip(tmp_path_factory):
    return write_clip(
        tmp_path_factory.mktemp("clip") / "clip.mp4", ClipSpec(size=(160, 96), frames=50, sound="aac")
    )


def looked_over(path, order, frames):
    before = strength_of_planes([frame_at(order.info, 0)])
    checked = check_output_file(path, order, frames, before, [0.0])
    return {v.key: v for v in checked.verdicts}


# --- HDR ------------------------------------------------------------------------------------------


def test_given_an_hdr_clip_when_delivered_as_hdr_then_light_is_what_was_set_and_tags_say_so(tmp_path):
    linear = np.clip(0.05 + 0.2 * scene(160, 96), 0, 1)
    source = write_clip(tmp_path / "hlg.mov", HLG, lambda i: encode_hlg(linear).astype(np.float32))
    order = Order(info=probe(source), grade=BRIGHTER, delivery=Delivery.of("web-hdr"))

    done = render(order.info, order.grade, tmp_path / "out.mp4", order.delivery)

    info = probe(done.out)
    assert (info.transfer, str(info.primaries), str(info.matrix), info.bit_depth) == (
        "hlg",
        "bt2020",
        "bt2020",
        10,
    )
    space = HdrSpace()
    light, filmed = space.light(frame_at(info, 0.2).encoded()), space.light(encode_hlg(linear))
    assert np.median(light / filmed) == pytest.approx(2**0.5, rel=0.03)
    assert looked_over(done.out, order, 20)["tags"].state is State.GOOD


def test_given_an_ordinary_clip_when_hdr_is_wanted_then_a_sentence_says_why_not(clip, tmp_path):
    with pytest.raises(OutputError, match="not filmed in HDR"):
        render(probe(clip), BRIGHTER, tmp_path / "out.mp4", Delivery.of("web-hdr"))


# --- joined ---------------------------------------------------------------------------------------


def tone(level, size):
    return lambda i: np.full((*size[::-1], 3), level, np.float32)


def test_given_clips_of_different_kinds_when_joined_then_frames_chapters_and_sound_are_exact(tmp_path):
    specs = [
        (ClipSpec(size=(160, 96), frames=50, sound="aac"), 0.2, ()),
        (ClipSpec(size=(96, 64), frames=30, fps=Fraction(30)), 0.5, ()),
        (ClipSpec(size=(160, 96), frames=50, sound="aac"), 0.8, (Part(begin_s=0.4, end_s=1.2),)),
    ]
    pieces = []
    for number, (spec, level, parts) in enumerate(specs):
        path = write_clip(tmp_path / f"{number}.mp4", spec, tone(level, spec.size))
        pieces.append(Piece(info=probe(path), grade=Grade(), title=f"Clip {number}", parts=parts))
    told = []

    film = joined(pieces, Delivery())
    done = render_film(film, tmp_path / "day.mp4", progress=lambda n, total: not told.append((n, total)))

    with av.open(str(done.out)) as file:
        frames = [
            (float(f.pts * f.time_base), f.to_ndarray(format="gray").mean() / 255)
            for f in file.decode(video=0)
        ]
        chapters = [(c["metadata"]["title"], c["start"] * c["time_base"]) for c in file.chapters()]
    assert done.frames == len(frames) == 50 + 25 + 20
    assert [t for t, _ in frames] == pytest.approx([i / 25 for i in range(95)], abs=1e-3)
    levels = [frames[i][1] for i in (0, 49, 50, 74, 75, 94)]
    assert levels == pytest.approx([0.2, 0.2, 0.5, 0.5, 0.8, 0.8], abs=0.1)
    assert [title for title, _ in chapters] == ["Clip 0", "Clip 1", "Clip 2"]
    assert [float(t) for _, t in chapters] == pytest.approx([0, 2, 3], abs=0.01)
    heard = sounds_of(done.out)
    loud = [
        np.abs(heard[:, round(a * 48000) : round(b * 48000)]).max()
        for a, b in ((0.2, 1.8), (2.2, 2.8), (3.2, 3.7))
    ]
    assert loud[0] > 0.05 and loud[1] < 0.01 and loud[2] > 0.05
    assert heard.shape[1] / 48000 == pytest.approx(95 / 25, abs=0.05)
    assert told == sorted(told)


def sounds_of(path):
    with av.open(str(path)) as file:
        return np.concatenate([f.to_ndarray() for f in file.decode(audio=0)], axis=1)


# --- the file looked over ---------------------------------------------------------------------------


def test_given_a_good_file_when_looked_over_then_every_verdict_is_good(clip, tmp_path):
    order = Order(info=probe(clip), grade=BRIGHTER, delivery=Delivery())
    done = render(order.info, order.grade, tmp_path / "out.mp4")

    found = looked_over(done.out, order, done.frames)

    assert list(found) == ["frames", "tags", "sound", "flashes", "levels", "banding", "blocks"]
    assert {v.state for k, v in found.items() if k not in ("banding", "blocks")} == {State.GOOD}


@pytest.mark.parametrize(
    ("key", "spec", "pictures", "way"),
    [
        ("frames", ClipSpec(size=(160, 96), frames=40, sound="aac"), None, Way.AGAIN),
        ("tags", ClipSpec(size=(160, 96), frames=50, sound="aac", matrix=None, range=None), None, Way.AGAIN),
        ("sound", ClipSpec(size=(160, 96), frames=50), None, Way.AGAIN),
        (
            "flashes", ClipSpec(size=(160, 96), frames=50, sound="aac"),
            lambda i: np.full((96, 160, 3), 0.2 if i // 3 % 2 else 0.9, np.float32), Way.PARTS,
        ),
    ],
)  # fmt: skip
def test_given_a_file_with_a_fault_when_looked_over_then_it_is_named_with_a_way_back(
    clip, tmp_path, key, spec, pictures, way
):
    order = Order(info=probe(clip), grade=Grade(), delivery=Delivery())
    out = write_clip(tmp_path / "bad.mp4", spec, *([pictures] if pictures else []))

    found = looked_over(out, order, 50)

    assert found[key].state in (State.BAD, State.CAUTION) and found[key].way is way
    assert found[key].sentence.endswith(".")


# --- wipe, stills, motion ---------------------------------------------------------------------------


def test_given_a_wipe_when_delivered_then_left_is_graded_right_as_filmed_and_the_edge_moves(clip, tmp_path):
    info = probe(clip)
    done = render(info, Grade.of(Exposure(stops=1.5)), tmp_path / "out.mp4", Delivery.of("fine", wipe=True))

    edges = [edge_of(i / 25, 160) for i in range(76)]
    assert edges[0] == 0 and max(edges) == 160 and edges == sorted(edges)
    at = next(i for i, e in enumerate(edges) if 70 <= e <= 100) / 25
    edge, made, filmed = (
        edge_of(at, 160),
        frame_at(probe(done.out), at).encoded(),
        frame_at(info, at).encoded(),
    )
    assert np.abs(made[:, edge + 8 :] - filmed[:, edge + 8 :]).mean() < 0.01
    assert (made[:, : edge - 4] - filmed[:, : edge - 4]).mean() > 0.05


@pytest.mark.parametrize("kind", list(STILLS))
def test_given_any_kind_of_still_when_written_then_it_is_the_graded_picture(clip, tmp_path, kind):
    info, grade = probe(clip), BRIGHTER.with_step(Crop(ratio=1.0), Scope.FINISH)
    out = tmp_path / f"still{STILLS[kind].ending}"

    size = write_still(info, grade, 0.5, out, kind)

    read = cv2.imread(str(out), cv2.IMREAD_UNCHANGED)
    assert read.dtype == (np.uint16 if kind == "png16" else np.uint8) and size == (96, 96)
    wanted = graded_picture(info, grade, 0.5)
    assert np.abs(read[..., ::-1] / np.iinfo(read.dtype).max - wanted).mean() < 0.02


def with_motion(path, out):
    """The clip with a track of motion data, one packet a frame."""
    with av.open(str(path)) as source, av.open(str(out), "w") as target:
        pairs = {s.index: target.add_stream_from_template(s) for s in source.streams}
        data = target.add_data_stream("bin_data")
        data.time_base = Fraction(1, 25)
        for packet in source.demux():
            if packet.size:
                packet.stream = pairs[packet.stream.index]
                target.mux(packet)
        for i in range(50):
            packet = av.Packet(b"turned %02d" % i)
            packet.pts = packet.dts = i
            packet.duration = 1
            packet.time_base, packet.stream = Fraction(1, 25), data
            target.mux(packet)
    return out


def motion_in(path):
    with av.open(str(path)) as file:
        data = [s for s in file.streams if s.type == "data"]
        return [bytes(p) for p in file.demux(data) if p.size] if data else []


@pytest.mark.parametrize("cuts", [(), ((0.4, 1.2),), ((0.4, 0.8), (1.0, 1.6))])
def test_given_motion_data_when_delivered_then_it_goes_along(clip, tmp_path, cuts):
    parts = tuple(Part(begin_s=begin, end_s=end) for begin, end in cuts)
    info = probe(with_motion(clip, tmp_path / "moved.mp4"))

    done = render(info, BRIGHTER, tmp_path / "out.mp4", Delivery(parts=parts))

    assert info.motion is Motion.KEPT
    wanted = [n for begin, end in cuts or [(0, 2)] for n in range(round(25 * begin), round(25 * end))]
    assert motion_in(done.out) == [b"turned %02d" % i for i in wanted]
    assert probe(done.out).frames == len(wanted) and probe(done.out).audio


# --- shapes, rates, presets, devices ----------------------------------------------------------------


def test_given_another_shape_when_delivered_then_the_picture_lies_whole_between_bars(clip, tmp_path):
    done = render(probe(clip), Grade(), tmp_path / "out.mp4", Delivery.of("fine", size=(200, 200)))

    made = frame_at(probe(done.out), 0.5).encoded()
    plain = cv2.resize(frame_at(probe(clip), 0.5).encoded(), (200, 120), interpolation=cv2.INTER_LINEAR)
    assert made.shape[:2] == (200, 200)
    assert np.abs(made[:38]).max() < 0.03 and np.abs(made[162:]).max() < 0.03
    assert np.abs(made[40:160] - plain).mean() < 0.03


def test_given_frames_at_any_times_when_laid_on_ticks_then_none_is_missing_and_each_is_the_one_shown():
    rhythm = Rhythm(Fraction(10))
    laid = [pair for frame, at in (("a", 0.0), ("b", 0.25), ("c", 0.3)) for pair in rhythm.push(frame, at)]
    laid += rhythm.flush(0.6)

    assert laid == [("a", 0), ("a", 1), ("a", 2), ("c", 3), ("c", 4), ("c", 5)]
    assert rhythm_cost(25, 25) == "" and "every second one" in rhythm_cost(50, 25)
    assert "jerks" in rhythm_cost(30, 25) and "shown 2 times" in rhythm_cost(25, 50)


def test_given_a_preset_of_ones_own_when_kept_and_read_then_it_is_the_same_and_renders(clip, tmp_path):
    own = own_preset("own-1", "Reel", {"codec": "libx265", "coarser": 6, "bit_depth": 10, "ratio": 0.8})

    read = preset_from_json(own.as_json())
    done = render(probe(clip), BRIGHTER, tmp_path / "out.mp4", Delivery(preset=read))

    assert read == own and PRESETS.get("web").as_json() == "web"
    assert Delivery.from_json(Delivery(preset=own, wipe=True).as_json()) == Delivery(preset=own, wipe=True)
    assert (probe(done.out).bit_depth, probe(done.out).codec) == (10, "hevc")
    assert done.width / done.height == pytest.approx(0.8, abs=0.03)


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"codec": "mpeg"}, "H.264, HEVC or AV1"), ({"codec": "libx265", "chroma": "4:2:2"}, "made as H.264"),
        ({"coarser": 99}, "Quality lies"), ({"megabytes": -1}, "0 and 4000"),
    ],
)  # fmt: skip
def test_given_values_that_are_no_preset_when_made_then_a_sentence_says_so(values, words):
    with pytest.raises(OutputError, match=words):
        own_preset("own", "Mine", values)


def test_given_presets_when_held_against_devices_then_what_refuses_them_is_said():
    def refused(preset, bits=8, fps=25.0):
        return {f.device for f in device_fit(preset, bits, (1920, 1080), fps) if not f.plays}

    assert refused(PRESETS.get("web")) == set()
    assert refused(PRESETS.get("web"), bits=10) == {"phones", "televisions"}
    assert "editing" in refused(PRESETS.get("web-av1"))
    deep = replace(PRESETS.get("web-hevc"))
    assert refused(deep, bits=10) == set()


def test_given_sound_left_out_when_looked_over_then_that_is_as_it_was_said(clip, tmp_path):
    order = Order(info=probe(clip), grade=Grade(), delivery=Delivery(sound=Heard.LEFT_OUT))
    done = render(order.info, order.grade, tmp_path / "out.mp4", order.delivery)

    assert "as you said" in looked_over(done.out, order, done.frames)["sound"].sentence
    assert hashlib.sha1(done.out.read_bytes()).hexdigest()


def test_given_tracks_of_data_when_asked_then_what_becomes_of_them_is_known():
    def of(*tracks):
        streams = [SimpleNamespace(type="data", name=name, codec_tag=tag) for name, tag in tracks]
        return motion_of(SimpleNamespace(streams=streams))

    assert of() is of((None, "tmcd")) is Motion.NONE
    assert of(("bin_data", "xxxx"), (None, "tmcd")) is Motion.KEPT
    assert of(("bin_data", "xxxx"), (None, "yyyy")) is Motion.LOST

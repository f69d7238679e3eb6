"""Sound stands where it was filmed: to the sample where it is encoded, in every delivery."""

import random
from fractions import Fraction
from itertools import pairwise

import av
import numpy as np
import pytest

from morphe.core.footage.probe import probe
from morphe.core.grade.grade import Grade
from morphe.core.handover.delivery import Delivery
from morphe.core.handover.joined import Piece, joined
from morphe.core.handover.parts import Part
from morphe.core.handover.render import render, render_film
from morphe.core.handover.sound import Heard
from tests.footage import ClipSpec, click_of, write_clip

ONE_MS = 0.001
CODECS = {"pcm_s16le": ("mov", (44_100, 48_000, 96_000)), "aac": ("mp4", (44_100, 48_000, 96_000)),
          "libopus": ("mkv", (48_000,))}  # fmt: skip
WAYS = {
    "whole": (Delivery(), 0.0),
    "part": (Delivery(parts=(Part(begin_s=0.2, end_s=1.6),)), 0.2),
    "parts": (Delivery(parts=(Part(begin_s=0.08, end_s=0.28), Part(begin_s=0.4, end_s=1.6))), 0.2),
    "levelled": (Delivery(sound=Heard.LEVELLED), 0.0),
    "retimed": (Delivery(fps=Fraction(24)), 0.0),
}


@pytest.mark.parametrize("at_s", [-0.5, -0.02, 0.0, 0.02, 0.5])
def test_given_sound_beside_its_picture_when_delivered_any_way_then_a_click_stays_where_it_was(
    tmp_path, fresh_seed, at_s
):
    draw = random.Random(f"{fresh_seed} {at_s}")
    codec = draw.choice(list(CODECS))
    box, rates = CODECS[codec]
    start_s, rate = draw.choice([Fraction(1), Fraction(7, 5)]), draw.choice(rates)
    print(f"{codec} in {box}, {rate} Hz, at {at_s} s, from {start_s} s")
    spec = ClipSpec(
        size=(64, 48), frames=50, sound=codec, sound_rate=rate, sound_at_s=at_s, start_s=start_s
    )  # fmt: skip
    info = probe(write_clip(tmp_path / f"clip.{box}", spec))
    filmed, out = click_of(info.path), tmp_path / "out.mp4"

    heard = {}
    for way, (wanted, earlier_s) in WAYS.items():
        render(info, Grade(), out, wanted)
        heard[way] = click_of(out) + earlier_s
    piece = Piece(info=info, grade=Grade(), title="Again")
    render_film(joined([piece, piece], Delivery()), out)
    clicks = clicks_of(out)

    assert heard == pytest.approx(dict.fromkeys(WAYS, filmed), abs=ONE_MS)
    assert clicks == pytest.approx([filmed, filmed + 2.0], abs=ONE_MS)


def clicks_of(path):
    """Every click of a file, in seconds after its first frame."""
    rate, samples = samples_of(path)
    loud = np.flatnonzero(np.abs(samples).max(axis=0) > 0.4)
    first = [int(loud[0]), *(int(b) for a, b in pairwise(loud) if b - a > rate / 2)]
    return [at / rate for at in first]


def samples_of(path, track=0):
    """Rate, and the samples (channels, n) of a track from the file's first frame on, by their times."""
    with av.open(str(path)) as file:
        frames = list(file.decode(file.streams.audio[track]))
        rate = frames[0].sample_rate
        begin = round(float(frames[0].pts * frames[0].time_base) * rate)
        samples = np.concatenate([f.to_ndarray() for f in frames], axis=1)
    return rate, np.pad(samples, ((0, 0), (max(begin, 0), 0)))[:, max(-begin, 0) :]


def retold(path, out, tell):
    """The clip anew, with what `tell(number)` adds to the seconds of each packet of sound."""
    with av.open(str(path)) as source, av.open(str(out), "w") as target:
        tracks = {s.index: target.add_stream_from_template(s) for s in source.streams}
        number = 0
        for packet in source.demux():
            if not packet.size:
                continue
            if packet.stream.type == "audio":
                by = round(tell(number) / packet.time_base)
                packet.pts, packet.dts, number = packet.pts + by, packet.dts + by, number + 1
            packet.stream = tracks[packet.stream.index]
            target.mux(packet)
    return out


@pytest.mark.parametrize(
    "tell",
    [lambda n: 0.8 if n > 40 else 0.0, lambda n: 36_000.0 if n > 60 else 0.0],
    ids=["a gap", "a clock that jumps"],
)
def test_given_sound_with_a_hole_when_encoded_then_it_is_silent_there_and_no_longer_than_it_was(
    tmp_path, tell
):
    spec = ClipSpec(size=(64, 48), frames=50, sound="pcm_s16le")
    clip = write_clip(tmp_path / "whole.mkv", spec)
    info = probe(retold(clip, tmp_path / "holed.mkv", tell))

    render(info, Grade(), tmp_path / "out.mp4")

    _, samples = samples_of(tmp_path / "out.mp4")
    assert click_of(tmp_path / "out.mp4") == pytest.approx(click_of(clip), abs=ONE_MS)
    assert samples.shape[1] / 48_000 < 2.9


def test_given_a_stream_whose_times_begin_late_when_delivered_then_picture_and_sound_begin_at_once(tmp_path):
    spec = ClipSpec(size=(64, 48), frames=50, sound="aac", start_s=Fraction(7, 5))
    info = probe(write_clip(tmp_path / "clip.ts", spec, lossless=False))
    filmed = click_of(info.path)

    for number, wanted in enumerate((Delivery(), Delivery(fps=Fraction(30)))):
        out = tmp_path / f"{number}.mp4"
        render(info, Grade(), out, wanted)
        with av.open(str(out)) as file:
            begin = float(next(file.decode(video=0)).time)

        assert begin == 0.0 and click_of(out) == pytest.approx(filmed, abs=ONE_MS)


@pytest.mark.parametrize("heard", list(Heard))
def test_given_two_tracks_of_sound_when_delivered_then_both_are_there_or_neither(tmp_path, heard):
    spec = ClipSpec(size=(64, 48), frames=50, sound="aac", sound_layout="4.0", sound_tracks=2)
    two = write_clip(tmp_path / "two.mp4", spec)

    render(probe(two), Grade(), tmp_path / "out.mp4", Delivery(sound=heard))

    with av.open(str(tmp_path / "out.mp4")) as file:
        channels = [s.layout.nb_channels for s in file.streams.audio]
    assert channels == ([] if heard is Heard.LEFT_OUT else [4, 4])


def test_given_chapters_when_a_part_goes_out_then_those_in_it_go_along(tmp_path):
    path = write_clip(tmp_path / "clip.mp4", ClipSpec(size=(64, 48), frames=100))
    named = tmp_path / "named.mp4"
    with av.open(str(path)) as source, av.open(str(named), "w") as target:
        track = target.add_stream_from_template(source.streams.video[0])
        target.set_chapters([
            {"id": n, "start": 1000 * n, "end": 1000 * (n + 1), "time_base": Fraction(1, 1000),
             "metadata": {"title": f"Dive {n}"}} for n in range(4)
        ])  # fmt: skip
        for packet in source.demux(video=0):
            if packet.size:
                packet.stream = track
                target.mux(packet)

    render(probe(named), Grade(), tmp_path / "out.mp4", Delivery(parts=(Part(begin_s=1.52, end_s=3.0),)))

    with av.open(str(tmp_path / "out.mp4")) as file:
        told = [(c["metadata"]["title"], float(c["start"] * c["time_base"])) for c in file.chapters()]
    assert told == [("Dive 1", 0.0), ("Dive 2", 0.48)]

"""Sources of every kind through every preset: all frames at their times, all sound, marks as they are due."""

from dataclasses import replace
from fractions import Fraction

import av
import numpy as np
import pytest

from morphe.core.errors import OutputError
from morphe.core.footage.probe import probe
from morphe.core.grade.grade import Grade
from morphe.core.grade.reel import Reel
from morphe.core.grade.steps import Exposure
from morphe.core.handover.delivery import Delivery, Order
from morphe.core.handover.output_check import check_output_file
from morphe.core.handover.presets import PRESETS
from morphe.core.handover.render import graded_for, render
from morphe.core.handover.verdict import State
from morphe.core.signal.ycbcr import Matrix, Range
from tests.footage import ClipSpec, frame_times, write_clip

GRADE = Grade.of(Exposure(stops=0.3))
SIZE = (90, 66)
HDR = ClipSpec(
    codec="libx265", pixel_format="yuv420p10le", size=SIZE, matrix=Matrix.BT2020, primaries=9, transfer=18,
    sound="aac", sound_layout="4.0",
)  # fmt: skip
SOURCES = {
    "HLG, four channels": ("mov", HDR),
    "PQ, no sound": ("mp4", replace(HDR, transfer=16, sound=None)),
    "10-bit 4:2:2 of single frames, 96 kHz": ("mov", ClipSpec(
        codec="prores_ks", pixel_format="yuv422p10le", size=SIZE, sound="pcm_s24le", sound_rate=96_000)),
    "120 a second, odd sides, turned, two tracks": ("mp4", ClipSpec(
        size=(91, 65), pixel_format="yuv444p", fps=Fraction(120), frames=16, rotation=90, sound="aac",
        sound_tracks=2)),
    "240 a second, uneven times": ("mp4", ClipSpec(
        size=SIZE, fps=Fraction(240), ticks=4, frames=24, pts=[4 * i + (i % 3 == 1) for i in range(24)])),
    "full range, Opus": ("mkv", ClipSpec(size=SIZE, range=Range.FULL, sound="libopus")),
}  # fmt: skip


@pytest.fixture(scope="module")
def sources(tmp_path_factory):
    folder = tmp_path_factory.mktemp("odd")
    pairs = enumerate(SOURCES.items())
    return {
        name: write_clip(folder / f"{n}.{box}", spec, lossless=spec.codec != "prores_ks")
        for n, (name, (box, spec)) in pairs
    }


@pytest.mark.parametrize("source", list(SOURCES))
@pytest.mark.parametrize("preset", list(PRESETS))
def test_given_any_source_when_delivered_by_any_preset_then_the_file_holds_all_that_is_due(
    sources, tmp_path, source, preset
):
    spec, info, wanted = SOURCES[source][1], probe(sources[source]), Delivery.of(preset)
    if wanted.preset.hdr and info.transfer not in ("hlg", "pq"):
        with pytest.raises(OutputError, match="not filmed in HDR"):
            render(info, GRADE, tmp_path / "out.mp4", wanted)
        return

    done = render(info, GRADE, tmp_path / "out.mp4", wanted)

    made = probe(done.out)
    assert done.frames == made.frames == spec.frames
    assert np.abs(np.array(frame_times(done.out)) - spec.times_s).max() < 0.0011
    assert made.bit_depth == wanted.preset.bits_for(info.bit_depth) and made.rotation == 0
    with av.open(str(done.out)) as file:
        channels = [s.layout.nb_channels for s in file.streams.audio]
    assert channels == ([{"4.0": 4}.get(spec.sound_layout, 2)] * spec.sound_tracks if spec.sound else [])
    order = Order(info=info, grade=Reel.of(graded_for(GRADE, wanted)), delivery=wanted)
    verdicts = check_output_file(done.out, order, done.frames, None, [0.0]).verdicts
    assert {
        v.key: v.sentence
        for v in verdicts
        if v.key not in ("levels", "flashes") and v.state is not State.GOOD
    } == {}

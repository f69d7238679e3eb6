"""HDR that goes out as HDR: all of a grade, by light that goes on above white."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from morphe.core.advise.counted import edges_about
from morphe.core.footage.probe import probe
from morphe.core.grade.convert import Convert
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer
from morphe.core.grade.region import Ellipse, Region
from morphe.core.grade.steps import Balance, Contrast, Exposure, Film, Glow, HoldLights, Saturation, Vignette
from morphe.core.handover.delivery import Delivery
from morphe.core.handover.hdr import hdr_pipeline, why_not_hdr
from morphe.core.handover.render import render
from morphe.core.measure.surround import Surround
from morphe.core.pipeline.hdr_space import HdrSpace, carried, left_out
from morphe.core.pipeline.planes import Grader
from morphe.core.pipeline.reference import evaluate
from morphe.core.pipeline.tables import CodesIn
from morphe.core.signal.hdr import hlg_to_display
from morphe.core.signal.perception import delta_e_itp
from morphe.core.signal.transfer import decode_pq, encode_hlg, encode_pq
from morphe.core.signal.ycbcr import Matrix, Range, range_scale, rgb_to_ycbcr, ycbcr_to_rgb
from tests.core.advise.test_advice import info
from tests.footage import ClipSpec, decoded_planes, write_clip
from tests.strategies import stacked_grades

SIZE = (192, 108)
CODES = np.linspace(0.02, 0.98, 60, dtype=np.float32)
GREYS = np.repeat(CODES[:, None], 3, axis=1)
SCALE = range_scale(Range.NARROW, 10)


def filmed(transfer="hlg", depth=10):
    return replace(info(), transfer=transfer, bit_depth=depth)


def nits(code, transfer):
    return (hlg_to_display if transfer == "hlg" else decode_pq)(np.clip(code, 0, 1).astype(np.float64))


def lit(transfer):
    """A smooth picture (H, W, 3), even over blocks of 2 x 2, from deep shadow to five times white."""
    x, y = np.meshgrid(np.linspace(0, 1, SIZE[0] // 2), np.linspace(0, 1, SIZE[1] // 2))
    light = 700 * x[..., None] ** 3 * np.stack([0.5 + 0.5 * y, 0.7 + 0.2 * x, 1 - 0.5 * y], axis=-1) + 0.5
    code = encode_pq(light) if transfer == "pq" else encode_hlg(light / 1000)
    return signal_of(*codes_of(code.astype(np.float32).repeat(2, axis=0).repeat(2, axis=1)))


def codes_of(encoded):
    """Planes of 10-bit codes by the matrix of BT.2020."""
    signal = rgb_to_ycbcr(encoded, Matrix.BT2020)
    luma = np.rint(signal[..., 0] * SCALE.luma_scale + SCALE.luma_offset).astype(np.uint16)
    chroma = np.rint(signal[::2, ::2, 1:] * SCALE.chroma_scale + SCALE.chroma_offset).astype(np.uint16)
    return luma, chroma[..., 0].copy(), chroma[..., 1].copy()


def signal_of(luma, cb, cr):
    y = (luma.astype(np.float32) - SCALE.luma_offset) / SCALE.luma_scale
    c = [((p.astype(np.float32) - SCALE.chroma_offset) / SCALE.chroma_scale).repeat(2, 0).repeat(2, 1)
         for p in (cb, cr)]  # fmt: skip
    return ycbcr_to_rgb(np.stack([y, *c], axis=-1), Matrix.BT2020)


def rendered(pipeline, encoded, time_s=0.0):
    """A picture in 10-bit codes, graded as a render grades it, and back."""
    planes = codes_of(encoded)
    out = tuple(np.empty_like(p) for p in planes)
    codes = CodesIn(bit_depth=10, range=Range.NARROW, matrix=Matrix.BT2020)
    Grader(pipeline, codes, 10, Matrix.BT2020).grade(planes, time_s, out)
    return signal_of(*out)


def agree(found, wanted, transfer, by=1.0, at_most=4.0):
    apart = delta_e_itp(nits(found, transfer), nits(wanted, transfer))
    assert np.median(apart) < by and np.percentile(apart, 99) < at_most * by


def test_given_a_clip_when_hdr_is_wanted_then_only_ten_bits_of_hdr_can_go_out_so():
    assert why_not_hdr(filmed("hlg")) == "" == why_not_hdr(filmed("pq"))
    assert "not filmed in HDR" in why_not_hdr(filmed("bt709"))
    assert "8 bits only" in why_not_hdr(filmed("hlg", depth=8))
    assert "worked on as" in why_not_hdr(filmed("hlg"), Grade.of(Convert(profile="log-mild")))


@pytest.mark.parametrize("rendering", ["display", "scene"])
@pytest.mark.parametrize("transfer", ["hlg", "pq"])
def test_given_nothing_at_work_when_hdr_goes_out_then_it_is_the_same(transfer, rendering):
    grade = Grade.of(Convert(profile=transfer, rendering=rendering))

    out = rendered(hdr_pipeline(grade, filmed(transfer), transfer), lit(transfer))

    assert np.abs(out - lit(transfer)).max() < 3 / 876


@pytest.mark.parametrize("stops", [-1.0, 0.7])
def test_given_exposure_when_carried_then_light_is_that_much_more_above_white_too(stops):
    space = HdrSpace()
    before = space.light(GREYS[5:55])
    after = space.light(evaluate(Grade.of(Exposure(stops=stops)), GREYS[5:55], space=space))

    assert np.log2(after / before) == pytest.approx(stops, abs=0.02)
    assert before.max() > 1.5


@pytest.mark.parametrize(("came", "goes"), [("pq", "hlg"), ("hlg", "pq")])
def test_given_one_kind_when_it_goes_out_as_the_other_then_a_display_shows_the_same_light(came, goes):
    pipeline = hdr_pipeline(Grade(), filmed(came), goes)

    shown = nits(rendered(pipeline, lit(came)), goes)

    assert np.percentile(delta_e_itp(shown, nits(lit(came), came)), 99) < 2


@settings(max_examples=15, deadline=None)
@given(
    grade=stacked_grades(profiles=()), moment=st.floats(0, 4),
    ways=st.sampled_from([("hlg", "hlg"), ("pq", "pq"), ("hlg", "pq"), ("pq", "hlg")]),
)  # fmt: skip
def test_given_any_layers_regions_and_moments_when_hdr_goes_out_then_it_is_the_reference(grade, moment, ways):
    came, goes = ways
    wanted = evaluate(carried(grade), lit(came), time_s=moment, space=HdrSpace(came, goes))

    found = rendered(hdr_pipeline(grade, filmed(came), goes), lit(came), moment)

    # About one such grade in fifty bends strong colours at an edge of the gamut more than a table can follow.
    agree(found, wanted, goes, at_most=12)
    named = set(left_out(grade))
    kept = {step.label for layer in carried(grade).layers if layer.at_work for step in layer.steps}
    at_work = {s.label for layer in grade.layers if layer.at_work for s in layer.steps if s.at_work}
    assert at_work <= named | kept and not named & kept


def test_given_layers_off_weak_or_of_a_part_when_hdr_goes_out_then_each_does_what_it_does():
    part = Layer(id="part", steps=(Exposure(stops=2),), region=Region(shape=Ellipse(wide=0.2, tall=0.2)))
    off = Layer(id="off", steps=(Exposure(stops=-3),), on=False)
    weak = Layer(id="weak", steps=(Balance(warmth=30),), strength=0.1)
    grey = np.full((SIZE[1], SIZE[0], 3), 0.4, np.float32)
    through = hdr_pipeline(Grade().with_layer(part).with_layer(off), filmed())

    out, tinted = rendered(through, grey), rendered(hdr_pipeline(Grade().with_layer(weak), filmed()), grey)

    assert out[54, 96].mean() > 0.55 and np.abs(out[4, 4] - 0.4).max() < 0.003
    fully = rendered(hdr_pipeline(Grade().with_layer(replace(weak, strength=1.0)), filmed()), grey)
    assert 0 < np.abs(tinted - grey).max() < 0.3 * np.abs(fully - grey).max()


def test_given_what_has_no_meaning_above_white_when_hdr_goes_out_then_it_is_named():
    steps = Contrast(amount=15), Saturation(amount=10), HoldLights(stops=1), Vignette(amount=20)
    grade = Grade.of(*steps, Film(amount=40), Glow(amount=30))

    assert set(left_out(grade)) == {Film.label, Glow.label}
    assert left_out(Grade.of(replace(Film(amount=40), on=False))) == ()
    assert left_out(Grade().with_layer(Layer(id="off", steps=(Film(amount=40),), on=False))) == ()


@pytest.mark.parametrize("transfer", ["hlg", "pq"])
def test_given_black_bars_when_hdr_goes_out_then_they_stay_black(transfer):
    bars = edges_about(Surround(kind="black", left=0.2, right=0.2))
    picture = lit(transfer)
    picture[:, :38] = picture[:, -38:] = 0.05

    out = rendered(hdr_pipeline(Grade.of(bars, Exposure(stops=2)), filmed(transfer), transfer), picture)

    assert np.abs(out[:, :36]).max() < 2e-3 and out[:, 42:-42].mean() > picture[:, 42:-42].mean()


@pytest.mark.parametrize("preset", ["web-hdr", "hdr-pq", "hdr-av1", "hdr-pq-av1"])
@pytest.mark.parametrize("transfer", ["hlg", "pq"])
def test_given_a_file_when_it_goes_out_as_hdr_then_it_says_so_and_shows_the_reference(
    tmp_path, transfer, preset
):
    spec = ClipSpec(
        codec="libx265", pixel_format="yuv420p10le", size=SIZE, frames=8, matrix=Matrix.BT2020, primaries=9,
        transfer={"hlg": 18, "pq": 16}[transfer],
    )  # fmt: skip
    source = probe(write_clip(tmp_path / "in.mp4", spec, lambda index: lit(transfer)))
    part = Layer(id="part", steps=(Exposure(stops=1),), region=Region(shape=Ellipse(wide=0.3, tall=0.3)))
    grade = Grade.of(Exposure(stops=-0.5), Contrast(amount=10)).with_layer(part)

    render(source, grade, tmp_path / "out.mp4", Delivery.of(preset))

    made = probe(tmp_path / "out.mp4")
    goes = "pq" if "pq" in preset else "hlg"
    assert (made.transfer, made.bit_depth, made.frames, made.matrix) == (goes, 10, 8, Matrix.BT2020)
    wanted = evaluate(grade, lit(transfer), space=HdrSpace(transfer, goes))
    agree(signal_of(*decoded_planes(tmp_path / "out.mp4")[4]), wanted, goes, by=2.2)  # of which the coder 1.2

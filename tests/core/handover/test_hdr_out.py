"""HDR that goes out as HDR: light of the scene alone is carried, and HLG comes out as it went in."""

from dataclasses import replace

import numpy as np
import pytest

from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Balance, Contrast, Exposure, Saturation
from morphe.core.handover.hdr import HlgPass, hdr_left_out, hdr_pipeline, why_not_hdr
from morphe.core.signal.transfer import decode_hlg, encode_pq
from tests.core.advise.test_advice import info

CODES = np.linspace(0.02, 0.98, 60, dtype=np.float32)
GREYS = np.repeat(CODES[:, None], 3, axis=1)


def filmed(transfer="hlg", depth=10):
    return replace(info(), transfer=transfer, bit_depth=depth)


def test_given_a_clip_when_hdr_is_wanted_then_only_ten_bits_of_hdr_can_go_out_so():
    assert why_not_hdr(filmed("hlg")) == "" == why_not_hdr(filmed("pq"))
    assert "not filmed in HDR" in why_not_hdr(filmed("bt709"))
    assert "8 bits only" in why_not_hdr(filmed("hlg", depth=8))


def test_given_nothing_to_do_when_hlg_passes_then_it_is_the_same():
    assert HlgPass().apply(GREYS) == pytest.approx(GREYS, abs=2e-4)


@pytest.mark.parametrize("stops", [-1.0, 0.7])
def test_given_exposure_when_carried_then_light_of_the_scene_is_that_much_more(stops):
    passed = HlgPass(carried=(Exposure(stops=stops),)).apply(GREYS[5:35])
    ratio = decode_hlg(passed) / decode_hlg(GREYS[5:35])

    assert np.log2(ratio) == pytest.approx(stops, abs=0.02)


def test_given_pq_when_it_goes_out_as_hlg_then_greys_stay_grey_and_rise():
    nits = np.geomspace(1, 900, 40)
    pq = np.repeat(encode_pq(nits)[:, None], 3, axis=1).astype(np.float32)
    passed = HlgPass(pq=True).apply(pq)

    assert np.ptp(passed, axis=1).max() < 1e-4
    assert (np.diff(passed[:, 0]) > 0).all() and passed[-1, 0] < 1.0


def test_given_a_grade_when_hdr_goes_out_then_light_is_carried_and_the_rest_is_named():
    grade = Grade.of(Exposure(stops=0.5), Balance(warmth=10), Contrast(amount=15), Saturation(amount=10))
    (one,) = hdr_pipeline(grade, filmed()).passes

    assert {step.key for step in one.carried} == {"exposure", "balance"}
    assert set(hdr_left_out(grade)) == {Contrast.label, Saturation.label}
    assert hdr_left_out(Grade.of(Exposure(stops=1.0))) == ()

"""Baked tables and fast kernels against direct evaluation of the grade."""

import numpy as np
import pytest
from hypothesis import given, settings

from morphe.core.errors import ColourError
from morphe.core.footage.planes import Planes
from morphe.core.grade.convert import Convert
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Balance, BlackPoint, Contrast, Exposure, HoldLights, Saturation
from morphe.core.pipeline.cube import apply_lut, apply_lut_reference, bake_grade
from morphe.core.pipeline.passes import compile_grade
from morphe.core.pipeline.planes import Grader, to_420
from morphe.core.pipeline.reference import evaluate
from morphe.core.pipeline.tables import CodesIn
from morphe.core.signal.perception import delta_e_2000, encoded_to_lab
from morphe.core.signal.profiles import PROFILES
from morphe.core.signal.ycbcr import Matrix, Range, range_scale, rgb_to_ycbcr, ycbcr_to_rgb
from tests.strategies import encoded_pictures

FULL_CORRECTION = Grade.of(
    Exposure(stops=0.4),
    Balance(warmth=25, tint=2),
    BlackPoint(lower=2),
    Contrast(amount=8),
    Saturation(amount=10),
)
FROM_LOG = Grade.of(Convert(profile="log-mild"), Exposure(stops=0.3), HoldLights(stops=1.5))
FROM_WIDE = Grade.of(Convert(profile="log-wide"), Balance(warmth=-15))
HALF_CODE_8BIT = 0.5 / 219


def plausible(profile="std-709", count=20_000, seed=5):
    """Colours as a camera writes them: about four stops to either side of grey, moderate chroma (n, 1, 3)."""
    generator = np.random.default_rng(seed)
    stops = generator.normal(-0.3, 1.6, (count, 1, 1)) + generator.normal(0, 0.4, (count, 1, 3))
    return np.clip(PROFILES.get(profile).encode(0.18 * np.exp2(stops)), 0, 1).astype(np.float32)


def mean_difference(one, other):
    return float(delta_e_2000(encoded_to_lab(one), encoded_to_lab(other)).mean())


# --- three-dimensional tables ----------------------------------------------------------------------


@settings(max_examples=40)
@given(picture=encoded_pictures(-0.2, 1.3))
def test_given_any_picture_when_the_kernel_interpolates_then_it_agrees_with_plain_numpy(picture):
    table = bake_grade(FULL_CORRECTION, size=17)

    assert np.allclose(apply_lut(table, picture), apply_lut_reference(table, picture), atol=2e-5)


@pytest.mark.parametrize("grade", [FULL_CORRECTION, FROM_LOG, FROM_WIDE])
def test_given_a_grade_when_baked_then_colours_agree_with_direct_evaluation(grade):
    colours = plausible(grade.convert.profile)

    difference = mean_difference(apply_lut(bake_grade(grade, size=65), colours), evaluate(grade, colours))

    assert difference < 0.3


def test_given_no_step_at_work_when_baked_then_the_table_is_the_identity():
    colours = plausible(count=500)

    assert np.abs(apply_lut(bake_grade(Grade()), colours) - colours).max() < 1e-5


def test_given_not_a_number_when_applied_then_it_is_refused():
    picture = np.full((2, 2, 3), np.nan, np.float32)

    with pytest.raises(ColourError, match="no numbers"):
        apply_lut(bake_grade(Grade(), size=5), picture)


# --- planes ----------------------------------------------------------------------------------------


def planes_of(colours, bits, code_range=Range.NARROW, matrix=Matrix.BT709):
    """Blocks of 2 x 2 pixels of each colour as planes."""
    scale = range_scale(code_range, bits)
    dtype = np.uint8 if bits == 8 else np.uint16
    signal = rgb_to_ycbcr(colours, matrix)
    luma = np.rint(signal[..., 0] * scale.luma_scale + scale.luma_offset).repeat(2, 0).repeat(2, 1)
    chroma = [np.rint(signal[..., i] * scale.chroma_scale + scale.chroma_offset) for i in (1, 2)]
    return tuple(np.ascontiguousarray(np.clip(p, 0, scale.max_code).astype(dtype)) for p in (luma, *chroma))


def as_colours(planes, bits, code_range=Range.NARROW, matrix=Matrix.BT709):
    scale = range_scale(code_range, bits)
    luma = (planes[0][::2, ::2].astype(float) - scale.luma_offset) / scale.luma_scale
    chroma = [(p.astype(float) - scale.chroma_offset) / scale.chroma_scale for p in planes[1:]]
    return ycbcr_to_rgb(np.stack([luma, *chroma], axis=-1), matrix)


@pytest.mark.parametrize("grade", [FULL_CORRECTION, FROM_LOG, FROM_WIDE])
@pytest.mark.parametrize(("bits", "bits_out", "limit"), [(8, 8, 0.75), (10, 10, 0.3)])
@pytest.mark.parametrize(("code_range", "matrix"), [(Range.NARROW, Matrix.BT709), (Range.FULL, Matrix.BT601)])
def test_given_planes_when_graded_then_they_agree_with_direct_evaluation(
    grade, bits, bits_out, limit, code_range, matrix
):
    planes = planes_of(plausible(grade.convert.profile), bits, code_range, matrix)
    out = tuple(np.empty_like(p) for p in planes)

    codes = CodesIn(bit_depth=bits, range=code_range, matrix=matrix)
    Grader(compile_grade(grade), codes, bits_out).grade(planes, 0.0, out)

    expected = np.clip(evaluate(grade, as_colours(planes, bits, code_range, matrix)), 0, 1)
    # With 8 bits the rounding of the result to codes is part of the difference.
    assert mean_difference(as_colours(out, bits_out), expected) < limit


@pytest.mark.parametrize("grade", [FULL_CORRECTION, FROM_LOG])
def test_given_greys_when_planes_are_graded_then_luma_is_right_to_half_a_code(grade):
    greys = np.repeat(np.linspace(0.02, 0.95, 64, dtype=np.float32)[:, None, None], 3, axis=2)
    planes = planes_of(greys, 10)
    out = tuple(np.empty_like(p) for p in planes)

    codes = CodesIn(bit_depth=10, range=Range.NARROW, matrix=Matrix.BT709)
    Grader(compile_grade(grade), codes, 10).grade(planes, 0.0, out)

    expected = rgb_to_ycbcr(np.clip(evaluate(grade, as_colours(planes, 10)), 0, 1))[..., 0]
    found = (out[0][::2, ::2].astype(float) - 64) / 876
    assert np.abs(found - expected).max() < HALF_CODE_8BIT


@pytest.mark.parametrize("shape", [(64, 64, 32, 32), (64, 64, 64, 32), (64, 64, 64, 64), (65, 63, 33, 32)])
@pytest.mark.parametrize("bits", [8, 10])
def test_given_any_chroma_format_when_brought_to_4_2_0_then_sizes_are_even_and_flat_areas_keep_codes(
    shape, bits
):
    height, width, ch, cw = shape
    dtype = np.uint8 if bits == 8 else np.uint16
    planes = Planes(
        luma=np.full((height, width), 90, dtype), cb=np.full((ch, cw), 110, dtype),
        cr=np.full((ch, cw), 140, dtype), bit_depth=bits, range=Range.NARROW, matrix=Matrix.BT709,
    )  # fmt: skip

    luma, cb, cr = to_420(planes, bits=bits)

    assert luma.shape == (height // 2 * 2, width // 2 * 2)
    assert cb.shape == cr.shape == (height // 2, width // 2)
    assert (luma == 90).all() and (cb == 110).all() and (cr == 140).all()


def test_given_planes_of_another_layout_when_applied_then_they_are_refused():
    grader = Grader(compile_grade(Grade()), CodesIn(bit_depth=8, range=Range.NARROW, matrix=Matrix.BT709), 8)
    odd = (np.zeros((4, 4), np.uint8), np.zeros((4, 4), np.uint8), np.zeros((4, 4), np.uint8))

    with pytest.raises(ColourError, match="4:2:0"):
        grader.grade(odd, 0.0, odd)

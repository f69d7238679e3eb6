"""Reference, planes and screen make the same picture of any grade, at any moment."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from morphe.core.grade.convert import Convert
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer, Scope
from morphe.core.grade.moments import Moments
from morphe.core.grade.region import Ellipse, Region
from morphe.core.grade.steps import Exposure, Saturation, Sharpen, Vignette
from morphe.core.pipeline.passes import ColourPass, FramePass, MaskedPass, compile_grade
from morphe.core.pipeline.planes import Grader
from morphe.core.pipeline.reference import evaluate
from morphe.core.pipeline.screen import graded_still
from morphe.core.pipeline.tables import CodesIn
from morphe.core.signal.profiles import PROFILES
from morphe.core.signal.ycbcr import Matrix, Range, range_scale, rgb_to_ycbcr, ycbcr_to_rgb
from tests.strategies import stacked_grades

CODE = 1 / 219  # of 8 bits
WIDTH, HEIGHT = 192, 108
TEN_BITS = CodesIn(bit_depth=10, range=Range.NARROW, matrix=Matrix.BT709)


def picture(profile="std-709"):
    """A smooth, colourful picture (H, W, 3) as a camera of a profile writes it, even over blocks of 2 x 2."""
    x, y = np.meshgrid(np.linspace(0, 1, WIDTH // 2), np.linspace(0, 1, HEIGHT // 2))
    light = np.stack(
        [0.04 + 0.5 * x**2, 0.05 + 0.4 * y**2, 0.05 + 0.2 * (1 - x) * y + 0.25 * np.sin(3 * x) ** 2], axis=-1
    )
    encoded = PROFILES.get(profile).encode(light).astype(np.float32)
    return encoded.repeat(2, axis=0).repeat(2, axis=1)


def through_planes(grade, encoded, time_s, codes=TEN_BITS, *, frame=0):
    """A picture to codes, graded as a render grades it, and back."""
    scale = range_scale(codes.range, codes.bit_depth)
    dtype = np.uint8 if codes.bit_depth == 8 else np.uint16
    signal = rgb_to_ycbcr(encoded)
    luma = np.rint(signal[..., 0] * scale.luma_scale + scale.luma_offset).astype(dtype)
    chroma = np.rint(signal[::2, ::2, 1:] * scale.chroma_scale + scale.chroma_offset).astype(dtype)
    planes = luma, chroma[..., 0].copy(), chroma[..., 1].copy()
    out = tuple(np.empty_like(p) for p in planes)
    Grader(compile_grade(grade), codes, codes.bit_depth).grade(planes, time_s, out, frame=frame)
    y = (out[0].astype(np.float32) - scale.luma_offset) / scale.luma_scale
    c = [
        ((p.astype(np.float32) - scale.chroma_offset) / scale.chroma_scale).repeat(2, 0).repeat(2, 1)
        for p in out[1:]
    ]
    return ycbcr_to_rgb(np.stack([y, *c], axis=-1))


def agree(one, other):
    apart = np.abs(np.clip(one, 0, 1) - np.clip(other, 0, 1))
    assert apart.mean() < 0.75 * CODE
    # Where a channel of a strong colour nears zero, display coding is too steep for a table to follow.
    assert np.percentile(apart, 99) < 4 * CODE
    assert np.percentile(apart, 99.9) < 8 * CODE


@settings(max_examples=12, derandomize=True)
@given(grade=stacked_grades(), moment=st.floats(0, 4))
def test_given_any_layers_regions_and_moments_when_rendered_or_shown_then_it_is_the_reference(grade, moment):
    encoded = picture(grade.convert.profile)

    wanted = np.clip(evaluate(grade, encoded, time_s=moment), 0, 1)

    agree(graded_still(encoded, grade, moment), wanted)
    agree(through_planes(grade, encoded, moment), wanted)


def test_given_eight_bits_when_a_region_is_rendered_then_it_is_the_reference():
    part = Layer(id="part", steps=(Exposure(stops=0.8),), region=Region(shape=Ellipse()))
    grade = Grade.of(Convert(profile="log-mild"), Saturation(amount=15)).with_layer(part)
    eight = CodesIn(bit_depth=8, range=Range.NARROW, matrix=Matrix.BT709)
    encoded = np.rint(picture("log-mild") * 219) / 219

    found = through_planes(grade, encoded.astype(np.float32), 0.0, eight)

    apart = np.abs(found - np.clip(evaluate(grade, encoded.astype(np.float32)), 0, 1))
    assert apart.mean() < 1.5 * CODE  # the rounding of what came in, bent by the conversion, is part of it


def test_given_a_grade_when_compiled_then_neighbours_join_and_the_rest_stands_apart():
    part = Layer(id="part", steps=(Exposure(stops=1),), region=Region(shape=Ellipse()))
    finish = Layer(id="finish", scope=Scope.FINISH, steps=(Vignette(amount=20), Sharpen(amount=3)))
    light = Layer(id="light", scope=Scope.LIGHT, steps=(Exposure(stops=0.2),))
    grade = Grade.of(Convert(profile="flat-a"), Saturation(amount=5))
    for layer in (part, finish, light):
        grade = grade.with_layer(layer)

    passes = compile_grade(grade).passes

    assert [type(p) for p in passes] == [ColourPass, MaskedPass, FramePass, FramePass]
    assert [layer.id for layer in passes[0].layers] == ["light", "clip"]
    assert compile_grade(grade).left_out == ("the region “Region”", "vignette", "sharpening")


@pytest.mark.parametrize("grade", [Grade(), Grade.of(Exposure(stops=1, on=False)), Grade.of(Vignette())])
def test_given_nothing_at_work_when_compiled_then_there_is_no_pass_and_the_picture_is_handed_on(grade):
    encoded = picture()

    assert compile_grade(grade).passes == ()
    assert graded_still(encoded, grade) is encoded
    assert evaluate(grade, encoded) is encoded


def test_given_a_layer_that_is_off_when_evaluated_then_it_changes_nothing():
    encoded = picture()
    off = Layer(id="outing", scope=Scope.OUTING, steps=(Exposure(stops=2),), on=False)

    assert evaluate(Grade().with_layer(off), encoded) is encoded


def test_given_a_number_that_moves_when_knots_are_set_then_a_still_needs_few_and_a_swing_more():
    def knots(number):
        return compile_grade(Grade.of(Exposure(stops=number))).passes[0].knots

    assert knots(0.5) == (0.0,)
    assert len(knots(Moments(((0.0, 0.0), (4.0, 0.05))))) == 2
    assert 10 < len(knots(Moments(((0.0, -1.0), (4.0, 1.0))))) < 60

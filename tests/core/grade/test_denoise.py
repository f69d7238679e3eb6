"""Noise taken out: nearer to the noiseless truth, edges kept, nothing drawn behind what moves."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import pytest

from morphe.core.errors import ColourError
from morphe.core.grade.denoise import Denoise
from morphe.core.grade.grade import Grade
from morphe.core.grade.recipe import from_json, to_json
from morphe.core.grade.steps import Exposure
from morphe.core.measure.readings import luma_of
from morphe.core.pipeline.denoiser import Denoiser
from morphe.core.pipeline.passes import compile_grade
from morphe.core.pipeline.planes import Grader
from morphe.core.pipeline.reference import evaluate
from morphe.core.pipeline.tables import CodesIn
from morphe.core.signal.transfer import encode_bt709
from morphe.core.signal.ycbcr import Matrix, Range
from morphe.core.standins.demo import render_scene

CODES = CodesIn(bit_depth=8, range=Range.NARROW, matrix=Matrix.BT709)
FULL = Denoise(luma=100, colour=100, over_time=70, noise=5.0)


def psnr(one, other):
    return 10 * np.log10(255**2 / float(((np.asarray(one, float) - np.asarray(other, float)) ** 2).mean()))


def ssim(one, other):
    """Structural similarity of two planes of 0..255 (Wang et al. 2004, Gaussian window)."""
    a, b = np.asarray(one, np.float64), np.asarray(other, np.float64)

    def soft(plane):
        return cv2.GaussianBlur(plane, (11, 11), 1.5)

    mean_a, mean_b = soft(a), soft(b)
    var_a, var_b = soft(a * a) - mean_a**2, soft(b * b) - mean_b**2
    both = soft(a * b) - mean_a * mean_b
    c1, c2 = (0.01 * 255) ** 2, (0.03 * 255) ** 2
    found = (2 * mean_a * mean_b + c1) * (2 * both + c2)
    return float((found / ((mean_a**2 + mean_b**2 + c1) * (var_a + var_b + c2))).mean())


@pytest.fixture(scope="module", params=["jetty-tan", "sluice-approach"])
def plane(request):
    """Luma codes of a scene, without noise."""
    light = render_scene(request.param, 1.0, width=640, height=360)
    return (16 + 219 * luma_of(np.clip(encode_bt709(light), 0, 1))).astype(np.float32)


def noisy(plane, deviation, seed=0):
    rng = np.random.default_rng(seed)
    return np.clip(np.round(plane + rng.normal(0, deviation, plane.shape)), 0, 255).astype(np.uint8)


def frames_of(luma):
    half = np.full((luma.shape[0] // 2, luma.shape[1] // 2), 128, np.uint8)
    return luma, half, half.copy()


def cleaned(lumas, step):
    denoiser = Denoiser(step, CODES)
    return [denoiser.clean(frames_of(luma), n)[0] / 4 for n, luma in enumerate(lumas)]


@pytest.mark.parametrize("deviation", [4.0, 7.0])
def test_given_noise_when_taken_out_then_it_is_three_decibels_nearer_to_truth_and_edges_are_kept(
    plane, deviation
):
    filmed = [noisy(plane, deviation, seed) for seed in range(4)]

    out = cleaned(filmed, replace(FULL, noise=deviation))[-1]

    assert psnr(out, plane) > psnr(filmed[-1], plane) + 3
    assert ssim(out, plane) >= ssim(filmed[-1], plane)


def test_given_a_moving_edge_when_cleaned_over_time_then_nothing_of_it_stays_behind():
    def at(number):
        edge = np.full((64, 128), 60, np.uint8)
        edge[:, 20 + 6 * number : 60 + 6 * number] = 180
        return edge

    frames = [at(n) for n in range(6)]
    moving = cleaned(frames, FULL)[-1]
    alone = cleaned(frames[-1:], FULL)[-1]

    assert np.abs(moving - alone).max() < 1.0


def test_given_a_still_picture_when_cleaned_over_time_then_it_is_calmer_than_each_frame_alone(plane):
    filmed = [noisy(plane, 5.0, seed) for seed in range(6)]

    over_time, alone = cleaned(filmed, FULL)[-1], cleaned(filmed[-1:], FULL)[-1]

    assert psnr(over_time, plane) > psnr(alone, plane) + 0.5


def test_given_a_jump_in_the_frames_when_cleaned_then_it_begins_anew(plane):
    denoiser = Denoiser(FULL, CODES)
    denoiser.clean(frames_of(noisy(plane, 5, 1)), 0)

    after = denoiser.clean(frames_of(noisy(plane, 5, 2)), 30)[0]

    assert (after == Denoiser(FULL, CODES).clean(frames_of(noisy(plane, 5, 2)), 0)[0]).all()


def test_given_a_plain_colour_when_cleaned_then_every_code_stays():
    luma = np.repeat(np.arange(16, 236, dtype=np.uint8)[:, None], 64, axis=1).repeat(2, axis=0)

    assert np.abs(cleaned([luma], replace(FULL, noise=0.3))[0] - luma).max() <= 0.25


def test_given_a_grade_with_noise_taken_out_when_rendered_then_it_is_cleaned_first_and_said_of_a_table(plane):
    step = replace(FULL, height=plane.shape[0])
    grade = replace(Grade.of(Exposure(stops=0.5)), source=Grade.of(step).source)
    out = frames_of(np.empty(plane.shape, np.uint8))
    filmed = noisy(plane, 5.0)

    Grader(compile_grade(grade), CODES, 8).grade(frames_of(filmed), 0.0, out)
    picture = np.repeat(((filmed - 16.0) / 219)[..., None], 3, axis=-1).astype(np.float32)

    known = luma_of(np.clip(evaluate(grade, picture), 0, 1)) * 219 + 16
    assert np.abs(out[0] - known)[4:-4, 4:-4].mean() < 0.6
    assert compile_grade(grade).left_out == ("noise taken out",)
    assert from_json(to_json(grade)) == grade


def test_given_a_smaller_picture_when_cleaned_then_its_noise_is_taken_for_less():
    step = replace(FULL, height=1080)

    assert step.deviation(540) == pytest.approx(step.deviation(1080) / 2)
    assert step.deviation(2160) == step.deviation(1080)
    with pytest.raises(ColourError):
        replace(FULL, height=-1)

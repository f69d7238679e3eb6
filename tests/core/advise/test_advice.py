"""Advice on footage with known truth: mend what is wrong, say why, and leave the rest alone."""

from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from morphe.core.advise.evidence import Evidence
from morphe.core.advise.hand.tap import balance_from_tap
from morphe.core.advise.judge import judge
from morphe.core.advise.rung import Advice, State
from morphe.core.advise.rungs import RUNGS
from morphe.core.errors import ColourError, UnknownName
from morphe.core.footage.info import SignalInfo
from morphe.core.grade.grade import Grade
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.perception import delta_e_2000, encoded_to_lab
from morphe.core.signal.primaries import Primaries
from morphe.core.signal.profiles import Kind
from morphe.core.signal.ycbcr import Matrix, Range
from morphe.core.standins.cameras import Exposure, film, truth
from morphe.core.standins.demo import render_scene


def info(transfer="bt709"):
    return SignalInfo(
        path=Path("clip.mp4"), codec="h264", container="mp4", width=256, height=144, rotation=0,
        fps=Fraction(25),
        variable_rate=False, frames=50, duration_s=2.0, bit_depth=10 if transfer in ("hlg", "pq") else 8,
        chroma="4:2:0", bitrate=1,
        range=Range.NARROW,
        matrix=Matrix.BT709, primaries=Primaries.BT709, transfer=transfer,
    )  # fmt: skip


@pytest.fixture(scope="module")
def scenes():
    """Scene-linear frames of the stand-ins."""
    return {
        name: render_scene(name, 0.5, width=256, height=144)
        for name in ("sluice-round", "jetty-tan", "jetty-deep")
    }


def advised(linear, exposure, *, profile="auto", transfer="bt709"):
    """Advice on a filmed scene, and its distance from truth before and after."""
    filmed = film(linear, exposure, np.random.default_rng(11))
    advice = judge(Evidence(info=info(transfer), frames=(filmed,)), profile=profile)
    wanted = encoded_to_lab(truth(linear))
    before, after = (
        float(delta_e_2000(encoded_to_lab(np.clip(p, 0, 1)), wanted).mean())
        for p in (filmed, evaluate(advice.grade, filmed))
    )
    return advice, before, after


SCENES = ["sluice-round", "jetty-tan", "jetty-deep"]


@pytest.mark.parametrize("name", SCENES)
def test_given_good_footage_when_advised_then_it_is_left_alone(scenes, name):
    advice, before, after = advised(scenes[name], Exposure())

    assert advice.profile.kind is Kind.STANDARD
    assert after < before + 0.5


@pytest.mark.parametrize("name", SCENES)
@pytest.mark.parametrize("profile", ["log-lifted", "log-wide", "log-mild", "flat-a"])
def test_given_the_persons_word_on_the_profile_when_advised_then_the_picture_is_near_truth(
    scenes, name, profile
):
    advice, before, after = advised(scenes[name], Exposure(profile=profile), profile=profile)

    assert advice.profile.name == profile
    assert advice.profile.confidence == 1.0
    assert after < min(4.0, 0.6 * before)


@pytest.mark.parametrize("name", SCENES)
@pytest.mark.parametrize("profile", ["log-lifted", "log-wide"])
def test_given_untagged_log_when_advised_then_it_is_recognised_with_evidence(scenes, name, profile):
    advice, _, _ = advised(scenes[name], Exposure(profile=profile))

    assert advice.profile.kind in (Kind.LOG, Kind.FLAT)
    assert advice.profile.evidence[0].startswith("almost no pixel below")
    assert advice.rung("convert").applied


@pytest.mark.parametrize("name", SCENES)
def test_given_hlg_tags_when_advised_then_it_is_converted_and_nothing_else_is_changed(scenes, name):
    advice, _, after = advised(scenes[name], Exposure(profile="hlg"), transfer="hlg")

    assert advice.profile.name == "hlg"
    assert after < 3.5  # of a display rendering from the light of the scene; noise and sharpening add
    assert {r.key for r in advice.rungs if r.applied} <= {"convert", "lights"}


@pytest.mark.parametrize("name", ["jetty-tan", "jetty-deep"])
@pytest.mark.parametrize("warm", [60, -45])
def test_given_a_strong_cast_when_advised_then_balance_brings_it_nearer(scenes, name, warm):
    advice, before, after = advised(scenes[name], Exposure(warm_mired=warm))

    assert advice.rung("balance").applied
    assert after < 0.75 * before


@pytest.mark.parametrize("name", ["jetty-tan", "jetty-deep"])
def test_given_an_overexposed_clip_when_advised_then_it_is_lowered_and_loss_is_said(scenes, name):
    advice, before, after = advised(scenes[name], Exposure(exposure_stops=1.5))

    assert advice.rung("exposure").step.stops < -0.5
    assert after < 0.6 * before
    assert any("clipped" in sentence for sentence in advice.lost)


def test_given_an_underexposed_clip_when_advised_then_it_is_raised(scenes):
    advice, before, after = advised(scenes["jetty-tan"], Exposure(exposure_stops=-1.5))

    assert advice.rung("exposure").step.stops > 0.7 or advice.rung("convert").applied
    assert after < 0.6 * before


def test_given_a_view_of_the_sea_when_advised_then_its_blue_is_not_forced_to_grey():
    generator = np.random.default_rng(2)
    sea = np.array([0.06, 0.16, 0.24]) * generator.lognormal(0, 0.5, (144, 256, 1))

    advice, _, _ = advised(sea.astype(np.float32), Exposure(noise=0.0005))

    assert not advice.rung("balance").applied


def test_given_advice_when_read_then_every_step_stands_in_order_with_a_reason(scenes):
    advice, _, _ = advised(scenes["jetty-tan"], Exposure(exposure_stops=-0.5))

    assert [r.key for r in advice.rungs] == [key for key in RUNGS if key != "restore"]  # filmed in air
    for rung in advice.rungs:
        said = rung.as_json()
        assert rung.measured.endswith(".")
        assert said["reason"]
        assert said["applied"] == (rung.state is State.PROPOSED)
        assert bool(rung.action) == (rung.state in (State.PROPOSED, State.OFFERED))
    assert advice.grade == Grade.of(*(r.step for r in advice.rungs if r.applied))


def test_given_an_unknown_profile_when_advised_then_known_ones_are_named(scenes):
    with pytest.raises(UnknownName, match="log-mild"):
        advised(scenes["jetty-tan"], Exposure(), profile="secret-log")


@settings(max_examples=25)
@given(
    base=st.tuples(*[st.floats(0, 1, width=32)] * 3),
    spread=st.floats(0, 0.5, width=32),
    seed=st.integers(0, 1000),
    profile=st.sampled_from(["auto", "std-709", "vivid-a", "flat-a", "log-wide", "hlg", "pq"]),
)
def test_given_any_frame_at_all_when_advised_then_there_is_an_answer_within_limits(
    base, spread, seed, profile
):
    noise = np.random.default_rng(seed).uniform(-spread, spread, (24, 32, 3))
    frame = np.clip(np.array(base) + noise, -0.07, 1.09).astype(np.float32)

    advice = judge(Evidence(info=info(), frames=(frame,)), profile=profile)

    assert isinstance(advice, Advice)
    assert np.isfinite(evaluate(advice.grade, frame)).all()


# --- tapping something white -----------------------------------------------------------------------


def patch_of(colour, size=60):
    picture = np.full((size, size, 3), 0.3, np.float32)
    picture[20:40, 20:40] = colour
    return picture


def test_given_a_warm_wall_when_tapped_then_it_is_grey_afterwards():
    wall = patch_of((0.62, 0.58, 0.50))

    step, sentence = balance_from_tap(wall, Grade(), 0.5, 0.5)

    seen = evaluate(Grade.of(step), wall)[30, 30]
    assert float(np.ptp(seen)) < 0.004
    assert "warm" in sentence


@pytest.mark.parametrize(
    ("colour", "words"),
    [((1.0, 0.99, 0.98), "clipped"), ((0.03, 0.03, 0.03), "too dark"), ((0.5, 0.4, 0.0), "empty")],
)
def test_given_an_unfit_patch_when_tapped_then_it_is_refused_with_what_to_do(colour, words):
    with pytest.raises(ColourError, match=words) as told:
        balance_from_tap(patch_of(colour), Grade(), 0.5, 0.5)

    assert "tap" in str(told.value)


def test_given_an_uneven_patch_when_tapped_then_it_is_refused():
    stripes = patch_of((0.3, 0.3, 0.3))
    stripes[:, ::2] = 0.8

    with pytest.raises(ColourError, match="uneven"):
        balance_from_tap(stripes, Grade(), 0.5, 0.5)


def test_given_a_red_thing_when_tapped_then_doubt_is_said():
    _, sentence = balance_from_tap(patch_of((0.8, 0.3, 0.2)), Grade(), 0.5, 0.5)

    assert "probably not grey" in sentence

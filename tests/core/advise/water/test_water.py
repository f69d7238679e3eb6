"""Water judged on the meadow at several depths: wet or dry, what is brought back, what cannot be."""

import numpy as np
import pytest

from morphe.core.advise.evidence import evidence_of_pictures
from morphe.core.advise.judge import judge
from morphe.core.advise.rung import State
from morphe.core.advise.seen import Seen, seen_through
from morphe.core.advise.water.recoverable import recoverable
from morphe.core.advise.water.ways import WAYS, way_of
from morphe.core.advise.water.wetness import ASK_FROM, SURE, wetness
from morphe.core.footage.probe import probe
from morphe.core.grade.grade import Grade
from morphe.core.grade.restore import Way
from morphe.core.signal.perception import delta_e_2000, encoded_to_lab
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.cameras import truth
from morphe.core.standins.demo import render_scene
from morphe.core.standins.dives import DESCENT, depth_at
from morphe.core.standins.seagrass import render_seagrass
from morphe.core.water.hints import WaterHints
from tests.footage import ClipSpec, write_clip

SIZE = (256, 144)
WET = WaterHints(wet=True)


@pytest.fixture(scope="module")
def filmed(tmp_path_factory):
    """Evidence of a scene of the demo, filmed in a profile by a camera of 8 or 10 bits."""
    folder = tmp_path_factory.mktemp("water")

    def film(scene, profile="std-709", bits=8):
        light = np.asarray(render_scene(scene, 0.5, width=SIZE[0], height=SIZE[1]), np.float32)
        picture = np.clip(PROFILES.get(profile).encode(light), 0, 1).astype(np.float32)
        spec = ClipSpec(size=SIZE, frames=3, pixel_format="yuv420p10le" if bits == 10 else "yuv420p")
        path = write_clip(folder / f"{scene}-{profile}-{bits}.mp4", spec, lambda i: picture)
        return evidence_of_pictures(probe(path), [picture], [0.0], None)

    return film


def near_error(evidence, picture):
    """Mean CIEDE2000 to the meadow in air, where it is near."""
    light, distance = render_seagrass(0.5, width=SIZE[0], height=SIZE[1])
    near = distance < 4
    labs = [encoded_to_lab(np.clip(p, 0, 1)[near].astype(np.float32)) for p in (picture, truth(light))]
    return float(delta_e_2000(*labs).mean())


def after(evidence, advice):
    seen = Seen(pictures=evidence.frames, times_s=(0.0,))
    return seen_through(seen, advice.grade).pictures[0]


@pytest.mark.parametrize("scene", ["seagrass-5", "seagrass-9"])
def test_given_a_dive_when_looked_at_then_it_is_taken_for_wet_or_asked_about(filmed, scene):
    assert wetness(filmed(scene)) >= ASK_FROM


@pytest.mark.parametrize("scene", ["jetty-tan", "sluice-round", "sluice-approach"])
@pytest.mark.parametrize("profile", ["std-709", "flat-a", "log-mild"])
def test_given_a_dry_clip_when_looked_at_then_it_is_not_taken_for_wet(filmed, scene, profile):
    evidence = filmed(scene, profile)

    assert wetness(evidence) < SURE
    assert not judge(evidence).grade.source.restore.at_work


def test_given_a_plan_of_a_dive_when_looked_at_then_it_is_likelier_wet(filmed):
    evidence = filmed("seagrass-2")

    assert wetness(evidence, WaterHints(planned=True)) > wetness(evidence)


@pytest.mark.parametrize("scene", ["seagrass-2", "seagrass-5", "seagrass-9"])
def test_given_a_wet_clip_when_the_water_is_taken_back_then_what_is_near_is_nearer_the_truth(filmed, scene):
    evidence = filmed(scene)

    advice = judge(evidence, water=WET)

    before, now = (near_error(evidence, p) for p in (evidence.frames[0], after(evidence, advice)))
    assert advice.rung("restore").state is State.PROPOSED
    assert now < 0.75 * before


def test_given_a_persons_word_when_judged_then_it_holds_either_way(filmed):
    evidence = filmed("seagrass-9")

    dry = judge(evidence, water=WaterHints(wet=False))
    assert [r.key for r in dry.rungs].count("restore") == 0 and dry.water is None
    assert judge(evidence, water=WET).water.is_taken


def test_given_a_wet_clip_when_judged_then_light_and_balance_are_left_to_the_water(filmed):
    advice = judge(filmed("seagrass-5"), water=WET)

    assert not advice.rung("exposure").applied and not advice.rung("balance").applied
    assert "water" in advice.rung("balance").reason


def test_given_a_log_dive_when_the_kind_is_said_then_it_is_decoded_before_the_water_is_taken_back(filmed):
    evidence = filmed("seagrass-5", "log-mild", 10)

    advice = judge(evidence, profile="log-mild", water=WET)

    assert [key for key, step in ((r.key, r.step) for r in advice.rungs) if step.at_work][:2] == [
        "convert", "restore",
    ]  # fmt: skip
    assert near_error(evidence, after(evidence, advice)) < 0.75 * near_error(evidence, evidence.frames[0])


def test_given_far_water_when_the_water_is_taken_back_then_it_is_still_water_coloured(filmed):
    evidence = filmed("seagrass-5")
    _, distance = render_seagrass(0.5, width=SIZE[0], height=SIZE[1])

    shown = after(evidence, judge(evidence, water=WET))

    red, green, blue = shown[np.isinf(distance)].mean(axis=0)
    assert red < green and red < blue + 0.05


def test_given_more_said_when_judged_then_each_hint_changes_the_answer(filmed):
    evidence = filmed("seagrass-9")
    steps = [
        judge(evidence, water=WaterHints(wet=True, **said)).rung("restore").step
        for said in ({}, {"depth_m": 9.0}, {"depth_m": 9.0, "lamp": True}, {"water": "II", "distance_m": 1.5})
    ]

    assert len(set(steps)) == len(steps)


@pytest.mark.parametrize(("bits", "most"), [(8, 3.0), (10, 4.0)])
def test_given_a_file_of_few_bits_when_red_lies_deep_then_no_more_is_asked_than_it_holds(filmed, bits, most):
    water = judge(filmed("seagrass-9", bits=bits), water=WET).water
    step = water.restore
    raised = (step.track[0][1] - step.track[0][2]) * step.red / 100

    assert raised <= most + 0.05


def test_given_red_in_the_noise_when_judged_then_it_says_that_it_would_be_invented():
    light = np.tile(np.array([[0.001, 0.2, 0.2]], np.float32), (100, 1))
    gains, veil = np.array([6.0, 1.0, 1.0]), np.zeros(3)

    lost = recoverable(light, veil, gains, noise=0.002, bit_depth=8)
    there = recoverable(light + 0.1, veil, np.array([2.0, 1.0, 1.0]), noise=0.002, bit_depth=8)

    assert lost.share < 0.1 and "invented" in lost.words
    assert there.share > 0.9 and "nearly all" in there.words


@pytest.mark.parametrize("way", list(Way))
def test_given_any_way_when_chosen_then_channels_come_together(filmed, way):
    evidence = filmed("seagrass-5")
    physical = judge(evidence, water=WET).rung("restore").step
    seen = Seen(pictures=evidence.frames, times_s=(0.0,))

    step = way_of(way, seen.light, physical)

    before, now = (p.reshape(-1, 3).mean(axis=0) for p in (evidence.frames[0], seen.then(step).pictures[0]))
    assert np.ptp(now) < np.ptp(before)
    assert WAYS[way].does and WAYS[way].risk


def test_given_a_descent_with_its_log_when_judged_then_a_white_slate_stays_white_and_nothing_jumps(tmp_path):
    times = [0.2, 1.2, 2.0, 2.8, 3.8]
    light = [np.asarray(render_scene(DESCENT, t, width=SIZE[0], height=SIZE[1]), np.float32) for t in times]
    pictures = [np.clip(PROFILES.get("std-709").encode(f), 0, 1).astype(np.float32) for f in light]
    path = write_clip(tmp_path / "descent.mp4", ClipSpec(size=SIZE, frames=5), lambda i: pictures[i])
    evidence = evidence_of_pictures(probe(path), pictures, times, None)
    hints = WaterHints(wet=True, depths=tuple((t / 4, depth_at(t / 4)) for t in range(17)))

    step = judge(evidence, water=hints).rung("restore").step

    grade = Grade.of(step)
    shown = seen_through(Seen(pictures=tuple(pictures), times_s=tuple(times)), grade).pictures
    labs = [encoded_to_lab(slate(np.clip(p, 0, 1), f)) for p, f in zip(shown, light, strict=True)]
    apart = [float(delta_e_2000(labs[0], lab)) for lab in labs[1:]]
    gains = np.array([row[1:4] for row in (step.at(n / 25).track[0] for n in range(100))])
    assert step.moves
    assert max(apart) < 5
    assert (
        np.abs(np.diff(gains - gains[:, 1:2], axis=0)).max() < 0.2
    )  # stops between frames, seven metres in four s


def slate(picture, light):
    """Mean of the white slate: the brightest thing in the frame (3,)."""
    green = light[..., 1]
    return picture[green >= np.quantile(green, 0.997)].mean(axis=0).astype(np.float32)

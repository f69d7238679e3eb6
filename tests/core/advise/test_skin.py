"""Skin is found on faces alone and brought onto its line; single colours and casts that stick out too."""

import numpy as np
import pytest

from morphe.core.advise.aims import Aims, Hour
from morphe.core.advise.evidence import Evidence
from morphe.core.advise.judge import judge
from morphe.core.advise.rung import State
from morphe.core.advise.seen import Seen, seen_through
from morphe.core.errors import ColourError
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Balance, BlackPoint, Casts, Families, MidLevel, Saturation, SkinTurn
from morphe.core.measure.palette import palette_of
from morphe.core.measure.skin import Patch, find_skin, skin_in, skin_of_pixels
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.light import light_rgb
from morphe.core.signal.perception import delta_e_2000, encoded_to_lab
from morphe.core.signal.transfer import encode_bt709
from morphe.core.standins.jetty import SKIN_TONES, render_jetty
from morphe.core.standins.materials import MATERIALS, render_material
from tests.core.advise.test_advice import info

LIGHTS = {"daylight": (0, 0.0), "late sun": (22, 0.002), "under leaves": (-14, 0.004)}


def filmed(light, mired=0, duv=0.0):
    return np.clip(encode_bt709(light * light_rgb(mired, duv)), 0, 1).astype(np.float32)


@pytest.fixture(scope="module")
def faces():
    return {skin: render_jetty(0.5, width=320, height=180, skin=skin) for skin in SKIN_TONES}


@pytest.mark.parametrize("skin", list(SKIN_TONES))
@pytest.mark.parametrize("light", list(LIGHTS))
def test_given_a_face_in_any_light_when_the_proposal_is_taken_then_skin_lies_on_its_line(faces, skin, light):
    picture = filmed(faces[skin], *LIGHTS[light])
    advice = judge(Evidence(info=info(), frames=(picture,)), profile="std-709")
    rung = advice.rung("skin")
    before = seen_through(Seen(pictures=(picture,)), advice.grade.without_step("skin"))
    after = seen_through(before, Grade.of(rung.step))

    found = find_skin(before.pictures[0])
    assert found is not None and len(SKIN_TONES) == 6
    assert abs(skin_of_pixels(after.pictures[0][found[1]]).off_deg) < 3
    moved = delta_e_2000(encoded_to_lab(before.pictures[0]), encoded_to_lab(after.pictures[0]))
    assert moved[~found[1]].mean() < 1.0


@pytest.mark.parametrize("material", list(MATERIALS))
@pytest.mark.parametrize("light", list(LIGHTS))
def test_given_sand_wood_or_terracotta_when_skin_is_looked_for_then_none_is_found(material, light):
    scene = render_material(material, width=480, height=270)

    for stops in (-0.7, 0.0, 0.5):
        assert find_skin(filmed(scene * 2.0**stops, *LIGHTS[light])) is None


def test_given_a_patch_when_skin_is_pointed_to_then_it_is_measured_there_and_outside_is_refused(faces):
    picture = filmed(faces["tan"])

    pointed = skin_in((picture,), Patch(frame=0, x=0.22, y=0.29))

    assert pointed.angle_deg == pytest.approx(find_skin(picture)[0].angle_deg, abs=4)
    for wrong in ({"x": 1.4}, {"y": -0.1}, {"frame": -1}, {"radius": 2.0}):
        with pytest.raises(ColourError):
            Patch(**{"frame": 0, "x": 0.5, "y": 0.5, **wrong})


# --- families, casts, ends, aims ---------------------------------------------------------------------


def offered(picture, key, **more):
    advice = judge(Evidence(info=info(), frames=(picture,)), profile="std-709", **more)
    return advice.rung(key)


def beside(colour, share=0.05):
    """A grey-green picture with a field of one colour."""
    picture = np.full((120, 200, 3), (0.40, 0.43, 0.36), np.float32)
    picture += np.linspace(-0.12, 0.12, 200, dtype=np.float32)[None, :, None]
    picture[: int(120 * share * 4), :50] = colour
    return picture


def test_given_a_loud_door_in_a_quiet_picture_when_judged_then_calming_it_alone_is_offered():
    picture = beside((0.80, 0.06, 0.06))
    rung = offered(picture, "families")
    after = evaluate(Grade.of(rung.step), picture)

    assert rung.state is State.OFFERED and isinstance(rung.step, Families)
    assert "reds" in rung.action
    moved = delta_e_2000(encoded_to_lab(picture), encoded_to_lab(after))
    assert moved[5, 5] > 3 and moved[:, 60:].max() < 0.5


def test_given_quiet_colours_when_judged_then_no_family_is_touched(faces):
    rung = offered(filmed(faces["tan"] * 0.9), "families")

    assert rung.step.is_neutral or all(edit.strength < 0 for edit in rung.step.edits)
    assert palette_of(beside((0.5, 0.3, 0.2)).reshape(-1, 3))[0].family.key == "oranges"


@pytest.mark.parametrize(("tone", "name"), [((0.0, 0.3), "dark"), ((0.7, 1.0), "bright")])
def test_given_a_cast_in_one_end_when_its_proposal_is_taken_then_most_of_it_is_gone(tone, name):
    ramp = np.repeat(np.linspace(0.06, 0.94, 300, dtype=np.float32)[None, :, None], 60, axis=0)
    picture = np.repeat(ramp, 3, axis=2)
    inside = (picture[..., :1] >= tone[0]) & (picture[..., :1] < tone[1])
    picture = np.where(inside, picture + np.array([-0.02, 0, 0.035], np.float32), picture)

    rung = offered(picture, "casts")
    again = offered(evaluate(Grade.of(rung.step), picture), "casts")

    assert isinstance(rung.step, Casts) and rung.state is State.OFFERED
    assert getattr(rung.step, f"{name}_warmth") > 0
    assert again.reading < 0.5 * rung.reading


def test_given_colour_in_black_when_judged_then_it_is_offered_to_be_taken_out():
    ramp = np.repeat(np.linspace(0.02, 0.9, 300, dtype=np.float32)[None, :, None], 60, axis=0)
    picture = np.repeat(ramp, 3, axis=2)
    picture[:, :12, 2] += 0.09

    rung = offered(picture, "saturation")

    assert isinstance(rung.step, Saturation) and rung.step.dark > 0 and "black" in rung.action


def test_given_an_hour_when_meant_then_the_middle_is_proposed_for_it_and_else_only_offered():
    ramp = np.repeat(np.linspace(0.02, 0.92, 300, dtype=np.float32)[None, :, None] ** 1.5, 60, axis=0)
    noon, as_filmed, dusk = (
        offered(np.repeat(ramp, 3, axis=2), "mid", aims=Aims(hour=hour))
        for hour in (Hour.NOON, Hour.FILMED, Hour.DUSK)
    )

    assert noon.state is State.PROPOSED and isinstance(noon.step, MidLevel) and noon.step.lift > 0
    assert as_filmed.state in (State.OFFERED, State.GOOD) and "You chose" in noon.reason
    assert dusk.step.lift <= 0


def test_given_aims_when_judged_then_zones_are_theirs_and_odd_ones_are_refused(faces):
    picture = 0.08 + 0.8 * filmed(faces["tan"])

    assert offered(picture, "black").state is State.OFFERED
    assert offered(picture, "black", aims=Aims(black="open")).wanted == (0.0, 10.0)
    assert offered(picture, "white", aims=Aims(white="none")).wanted == (80.0, 90.0)
    assert Aims.of({"black": "open"}, {"hour": "dusk"}) == Aims(black="open", hour=Hour.DUSK)
    with pytest.raises(ColourError):
        Aims(black="pitch")


def test_given_a_step_that_moves_skin_when_seen_then_the_reading_says_by_how_much(faces):
    seen = Seen(pictures=(filmed(faces["light"]),))
    before = seen.skin
    after = seen.then(Balance(warmth=-30)).skin

    assert after.angle_deg != pytest.approx(before.angle_deg, abs=0.5)
    assert seen.then(BlackPoint(lower=2)).skin.angle_deg == pytest.approx(before.angle_deg, abs=1)
    turned = seen.then(SkinTurn(turn=-before.off_deg, centre=before.angle_deg)).skin
    assert abs(turned.off_deg) < 1

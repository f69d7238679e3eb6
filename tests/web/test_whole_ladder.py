"""The whole ladder on the pages: schools, last fixes, habits, taps, the hour, skin, history and ghosts."""

from __future__ import annotations

import json

import numpy as np
import pytest

from morphe.core.advise.schools import SCHOOLS_KNOWN
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Balance, BlackPoint, Contrast, Exposure, Families, SkinTurn
from morphe.core.grade.steps.families import Edit
from morphe.core.signal.transfer import encode_bt709
from morphe.core.standins.jetty import render_jetty
from morphe.core.style.looks import LOOKS
from morphe.web.clips.models import Clip, Habit
from morphe.web.clips.services.grades import versions
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.grades.habits import learn_habits
from tests.footage import ClipSpec, write_clip
from tests.web.conftest import brought_in
from tests.web.test_water import act

SIZE = (320, 180)
FACE = (0.22, 0.29)


@pytest.fixture(scope="session")
def face_file(tmp_path_factory):
    """Somebody at the jetty, filmed a little warm."""
    light = render_jetty(0.5, width=SIZE[0], height=SIZE[1], skin="tan")
    picture = np.clip(encode_bt709(light * np.array([1.12, 1.0, 0.86])), 0, 1).astype(np.float32)
    return write_clip(
        tmp_path_factory.mktemp("face") / "face.mp4", ClipSpec(size=SIZE, frames=20), lambda i: picture
    )


@pytest.fixture
def face(outing, face_file):
    return brought_in(outing, face_file)


def again(clip):
    return Clip.objects.with_grades().get(pk=clip.pk)


def post(client, clip, name, **data):
    body = {"grade": recipe.to_json(grade_of(again(clip))), "frame": 0, **data}
    return client.post(f"/bench/{clip.pk}/{name}/", json.dumps(body), content_type="application/json")


# --- schools ---------------------------------------------------------------------------------------------


@pytest.mark.parametrize("key", list(SCHOOLS_KNOWN))
def test_given_a_school_when_chosen_then_steps_stand_in_its_order_with_the_same_numbers(client, face, key):
    grade = Grade.of(Exposure(stops=0.4), Balance(warmth=8), Contrast(amount=12))
    versions.keep(face, grade, "Set by hand")

    page = act(client, face, "school", school=key)

    kept = grade_of(again(face))
    assert {s for _, s in kept.steps()} == {s for _, s in grade.steps()}
    order = SCHOOLS_KNOWN[key].order
    keys = [s.key for s in kept.layer("clip").steps]
    assert keys == sorted(keys, key=order.index)
    assert SCHOOLS_KNOWN[key].sentence in page.replace("&#x27;", "'")
    assert ("Ask what Morphe measured" in page) is SCHOOLS_KNOWN[key].silent


def test_given_an_unknown_school_when_posted_then_it_is_one_sentence(client, face):
    assert "no school" in act(client, face, "school", school="alchemy")


# --- last fixes ----------------------------------------------------------------------------------------


def test_given_shadows_crushed_by_contrast_when_the_fix_is_taken_then_they_are_within(client, face):
    assert "All within" in act(client, face, "reset", open="exposure")
    versions.keep(face, Grade.of(BlackPoint(lower=20)), "Black pushed down")

    page = act(client, face, "keep", open="black", grade=json.dumps(recipe.to_json(grade_of(again(face)))))
    assert "crushed" in page and "Raise black in the clip" in page
    for _ in range(4):
        page = act(client, face, "fix", fix="sunk")
        if "crushed" not in page:
            break

    assert "crushed" not in page
    assert grade_of(again(face)).step("black").lower < 20
    assert "within by now" in act(client, face, "fix", fix="sunk")


# --- habits --------------------------------------------------------------------------------------------


def test_given_a_habit_when_the_next_proposal_comes_then_that_share_is_offered_and_can_be_forgotten(
    client, outing, face
):
    face.rungs = [
        {**rung, "state": "offered", "action": "Add contrast",
         "proposal": recipe.step_to_json(Contrast(amount=20))} if rung["step"] == "contrast" else rung
        for rung in face.rungs
    ]  # fmt: skip
    face.save(update_fields=["rungs"])
    versions.keep(face, Grade.of(Contrast(amount=14)), "Contrast set by hand")
    assert Habit.objects.get(step="contrast").kept == [[face.pk, 0.7]]
    Habit.objects.filter(step="contrast").update(kept=[[face.pk, 0.7], [901, 0.68], [902, 0.72]])
    act(client, face, "reset", open="contrast")

    page = client.get(f"/bench/{face.pk}/ladder/?open=contrast").content.decode()
    assert "You mostly keep 70 %" in page
    act(client, face, "usual", open="contrast")
    assert grade_of(again(face)).step("contrast").amount == pytest.approx(14)

    act(client, face, "forget-habit", open="contrast")
    assert not Habit.objects.filter(step="contrast").exists()
    assert "no habit" in act(client, face, "forget-habit", open="contrast")


def test_given_what_is_no_share_when_learnt_then_no_habit_comes_of_it(face):
    versions.keep(face, Grade.of(Contrast(amount=-5)), "The other way")
    learn_habits(face)

    assert not Habit.objects.filter(step="contrast").exists()


# --- taps ------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("meaning", "at", "kind"),
    [("neutral", (0.7, 0.15), Balance), ("white", (0.7, 0.15), None), ("black", (0.2, 0.85), BlackPoint),
     ("skin", FACE, SkinTurn), ("colour", (0.22, 0.12), Families)],
)  # fmt: skip
def test_given_a_meaning_when_a_place_is_tapped_then_its_step_is_set_and_what_was_measured_is_said(
    client, face, meaning, at, kind
):
    answer = post(client, face, "tap", x=at[0], y=at[1], meaning=meaning).json()

    grade = recipe.from_json(answer["grade"])
    assert any(char.isdigit() for char in answer["sentence"])
    assert kind is None or isinstance(grade.step(answer["step"]), kind)
    assert grade.step(answer["step"]) != type(grade.step(answer["step"]))()


@pytest.mark.parametrize(
    ("meaning", "at", "words"),
    [("skin", (0.2, 0.85), "No skin has that colour"), ("green", (0.22, 0.12), "far from any green"),
     ("black", (0.7, 0.15), "too bright"), ("white", (0.2, 0.85), "too dark"),
     ("magic", (0.5, 0.5), "Say what the place is"), ("colour", (0.75, 0.1), "as good as grey")],
)  # fmt: skip
def test_given_a_place_that_is_not_what_was_said_when_tapped_then_one_sentence_says_so(
    client, face, meaning, at, words
):
    answer = post(client, face, "tap", x=at[0], y=at[1], meaning=meaning)

    assert answer.status_code == 422 and words in answer.json()["problem"]


def test_given_two_tones_when_tapped_then_they_stand_further_apart_with_their_colour_held(client, face):
    places = [[0.2, 0.85], [0.7, 0.15]]

    answer = post(client, face, "tap", meaning="tones", places=places, x=0.5, y=0.5).json()

    step = recipe.from_json(answer["grade"]).step("contrast")
    assert step.amount > 0 and step.hold == 100 and "apart" in answer["sentence"]
    alike = post(client, face, "tap", meaning="tones", places=[[0.7, 0.15], [0.71, 0.15]], x=0.5, y=0.5)
    assert alike.status_code == 422


# --- skin, palette, strain, marks --------------------------------------------------------------------------


def test_given_a_face_when_a_later_step_moves_it_then_the_still_names_the_step(client, face):
    at_ease = grade_of(again(face)).with_step(SkinTurn(turn=-1, centre=126))
    moved = at_ease.with_step(Families(edits=(Edit(50, 40, 40, hue=24),))).with_step(
        SkinTurn(turn=-1, centre=126)
    )

    calm = post(client, face, "still", grade=recipe.to_json(at_ease)).json()["skin"]
    found = post(client, face, "still", grade=recipe.to_json(moved)).json()["skin"]

    assert calm is not None and abs(found["off_deg"] - calm["off_deg"]) > 2


def test_given_skin_pointed_to_when_forgotten_then_it_is_looked_for_again(client, face):
    post(client, face, "tap", x=FACE[0], y=FACE[1], meaning="skin")
    assert Clip.objects.get(pk=face.pk).skin_at["frame"] == 0

    act(client, face, "skin-forget", open="skin")

    assert Clip.objects.get(pk=face.pk).skin_at == {}


def test_given_an_edit_when_the_palette_is_asked_for_then_it_shows_both_and_how_far_the_rest_moved(
    client, face
):
    edited = grade_of(again(face)).with_step(Families(edits=(Edit(25.0, 28.0, 24.0, strength=-60),)))

    palette = post(client, face, "still", grade=recipe.to_json(edited), palette=True).json()["palette"]

    by_key = {row["key"]: row for row in palette["rows"]}
    assert by_key["reds"]["before"] != by_key["reds"]["after"]
    assert by_key["blues"]["before"] == by_key["blues"]["after"] or palette["rest"] < 0.5
    assert palette["rest"] < 0.5


def test_given_a_hard_grade_when_the_still_is_asked_for_then_strain_rises(client, face):
    hard = grade_of(again(face)).with_step(Contrast(amount=100)).with_step(Exposure(stops=2))

    plain, bent = (
        post(client, face, "still", grade=recipe.to_json(g)).json()["strain"]
        for g in (grade_of(again(face)), hard)
    )

    assert bent["worst"] > plain["worst"]
    assert len(bent["by_tone"]) == 16 and "8-bit" in bent["sentence"]


def test_given_an_area_when_marked_then_scopes_are_of_it_alone_and_one_outside_is_refused(client, face):
    whole = post(client, face, "still").json()["scopes"]["luma"]
    part = post(client, face, "still", measure={"box": [0.6, 0.0, 0.9, 0.3]}).json()["scopes"]["luma"]

    assert whole != part
    assert post(client, face, "still", measure={"box": [0.6, 0.0, 9, 0.3]}).status_code == 422


def test_given_curves_when_open_then_their_way_is_drawn_and_unknown_ones_refused(client, face):
    way = post(client, face, "still", curve="red").json()["curve"]

    assert way["channel"] == "red" and way["levels"][0][0] == pytest.approx(-7)
    assert post(client, face, "still", curve="soup").status_code == 422


def test_given_frames_when_a_rung_is_open_then_each_says_how_it_reads(client, face):
    found = post(client, face, "frames", rung="black").json()

    assert all("reading" in frame and frame["reading"]["unit"] == "%" for frame in found["frames"])
    assert "hurts" in found


def test_given_noise_when_looked_at_in_full_size_then_a_part_of_the_frame_comes_back(client, face):
    answer = post(client, face, "grain")

    assert answer.status_code == 200 and answer["Content-Type"] == "image/jpeg"


# --- the hour, history, neighbours ---------------------------------------------------------------------


def test_given_an_hour_when_meant_for_the_outing_then_the_clip_is_judged_by_it(client, face):
    page = act(client, face, "hour", hour="noon", reach="outing", open="mid")

    assert Clip.objects.get(pk=face.pk).outing.aims["hour"] == "noon"
    assert "want 40–52" in page
    assert "noon, as filmed, or dusk" in act(client, face, "hour", hour="tea")


def test_given_versions_when_compared_then_differences_are_named_and_one_can_be_gone_back_to(client, face):
    versions.keep(face, Grade.of(Exposure(stops=0.5)), "Exposure set by hand")
    first = again(face).version_id
    versions.keep(face, Grade.of(Exposure(stops=0.5), Contrast(amount=20)), "Contrast set by hand")

    page = client.get(f"/bench/{face.pk}/history/").content.decode()
    assert "Contrast" in page and "20 % more" in page
    assert client.get(f"/bench/{face.pk}/history/{first}.jpg")["Content-Type"] == "image/jpeg"
    client.post(f"/bench/{face.pk}/history/name/", {"version": first, "name": "Only exposure"})
    client.post(f"/bench/{face.pk}/history/back/", {"version": first})

    assert grade_of(again(face)).step("contrast").is_neutral
    assert "Only exposure" in client.get(f"/bench/{face.pk}/history/").content.decode()
    assert client.get(f"/bench/{face.pk}/history/999999.jpg").status_code == 404


def test_given_a_neighbour_when_its_ghost_is_asked_for_then_its_scopes_come(client, outing, face, face_file):
    other = brought_in(outing, face_file, "other.mp4")

    assert f"/bench/{other.pk}/ghost/" in client.get(f"/bench/{face.pk}/").content.decode()
    assert set(client.get(f"/bench/{other.pk}/ghost/").json()["scopes"]) >= {"luma", "parade", "vector"}


def test_given_an_open_intent_when_looked_at_then_both_pictures_are_there(client, face):
    for way in ("with", "without"):
        assert client.get(f"/bench/{face.pk}/choice/mid/{way}.jpg")["Content-Type"] == "image/jpeg"
    assert client.get(f"/bench/{face.pk}/choice/magic/with.jpg").status_code == 404


# --- looks -------------------------------------------------------------------------------------------


def test_given_the_wall_of_looks_when_one_is_put_on_then_it_is_the_style_at_the_proposed_strength(
    client, clip
):
    versions.accept_all(clip)
    wall = client.get(f"/bench/{clip.pk}/looks/").content.decode()
    assert all(look.label in wall for look in LOOKS.values()) and "on average" in wall
    assert client.get(f"/bench/{clip.pk}/look/moody.jpg")["Content-Type"] == "image/jpeg"

    page = act(client, clip, "look", look="moody")

    layer = grade_of(Clip.objects.with_grades().get()).layer("style")
    assert layer.name == "Overcast" and layer.steps == LOOKS.get("moody").steps and 0 < layer.strength <= 1
    assert "Overcast" in page
    act(client, clip, "look", look="")
    assert not grade_of(Clip.objects.with_grades().get()).layer("style").steps


def test_given_a_look_that_is_none_when_put_on_then_a_sentence_says_so(client, clip):
    page = act(client, clip, "look", look="nothing")

    assert "There is no such look" in page
    assert client.get(f"/bench/{clip.pk}/look/nothing.jpg").status_code == 404

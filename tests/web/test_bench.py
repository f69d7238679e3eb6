"""The Bench: the ladder's acts, the live picture, tapping, probing and the files it gives."""

import base64
import json
import os

import cv2
import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings

from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import STEPS, Exposure, Saturation
from morphe.web.bench.services.ladder import ladder_of
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.grades.versions import accept_all, keep
from morphe.web.clips.services.reading.storage import load_picture, picture_file
from morphe.web.logbook.models import LogEntry
from tests.strategies import stacked_grades


def send(client, clip, act, **data):
    answer = client.post(f"/bench/{clip.pk}/change/{act}/", data, headers={"hx-request": "true"})
    clip.refresh_from_db()
    return answer


def post(client, clip, what, **data):
    return client.post(f"/bench/{clip.pk}/{what}/", json.dumps(data), content_type="application/json")


def picture_of(answer):
    data = base64.b64decode(answer.json()["picture"].split(",")[1])
    return cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)


AS_FILMED = recipe.to_json(Grade())
BRIGHTER = recipe.to_json(Grade.of(Exposure(stops=1.5)))


def test_given_a_clip_when_opened_then_every_rung_speaks_and_the_first_to_decide_is_open(client, clip):
    page = client.get(f"/bench/{clip.pk}/").content.decode()

    for key, kind in zip(STEPS, STEPS.values(), strict=True):
        assert kind.label in page or key == "even"  # which has no rung, but its own chart
    assert ladder_of(clip).open_key == "convert"
    assert clip.rungs[0]["action"] in page


def test_given_no_clip_when_the_bench_is_opened_then_the_way_to_clips_is_shown(client, db):
    assert "Go to Clips" in client.get("/bench/").content.decode()


def test_given_clips_when_the_bench_is_opened_then_the_one_that_waits_comes_first(client, clip):
    assert client.get("/bench/").url == f"/bench/{clip.pk}/"


# --- acts ------------------------------------------------------------------------------------------


def test_given_a_proposal_when_accepted_then_the_grade_has_it_and_undo_and_redo_walk(client, clip):
    answer = send(client, clip, "accept", open="convert")
    accepted = grade_of(clip)
    send(client, clip, "undo")
    undone = grade_of(clip)
    send(client, clip, "redo")

    assert "Taken" in answer.content.decode()
    assert accepted.convert.profile == clip.profile["name"]
    assert undone == Grade()
    assert grade_of(clip) == accepted
    assert LogEntry.objects.first().sentence.startswith("Convert from")


def test_given_all_proposals_when_accepted_then_the_grade_is_that_of_the_command_line(client, clip, morphe):
    send(client, clip, "accept-all")

    proposed = morphe("correct", clip.path, "--json").json["steps"]
    assert [s.key for _, s in grade_of(clip).steps() if s.at_work] == [
        s["step"] for s in proposed if s["applied"]
    ]
    assert recipe.to_json(grade_of(clip)) == clip.proposal


def test_given_a_step_when_switched_off_and_on_and_reset_then_the_grade_follows(client, clip):
    send(client, clip, "accept", open="convert")

    send(client, clip, "switch", open="convert")
    off = grade_of(clip).convert
    send(client, clip, "switch", open="convert")
    on = grade_of(clip).convert
    send(client, clip, "reset", open="convert")

    assert (off.at_work, on.at_work) == (False, True)
    assert grade_of(clip) == Grade()


def test_given_undo_at_the_beginning_when_asked_then_nothing_happens(client, clip):
    assert send(client, clip, "undo").status_code == 200
    assert grade_of(clip) == Grade()


def test_given_numbers_set_by_hand_when_kept_then_a_version_and_a_log_entry_are_there(client, clip):
    send(client, clip, "keep", open="exposure", grade=json.dumps(BRIGHTER))
    send(client, clip, "keep", open="exposure", grade=json.dumps(BRIGHTER))

    assert grade_of(clip).step("exposure").stops == 1.5
    assert clip.versions.count() == 2  # as filmed, and this one once
    assert LogEntry.objects.first().sentence == "Exposure set by hand."


@pytest.mark.parametrize("junk", ["", "{", "[]", '{"format": "morphe-recipe", "schema": 99}'])
def test_given_a_broken_grade_when_kept_then_the_ladder_says_so_and_nothing_changes(client, clip, junk):
    answer = send(client, clip, "keep", open="exposure", grade=junk)

    assert 'role="alert"' in answer.content.decode()
    assert grade_of(clip) == Grade()


def test_given_the_persons_word_on_the_profile_when_taken_then_reading_and_grade_follow_it(client, clip):
    send(client, clip, "profile", open="convert", profile="log-lifted")
    converted = grade_of(clip).convert.profile
    send(client, clip, "profile", open="convert", profile="std-709")

    assert converted == "log-lifted"
    assert clip.profile["evidence"] == ["you said so"]
    assert grade_of(clip).convert.is_neutral


def test_given_an_unknown_profile_when_taken_then_it_is_said(client, clip):
    answer = send(client, clip, "profile", open="convert", profile="secret")

    assert "no profile" in answer.content.decode()


def test_given_no_scripts_when_an_act_is_posted_then_the_page_comes_back(client, clip):
    assert client.post(f"/bench/{clip.pk}/change/accept-all/").url == f"/bench/{clip.pk}/"


def test_given_two_grades_in_turn_when_undone_and_changed_then_redo_follows_the_new_line(clip):
    keep(clip, Grade.of(Exposure(stops=1)), "one")
    clip.version = clip.version.parent
    keep(clip, Grade.of(Saturation(amount=5)), "other")

    assert ladder_of(clip).undo == "other"
    assert not ladder_of(clip).redo
    assert clip.versions.count() == 3  # nothing is ever thrown away


# --- live picture ----------------------------------------------------------------------------------


def test_given_a_grade_when_looked_at_then_picture_scopes_and_marks_change(client, clip):
    before, after = (post(client, clip, "still", grade=g, frame=0) for g in (AS_FILMED, BRIGHTER))

    assert picture_of(after).mean() > picture_of(before).mean() + 20
    assert set(after.json()["scopes"]) == {"luma", "parade", "histogram", "vector"}
    assert after.json()["marks"]["exposure"]["at"][0] > before.json()["marks"]["exposure"]["at"][0] + 5
    assert before.json()["scopes"]["luma"] != after.json()["scopes"]["luma"]


def test_given_a_grade_when_all_judging_frames_are_asked_for_then_each_has_its_state(client, clip):
    wild = recipe.to_json(Grade.of(Exposure(stops=5)))

    calm, clipped = (post(client, clip, "frames", grade=g).json()["frames"] for g in (AS_FILMED, wild))

    assert [f["number"] for f in calm] == [f.number for f in clip.frames.all()]
    assert {f["state"] for f in calm} == {"fits"}
    assert {f["state"] for f in clipped} == {"lights clip"}


@pytest.mark.parametrize(
    "body", [b"", b"[]", b"{", b'{"grade": 1}', b'{"grade": {}, "frame": 0}', b"x" * 200_000]
)
def test_given_junk_when_a_picture_is_asked_for_then_it_is_refused_in_words(client, clip, body):
    answer = client.post(f"/bench/{clip.pk}/still/", body, content_type="application/json")

    assert answer.status_code == 422
    assert answer.json()["problem"]


@given(grade=stacked_grades())
@settings(max_examples=60, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_given_any_grade_when_a_picture_is_asked_for_then_it_comes(client, clip, grade):
    answer = post(client, clip, "still", grade=recipe.to_json(grade), frame=0, before=True)

    assert answer.status_code == 200, answer.json()


def test_given_a_frame_that_is_not_there_when_asked_for_then_it_is_refused(client, clip):
    assert post(client, clip, "still", grade=AS_FILMED, frame=99).status_code == 422


def test_given_a_point_when_probed_then_its_reading_comes_from_the_graded_picture(client, clip):
    dark, bright = (
        post(client, clip, "probe", grade=g, frame=0, x=0.5, y=0.9).json() for g in (AS_FILMED, BRIGHTER)
    )

    assert bright["luma"] > dark["luma"] + 5


def test_given_an_area_of_a_scope_when_touched_then_a_picture_of_its_pixels_comes(client, clip):
    answer = post(client, clip, "lit", grade=AS_FILMED, frame=0, scope="luma", region=[0, 0, 1, 1])

    overlay = cv2.imdecode(np.frombuffer(answer.content, np.uint8), cv2.IMREAD_UNCHANGED)
    assert answer["Content-Type"] == "image/png"
    assert (overlay[..., 3] == 0).all()


def test_given_something_to_tap_when_tapped_then_a_balanced_grade_and_a_sentence_come_back(client, clip):
    answer = post(client, clip, "tap", grade=AS_FILMED, frame=0, x=0.5, y=0.9).json()

    assert recipe.from_json(answer["grade"]).step("balance").at_work
    assert "neutral" in answer["sentence"] or "not grey" in answer["sentence"]


@pytest.mark.parametrize("name", ["before/0.jpg", "thumbnail/0.jpg"])
def test_given_a_judging_frame_when_its_picture_is_asked_for_then_it_comes(client, clip, name):
    answer = client.get(f"/bench/{clip.pk}/{name}")

    assert cv2.imdecode(np.frombuffer(answer.content, np.uint8), cv2.IMREAD_COLOR) is not None


# --- files -----------------------------------------------------------------------------------------


def test_given_a_grade_when_recipe_and_cube_are_downloaded_then_they_are_those_of_the_grade(client, clip):
    accept_all(clip)

    written = client.get(f"/bench/{clip.pk}/recipe.json")
    cube = client.get(f"/bench/{clip.pk}/grade.cube")

    assert recipe.from_text(written.content.decode()) == grade_of(clip)
    assert 'filename="marsh.json"' in written["Content-Disposition"]
    assert cube.content.startswith(b'TITLE "marsh')


def test_given_any_page_when_answered_then_scripts_from_elsewhere_are_forbidden(client, clip):
    policy = client.get(f"/bench/{clip.pk}/")["Content-Security-Policy"]

    assert "script-src 'self'" in policy
    assert "unsafe" not in policy


def test_given_an_address_that_does_not_exist_when_asked_for_then_a_way_back_is_shown(client, db):
    answer = client.get("/nowhere/")

    assert answer.status_code == 404
    assert "Go to Today" in answer.content.decode()


def test_given_a_stored_grade_that_is_out_of_bounds_when_opened_then_every_page_does_and_undo_leads_back(
    client, clip
):
    keep(clip, grade_of(clip).with_step(Exposure(stops=0.5)), "Brighter")
    keep(clip, grade_of(clip).with_step(Exposure(stops=0.7)), "Brighter still")
    version = Clip.objects.with_grades().get(pk=clip.pk).version
    version.grade["layers"][0]["steps"][0]["stops"] = 1e308  # as an older Morphe may have kept it
    version.save()

    for page in (f"/bench/{clip.pk}/", "/clips/", "/hand-over/", "/logbook/", "/"):
        assert client.get(page).status_code == 200
    assert "is left out" in client.get(f"/bench/{clip.pk}/").content.decode()

    client.post(f"/bench/{clip.pk}/change/undo/", headers={"HX-Request": "true"})
    now = grade_of(Clip.objects.with_grades().get(pk=clip.pk))
    assert now.step("exposure").number("stops") == 0.5


def test_given_a_picture_written_anew_by_another_process_when_looked_at_then_it_is_the_new_one(tmp_path):
    path = tmp_path / "frame.npy"
    for value in (0.25, 0.75):
        path.write_bytes(picture_file(np.full((4, 4, 3), value)).read())
        os.utime(path, (value, value))

        assert load_picture(str(path)).mean() == pytest.approx(value)

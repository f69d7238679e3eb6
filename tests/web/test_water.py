"""Water on the pages: asked once for a camera and folder, told on the Bench, remembered, taken back."""

from __future__ import annotations

import json

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from morphe.core.grade.restore import Way
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.demo import render_scene
from morphe.core.standins.kits import KITS
from morphe.web.clips.models import Clip, GivenAnswer
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.questions.water_hints import water_hints_of
from morphe.web.outings.models import Camera
from morphe.web.plan.models import DiveLesson, PlannedCamera
from morphe.web.plan.services.current import add_camera, card_of, plan_of, save_answers
from tests.footage import ClipSpec, write_clip
from tests.web.conftest import brought_in
from tests.web.working import work_all

SIZE = (192, 108)


@pytest.fixture(scope="session")
def dive_file(tmp_path_factory):
    """A dive over the meadow at 5 m in green water."""
    light = np.asarray(render_scene("seagrass-5", 0.5, width=SIZE[0], height=SIZE[1]), np.float32)
    picture = np.clip(PROFILES.get("std-709").encode(light), 0, 1).astype(np.float32)
    return write_clip(
        tmp_path_factory.mktemp("dive") / "dive.mp4", ClipSpec(size=SIZE, frames=20), lambda i: picture
    )


@pytest.fixture
def dive(outing, dive_file):
    """The dive, read, and called wet."""
    clip = brought_in(outing, dive_file)
    clip.water = {"wet": True}
    clip.save(update_fields=["water"])
    return clip


def act(client, clip, name, **values):
    answer = client.post(f"/bench/{clip.pk}/change/{name}/", values, headers={"hx-request": "true"})
    assert answer.status_code == 200
    return answer.content.decode()


def restored(clip):
    return grade_of(Clip.objects.with_grades().get(pk=clip.pk)).source.restore


def test_given_a_dive_when_called_wet_and_accepted_then_the_water_is_taken_back_and_undone(
    client, outing, dive_file
):
    clip = brought_in(outing, dive_file)

    page = act(client, clip, "water-wet", wet="wet", open="restore")
    assert "Take the water back" in page and "What you have not said is taken as usual" in page
    act(client, clip, "accept", open="restore")
    assert restored(clip).strength == 100

    act(client, clip, "undo")
    assert not restored(clip).at_work


def test_given_a_wet_clip_when_called_dry_and_back_then_the_rung_goes_and_comes(client, dive):
    act(client, dive, "water-wet", wet="wet", open="restore")
    act(client, dive, "accept", open="restore")

    dry = act(client, dive, "water-wet", wet="dry", open="convert")
    assert 'data-rung="restore"' not in dry
    assert not restored(dive).at_work

    assert 'data-rung="restore"' in act(client, dive, "water-wet", wet="wet", open="convert")


def test_given_hints_when_told_then_the_water_is_judged_anew_and_kept_strength_stays(client, dive):
    act(client, dive, "water-wet", wet="wet", open="restore")
    act(client, dive, "accept", open="restore")
    before = restored(dive)

    page = act(
        client, dive, "water-tell", depth_m="5", distance_m="2,5", water="1C", lamp="no", filter="none"
    )

    hints = water_hints_of(Clip.objects.get(pk=dive.pk))
    assert (hints.depth_m, hints.distance_m, hints.water, hints.lamp) == (5.0, 2.5, "1C", False)
    assert restored(dive) != before
    assert "A subject at 5 m, 2.5 m from the lens, lit by daylight" in page


@pytest.mark.parametrize(
    ("said", "words"),
    [
        ({"depth_m": "deep"}, "is no depth in metres"), ({"depth_m": "99"}, "0 to 60 m"),
        ({"water": "soup"}, "no water type"), ({"filter": "green"}, "red, magenta or none"),
        ({"distance_m": "nan"}, "0 to 30 m"),
    ],
)  # fmt: skip
def test_given_a_hint_that_cannot_be_when_told_then_it_is_refused_and_nothing_changes(
    client, dive, said, words
):
    page = act(client, dive, "water-tell", **said)

    assert words in page.replace("&#x27;", "'")
    assert Clip.objects.get(pk=dive.pk).water == {"wet": True}


@pytest.mark.parametrize("way", list(Way))
def test_given_a_way_when_chosen_then_colour_is_brought_back_in_it(client, dive, way):
    act(client, dive, "water-wet", wet="wet", open="restore")

    act(client, dive, "water-way", way=way)

    assert restored(dive).way == way and restored(dive).at_work


def test_given_an_unknown_way_or_word_when_posted_then_it_is_one_sentence(client, dive):
    assert "no way" in act(client, dive, "water-way", way="magic")
    assert "wet or dry" in act(client, dive, "water-wet", wet="damp")


def test_given_doubt_when_clips_are_looked_at_then_it_is_asked_once_and_the_answer_is_for_all_of_the_camera(
    client, outing, dive_file
):
    camera = Camera.objects.create(name="Cuttle")
    clips = [brought_in(outing, dive_file, f"dive-{n}.mp4") for n in range(2)]
    for clip in clips:
        clip.camera, clip.water_found = camera, {**clip.water_found, "wet": 0.6, "asked": True}
        clip.save(update_fields=["camera", "water_found"])

    page = client.get("/clips/").content.decode()
    assert "filmed under water?" in page and "2 clips." in page
    for answer in ("wet", "dry"):
        assert client.get(f"/clips/{clips[0].pk}/asked/water/{answer}.jpg")["Content-Type"] == "image/jpeg"
    client.post(f"/clips/{clips[0].pk}/asked/water/", {"answer": "wet"})
    work_all("judge")

    assert GivenAnswer.objects.get(question="water").key == "wet"
    for clip in clips:
        found = Clip.objects.get(pk=clip.pk).water_found
        assert found["taken"] and not found["asked"]
    assert "filmed under water?" not in client.get("/clips/").content.decode()


def test_given_a_wet_clip_when_what_is_invented_is_asked_for_then_its_pixels_are_a_picture(client, dive):
    act(client, dive, "water-wet", wet="wet", open="restore")
    act(client, dive, "accept", open="restore")
    grade = json.loads(json.dumps(Clip.objects.get(pk=dive.pk).proposal))

    body = {"grade": grade, "frame": 0, "scope": "invented"}
    answer = client.post(f"/bench/{dive.pk}/lit/", json.dumps(body), content_type="application/json")

    assert answer.status_code == 200 and answer["Content-Type"] == "image/png"


def test_given_a_dive_log_when_taken_then_the_water_moves_with_it_and_typed_depths_do_too(client, dive):
    act(client, dive, "water-wet", wet="wet", open="restore")
    log = SimpleUploadedFile("dive.csv", b"time_s,depth_m\n0,2\n10,9\n", content_type="text/csv")

    page = act(client, dive, "water-log", log=log, begins="0")
    act(client, dive, "accept", open="restore")

    assert restored(dive).moves
    assert "0 2; 0.8 2.56" in page
    act(client, dive, "water-tell", depths="0 2; 0.8 9")
    assert water_hints_of(Clip.objects.get(pk=dive.pk)).depths == ((0.0, 2.0), (0.8, 9.0))
    assert restored(dive).moves


@pytest.mark.parametrize("content", [b"", b"hello", b"time_s,depth_m\n500,2\n"])
def test_given_a_log_that_is_none_when_taken_then_it_is_refused_in_words(client, dive, content):
    log = SimpleUploadedFile("dive.csv", content, content_type="text/csv")

    assert "notice-error" in act(client, dive, "water-log", log=log)
    assert "depths" not in Clip.objects.get(pk=dive.pk).water


def test_given_what_would_win_red_when_kept_then_the_next_plan_offers_it_until_it_is_followed_or_forgotten(
    client, outing, dive
):
    kit = KITS.get("cuttle")
    dive.camera = Camera.objects.create(name=kit.name, kit=json.loads(json.dumps(kit.as_json())))
    dive.save(update_fields=["camera"])
    planned = add_camera(plan_of(outing), dive.camera)
    asked = {"shot": "dive", "light": "sun", "depth_m": "9", "distance_m": "3", "lamp": "no", "water": "1C"}
    save_answers(planned, asked)
    act(client, dive, "water-tell", depth_m="9", distance_m="3", water="1C", lamp="no")

    assert "In the next plan" in act(client, dive, "water-learn", way="lamp", open="restore")
    act(client, dive, "water-learn", way="shallower", open="restore")
    assert client.get("/plan/").content.decode().count("From the last dive") == 2
    assert "Under water: With a lamp" in client.get("/library/").content.decode()

    lesson = DiveLesson.objects.get(way="lamp")
    page = client.post(f"/plan/{planned.pk}/answers/", lesson.answers, headers={"hx-request": "true"})
    assert page.content.decode().count("From the last dive") == 1
    assert card_of(planned_again(planned)).plan.scene.water.has_lamp

    assert "For the next plan" in act(client, dive, "water-unlearn", way="lamp", open="restore")
    assert not DiveLesson.objects.filter(way="lamp").exists()


def planned_again(planned):
    return PlannedCamera.objects.get(pk=planned.pk)


def test_given_no_camera_or_nothing_to_win_when_a_lesson_is_kept_then_one_sentence_says_why(client, dive):
    assert "which camera" in act(client, dive, "water-learn", way="lamp", open="restore")
    dive.camera = Camera.objects.create(name="Cuttle")
    dive.save(update_fields=["camera"])
    assert "win nothing here" in act(client, dive, "water-learn", way="magic", open="restore")
    assert not DiveLesson.objects.exists()

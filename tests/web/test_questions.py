"""What Morphe asks of clips whose profile their picture leaves open."""

import re

import cv2
import numpy as np
import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext

from morphe.core.advise.profile.verdict import ASK_BELOW
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Exposure
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.kits import KITS
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.versions import keep
from morphe.web.clips.services.questions.profile import ProfileQuestion
from morphe.web.outings.models import Camera
from tests.footage import ClipSpec, scene, write_clip
from tests.web.conftest import brought_in
from tests.web.kept import once
from tests.web.working import work_all

question = ProfileQuestion()
ANSWER = re.compile(r'name="answer" value="([\w-]+)"')


def doubtful_file(folder, name="dim.mp4"):
    """A dim flat picture that might as well be log."""
    linear = 0.5 * PROFILES.get("std-709").decode(scene(192, 108))
    flat = PROFILES.get("flat-a").encode(linear).astype(np.float32)
    return write_clip(folder / name, ClipSpec(size=(192, 108), frames=20), lambda i: flat)


@pytest.fixture
def card(outing, tmp_path, media, store):
    """Three clips of one camera in doubt."""

    def make():
        path = doubtful_file(tmp_path)
        Camera.objects.create(name="Cuttle")
        for number in (1, 2, 3):
            brought_in(outing, path, f"cuttle-{number}.mp4")
        work_all("sort")

    once(("card", outing.pk), media, make, store)
    return list(outing.clips.select_related("version").order_by("pk"))


def shown(content):
    return cv2.imdecode(np.frombuffer(content, np.uint8), cv2.IMREAD_COLOR)


def test_given_clips_in_doubt_when_listed_then_one_question_offers_what_they_may_be(client, outing, card):
    page = client.get("/clips/").content.decode()

    assert "How was Cuttle set?" in page and "3 clips." in page
    offered = ANSWER.findall(page)
    assert {"flat", "log"} <= set(offered)
    percents = [a.percent for a in question.asked(outing).answers]
    assert percents == sorted(percents, reverse=True) and sum(percents) <= 101


def test_given_a_clear_picture_of_log_when_asked_then_it_is_said_but_never_quite_sure(
    client, outing, tmp_path
):
    encode = PROFILES.get("log-lifted").encode
    log = encode(PROFILES.get("std-709").decode(scene(192, 108))).astype(np.float32)
    path = write_clip(tmp_path / "log.mp4", ClipSpec(size=(192, 108), frames=20), lambda i: log)
    brought_in(outing, path, "cuttle-1.mp4")

    asked = question.asked(outing)

    assert asked.answers[0].label == "log"
    assert all(1 <= a.percent <= 99 for a in asked.answers)
    assert "By the picture it is log" in client.get("/clips/").content.decode()


def test_given_an_answer_when_looked_at_again_then_all_follow_and_nothing_more_is_asked(client, outing, card):
    asked = question.asked(outing)

    client.post(f"/clips/{asked.clip.pk}/asked/profile/", {"answer": "flat-a"})
    work_all("judge", "sort")

    assert {c.profile["kind"] for c in outing.clips.all()} == {"flat"}
    assert min(c.profile["confidence"] for c in outing.clips.all()) >= ASK_BELOW
    assert question.asked(outing) is None
    assert "question-profile" not in client.get("/clips/").content.decode()
    assert all(not c.is_corrected for c in outing.clips.select_related("version"))


def test_given_log_as_the_answer_when_read_then_the_picture_says_which_and_it_is_remembered(
    client, outing, card
):
    client.post(f"/clips/{card[0].pk}/asked/profile/", {"answer": "log"})
    work_all("judge", "sort")

    answered = Clip.objects.get(pk=card[0].pk)
    assert answered.profile["kind"] == "log" and answered.profile["confidence"] == 1.0
    assert answered.profile["evidence"][0] == "you said log"
    assert {c.profile["kind"] for c in outing.clips.all()} == {"log"}
    assert "you said log of this camera's clips before" in Clip.objects.get(pk=card[1].pk).profile["evidence"]


def test_given_possible_answers_when_pictured_then_each_shows_the_clip_as_it_would_be(client, outing, card):
    pictures = {
        key: shown(client.get(f"/clips/{card[0].pk}/asked/profile/{key}.jpg").content)
        for key in ("std-709", "flat-a", "log")
    }

    assert {p.shape for p in pictures.values()} == {(36, 64, 3)}
    assert abs(pictures["std-709"].astype(float) - pictures["log"]).mean() > 4


@pytest.mark.parametrize("address", ["profile/film.jpg", "profile/own-99.jpg", "colour/log.jpg"])
def test_given_an_unknown_profile_when_pictured_then_there_is_none(client, card, address):
    assert client.get(f"/clips/{card[0].pk}/asked/{address}").status_code == 404


def test_given_an_unknown_answer_when_given_then_a_sentence_says_so_and_nothing_changes(client, outing, card):
    page = client.post(
        f"/clips/{card[0].pk}/asked/profile/", {"answer": "film"}, follow=True
    ).content.decode()

    assert "There is no profile" in page
    assert Clip.objects.get(pk=card[0].pk).profile_choice == "auto"
    assert question.asked(outing).count == 3


def test_given_clips_of_several_sorts_when_asked_then_the_question_that_settles_most_comes_first(
    outing, card, tmp_path
):
    alone = brought_in(outing, doubtful_file(tmp_path, "other.mp4"), "alone.mp4")

    first = question.asked(outing)
    for clip in card:
        keep(clip, Grade.of(Exposure(stops=0.5)), "Exposure set")
    second = question.asked(outing)

    assert (first.count, first.more) == (3, 1) and first.clip.camera.name == "Cuttle"
    assert (second.count, second.more, second.clip) == (1, 0, alone)


def test_given_a_camera_with_one_log_profile_when_asked_then_that_one_is_offered_for_log(outing, card):
    camera = Camera.objects.get()
    asked = question.asked(outing)

    assert "log" in [a.key for a in asked.answers]
    camera.kit = KITS.get("cuttle").as_json()
    camera.save()
    assert "log-lifted" in [a.key for a in question.asked(outing).answers]


def test_given_more_clips_in_doubt_when_listed_then_no_more_queries_are_made(
    client, outing, card, tmp_path, django_assert_num_queries
):
    with CaptureQueriesContext(connection) as before:
        client.get("/clips/")
    brought_in(outing, doubtful_file(tmp_path, "other.mp4"), "alone.mp4")

    with django_assert_num_queries(len(before)):
        client.get("/clips/")

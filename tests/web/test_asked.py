"""All questions through their one address: odd answers, and what was answered to an older Morphe."""

from urllib.parse import quote

import pytest
from django.core.management import call_command
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

from morphe.web.clips.models import Clip, GivenAnswer
from morphe.web.clips.services.questions.put import QUESTIONS
from tests.odd import WORDS
from tests.web.conftest import brought_in


@pytest.fixture
def clip(outing, log_file):
    """A clip of which nothing is asked about its light."""
    clip = brought_in(outing, log_file, "marsh-1.mp4")
    assert clip.states["balance"] != "offered"
    return clip


@pytest.mark.parametrize("question", [*QUESTIONS, "colour"])
def test_given_any_clip_when_any_answer_is_pictured_or_given_then_nothing_breaks_or_changes(
    client, clip, question
):
    before = Clip.objects.values().get(pk=clip.pk)

    for word in (w for w in (*WORDS, "own-99") if w != "\ud800"):  # which no address can hold
        picture = client.get(f"/clips/{clip.pk}/asked/{question}/{quote(word, safe='')}.jpg")
        given = client.post(f"/clips/{clip.pk}/asked/{question}/", {"answer": word})

        assert (picture.status_code, given.status_code) == (404, 302), word
    assert Clip.objects.values().get(pk=clip.pk) == before


@pytest.mark.django_db(transaction=True)
def test_given_answers_of_an_older_morphe_when_upgraded_then_they_still_hold_for_camera_and_folder():
    executor = MigrationExecutor(connection)
    executor.migrate([("clips", "0016_uploads_settle")])
    old = executor.loader.project_state([("clips", "0016_uploads_settle")]).apps
    try:
        camera = old.get_model("outings", "Camera").objects.create(name="Cuttle")
        old.get_model("clips", "ProfileMemory").objects.create(
            camera=camera, folder="DAY1", key="log", label="log"
        )
        old.get_model("clips", "ProfileMemory").objects.create(folder="DAY1", key="flat-a", label="Flat A")
        old.get_model("clips", "WaterMemory").objects.create(camera=camera, folder="DAY1", wet=False)
    finally:
        call_command("migrate", verbosity=0)

    kept = set(GivenAnswer.objects.values_list("question", "camera__name", "folder", "key"))
    assert kept == {
        ("profile", "Cuttle", "DAY1", "log"),
        ("profile", None, "DAY1", "flat-a"),
        ("water", "Cuttle", "DAY1", "dry"),
    }

"""Clips: bringing in, reading, listing, passing recipes on, removing."""

import re

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext

from morphe.core.errors import OutputError
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Exposure
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.grades.versions import accept_all
from morphe.web.clips.services.intake import bring_in
from morphe.web.jobs.models import Job
from morphe.web.jobs.services.ask import ask
from morphe.web.logbook.models import LogEntry
from tests.web.conftest import brought_in
from tests.web.working import work_all, work_off


def upload(client, name, content, **headers):
    file = SimpleUploadedFile(name, content, content_type="video/mp4")
    return client.post("/clips/upload/", {"clip": file}, headers=headers)


def test_given_a_clip_when_uploaded_then_it_is_kept_byte_for_byte_and_waits_for_the_worker(
    client, outing, log_file
):
    answer = upload(client, "My marsh.mp4", log_file.read_bytes(), accept="application/json")

    clip = Clip.objects.get()
    assert answer.json() == {"clip": clip.pk, "title": "My marsh.mp4"}
    assert clip.state == Clip.State.WAITING
    assert clip.path.read_bytes() == log_file.read_bytes()
    assert [p.name for p in clip.path.parent.iterdir()] == [clip.path.name]  # nothing half-made


@pytest.mark.django_db(transaction=True)
def test_given_an_upload_when_it_is_saved_then_the_queue_has_its_task(client, outing, log_file):
    from huey.contrib.djhuey import HUEY

    HUEY.flush()
    upload(client, "queued.mp4", log_file.read_bytes())

    job = Job.objects.get()
    assert (job.kind, job.subject, job.state) == ("read", Clip.objects.get().pk, "waiting")
    assert [(t.name, t.args) for t in HUEY.pending()] == [("run_job_task", (job.pk,))]
    HUEY.flush()


@pytest.mark.parametrize(("content", "words"), [(b"", "empty"), (None, "No file arrived")])
def test_given_no_content_when_uploaded_then_it_is_refused_in_words(client, outing, content, words):
    answer = (
        client.post("/clips/upload/", {}, headers={"accept": "application/json"})
        if content is None
        else upload(client, "void.mp4", content, accept="application/json")
    )

    assert answer.status_code == 422
    assert words in answer.json()["problem"]
    assert not Clip.objects.exists()


def test_given_the_same_file_twice_when_uploaded_then_the_second_is_recognised(client, outing, log_file):
    upload(client, "one.mp4", log_file.read_bytes())

    answer = upload(client, "two.mp4", log_file.read_bytes(), accept="application/json")

    assert answer.json()["problem"] == "two.mp4 is here already, as one.mp4."
    assert Clip.objects.count() == 1


def test_given_a_plain_form_when_something_is_wrong_then_the_page_says_it(client, outing):
    answer = client.post("/clips/upload/", {}, follow=True)

    assert "No file arrived" in answer.content.decode()


def test_given_no_room_when_uploaded_then_it_is_refused_and_nothing_is_left(
    client, outing, log_file, monkeypatch, media
):
    monkeypatch.setattr(bring_in, "SPARE_BYTES", 10**18)

    answer = upload(client, "big.mp4", log_file.read_bytes(), accept="application/json")

    assert "no room" in answer.json()["problem"]
    assert not list((media / "clips").iterdir())


def test_given_a_name_from_elsewhere_when_uploaded_then_it_stays_in_the_media_folder(
    client, outing, log_file, media
):
    upload(client, "../../etc/x y<b>.mp4", log_file.read_bytes())

    clip = Clip.objects.get()
    assert clip.path.parent == media / "clips"
    assert "<b>" not in client.get("/clips/").content.decode()


def test_given_an_upload_without_the_token_when_sent_then_it_is_refused(outing):
    assert Client(enforce_csrf_checks=True).post("/clips/upload/").status_code == 403


# --- reading ---------------------------------------------------------------------------------------


def test_given_a_waiting_clip_when_read_then_facts_frames_advice_and_a_log_entry_are_kept(clip):
    assert clip.is_ready
    assert clip.info["width"] == 192
    assert clip.profile["kind"] in ("log", "flat")
    assert clip.frames.count() >= 1
    assert all(f.picture.size and f.thumbnail.size for f in clip.frames.all())
    assert [rung["step"] for rung in clip.rungs[:2]] == ["denoise", "convert"]
    assert grade_of(clip) == Grade()
    assert "Brought in marsh.mp4" in LogEntry.objects.get().sentence


@pytest.mark.parametrize("content", [b"dear diary" * 100, b"\x00" * 4000])
def test_given_another_kind_of_file_when_read_then_the_card_says_so_in_one_sentence(
    client, outing, tmp_path, content
):
    path = tmp_path / "diary.mp4"
    path.write_bytes(content)

    clip = brought_in(outing, path)

    page = client.get("/clips/").content.decode()
    assert clip.state == Clip.State.FAILED
    assert clip.problem.startswith("diary.mp4 ")
    assert clip.problem in page.replace("&#x27;", "'")
    assert LogEntry.objects.get().kind == "failed"


def test_given_a_clip_that_is_read_already_when_the_task_comes_again_then_nothing_is_done(clip):
    before = list(clip.frames.values_list("pk", flat=True))

    work_off("read", clip.pk)

    assert list(clip.frames.values_list("pk", flat=True)) == before


# --- listing ---------------------------------------------------------------------------------------


@pytest.mark.parametrize("kind", ["judge", "sort"])
def test_given_clips_still_being_judged_or_grouped_when_listed_then_the_cards_follow(client, clip, kind):
    Job.objects.all().delete()
    cards = r'id="cards"[^>]*data-busy'
    assert not re.search(cards, client.get("/clips/").content.decode())

    ask(kind, clip.pk if kind == "judge" else clip.outing_id)

    assert re.search(cards, client.get("/clips/").content.decode())


def queries_for(client, address):
    with CaptureQueriesContext(connection) as queries:
        assert client.get(address).status_code == 200
    return len(queries)


@pytest.mark.parametrize("address", ["/", "/clips/", "/hand-over/", "/logbook/"])
def test_given_more_clips_when_a_page_is_asked_for_then_the_number_of_queries_stays(
    client, outing, log_file, clip, address
):
    client.get(address)
    one = queries_for(client, address)
    for number in range(3):
        accept_all(brought_in(outing, log_file, f"more-{number}.mp4"))

    assert queries_for(client, address) == one


def test_given_clips_when_listed_then_each_card_says_what_it_is_and_what_comes_next(client, clip):
    page = client.get("/clips/").content.decode()

    assert "marsh.mp4" in page
    assert "192×108" in page
    assert "Proposals wait" in page


# --- recipes on other clips, removing --------------------------------------------------------------


def test_given_a_corrected_clip_when_its_recipe_is_used_then_the_ticked_clips_have_it(
    client, outing, clip, log_file
):
    other, third = (brought_in(outing, log_file, f"{n}.mp4") for n in ("other", "third"))
    accept_all(clip)

    client.post("/clips/use-recipe/", {"clip": [other.pk], "source": clip.pk})
    work_all("decide")

    other.refresh_from_db()
    third.refresh_from_db()
    assert grade_of(other) == grade_of(clip)
    assert grade_of(third) == Grade()
    assert "Took the correction of marsh.mp4" in LogEntry.objects.first().sentence


def test_given_a_recipe_file_when_used_then_the_ticked_clips_have_it(client, clip):
    grade = Grade.of(Exposure(stops=0.3))
    file = SimpleUploadedFile("mine.json", recipe.to_text(grade).encode())

    client.post("/clips/use-recipe/", {"clip": [clip.pk], "recipe": file})
    work_all("decide")

    clip.refresh_from_db()
    assert grade_of(clip).layers == grade.layers
    assert grade_of(clip).convert.profile.startswith("log")  # the source is the clip's own


@pytest.mark.parametrize(
    ("content", "words"),
    [(b"{}", "not a Morphe recipe"), (b"\xff\xfe", "not a recipe"), (None, "No correction is chosen")],
)
def test_given_no_usable_recipe_when_used_then_it_is_said_and_nothing_changes(client, clip, content, words):
    data = {"clip": [clip.pk], "source": "x"}
    if content is not None:
        data["recipe"] = SimpleUploadedFile("mine.json", content)

    page = client.post("/clips/use-recipe/", data, follow=True).content.decode()

    clip.refresh_from_db()
    assert words in page
    assert grade_of(clip) == Grade()


def test_given_no_clip_ticked_when_a_recipe_is_used_then_it_is_said(client, clip):
    page = client.post("/clips/use-recipe/", {"source": clip.pk}, follow=True).content.decode()

    assert "No other clip is ticked" in page


def test_given_a_clip_when_removed_then_its_files_are_gone_and_the_log_stays(client, clip, media, log_file):
    answer = client.post(f"/clips/{clip.pk}/remove/", headers={"HX-Request": "true"})

    assert answer["HX-Refresh"] == "true"  # the page as it is now, whole

    assert not Clip.objects.exists()
    assert not [p for p in media.rglob("*") if p.is_file()]
    assert LogEntry.objects.get().clip is None
    assert log_file.exists()


def test_given_a_full_disk_when_a_clip_is_kept_then_the_error_is_a_sentence(outing, log_file, monkeypatch):
    monkeypatch.setattr(bring_in, "SPARE_BYTES", 10**18)

    with pytest.raises(OutputError, match="free some disk space"):
        bring_in.bring_in_path(outing, log_file)

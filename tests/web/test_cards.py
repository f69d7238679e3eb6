"""Clips from cards of this computer."""

import os
import re
import shutil
from pathlib import Path

import pytest
from django.utils import timezone

from morphe.core.errors import MediaError
from morphe.web.clips.models import CardImport, Clip
from morphe.web.clips.services.intake.card import begin_import, look_at, stop_import
from morphe.web.clips.services.reading.storage import sized_for_web
from morphe.web.clips.services.space.room import room
from morphe.web.jobs.models import Job
from morphe.web.jobs.services.ask import rescue
from tests.web.working import work_all, work_off


@pytest.fixture
def card(tmp_path, log_file, plain_clip):
    folder = tmp_path / "CARD"
    for path, source in (("DCIM/100A/one.MP4", log_file), ("DCIM/100A/two.mp4", plain_clip)):
        (folder / path).parent.mkdir(parents=True, exist_ok=True)
        shutil.copy(source, folder / path)
        os.utime(folder / path, (1_757_668_320,) * 2)
    (folder / "DCIM" / "100A" / ".trash.mp4").write_bytes(b"hidden")
    (folder / "MISC.txt").write_text("no clip")
    return folder


@pytest.fixture(autouse=True)
def roots(settings, tmp_path):
    settings.IMPORT_ROOTS = [tmp_path]


def test_given_pipes_links_and_odd_names_on_a_card_when_brought_in_then_only_files_are(
    outing, card, tmp_path, plain_clip
):
    outside = tmp_path / "outside"
    outside.mkdir()
    shutil.copy(plain_clip, outside / "secret.mp4")
    shot = card / "DCIM" / "100A"
    os.mkfifo(shot / "pipe.mp4")
    (shot / "link.mp4").symlink_to(outside / "secret.mp4")
    (shot / "nowhere.mp4").symlink_to(tmp_path / "gone.mp4")
    (card / "DCIM" / "away").symlink_to(outside)
    os.link(plain_clip, os.fsencode(shot) + b"/\xff\xfe.mp4")
    spaces = ["no\u00a0break.mp4", "wide\u3000space.mp4"]

    listed = [c.path for c in look_at(outing, str(card)).clips]
    assert listed == ["DCIM/100A/one.MP4", "DCIM/100A/two.mp4"]
    for name in spaces:
        os.link(plain_clip, shot / name)
    assert {Path(c.path).name for c in look_at(outing, str(card)).clips} >= set(spaces)

    job = begin_import(outing, str(card), listed)
    job.files = [*listed, "DCIM/100A/pipe.mp4", "DCIM/100A/link.mp4", "DCIM/away/secret.mp4"]
    job.save()
    work_all("import")
    job.refresh_from_db()
    assert job.brought == 2 and job.done == 5
    assert [p.rpartition(";")[0] for p in job.problems] == [
        "pipe.mp4 is no file", "link.mp4 is a link or a device", "DCIM/away/secret.mp4 leads out of the card",
    ]  # fmt: skip


@pytest.mark.parametrize("where", ["/etc", "/dev", "/proc/self"])
def test_given_a_folder_of_the_system_when_looked_at_then_it_is_refused_in_words(outing, where):
    with pytest.raises(MediaError, match="from the home folder and from cards"):
        look_at(outing, where)


def test_given_morphes_own_folder_when_looked_at_then_it_is_refused(outing, settings, tmp_path):
    settings.HOME = tmp_path
    (tmp_path / "media").mkdir(exist_ok=True)
    with pytest.raises(MediaError, match="not from"):
        look_at(outing, str(tmp_path / "media"))


def test_given_a_page_or_a_picture_when_answered_then_it_says_how_long_it_may_be_kept(client, clip):
    assert client.get("/clips/")["Cache-Control"] == "private, no-cache"
    assert "HX-Request" in client.get("/clips/")["Vary"]  # a piece of it is never shown in its place
    assert "max-age=3600" in client.get(f"/clips/{clip.pk}/corrected.jpg")["Cache-Control"]


def test_given_a_card_when_looked_at_then_its_clips_are_listed_with_those_that_are_here(client, outing, card):
    page = client.get("/clips/card/", {"folder": str(card)}).content.decode()

    assert "DCIM/100A/one.MP4" in page and "DCIM/100A/two.mp4" in page
    assert "trash" not in page and "2 of 2 are new" in page


def test_given_a_card_when_brought_in_then_clips_know_their_folder_and_their_time(outing, card):
    job = begin_import(outing, str(card), [c.path for c in look_at(outing, str(card)).clips])
    work_off("import", job.pk)
    again = begin_import(outing, str(card), ["DCIM/100A/one.MP4"])
    work_off("import", again.pk)

    job.refresh_from_db()
    again.refresh_from_db()
    clip = Clip.objects.get(title="one.MP4")
    assert (job.job.state, job.done, job.brought, job.problems) == ("done", 2, 2, [])
    assert (again.brought, again.known) == (0, 1)
    assert clip.folder == "DCIM/100A" and clip.filmed_at.hour == 9
    assert (card / "DCIM/100A/one.MP4").exists()


def test_given_a_killed_worker_when_rescued_then_the_card_goes_on_after_the_last_clip(outing, card):
    job = begin_import(outing, str(card), ["DCIM/100A/one.MP4", "DCIM/100A/two.mp4"])
    CardImport.objects.update(done=1)
    Job.objects.update(state="running", heartbeat=timezone.now() - timezone.timedelta(hours=1))

    rescue()
    work_off("import", job.pk)

    job.refresh_from_db()
    assert (job.job.state, job.done, job.brought) == ("done", 2, 1)
    assert [c.title for c in Clip.objects.all()] == ["two.mp4"]


def test_given_a_card_pulled_out_when_copying_then_a_sentence_names_the_clip_and_the_rest_is_here(
    outing, card
):
    job = begin_import(outing, str(card), ["DCIM/100A/one.MP4", "DCIM/100A/two.mp4"])
    (card / "DCIM/100A/one.MP4").unlink()

    work_off("import", job.pk)

    job.refresh_from_db()
    assert job.brought == 1 and "one.MP4 could not be copied" in job.problems[0]


def test_given_a_stopped_import_when_run_then_nothing_more_is_copied(client, outing, card):
    job = begin_import(outing, str(card), ["DCIM/100A/one.MP4"])
    stop_import(job)

    work_all()

    assert not Clip.objects.exists()


@pytest.mark.parametrize("folder", ["", "relative", "/nowhere/at/all", "/dev/null"])
def test_given_no_folder_when_looked_at_then_it_is_refused_in_words(client, outing, folder):
    page = client.get("/clips/card/", {"folder": folder or " "}).content.decode()

    assert "is no folder" in page or not folder


def test_given_an_empty_folder_when_looked_at_then_the_cards_own_folder_is_asked_for(
    client, outing, tmp_path
):
    page = client.get("/clips/card/", {"folder": str(tmp_path)}).content.decode()

    assert "There are no clips" in page


def test_given_another_device_when_it_names_a_folder_then_it_may_not(client, outing, card):
    page = client.get("/clips/card/", {"folder": str(card)}, REMOTE_ADDR="192.168.1.7").content.decode()

    assert "Only this computer itself may name a folder" in page
    assert "one.MP4" not in page


def test_given_a_path_outside_the_card_when_ticked_then_it_is_not_copied(client, outing, card, tmp_path):
    (tmp_path / "secret.mp4").write_bytes(b"secret")

    client.post("/clips/card/begin/", {"folder": str(card), "clip": ["../secret.mp4"]})

    assert not CardImport.objects.exists()


def test_given_clips_when_storage_is_looked_at_then_used_and_left_are_said(clip):
    assert re.fullmatch(
        rf"Clips use {re.escape(sized_for_web(clip.size_bytes))}; [\d.]+ .?B are left\.", room()
    )

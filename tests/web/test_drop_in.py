"""The drop-in folder: off by default, looked at by the watch, each clip handed back once."""

import os
import shutil
import time

import pytest

from morphe.web.handover.models import DropIn, Dropped
from morphe.web.handover.services import drop_in
from morphe.web.jobs.models import Job
from morphe.web.jobs.services.ask import rescue
from tests.web.working import work_all


@pytest.fixture
def watched(client, db, tmp_path):
    folder = tmp_path / "to-correct"
    folder.mkdir()
    client.post("/hand-over/drop-in/set/", {"folder": str(folder), "on": "yes", "film": "yes"})
    return folder


def put(file, folder, name, age_s=60):
    out = shutil.copy(file, folder / name)
    os.utime(out, (time.time() - age_s,) * 2)
    return out


def test_given_a_clip_that_appears_when_looked_at_then_it_is_handed_back_once(client, watched, log_file):
    put(log_file, watched, "marsh.mp4")
    put(log_file, watched, "arriving.mp4", age_s=0)

    rescue()
    work_all("drop-in")
    put(log_file, watched, "arriving.mp4", age_s=0)
    rescue()

    assert [d.name for d in Dropped.objects.all()] == ["marsh.mp4"]
    assert not Job.objects.filter(kind="drop-in", state="waiting").exists()
    names = {p.name for p in (watched / "handed-back").iterdir()}
    assert {"marsh.corrected.mp4", "marsh.mp4.cube", "marsh.mp4.report.txt"} <= names
    assert "Handed back" in client.get("/hand-over/drop-in/").content.decode()


def test_given_a_camera_whose_clock_is_ahead_when_its_clip_has_settled_then_it_is_taken(
    watched, log_file, monkeypatch
):
    put(log_file, watched, "marsh.mp4", age_s=-86400)
    rescue()
    assert not Dropped.objects.exists()

    monkeypatch.setattr(drop_in, "SETTLED_S", 0.0)
    rescue()

    assert [d.name for d in Dropped.objects.all()] == ["marsh.mp4"]


def test_given_something_broken_when_looked_at_then_its_sentence_is_on_the_page(client, watched):
    path = watched / "broken.mp4"
    path.write_bytes(b"nothing")
    os.utime(path, (time.time() - 60,) * 2)

    rescue()
    work_all("drop-in")

    assert "broken.mp4 cannot be read as video" in client.get("/hand-over/drop-in/").content.decode()


def test_given_a_folder_switched_off_when_looked_at_then_nothing_is_touched(client, watched, log_file):
    client.post("/hand-over/drop-in/set/", {"folder": str(watched)})
    put(log_file, watched, "marsh.mp4")

    rescue()

    assert not Dropped.objects.exists() and not DropIn.objects.get().is_on


@pytest.mark.parametrize("folder", ["", "relative", "/nowhere/at/all", "own"])
def test_given_a_folder_that_cannot_be_watched_when_set_then_a_sentence_says_so(client, db, settings, folder):
    path = str(settings.HOME) if folder == "own" else folder

    page = client.post("/hand-over/drop-in/set/", {"folder": path, "on": "yes"}, follow=True).content.decode()

    assert ("Morphe&#x27;s own" if folder == "own" else "There is no folder") in page
    assert not DropIn.objects.filter(is_on=True).exists()

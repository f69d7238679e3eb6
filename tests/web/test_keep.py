"""Backups: written, brought back whole; a database kept before it is changed; proxies that come back."""

from __future__ import annotations

import gzip
import json
import os
import re
import sqlite3
import subprocess
import sys
import time
import zipfile
from contextlib import closing
from pathlib import Path

import pytest
from django.apps import apps
from django.conf import settings
from django.core.management import CommandError, call_command
from django.db.models import FileField

from morphe.core.errors import MorpheError
from morphe.core.grade import recipe
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.grades.versions import accept_all
from morphe.web.keep.models import Backup
from morphe.web.keep.services.backup import ALWAYS, MEDIA, write_backup
from morphe.web.keep.services.restore import check, restore, take_back_half
from morphe.web.library.services.lab import demo_series
from tests.serving import Visitor, environment_of, served
from tests.web.conftest import brought_in
from tests.web.test_upgrade import OLD
from tests.web.working import work_all, work_off

TABLES = ("clips_clip", "bench_gradeversion", "clips_judgingframe", "library_labtake", "logbook_logentry")


@pytest.fixture
def places(tmp_path, settings):
    """Where backups go, and the folder of another Morphe."""
    settings.BACKUPS = tmp_path / "backups"
    home = tmp_path / "another"
    home.mkdir()
    return settings.BACKUPS, home


def rows(database, table):
    with closing(sqlite3.connect(database)) as found:
        return found.execute(f"SELECT * FROM {table} ORDER BY 1").fetchall()


@pytest.mark.django_db(transaction=True)
@pytest.mark.parametrize(("with_media", "where"), [(False, "another/media"), (True, "disk/media")])
def test_given_work_done_when_backed_up_and_brought_back_then_all_of_it_is_there(
    client, outing, log_file, places, with_media, tmp_path, where
):
    clip = brought_in(outing, log_file)
    accept_all(clip)
    demo_series()
    client.post("/keep/backup/", {"media": "1"} if with_media else {})
    backup = Backup.objects.get()
    work_off("backup", backup.pk)
    home, media = places[1], tmp_path / where
    (media / "clips").mkdir(parents=True)
    (media / "clips" / "here.mp4").write_text("filmed")
    (media / "mine.txt").write_text("of before")

    old = restore(backup.path, home, media)

    own = settings.DATABASES["default"]["NAME"]
    for table in TABLES:
        assert len(rows(home / "morphe.sqlite3", table)) == len(rows(own, table)) > 0, table
    for frame in clip.frames.all():
        assert (media / frame.picture.name).read_bytes() == frame.picture.open().read()
    assert (media / clip.file.name).exists() is with_media
    assert (media / "clips" / "here.mp4").read_text() == "filmed"  # clips that it has not stay usable
    laid_aside = old / "media" if media.parent == home else media / old.name
    assert (laid_aside / "mine.txt").read_text() == "of before" and not (media / "mine.txt").exists()
    with zipfile.ZipFile(backup.path) as archive:
        names = archive.namelist()
        found = json.loads(archive.read(next(n for n in names if n.startswith("recipes/"))))
    assert recipe.from_json(found) == grade_of(Clip.objects.with_grades().get())
    saved = client.get(f"/keep/backup/{backup.pk}/")
    assert int(saved["Content-Length"]) == backup.path.stat().st_size


@pytest.mark.django_db(transaction=True)
def test_given_a_backup_asked_for_twice_when_written_then_there_is_one_and_later_ones_have_names_of_their_own(
    client, outing, places, media
):
    for _ in range(2):
        client.post("/keep/backup/")
    client.post("/keep/backup/", {"media": "1"})
    work_all("backup")
    client.post("/keep/backup/")
    work_all("backup")

    made = Backup.objects.all()
    assert len({backup.name for backup in made}) == len(made) == 3
    assert all(backup.size_bytes and not backup.problem for backup in made)


@pytest.mark.django_db(transaction=True)
def test_given_a_render_at_work_when_backed_up_then_what_is_unfinished_or_goes_away_stops_nothing(
    outing, log_file, places, media, tmp_path
):
    clip = brought_in(outing, log_file)
    results = media / "results" / "7"
    (results / ".workshop").mkdir(parents=True)
    (results / ".workshop" / "segment-1.mkv").write_bytes(b"half")
    for number in range(5):
        (results / f"{number}.mp4").write_bytes(bytes(100))

    def told(done, total):
        (results / "3.mp4").unlink(missing_ok=True)

    write_backup(tmp_path / "one.zip", with_media=True, told=told)

    with zipfile.ZipFile(tmp_path / "one.zip") as archive:
        kept = {name for name in archive.namelist() if "results/" in name}
        assert archive.testzip() is None
        assert f"media/{clip.file.name}" in archive.namelist()
    assert kept == {f"media/results/7/{number}.mp4" for number in (0, 1, 2, 4)}


@pytest.mark.django_db(transaction=True)
@pytest.mark.parametrize(
    ("spoil", "sentence"),
    [
        (lambda path: path.write_bytes(b"dear diary"), "no whole backup"),
        (lambda path: path.write_bytes(path.read_bytes()[:-400]), "no whole backup"),
        (lambda path: rewritten(path, "morphe.json", b'{"morphe": "99.1"}'), "newer; update Morphe first"),
        (lambda path: rewritten(path, "morphe.sqlite3", b"SQLite format 3\0" + b"x" * 9000), "is damaged"),
        (lambda path: rewritten(path, "morphe.json", b"[" * 9000), "no whole backup"),
    ],
)
def test_given_a_file_that_is_no_backup_when_brought_back_then_it_is_refused_and_nothing_has_changed(
    places, tmp_path, spoil, sentence
):
    path, home = tmp_path / "kept.zip", places[1]
    write_backup(path, with_media=False)
    (home / "morphe.sqlite3").write_text("mine")
    spoil(path)

    with pytest.raises(MorpheError, match=sentence):
        restore(path, home, home / "media")

    assert [p.name for p in home.iterdir()] == ["morphe.sqlite3"]
    assert (home / "morphe.sqlite3").read_text() == "mine"


@pytest.mark.django_db(transaction=True)
@pytest.mark.parametrize("where", ["another/media", "disk/media"])
@pytest.mark.parametrize("step", [*range(5), "_keep_footage", "_forget_proxies", "_bring_up_to_date"])
def test_given_a_restore_that_is_killed_when_started_again_then_it_is_the_old_data_or_the_new(
    places, tmp_path, monkeypatch, step, where
):
    path, home, media = tmp_path / "kept.zip", places[1], tmp_path / where
    write_backup(path, with_media=False)
    (media / "clips").mkdir(parents=True)
    (media / "clips" / "a.mp4").write_text("footage")
    (media / "mine.txt").write_text("of before")
    (home / "morphe.sqlite3").write_text("mine")
    left, moved = [step], Path.rename

    def kill(*args):
        if left[0] == 0 or not isinstance(left[0], int):
            raise SystemExit
        left[0] -= 1
        return moved(*args)

    with monkeypatch.context() as killing:
        of = "Path.rename" if isinstance(step, int) else step
        killing.setattr("morphe.web.keep.services.restore._bring_up_to_date", lambda *_: None)
        killing.setattr(f"morphe.web.keep.services.restore.{of}", kill)
        with pytest.raises(SystemExit):
            restore(path, home, media)

    take_back_half(home, media)

    assert (home / "morphe.sqlite3").read_bytes() == b"mine"
    assert (media / "clips" / "a.mp4").read_text() == "footage"
    assert (media / "mine.txt").read_text() == "of before"
    assert {p.name for p in (*home.iterdir(), *media.iterdir())} <= {
        "media",
        "morphe.sqlite3",
        "clips",
        "mine.txt",
    }


@pytest.mark.django_db(transaction=True)
def test_given_a_backup_that_cannot_be_brought_up_to_date_when_wanted_then_nothing_has_changed(
    places, tmp_path
):
    path, home = tmp_path / "kept.zip", places[1]
    write_backup(path, with_media=False)
    with zipfile.ZipFile(path) as archive:
        (tmp_path / "old.sqlite3").write_bytes(archive.read("morphe.sqlite3"))
    with closing(
        sqlite3.connect(tmp_path / "old.sqlite3")
    ) as database:  # its last step is to be done, and cannot be
        database.execute("DELETE FROM django_migrations WHERE app = 'clips' AND name LIKE '0016%'")
        database.commit()
    rewritten(path, "morphe.sqlite3", (tmp_path / "old.sqlite3").read_bytes())
    (home / "morphe.sqlite3").write_text("mine")

    with pytest.raises(MorpheError, match="cannot be brought up to date"):
        restore(path, home, home / "media")

    assert (home / "morphe.sqlite3").read_text() == "mine"


def rewritten(path, name, content):
    """The same archive with another content of one file."""
    with zipfile.ZipFile(path) as archive:
        kept = {n: archive.read(n) for n in archive.namelist()}
    with zipfile.ZipFile(path, "w") as archive:
        for n, data in {**kept, name: content}.items():
            archive.writestr(n, data)


@pytest.mark.django_db(transaction=True)
def test_given_a_disk_without_second_names_when_brought_back_then_footage_is_there_all_the_same(
    places, tmp_path, monkeypatch
):
    path, home = tmp_path / "kept.zip", places[1]
    write_backup(path, with_media=False)
    (home / "media" / "clips").mkdir(parents=True)
    (home / "media" / "clips" / "a.mp4").write_text("footage")
    (home / "morphe.sqlite3").write_text("mine")
    monkeypatch.setattr(os, "link", lambda *_: (_ for _ in ()).throw(OSError(95, "Operation not supported")))

    old = restore(path, home, home / "media")

    assert [(at / "media" / "clips" / "a.mp4").read_text() for at in (home, old)] == ["footage"] * 2


@pytest.mark.django_db(transaction=True)
def test_given_a_backup_that_points_outside_when_brought_back_then_only_its_own_folders_are_written(
    places, tmp_path
):
    path, home = tmp_path / "kept.zip", places[1]
    write_backup(path, with_media=False)
    for name in ("../up.txt", "media/clips/../../up.txt", "secret_key", "media/other/x", "/tmp/x-morphe"):
        rewritten(path, name, b"no")

    restore(path, home, home / "media")

    written = {p.name for p in tmp_path.rglob("*") if p.is_file()}
    assert written == {"kept.zip", "morphe.sqlite3"}
    check(path, home)  # it is whole nonetheless


@pytest.mark.django_db(transaction=True)
def test_given_a_full_disk_when_brought_back_then_it_says_how_much_is_needed(places, tmp_path, monkeypatch):
    path = tmp_path / "kept.zip"
    write_backup(path, with_media=False)
    monkeypatch.setattr("morphe.web.keep.services.restore.SPARE", 10**18)

    with pytest.raises(MorpheError, match="no room to bring"):
        restore(path, places[1], places[1] / "media")


def test_given_proxies_when_thrown_away_then_one_comes_back_when_its_clip_is_opened(client, clip, media):
    work_off("play", clip.pk)
    assert list((media / "proxies").glob("*.mp4"))

    page = client.post("/keep/proxies/", follow=True).content.decode()

    assert "The proxy of one clip is thrown away" in page
    assert not list((media / "proxies").glob("*.mp4"))
    client.get(f"/bench/{clip.pk}/")
    work_off("play", clip.pk)
    assert list((media / "proxies").glob("*.mp4"))
    assert client.get(f"/bench/{clip.pk}/proxy.mp4").status_code == 200


def test_given_a_database_of_before_when_upgraded_then_a_copy_of_it_is_kept_once(tmp_path):
    home = tmp_path / "home"
    home.mkdir()
    (home / "morphe.sqlite3").write_bytes(gzip.decompress(OLD.read_bytes()))
    environment = environment_of(home, 0)
    environment.pop("PYTEST_XDIST_WORKER", None)
    upgrade = [sys.executable, "-m", "morphe.web.manage", "upgrade"]

    first = subprocess.run(upgrade, env=environment, check=True, capture_output=True, text=True).stdout
    second = subprocess.run(upgrade, env=environment, check=True, capture_output=True, text=True).stdout

    (copy,) = (home / "before-upgrade").iterdir()
    assert str(copy) in first and second == ""
    titles = "SELECT title FROM clips_clip ORDER BY id"
    with closing(sqlite3.connect(copy)) as before, closing(sqlite3.connect(home / "morphe.sqlite3")) as now:
        assert before.execute(titles).fetchall() == now.execute(titles).fetchall() != []


def test_given_morphe_at_work_when_a_backup_is_brought_back_on_its_page_then_it_starts_anew_with_it(tmp_path):
    home = tmp_path / "home"
    with served(home, outing="As it was") as address:
        visitor = Visitor(address)
        visitor.post("/keep/backup/")
        page = until(lambda: visitor.get("/keep/"), lambda page: "Yes, bring it back" in page)
        number = re.search(r'name="backup" value="(\d+)"', page)[1]
        numbers = {"log_slope": "0.0863", "log_offset": "0.5824", "linear_offset": "0.01675"}
        rest = {"name": "Later", "kind": "log", "linear_break": "0.010", "clip_stops": "6.5"}
        visitor.post("/library/profiles/new/", **numbers, **rest)
        assert "Later" in visitor.get("/library/profiles/")
        before = visitor.get("/alive/")

        visitor.post("/keep/restore/", backup=number)

        until(lambda: visitor.get("/alive/"), lambda run: run != before)
        assert "Later" not in visitor.get("/library/profiles/")
        assert "As it was" in visitor.get("/clips/")
        assert list(home.glob("before-restore-*/morphe.sqlite3"))


def until(ask, holds, seconds=240):
    end = time.monotonic() + seconds
    while True:
        try:
            answer = ask()
        except OSError:
            answer = None
        if answer is not None and holds(answer):
            return answer
        assert time.monotonic() < end
        time.sleep(0.3)


def test_given_no_such_backup_when_wanted_then_it_is_said(client, db, places):
    page = client.post("/keep/restore/", {"backup": "7"}, follow=True).content.decode()

    assert "This backup is no longer there" in page
    with pytest.raises(CommandError, match="no whole backup"):
        call_command("restore", str(places[1] / "nothing.zip"), "--held")


def test_given_every_file_that_is_kept_when_backed_up_then_its_folder_is_in_it_or_can_be_made_anew():
    folders = {
        field.upload_to.strip("/")
        for model in apps.get_models()
        for field in model._meta.get_fields()
        if isinstance(field, FileField)
    }

    assert folders - set(ALWAYS) - set(MEDIA) == {"proxies", "incoming"}

"""Clips on their way in: uploads in pieces that go on where they stopped, and cards of this computer."""

import base64
import hashlib
import io
import json
import os
import shutil
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from django.test import Client
from django.utils import timezone

from morphe.core.errors import MediaError
from morphe.web.clips.models import CardImport, Clip, Upload
from morphe.web.clips.services import bring_in, uploads
from morphe.web.clips.services.card import begin_import, look_at, stop_import
from morphe.web.clips.services.room import room
from morphe.web.jobs.models import Job
from morphe.web.jobs.services.ask import rescue
from tests.web.working import work_all, work_off

PIECE = 10_000


def begin(client, name, size, modified=1_757_668_320_000):
    head = json.dumps({"name": name, "size": size, "modified": modified})
    return client.post("/clips/uploads/", head, content_type="application/json")


def send(client, token, at, piece):
    return client.post(f"/clips/uploads/{token}/?at={at}", piece, content_type="application/octet-stream")


def parts(media):
    return [p for p in (media / "clips").iterdir() if p.name.startswith(".")]


def test_given_a_file_in_pieces_when_all_have_arrived_then_it_is_a_clip_byte_for_byte(
    client, outing, log_file, media
):
    content = log_file.read_bytes()
    token = begin(client, "../../My marsh.mp4", len(content)).json()["token"]

    for at in range(0, len(content), PIECE):
        told = send(client, token, at, content[at : at + PIECE]).json()
        assert told.get("received", len(content)) == min(at + PIECE, len(content))

    clip = Clip.objects.get(pk=told["clip"])
    assert clip.title == "My marsh.mp4"
    assert clip.path.read_bytes() == content
    assert clip.filmed_at.isoformat() == "2025-09-12T09:12:00+00:00"
    assert not Upload.objects.exists() and parts(media) == []


def test_given_a_lost_connection_when_begun_again_then_only_what_is_missing_is_asked_for(
    client, outing, log_file
):
    content = log_file.read_bytes()
    first = begin(client, "marsh.mp4", len(content)).json()
    send(client, first["token"], 0, content[:PIECE])

    again = begin(client, "marsh.mp4", len(content)).json()
    other = begin(client, "marsh.mp4", len(content), modified=5).json()

    assert (again["token"], again["received"]) == (first["token"], PIECE)
    assert (other["token"] == first["token"], other["received"]) == (False, 0)


def test_given_a_piece_that_was_cut_when_sent_again_then_the_file_is_still_right(
    client, outing, log_file, media
):
    content = log_file.read_bytes()
    token = begin(client, "marsh.mp4", len(content)).json()["token"]
    send(client, token, 0, content[:PIECE])
    part = parts(media)[0]
    part.write_bytes(part.read_bytes() + b"torn")  # written, but never counted: the server was killed

    send(client, token, PIECE, content[PIECE:])

    assert Clip.objects.get().path.read_bytes() == content


def test_given_a_piece_out_of_step_when_sent_then_the_answer_says_where_to_go_on(client, outing, log_file):
    content = log_file.read_bytes()
    token = begin(client, "marsh.mp4", len(content)).json()["token"]

    answer = send(client, token, PIECE, content[PIECE : 2 * PIECE])

    assert answer.status_code == 409
    assert answer.json()["received"] == 0


@pytest.mark.parametrize(
    ("name", "size", "sentence"),
    [("a.mp4", 0, "is empty"), ("a.mp4", 10**12, "at most"), ("a.mp4", "many", "not readable"),
     ("x" * 5000, 5, "too long")],
)  # fmt: skip
def test_given_a_file_that_cannot_be_taken_when_begun_then_it_is_refused_in_words(
    client, outing, name, size, sentence
):
    answer = begin(client, name, size)

    assert answer.status_code == 422
    assert sentence in answer.json()["problem"]
    assert not Upload.objects.exists()


@pytest.mark.parametrize(("at", "piece"), [("0", b""), ("0", b"x" * 60), ("zero", b"x")])
def test_given_a_piece_that_cannot_be_when_sent_then_it_is_refused_in_words(client, outing, at, piece):
    token = begin(client, "a.mp4", 50).json()["token"]

    answer = send(client, token, at, piece)

    assert answer.status_code == 422
    assert Upload.objects.get().received == 0


def test_given_a_file_that_is_here_when_sent_again_then_it_is_recognised_and_nothing_is_left(
    client, clip, media
):
    content = clip.path.read_bytes()
    token = begin(client, "again.mp4", len(content)).json()["token"]

    answer = send(client, token, 0, content)

    assert "again.mp4 is here already, as marsh.mp4." in answer.json()["problem"]
    assert Clip.objects.count() == 1 and parts(media) == []


def test_given_an_upload_when_given_up_or_left_for_a_week_then_what_arrived_is_deleted(client, outing, media):
    one, two = (begin(client, name, 50).json()["token"] for name in ("a.mp4", "b.mp4"))

    client.post(f"/clips/uploads/{one}/stop/")
    Upload.objects.update(changed=timezone.now() - uploads.KEPT * 2)
    uploads.forget_stale()

    assert not Upload.objects.exists() and parts(media) == []
    assert send(client, two, 0, b"x").status_code == 404


def test_given_an_upload_left_unfinished_when_looked_at_then_what_is_left_to_send_is_told(client, outing):
    token = begin(client, "reef.mp4", 4_000_000).json()["token"]
    send(client, token, 0, b"x" * 1_000_000)

    assert "1 clip has not arrived whole: 3.0 MB left to send." in client.get("/").content.decode()
    page = client.get("/clips/").content.decode()
    assert "25 % has arrived." in page and f"/clips/uploads/{token}/stop/" in page
    assert client.post(f"/clips/uploads/{token}/stop/", headers={"HX-Request": "true"}).status_code == 200
    assert "left to send" not in client.get("/").content.decode()


def digest_of(piece):
    return f"sha-256=:{base64.b64encode(hashlib.sha256(piece).digest()).decode()}:"


def test_given_a_piece_cut_off_on_its_way_while_another_client_goes_on_then_no_byte_is_wrong(
    client, outing, log_file
):
    content = log_file.read_bytes()
    token = begin(client, "marsh.mp4", len(content)).json()["token"]
    half, kind = io.BytesIO(content[: PIECE // 2]), "application/octet-stream"

    cut = client.generic(
        "POST", f"/clips/uploads/{token}/?at=0", b"", kind, **{"wsgi.input": half, "CONTENT_LENGTH": PIECE}
    )

    assert cut.status_code == 409 and cut.json()["received"] == 0
    send(client, token, 0, content[:PIECE])
    at = Upload.objects.get().received
    client.post(f"/clips/uploads/{token}/?at={at}", content[at:], content_type=kind)

    assert Clip.objects.get().path.read_bytes() == content


def test_given_a_changed_piece_when_sent_with_its_digest_then_it_is_asked_for_again(client, outing):
    token = begin(client, "a.mp4", 50).json()["token"]
    answer = client.post(
        f"/clips/uploads/{token}/?at=0", b"x" * 50, content_type="application/octet-stream",
        headers={"Content-Digest": digest_of(b"y" * 50)},
    )  # fmt: skip

    assert answer.status_code == 409 and answer.json()["received"] == 0
    assert "did not arrive as it was sent" in answer.json()["problem"]


@pytest.mark.parametrize(
    "name",
    ["海" * 100 + ".mp4", "🎬🎬.mp4", "..", "   ", "a\udcff.mp4", "x" * 300 + ".MP4", "CON?.mp4", ".mp4"],
)
def test_given_an_odd_name_when_the_file_has_arrived_then_it_is_a_clip(client, outing, log_file, name):
    content = log_file.read_bytes()
    token = begin(client, name, len(content)).json()["token"]

    told = send(client, token, 0, content).json()

    assert Clip.objects.get(pk=told["clip"]).path.read_bytes() == content
    assert not Upload.objects.exists()


def test_given_no_room_for_the_clip_when_all_has_arrived_then_nothing_is_lost_and_it_is_finished_later(
    client, outing, log_file, monkeypatch
):
    content = log_file.read_bytes()
    token = begin(client, "marsh.mp4", len(content)).json()["token"]
    with monkeypatch.context() as full:
        full.setattr(bring_in.os, "replace", lambda *_: (_ for _ in ()).throw(OSError(28, "No space left")))
        refused = send(client, token, 0, content)
    assert refused.status_code == 422 and Upload.objects.get().received == len(content)

    again = begin(client, "marsh.mp4", len(content)).json()

    assert Clip.objects.get(pk=again["clip"]).path.read_bytes() == content
    assert not Upload.objects.exists()


def test_given_the_last_piece_sent_twice_at_once_when_finished_then_there_is_one_clip(
    outing, log_file, transactional_db
):
    content = log_file.read_bytes()
    token = begin(Client(), "marsh.mp4", len(content)).json()["token"]
    with ThreadPoolExecutor(4) as pool:
        answers = list(pool.map(lambda _: send(Client(), token, 0, content).status_code, range(4)))

    assert sorted(answers)[0] == 200 and set(answers[1:]) | {200} <= {200, 404, 409, 422}
    assert Clip.objects.count() == 1


# --- cards -----------------------------------------------------------------------------------------


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
    found = room()

    assert found.clips == clip.size_bytes
    assert found.made > 0 and found.free > 0
    assert "are left" in found.sentence

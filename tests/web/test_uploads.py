"""Uploads by the tus protocol: gone on with where they stopped, whatever is lost or killed on the way."""

import hashlib
import io
import os
import re
import socket
import ssl
import time
from base64 import b64encode
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress

import pytest
from django.test import Client
from django.utils import timezone
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from morphe.web.clips.models import Clip, Decision, Upload
from morphe.web.clips.services.intake import uploads
from morphe.web.clips.services.intake.arriving import ARRIVING, Arriving
from morphe.web.clips.services.intake.lines import Lines
from morphe.web.jobs.services.ask import rescue
from morphe.web.network import papers
from morphe.web.outings.models import Outing
from tests.serving import Visitor, served
from tests.web.working import work_all

PIECE = 10_000
TUS = {"Tus-Resumable": "1.0.0"}
BYTES = "application/offset+octet-stream"


@pytest.fixture(autouse=True)
def nobody_else():
    ARRIVING.__init__()


def begin(client, name, size, modified=1_757_668_320_000, **more):
    told = {"filename": name, "modified": str(modified), **{k: str(v) for k, v in more.items()}}
    words = ",".join(f"{k} {b64encode(v.encode('utf-8', 'replace')).decode()}" for k, v in told.items())
    return client.post(
        "/clips/uploads/", headers={**TUS, "Upload-Length": str(size), "Upload-Metadata": words}
    )


def begun(client, name, size, **more):
    return begin(client, name, size, **more)["Location"]


def send(client, where, at, piece, kind=BYTES):
    return client.patch(where, piece, content_type=kind, headers={**TUS, "Upload-Offset": str(at)})


def come(client, where):
    return int(client.head(where, headers=TUS)["Upload-Offset"])


def cut(client, where, at, piece, length):
    """A request whose line breaks after `piece`, though `length` was announced."""
    return client.generic(
        "PATCH", where, headers={**TUS, "Upload-Offset": str(at)},
        **{"wsgi.input": io.BytesIO(piece), "CONTENT_LENGTH": str(length), "CONTENT_TYPE": BYTES},
    )  # fmt: skip


def parts(media):
    return [p for p in (media / "clips").iterdir() if p.name.startswith(".")]


def test_given_a_file_in_pieces_when_all_have_arrived_then_it_is_a_clip_byte_for_byte(
    client, outing, log_file, media
):
    content = log_file.read_bytes()
    where = begun(client, "../../My marsh.mp4", len(content))

    for at in range(0, len(content), PIECE):
        told = send(client, where, at, content[at : at + PIECE])
        assert (told.status_code, told["Tus-Resumable"]) == (204, "1.0.0")
        assert int(told["Upload-Offset"]) == min(at + PIECE, len(content))

    clip = Clip.objects.get()
    assert client.get(where).json() == {
        "clip": clip.pk, "title": "My marsh.mp4", "problem": "", "settled": True
    }  # fmt: skip
    assert clip.path.read_bytes() == content and parts(media) == []
    assert clip.filmed_at.isoformat() == "2025-09-12T09:12:00+00:00"


ACTS = st.lists(
    st.tuples(
        st.sampled_from(
            ("piece", "cut", "lost answer", "out of step", "begun anew", "another process", "twice")
        ),
        st.integers(1, 60_000),
    ),
    max_size=14,
)


@given(acts=ACTS)
@settings(suppress_health_check=[HealthCheck.function_scoped_fixture], deadline=None, max_examples=40)
def test_given_a_line_that_fails_by_chance_when_sent_over_then_the_file_is_whole_and_no_byte_came_twice(
    outing, media, acts
):
    Clip.everything.all().delete()
    Upload.objects.all().delete()
    client, content, taken = Client(), os.urandom(150_000), 0
    where = begun(client, "marsh.mp4", len(content))

    for act, size in [*acts, *[("piece", 40_000)] * 4]:
        at = come(client, where)
        piece = content[at : at + size]
        if act == "out of step":
            assert send(client, where, at + size, b"x").status_code == 409
        elif act == "begun anew":
            again = begin(client, "marsh.mp4", len(content))
            assert (again["Location"], int(again["Upload-Offset"])) == (where, at)
        elif act == "another process":
            ARRIVING.__init__()
        elif act == "cut":
            cut(client, where, at, piece[: len(piece) // 2], len(piece))
            taken += len(piece) // 2
        else:
            send(client, where, at, piece)
            if act == "twice" and piece:  # the answer was lost, and the same is sent again unasked
                assert send(client, where, at, piece).status_code == 409
            taken += len(piece)

    assert come(client, where) == len(content) == taken
    work_all()
    assert Clip.objects.get().path.read_bytes() == content
    assert client.get(where).json()["settled"]


def test_given_the_last_answer_lost_when_asked_again_then_it_has_arrived_and_says_which_clip(
    client, outing, log_file
):
    content = log_file.read_bytes()
    where = begun(client, "marsh.mp4", len(content))
    send(client, where, 0, content)  # its answer never comes

    assert come(client, where) == len(content)
    again = begin(client, "marsh.mp4", len(content))
    assert (again["Location"], int(again["Upload-Offset"])) == (where, len(content))
    assert client.get(where).json()["title"] == "marsh.mp4" and Clip.objects.count() == 1


def test_given_a_clip_that_was_removed_when_its_file_is_sent_again_then_it_is_taken_anew(
    client, outing, log_file
):
    content = log_file.read_bytes()
    send(client, begun(client, "marsh.mp4", len(content)), 0, content)
    Clip.objects.all().delete()

    where = begun(client, "marsh.mp4", len(content))

    assert come(client, where) == 0
    send(client, where, 0, content)
    assert Clip.objects.get().path.read_bytes() == content


def test_given_a_killed_server_when_it_starts_anew_then_a_file_that_was_whole_becomes_a_clip_unasked(
    client, outing, log_file, media
):
    content = log_file.read_bytes()
    token = begun(client, "marsh.mp4", len(content)).split("/")[-2]
    part = media / "clips" / f".upload-{token}.part"
    part.write_bytes(content)  # written, and nothing more was done
    assert rescue() == 1
    work_all()
    assert Clip.objects.get().path.read_bytes() == content

    Clip.objects.all().delete()
    other = begun(client, "other.mp4", len(content))
    upload = Upload.objects.get(token=other.split("/")[-2])
    uploads._stored(upload).write_bytes(content)  # under its last name, and the row was never written
    (media / "clips" / f".upload-{upload.token}.part").unlink()
    assert come(client, other) == len(content)
    work_all()
    assert Clip.objects.get().path.read_bytes() == content


@pytest.mark.parametrize(
    ("name", "size", "sentence"),
    [("a.mp4", 0, "is empty"), ("a.mp4", 10**12, "at most"), ("a.mp4", "many", "not readable"),
     ("a.mp4", -5, "not readable"), ("a.mp4", "9" * 40, "not readable")],
)  # fmt: skip
def test_given_a_file_that_cannot_be_taken_when_begun_then_it_is_refused_in_words(
    client, outing, name, size, sentence
):
    answer = begin(client, name, size)

    assert answer.status_code == 422 and sentence in answer.json()["problem"]
    assert not Upload.objects.exists()


@pytest.mark.parametrize(
    ("at", "piece", "kind", "status"),
    [("0", b"x" * 60, BYTES, 422), ("zero", b"x", BYTES, 422),
     ("0", b"x", "application/octet-stream", 415), ("7", b"x", BYTES, 409)],
)  # fmt: skip
def test_given_what_cannot_be_added_when_sent_then_it_is_refused_and_nothing_is_kept(
    client, outing, at, piece, kind, status
):
    where = begun(client, "a.mp4", 50)

    answer = send(client, where, at, piece, kind)

    assert answer.status_code == status and answer.json()["problem"]
    assert come(client, where) == 0


def test_given_another_version_of_the_protocol_when_spoken_then_ours_is_told(client, outing):
    where = begun(client, "a.mp4", 50)

    answer = client.head(where, headers={"Tus-Resumable": "0.2.2"})
    told = client.options("/clips/uploads/")

    assert (answer.status_code, answer["Tus-Version"]) == (412, "1.0.0")
    assert "termination" in told["Tus-Extension"] and int(told["Tus-Max-Size"]) > 10**9


def test_given_a_file_that_is_here_when_sent_again_then_it_is_recognised_and_nothing_is_left(
    client, clip, media
):
    content = clip.path.read_bytes()
    where = begun(client, "again.mp4", len(content))

    send(client, where, 0, content)

    assert client.get(where).json()["problem"] == "again.mp4 is here already, as marsh.mp4."
    assert Clip.objects.count() == 1 and parts(media) == []


def test_given_an_upload_when_given_up_or_left_for_a_week_then_what_arrived_is_deleted(client, outing, media):
    one, two, three = (begun(client, name, 50) for name in ("a.mp4", "b.mp4", "c.mp4"))

    client.post(f"{one}stop/")
    assert client.delete(three, headers=TUS).status_code == 204
    Upload.objects.update(changed=timezone.now() - uploads.KEPT * 2)
    uploads.forget_stale()

    assert not Upload.objects.exists() and parts(media) == []
    assert send(client, two, 0, b"x").status_code == 404 == client.head(one, headers=TUS).status_code


def test_given_an_upload_left_unfinished_when_looked_at_then_what_is_left_to_send_is_told(client, outing):
    where = begun(client, "reef.mp4", 4_000_000)
    send(client, where, 0, b"x" * 1_000_000)

    assert "1 clip has not arrived whole: 3.0 MB left to send." in client.get("/").content.decode()
    page = client.get("/clips/").content.decode()
    assert "25 % has arrived." in page and f"{where}stop/" in page
    assert client.post(f"{where}stop/", headers={"HX-Request": "true"}).status_code == 200
    assert "left to send" not in client.get("/").content.decode()


def test_given_another_outing_opened_meanwhile_when_a_page_works_on_then_it_is_on_its_own(
    client, outing, log_file
):
    content, page = log_file.read_bytes(), client.get("/clips/").content.decode()
    own = {"X-Outing": re.search(r'"X-Outing": "(\d+)"', page)[1]}
    Outing.objects.create(name="Another day", date="2026-06-01")  # on another device
    assert "Another day" in client.get("/clips/").content.decode()

    where = begun(client, "marsh.mp4", len(content), outing=own["X-Outing"])
    send(client, where, 0, content)
    work_all()

    assert Clip.objects.get().outing == outing
    assert "marsh.mp4" in client.get("/clips/", headers={**own, "HX-Request": "true"}).content.decode()
    client.post("/clips/decide/", headers=own)
    assert Decision.objects.get().outing == outing
    gone = begin(client, "marsh.mp4", len(content), outing=99)
    assert gone.status_code == 422 and "no longer there" in gone.json()["problem"]


@pytest.mark.parametrize(
    "name",
    ["海" * 100 + ".mp4", "🎬🎬.mp4", "..", "   ", "a\udcff.mp4", "x" * 300 + ".MP4", "CON?.mp4", ".mp4"],
)
def test_given_an_odd_name_when_the_file_has_arrived_then_it_is_a_clip(client, outing, log_file, name):
    content = log_file.read_bytes()

    send(client, begun(client, name, len(content)), 0, content)

    assert Clip.objects.get().path.read_bytes() == content


def test_given_a_disk_that_is_full_when_sent_to_then_a_sentence_says_so_and_what_came_stays(
    client, outing, log_file, monkeypatch
):
    content = log_file.read_bytes()
    where = begun(client, "marsh.mp4", len(content))
    send(client, where, 0, content[:PIECE])
    with monkeypatch.context() as full:
        full.setattr(uploads.os, "pwrite", lambda *_: (_ for _ in ()).throw(OSError(28, "No space left")))
        refused = send(client, where, PIECE, content[PIECE:])
    assert refused.status_code == 507 and "full" in refused.json()["problem"]

    assert come(client, where) == PIECE
    send(client, where, PIECE, content[PIECE:])
    assert Clip.objects.get().path.read_bytes() == content


def test_given_the_last_piece_sent_by_four_at_once_when_finished_then_there_is_one_clip(
    outing, log_file, transactional_db
):
    content = log_file.read_bytes()
    where = begun(Client(), "marsh.mp4", len(content))
    with ThreadPoolExecutor(4) as pool:
        answers = list(pool.map(lambda _: send(Client(), where, 0, content).status_code, range(4)))

    assert 204 in answers and set(answers) <= {204, 409, 422}
    assert Clip.objects.count() == 1 and Clip.objects.get().path.read_bytes() == content


@given(st.lists(st.binary(min_size=1, max_size=50), min_size=1), st.integers(0, 3))
def test_given_blocks_when_told_without_a_gap_then_the_digest_is_the_files_else_there_is_none(blocks, others):
    arriving, whole = Arriving(most=2), b"".join(blocks)
    at = 0
    for block in blocks:
        arriving.add("file", at, block)
        at += len(block)
    for number in range(others):
        arriving.add(f"other-{number}", 0, b"x")
    arriving.add("gap", 5, b"x")

    found = arriving.digest("file", at)

    assert found in (None, hashlib.sha256(whole).hexdigest()) and (found is None) == (others > 1)
    assert arriving.digest("gap", 6) is None and arriving.digest("file", at) is None


def test_given_phones_that_fall_asleep_while_they_send_when_others_ask_then_they_are_answered(
    tmp_path,
):
    content = os.urandom(1_000_000)
    with served(tmp_path / "home", "Marsh", MORPHE_STALL_S="6") as address:
        visitor, host = Visitor(address), address.removeprefix("http://")
        token, asleep = visitor.token(), []

        def asleep_with(number):
            words = f"filename {b64encode(f'{number}.mp4'.encode()).decode()}"
            told = {**TUS, "Upload_Length": str(len(content)), "Upload_Metadata": words}
            way = visitor.exchange("POST", "/clips/uploads/", **told)["Location"]
            head = (
                f"PATCH {way} HTTP/1.1\r\nHost: {host}\r\nUpload-Offset: 0\r\nContent-Type: {BYTES}\r\n"
                f"Content-Length: {len(content)}\r\nCookie: csrftoken={token}\r\nX-CSRFToken: {token}\r\n\r\n"
            )
            asleep.append(socket.create_connection(host.split(":")))
            asleep[-1].sendall(head.encode() + content[:200_000])
            return way

        def arrived(way):
            return int(visitor.exchange("HEAD", way)["Upload-Offset"])

        woken = [asleep_with(number) for number in range(3)]
        time.sleep(0.5)
        began = time.monotonic()
        come_so_far = [arrived(way) for way in woken]  # each comes over another line, and ends the first
        woke = time.monotonic() - began
        ways = [asleep_with(number) for number in range(3, 13)]  # more than there are threads
        began = time.monotonic()
        visitor.get("/alive/")
        waited = time.monotonic() - began
        come_so_far += [arrived(way) for way in ways]
        for line in asleep:
            line.close()

    assert woke < 4 and waited < 15
    assert min(come_so_far) > 130_000  # the rest of a block goes with the line


@pytest.mark.parametrize("is_secret", [False, True])
def test_given_an_open_line_when_its_upload_is_asked_after_then_it_ends_and_brought_only_what_was_sent(
    tmp_path, is_secret
):
    here, there = socket.socketpair()
    sent, come, lines = os.urandom(3_000_000), bytearray(), Lines()
    if is_secret:
        found = papers(tmp_path, ("127.0.0.1",))
        secret = ssl.create_default_context(ssl.Purpose.CLIENT_AUTH)
        secret.load_cert_chain(found.certificate, found.key)
        with ThreadPoolExecutor() as both:
            shaken = both.submit(secret.wrap_socket, here, server_side=True)
            there = ssl._create_unverified_context().wrap_socket(there)
            here = shaken.result()

    def read():
        with lines.held("one", here), suppress(OSError):
            while block := here.recv(10_000):
                come.extend(block)
                time.sleep(0.005)

    def write():
        with suppress(OSError):
            there.sendall(sent)

    with ThreadPoolExecutor() as all_three:
        reading, writing = all_three.submit(read), all_three.submit(write)
        time.sleep(0.2)
        lines.end("one")
        until = len(come)
        reading.result(5), writing.result(5)

    assert 0 < until == len(come) < len(sent) and sent.startswith(bytes(come))

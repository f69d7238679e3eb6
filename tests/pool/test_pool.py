"""A render shared among machines: Redis, three workers in networks of their own, one killed in the middle."""

import hashlib
import os
import shutil
import signal
import subprocess
import sys
import time
from contextlib import suppress

import av
import numpy as np
import pytest
import redis

from morphe.core.advise.findings import look
from morphe.core.advise.outing.found import from_bytes
from morphe.core.errors import OutputError
from morphe.core.footage.probe import probe
from morphe.core.footage.proxy import make_proxy
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Exposure
from morphe.core.handover import segments as cutting
from morphe.core.handover.delivery import Delivery
from morphe.core.handover.render import Cancelled, render
from morphe.pool.board import Board
from morphe.pool.piece import LookPiece, ProxyPiece
from morphe.pool.places import no_place, one_of
from morphe.pool.share import Sharing, always
from tests.footage import ClipSpec, blocks_apart, frame_times, scene, write_clip
from tests.serving import free_port

GRADE = Grade.of(Exposure(stops=0.5))
WORKER = [sys.executable, "-m", "morphe.cli", "worker"]
SERVER = shutil.which("redis-server") or "/usr/bin/redis-server"


class Net:
    """Machines: network namespaces on one bridge where the system lets us, else this one's own network."""

    def __init__(self, count):
        self.names, self.made = [f"mo{os.getpid() % 10000}-{n}" for n in range(count)], []
        self.bridge = f"mob{os.getpid() % 10000}"
        self.host = "10.77.7.1"
        if not self._bridged():
            self.host, self.names = "127.0.0.1", [""] * count

    def _bridged(self):
        try:
            self._ip("link", "add", self.bridge, "type", "bridge")
            self.made.append(("link", "del", self.bridge))
            self._ip("addr", "add", f"{self.host}/24", "dev", self.bridge)
            self._ip("link", "set", self.bridge, "up")
            for number, name in enumerate(self.names):
                self._ip("netns", "add", name)
                self.made.append(("netns", "del", name))
                self._ip("link", "add", f"{name}v", "type", "veth", "peer", "name", "eth0", "netns", name)
                self._ip("link", "set", f"{name}v", "master", self.bridge, "up")
                self._ip("-n", name, "addr", "add", f"10.77.7.{number + 2}/24", "dev", "eth0")
                self._ip("-n", name, "link", "set", "eth0", "up")
        except (OSError, subprocess.CalledProcessError):
            self.close()
            return False
        return True

    @staticmethod
    def _ip(*words):
        subprocess.run(["ip", *words], check=True, capture_output=True)

    def within(self, number, command):
        name = self.names[number]
        return ["ip", "netns", "exec", name, *command] if name else command

    def close(self):
        for words in reversed(self.made):
            with suppress(subprocess.CalledProcessError):
                self._ip(*words)
        self.made = []


@pytest.fixture(scope="module")
def net():
    made = Net(3)
    yield made
    made.close()


@pytest.fixture(scope="module")
def url(net, tmp_path_factory):
    port = free_port()
    words = ["--port", str(port), "--bind", net.host, "--save", "", "--protected-mode", "no"]
    server = subprocess.Popen(
        [SERVER, *words, "--dir", str(tmp_path_factory.mktemp("redis"))], stdout=subprocess.DEVNULL
    )
    address = f"redis://{net.host}:{port}/0"
    for _ in range(100):
        with suppress(redis.RedisError):
            redis.Redis.from_url(address).ping()
            break
        time.sleep(0.1)
    yield address
    server.terminate()
    server.wait()


@pytest.fixture(scope="module")
def media(tmp_path_factory):
    """The shared folder, with a clip of twelve seconds."""
    folder = tmp_path_factory.mktemp("shared")
    (folder / "clips").mkdir()
    spec = ClipSpec(size=(160, 96), frames=300, sound="aac", options={"g": "25"})
    write_clip(folder / "clips" / "long.mp4", spec, lambda i: scene(160, 96, i), lossless=False)
    return folder


@pytest.fixture
def workers(net, url, media):
    """Three machines that take pieces."""
    Board(url, media)  # makes the secret that they sign with
    environment = {**os.environ, "MORPHE_QUEUE": url, "MORPHE_MEDIA": str(media)}
    started = [
        subprocess.Popen(
            net.within(n, WORKER), env=environment, start_new_session=True, stdout=subprocess.PIPE
        )
        for n in range(3)
    ]
    for process in started:
        assert b"Taking pieces" in process.stdout.readline()
    yield started
    for process in started:
        with suppress(ProcessLookupError):
            os.killpg(process.pid, signal.SIGKILL)
        process.wait()


@pytest.fixture(autouse=True)
def short(monkeypatch):
    monkeypatch.setattr(cutting, "SEGMENT_S", 2.0)


def frames_of(path):
    with av.open(str(path)) as file:
        return [(f.pts, hashlib.sha1(f.to_ndarray().tobytes()).hexdigest()) for f in file.decode(video=0)]


def shared(url, media, name, *, helps, delivery=None, progress=lambda done, total: True):
    (media / "results" / name).mkdir(parents=True, exist_ok=True)
    return render(
        probe(media / "clips" / "long.mp4"), GRADE, media / "results" / f"{name}.mp4", delivery,
        make=Sharing(Board(url, media, connections=2), place=always if helps else no_place),
        workshop=media / "results" / name, progress=progress,
    )  # fmt: skip


def test_given_three_machines_when_one_is_killed_in_the_middle_then_the_file_is_that_of_one(
    url, media, workers, tmp_path
):
    killed, told, done = [], [], {}
    folder = media / "results" / "many"

    def watch(frames, total):
        told.append(frames)
        if not killed and frames > 120:
            os.killpg(workers[0].pid, signal.SIGKILL)
            killed.append(frames)
            done.update({p.name: p.stat().st_mtime_ns for p in folder.glob("*.seg")})
        return True

    many = shared(url, media, "many", helps=False, progress=watch)
    one = render(probe(media / "clips" / "long.mp4"), GRADE, tmp_path / "one.mp4")

    assert killed and workers[0].wait() != 0
    assert done and all((folder / n).stat().st_mtime_ns == when for n, when in done.items())  # made once
    assert many.frames == 300 and told[-1] == 300
    assert frame_times(many.out) == frame_times(one.out) and blocks_apart(many.out, one.out) < 0.5


def test_given_a_host_that_helps_when_nobody_else_is_there_then_it_does_all(url, media):
    done = shared(url, media, "alone", helps=True)

    assert done.frames == 300 and probe(done.out).audio


def test_given_a_clip_when_read_and_prepared_by_others_then_it_is_as_if_done_here(url, media, workers):
    info = probe(media / "clips" / "long.mp4")
    gain = 2.0
    look_at = LookPiece(info=info, out=media / "seen.part")
    prepare = ProxyPiece(info=info, chroma_gain=gain, out=media / "proxy.part")
    told = []

    Sharing(Board(url, media, connections=2), no_place).share(
        [look_at, prepare], lambda done, total: told.append((done, total)) or True
    )

    assert make_proxy(info, media / "own.mp4", chroma_gain=gain) == 300
    assert frames_of(prepare.out) == frames_of(media / "own.mp4")
    there, here = from_bytes(look_at.out.read_bytes(), info.path), look(info.path)
    assert (
        there.before.as_json() == here.before.as_json()
        and there.as_json() == here.as_json()
        and there.faces == here.faces
    )
    for a, b in zip(there.frames, here.frames, strict=True):
        assert (a.role, a.time_s) == (b.role, b.time_s)
        assert np.abs(a.encoded - b.encoded).max() < 1e-3 and np.abs(a.grain - b.grain).max() < 1e-3
    assert told[-1] == (301, 301)


def test_given_two_places_when_three_want_one_then_the_third_has_none_until_one_is_free(tmp_path):
    place = one_of(tmp_path / "places", 2)

    with place() as first:
        with place() as second, place() as third:
            assert (first, second, third) == (True, True, False)
        with place() as again:
            assert again


def test_given_no_redis_when_shared_then_the_host_works_alone(media):
    done = shared("redis://127.0.0.1:9/0", media, "nobody", helps=True)

    assert done.frames == 300


def test_given_a_stop_when_machines_work_then_they_let_go(url, media, workers):
    with pytest.raises(Cancelled):
        shared(url, media, "stopped", helps=False, progress=lambda done, total: done < 5)
    time.sleep(2.5)

    board = Board(url, media)
    assert not board.claimed([f"results/stopped/{n:04d}.seg" for n in range(6)])
    assert not (media / "results" / "stopped.mp4").exists()


def test_given_a_piece_that_cannot_be_made_when_shared_then_its_sentence_comes_back(url, media, workers):
    gone = media / "clips" / "gone.mp4"
    shutil.copy(media / "clips" / "long.mp4", gone)
    info = probe(gone)
    maker, folder = Sharing(Board(url, media), place=no_place), media / "results" / "gone"
    folder.mkdir(parents=True)
    from morphe.core.handover.delivery import Order
    from morphe.core.handover.film import film_of
    from morphe.core.handover.segments import segments_of

    pieces = segments_of(film_of([Order(info=info, grade=GRADE, delivery=Delivery())]), folder)
    gone.unlink()

    with pytest.raises(OutputError, match=r"gone\.mp4"):
        maker(pieces, lambda done, total: True)


@pytest.mark.parametrize(
    ("environment", "words"),
    [
        ({}, "Set MORPHE_QUEUE"),
        ({"MORPHE_QUEUE": "redis://127.0.0.1:9/0", "MORPHE_MEDIA": "/nowhere"}, "no folder of a Morphe"),
    ],
)
def test_given_a_worker_that_is_told_too_little_when_started_then_one_sentence_says_so(
    morphe, monkeypatch, environment, words
):
    for name in ("MORPHE_QUEUE", "MORPHE_MEDIA"):
        monkeypatch.delenv(name, raising=False)
    for name, value in environment.items():
        monkeypatch.setenv(name, value)

    said = morphe("worker")

    assert said.code == 2 and words in said.err and len(said.err.strip().splitlines()) == 1

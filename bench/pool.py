"""How much sooner a long render is done by two machines: workers of one thread on one processor each.

The host itself renders nothing here; Redis and the workers run on this machine, so that nothing is said of a
network.
"""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory

import av

from bench.footage import DEMO
from morphe.core.footage.probe import probe
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Balance, Exposure
from morphe.core.handover.render import render
from morphe.pool.board import Board
from morphe.pool.places import no_place
from morphe.pool.share import Sharing

GRADE = Grade.of(Exposure(stops=0.4), Balance(warmth=12))
PORT = int(os.environ.get("MORPHE_BENCH_REDIS_PORT", "8197"))
SECONDS = 160
URL = f"redis://127.0.0.1:{PORT}/0"


@contextmanager
def _running(command: list[str], processor: int | None = None, **environment: str) -> Iterator[None]:
    """A process, on one processor alone if that is said."""

    def settle() -> None:
        if processor is not None:
            os.sched_setaffinity(0, {processor})

    process = subprocess.Popen(
        command, env={**os.environ, **environment}, preexec_fn=settle, start_new_session=True,
        stdout=subprocess.DEVNULL,
    )  # fmt: skip
    try:
        yield
    finally:
        os.killpg(process.pid, signal.SIGKILL)
        process.wait()


def _seconds(media: Path, workers: int) -> float:
    with ExitStack() as held:
        for number in range(workers):
            command = [sys.executable, "-m", "morphe.cli", "worker"]
            held.enter_context(
                _running(command, number, MORPHE_QUEUE=URL, MORPHE_MEDIA=str(media), NUMBA_NUM_THREADS="1")
            )
        time.sleep(6)  # until they have loaded
        workshop = media / f"shop-{workers}"
        started = time.monotonic()
        render(
            probe(media / "long.mp4"), GRADE, media / f"by-{workers}.mp4",
            make=Sharing(Board(URL, media), place=no_place), workshop=workshop,
        )  # fmt: skip
        return time.monotonic() - started


def _long_clip(cache: Path) -> Path:
    """A clip of the demo, there and back until it is long enough."""
    out = cache / f"long-{SECONDS}.mp4"
    if out.exists():
        return out
    with av.open(str(DEMO / "sandpiper-sluice-quick.mp4")) as source:
        shown = [frame.to_ndarray() for frame in source.decode(video=0)]
        video = source.streams.video[0]
        rate, size = video.average_rate, (video.width, video.height)
    there_and_back = shown + shown[::-1]
    with av.open(str(out), "w") as target:
        stream = target.add_stream("libx264", rate=rate, options={"preset": "veryfast", "g": "50"})
        stream.width, stream.height = size
        stream.pix_fmt = "yuv420p"
        for number in range(round(SECONDS * rate)):
            frame = av.VideoFrame.from_ndarray(there_and_back[number % len(there_and_back)], format="yuv420p")
            frame.pts = number
            target.mux(stream.encode(frame))
        target.mux(stream.encode(None))
    return out


def run(cache: Path) -> None:
    """Print seconds by one worker and by two, and their ratio."""
    server = shutil.which("redis-server")
    if server is None or (os.cpu_count() or 1) < 2:
        print("pool: needs redis-server and two processors")
        return
    clip = _long_clip(cache)
    with TemporaryDirectory(dir=cache) as folder, _running([server, "--port", str(PORT), "--save", ""]):
        media = Path(folder).resolve()
        shutil.copy(clip, media / "long.mp4")
        time.sleep(1)
        Board(URL, media)
        one, two = _seconds(media, 1), _seconds(media, 2)
    print(f"pool: {SECONDS} s of the demo's footage by one worker {one:.1f} s, by two {two:.1f} s")
    print(f"  {one / two:.2f} times as fast")

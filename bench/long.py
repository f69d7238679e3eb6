"""An hour of footage: half of it read, two halves joined; how long that takes, and how much memory."""

from __future__ import annotations

import resource
import subprocess
import sys
import time
from pathlib import Path

import av
import numpy as np

from morphe.core.advise.findings import look
from morphe.core.footage.probe import probe
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Exposure
from morphe.core.handover.delivery import Delivery
from morphe.core.handover.joined import Piece, joined
from morphe.core.handover.render import render_film

MINUTES, FPS, SIZE, SOUND_RATE = 30, 25, (160, 90), 48_000


def half_an_hour(cache: Path, seed: int) -> Path:
    """A clip of that length, small, with sound that is not compressed."""
    path = cache / f"half-hour-{seed}.mov"
    if path.exists():
        return path
    draw, (wide, tall) = np.random.default_rng(seed), SIZE
    ground = draw.integers(60, 160, (tall * 3 // 2, wide), np.uint8)
    with av.open(str(path), "w") as target:
        video = target.add_stream("libx264", rate=FPS, options={"preset": "ultrafast", "g": "100"})
        video.width, video.height, video.pix_fmt = *SIZE, "yuv420p"
        sound = target.add_stream("pcm_s16le", rate=SOUND_RATE)
        sound.codec_context.layout = "stereo"
        for number in range(MINUTES * 60 * FPS):
            picture = np.ascontiguousarray(np.roll(ground, number // 5, axis=1))
            frame = av.VideoFrame.from_ndarray(picture, format="yuv420p")
            frame.pts = number
            target.mux(video.encode(frame))
            if number % FPS == 0:
                tone = (3000 * np.sin(np.arange(SOUND_RATE) / 20)).astype(np.int16).repeat(2)[None]
                heard = av.AudioFrame.from_ndarray(tone, format="s16", layout="stereo")
                heard.sample_rate, heard.pts = SOUND_RATE, number // FPS * SOUND_RATE
                target.mux(sound.encode(heard))
        target.mux(video.encode(None))
        target.mux(sound.encode(None))
    return path


def _measured(what: str, *paths: str) -> None:
    """One of the two tasks, in this process alone: its seconds and its memory."""
    started = time.perf_counter()
    infos = [probe(Path(path)) for path in paths]
    if what == "read":
        look(infos[0].path, over_time=True)
    else:
        pieces = [Piece(info=i, grade=Grade.of(Exposure(stops=0.3)), title=i.path.stem) for i in infos]
        out = infos[0].path.with_name("hour.mp4")
        done = render_film(joined(pieces, Delivery()), out)
        assert done.frames == sum(i.frames for i in infos)
        out.unlink()
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
    print(f"  {what}: {time.perf_counter() - started:.0f} s, at most {peak:.2f} GB", flush=True)


def run(cache: Path) -> None:
    """Print seconds and peak memory of reading half an hour, and of joining two halves."""
    clips = [str(half_an_hour(cache, seed)) for seed in (1, 2)]
    print(f"long: {2 * MINUTES} minutes of {SIZE[0]} × {SIZE[1]} at {FPS} a second, sound as PCM")
    for what, paths in (("read", clips[:1]), ("joined", clips)):
        subprocess.run([sys.executable, "-m", "bench.long", what, *paths], check=True)


if __name__ == "__main__":
    _measured(sys.argv[1], *sys.argv[2:])

"""Speed of a render against FFmpeg's own lut3d filter, with the same decoder, encoder and threads."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np

from bench.footage import DEMO
from morphe.core.footage.info import SignalInfo
from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frames_at
from morphe.core.grade.convert import Convert
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Balance, BlackPoint, Contrast, Exposure, HoldLights, Saturation
from morphe.core.handover.presets import PRESETS
from morphe.core.handover.render import render
from morphe.core.interchange.cube import cube_text
from morphe.core.pipeline.cube import bake
from morphe.core.standins.cameras import Exposure as Filmed
from morphe.core.standins.cameras import record
from morphe.core.standins.demo import DEMO_CLIPS

FULL_CORRECTION = Grade.of(
    Convert(profile="log-mild"),
    Exposure(stops=0.4),
    Balance(warmth=20, tint=2),
    HoldLights(stops=1.0),
    BlackPoint(lower=2),
    Contrast(amount=8),
    Saturation(amount=8),
)
SIZES = {"1080p": (1920, 1080, 100), "4K": (3840, 2160, 40)}
ROUNDS = 5  # taken in turns; the median of their ratios counts, for machines are noisy


def footage(cache: Path, name: str) -> Path:
    """An 8-bit clip of that size, enlarged from the demo, at an honest bitrate."""
    width, height, count = SIZES[name]
    path = cache / f"render-{name}.mp4"
    if path.exists():
        return path
    info = probe(DEMO / DEMO_CLIPS[3].name)
    there = [i / float(info.fps) for i in range(info.frames)]

    def pictures() -> Iterator[np.ndarray]:
        kept = [planes for _, planes in frames_at(info, there)]
        for planes in (kept + kept[::-1])[:count]:
            yield cv2.resize(planes.encoded(), (width, height), interpolation=cv2.INTER_CUBIC)

    record(pictures(), path, Filmed(bits_per_pixel=0.25))
    return path


def _graph(frame: Any, cube: Path) -> Any:
    graph = av.filter.Graph()
    source = graph.add_buffer(
        width=frame.width, height=frame.height, format=frame.format.name, time_base=frame.time_base
    )
    lut = graph.add("lut3d", f"file={cube}:interp=tetrahedral")
    back = graph.add("format", "pix_fmts=yuv420p")
    sink = graph.add("buffersink")
    for one, other in ((source, lut), (lut, back), (back, sink)):
        one.link_to(other)
    graph.configure()
    return graph


def with_filter(info: SignalInfo, cube: Path, out: Path) -> None:
    """Decode, filter and encode in one loop, decoder and encoder with threads of their own."""
    with av.open(str(info.path)) as source, av.open(str(out), "w") as target:
        video = source.streams.video[0]
        video.thread_type = "AUTO"
        stream: Any = target.add_stream("libx264", rate=info.fps)
        stream.width, stream.height, stream.pix_fmt = info.width, info.height, "yuv420p"
        stream.options, stream.codec_context.thread_type = dict(PRESETS.get("web").options), "FRAME"
        graph = None
        for frame in source.decode(video):
            graph = graph or _graph(frame, cube)
            graph.push(frame)
            graded = graph.pull()
            graded.pict_type = 0
            target.mux(stream.encode(graded))
        target.mux(stream.encode(None))


def _seconds(work: Callable[[], object]) -> float:
    started = time.perf_counter()
    work()
    return time.perf_counter() - started


def run(cache: Path) -> None:
    """Print frames a second of our render, of the filter and of a plain transcode, taken in turns."""
    cube, out = cache / "correction-33.cube", cache / "render-out.mp4"
    cube.write_text(cube_text(bake(FULL_CORRECTION, size=33, domain=(0.0, 1.0)), title="bench"))
    print("Render of a full correction, x264 veryfast (frames a second, medians)")
    for name in SIZES:
        info = probe(footage(cache, name))
        ways: dict[str, Callable[[], object]] = {
            "morphe": partial(render, info, FULL_CORRECTION, out),
            "lut3d": partial(with_filter, info, cube, out),
            "no correction": partial(render, info, Grade(), out),
        }
        rounds = [{label: info.frames / _seconds(way) for label, way in ways.items()} for _ in range(ROUNDS)]
        out.unlink()
        said = ", ".join(f"{label} {np.median([r[label] for r in rounds]):.1f}" for label in ways)
        ratio = np.median([r["morphe"] / r["lut3d"] for r in rounds])
        print(f"  {name}: {said}; ratio to lut3d {ratio:.2f}", flush=True)

"""What a render can at best be, and what FFmpeg's lut3d filter makes of it, each in a process of its own.

`python -m bench.transcode limit IN RAW OUT` decodes a clip and encodes the corrected picture, read from a raw
file of 4:2:0 codes; `python -m bench.transcode lut3d IN OUT LUT.cube` decodes, filters and encodes.
"""

from __future__ import annotations

import sys
from threading import Thread
from typing import Any

import av
import numpy as np

OPTIONS = {"preset": "veryfast", "crf": "18"}  # the preset `web`


def _graph(frame: Any, cube: str) -> Any:
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


def _encoder(target: Any, video: Any) -> Any:
    stream = target.add_stream("libx264", rate=video.average_rate)
    stream.width, stream.height, stream.pix_fmt = video.width, video.height, "yuv420p"
    stream.options, stream.codec_context.thread_type = dict(OPTIONS), "FRAME"
    return stream


def limit(path: str, raw: str, out: str) -> None:
    """Decode a clip and beside it encode what a raw file holds, in threads of their own."""
    with av.open(path) as source, av.open(out, "w") as target:
        video = source.streams.video[0]
        video.thread_type = "AUTO"
        stream = _encoder(target, video)
        decoding = Thread(target=lambda: [None for _ in source.decode(video)])
        decoding.start()
        rows, wide = video.height * 3 // 2, video.width
        with open(raw, "rb") as codes:
            for number in range(video.frames):
                picture = np.fromfile(codes, np.uint8, rows * wide).reshape(rows, wide)
                frame = av.VideoFrame.from_ndarray(picture, format="yuv420p")
                frame.pts, frame.time_base = number, 1 / video.average_rate
                target.mux(stream.encode(frame))
        target.mux(stream.encode(None))
        decoding.join()


def lut3d(path: str, out: str, cube: str) -> None:
    """Decode, filter and encode in one loop, decoder and encoder with threads of their own."""
    with av.open(path) as source, av.open(out, "w") as target:
        video = source.streams.video[0]
        video.thread_type = "AUTO"
        stream, graph = _encoder(target, video), None
        for frame in source.decode(video):
            graph = graph or _graph(frame, cube)
            graph.push(frame)
            made = graph.pull()
            made.pict_type = 0
            target.mux(stream.encode(made))
        target.mux(stream.encode(None))


if __name__ == "__main__":
    {"limit": limit, "lut3d": lut3d}[sys.argv[1]](*sys.argv[2:])

"""One process that decodes and encodes a clip as a render does, with or without FFmpeg's lut3d filter.

`python -m bench.transcode IN OUT [LUT.cube]`: what a render can at best be, and what the filter makes of it.
"""

from __future__ import annotations

import sys
from typing import Any

import av

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


def transcode(path: str, out: str, cube: str = "") -> None:
    """Decode, perhaps filter, and encode in one loop, decoder and encoder with threads of their own."""
    with av.open(path) as source, av.open(out, "w") as target:
        video = source.streams.video[0]
        video.thread_type = "AUTO"
        stream: Any = target.add_stream("libx264", rate=video.average_rate)
        stream.width, stream.height, stream.pix_fmt = video.width, video.height, "yuv420p"
        stream.options, stream.codec_context.thread_type = dict(OPTIONS), "FRAME"
        graph = None
        for frame in source.decode(video):
            if cube:
                graph = graph or _graph(frame, cube)
                graph.push(frame)
                frame = graph.pull()
            frame.pict_type = 0
            target.mux(stream.encode(frame))
        target.mux(stream.encode(None))


if __name__ == "__main__":
    transcode(*sys.argv[1:])

"""A long render in segments: cut at key frames, each rendered by itself, joined without encoding anew.

A clip is cut alike on every machine, so that a file is the same, frame for frame, whoever rendered what.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from contextlib import ExitStack
from dataclasses import dataclass
from fractions import Fraction
from heapq import merge
from pathlib import Path
from typing import Any

import av

from morphe.core.footage.info import SignalInfo
from morphe.core.footage.probe import open_clip
from morphe.core.footage.there import address_of
from morphe.core.handover.along import Along
from morphe.core.handover.delivery import Order
from morphe.core.handover.light_level import light_level
from morphe.core.handover.output import whole_file
from morphe.core.handover.painter import Painter
from morphe.core.handover.parts import Cut
from morphe.core.handover.pump import Progress, Pump, counted
from morphe.core.handover.target import add_picture, mark, opened
from morphe.core.pulse import alive

__all__ = [
    "Segment",
    "SegmentMaker",
    "can_be_joined",
    "join",
    "one_after_another",
    "pictures_of",
    "render_segment",
    "rest_alone",
    "segments_of",
    "when",
]

SEGMENT_S = 20.0  # a segment is at least so long


@dataclass(frozen=True, slots=True, kw_only=True)
class Segment:
    """A piece of a render, and the file that it becomes."""

    cut: Cut
    frames: int  # as far as the clip tells
    out: Path
    alone: bool = False  # whether it is all of its cut


SegmentMaker = Callable[[Order, Sequence[Segment], Progress], None]


def segments_of(order: Order, cuts: Sequence[Cut], folder: Path) -> list[Segment]:
    """Cut further at key frames, into pieces of at least `SEGMENT_S`; one for each cut that is short."""
    found: list[Segment] = []
    info = order.info
    keys = _key_frames(info) if info.duration_s >= 2 * SEGMENT_S else []
    for cut in cuts:
        edges = [cut.begin_s]
        for key_s in keys:
            far = key_s - max(edges[-1], 0.0) >= SEGMENT_S
            if far and key_s > cut.begin_s and min(cut.end_s, info.duration_s) - key_s >= SEGMENT_S:
                edges.append(key_s)
        for begin, end in zip(edges, [*edges[1:], cut.end_s], strict=True):
            piece = Cut(begin_s=begin, end_s=end, shift_s=cut.shift_s)
            frames, out = counted(info, [piece], order.delivery.fps), folder / f"{len(found):04d}.seg"
            found.append(Segment(cut=piece, frames=frames, out=out, alone=len(edges) == 1))
    return found


def can_be_joined(order: Order) -> bool:
    """Whether segments can become one file: it says its timecode by its rate, so that rate must be one."""
    info = order.info
    return not info.variable_rate or info.timecode is None or order.delivery.fps is not None


def _key_frames(info: SignalInfo) -> list[float]:
    """Times of key frames, one about every `SEGMENT_S`; only their packets are read."""
    found: list[float] = []
    with open_clip(info.path) as source:
        video = source.streams.video[0]
        wanted = SEGMENT_S
        while wanted < info.duration_s:
            source.seek(round((wanted + info.start_s) / video.time_base), stream=video, backward=True)
            packet = next((p for p in source.demux(video) if p.is_keyframe and p.pts is not None), None)
            if packet is None:
                break
            at = float(packet.pts * packet.time_base) - info.start_s
            if at > 0 and (not found or at > found[-1]):
                found.append(at)
                wanted = max(wanted, at) + SEGMENT_S
            else:
                wanted += SEGMENT_S / 4
    return found


def render_segment(order: Order, segment: Segment, progress: Progress) -> int:
    """Render one piece, without sound; the number of its frames. What is there already is kept."""
    if segment.out.exists():
        progress(segment.frames, segment.frames)
        return segment.frames
    painter, fps = Painter(order), order.delivery.fps
    pump = Pump(order.info, painter, [segment.cut], fps=fps, progress=progress)
    with (
        whole_file(segment.out) as part,
        open_clip(order.info.path) as source,
        opened(part) as target,
    ):
        stream = add_picture(
            target, painter, base=source.streams.video[0].time_base, fps=fps, is_segment=not segment.alone,
            level=light_level(order) if order.delivery.preset.hdr == "pq" else None,
        )  # fmt: skip
        return pump.run(source, target, stream, None)


def one_after_another(order: Order, segments: Sequence[Segment], progress: Progress) -> None:
    """The maker of segments of a machine that is alone."""
    total, before = sum(s.frames for s in segments), 0
    for segment in segments:

        def told(done: int, _: int, before: int = before) -> bool:
            return progress(before + done, total)

        render_segment(order, segment, told)
        before += segment.frames


def rest_alone(order: Order, cuts: Sequence[Cut], out: Path) -> bool:
    """What goes along with the picture of the cuts, as a file of its own; whether there is anything."""
    info = order.info
    with open_clip(info.path) as source, opened(out) as target:
        along = Along(source, target, order.delivery.sound)
        if not along.inputs:
            return False
        for cut in cuts:
            if cut.begin_s > 0:
                source.seek(int((cut.begin_s + info.start_s) * 1e6), backward=True)
                along.forget()
            for packet in alive(_of_cut(source, along.inputs, cut, info)):
                for made in along.pass_on(cut.moved(packet)):
                    target.mux(made)
        for made in along.flush():
            target.mux(made)
    return True


def _of_cut(source: Any, inputs: Sequence[Any], cut: Cut, info: SignalInfo) -> Iterator[Any]:
    past: set[int] = set()
    for packet in source.demux(inputs):
        if packet.pts is None:
            continue
        at = float(packet.pts * packet.time_base) - info.start_s
        if cut.holds(at):
            yield packet
        elif at >= cut.end_s:
            past.add(packet.stream.index)
            if len(past) == len(inputs):
                return


def join(order: Order, segments: Sequence[Segment], out: Path, beside: Path | None = None) -> int:
    """Put segments one behind another, with what goes along; the number of frames. Nothing is encoded."""
    paths = [segment.out for segment in segments]
    with ExitStack() as held:
        model = held.enter_context(open_clip(paths[0])).streams.video[0]
        target = held.enter_context(opened(out))
        stream = target.add_stream_from_template(model, opaque=True)
        # A track of timecode takes its rate from here; the file counts more finely than that in any case.
        info, fps = order.info, order.delivery.fps or order.info.fps
        stream.time_base = 1 / fps if info.timecode else model.time_base
        mark(target, stream, info, segments[0].cut)
        tracks = [pictures_of(paths, stream)]
        if beside is not None:
            rest = held.enter_context(av.open(address_of(beside)))
            tracks.append(_rest(rest, {s.index: _like(s, target) for s in rest.streams}))
        frames = 0
        for packet in merge(*tracks, key=when):
            frames += packet.stream is stream
            target.mux(packet)
    return frames


def pictures_of(paths: Sequence[Path], stream: Any, begins_s: Sequence[Fraction] = ()) -> Iterator[Any]:
    """The packets of pictures of files, one file behind another, for a stream; moved to where each begins."""
    last = -(2**62)
    for number, path in enumerate(paths):
        with open_clip(path) as source:
            for packet in alive(source.demux(source.streams.video[0])):
                if packet.size == 0 or packet.pts is None:
                    continue
                by = round(begins_s[number] / packet.time_base) if begins_s else 0
                # Encoders count from before their first frame: what would fall back is held.
                last = max((packet.dts if packet.dts is not None else packet.pts) + by, last + 1)
                packet.pts, packet.dts = packet.pts + by, last
                packet.stream = stream
                yield packet


def _like(track: Any, target: Any) -> Any:
    """A track in a target that holds what is copied from another."""
    if track.type == "audio":
        return target.add_stream_from_template(track, opaque=True)
    made = target.add_data_stream(track.name)
    made.time_base = track.time_base
    return made


def _rest(source: Any, copied: dict[int, Any]) -> Iterator[Any]:
    for packet in source.demux():
        if packet.size == 0 or packet.dts is None:
            continue
        packet.stream = copied[packet.stream.index]
        yield packet


def when(packet: Any) -> float:
    """Seconds at which a packet is decoded."""
    return float(packet.dts * packet.time_base)

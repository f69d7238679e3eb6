"""A film's pictures in segments: cut at key frames, each rendered by itself into a file without sound."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from morphe.core.footage.info import SignalInfo
from morphe.core.footage.probe import open_clip
from morphe.core.handover.delivery import Order
from morphe.core.handover.film import Film, frames_of
from morphe.core.handover.light_level import LightLevel
from morphe.core.handover.output import whole_file
from morphe.core.handover.painter import Painter
from morphe.core.handover.parts import Cut
from morphe.core.handover.pump import Progress, Pump
from morphe.core.handover.size_kept import TwoPass
from morphe.core.handover.target import add_picture, opened

__all__ = [
    "Segment",
    "SegmentMaker",
    "make_pictures",
    "one_after_another",
    "render_segment",
    "segments_of",
]

SEGMENT_S = 20.0  # a segment is at least so long


@dataclass(frozen=True, slots=True, kw_only=True)
class Segment:
    """A piece of a render, and the file it becomes; `level` is of the film's light, where PQ is told it."""

    order: Order
    cut: Cut
    out: Path
    level: LightLevel | None = None

    @property
    def frames(self) -> int:
        """As far as the clip tells."""
        return frames_of(self.order, self.cut)


SegmentMaker = Callable[[Sequence[Segment], Progress], None]


def segments_of(film: Film, folder: Path, level: LightLevel | None = None) -> list[Segment]:
    """Every cut, cut further at key frames into pieces of at least `SEGMENT_S`."""
    found: list[Segment] = []
    for order, cuts in zip(film.orders, film.cuts, strict=True):
        keys = _key_frames(order.info) if order.info.duration_s >= 2 * SEGMENT_S else []
        for piece in (piece for cut in cuts for piece in _pieces(cut, keys, order.info.duration_s)):
            out = folder / f"{len(found):04d}.seg"
            found.append(Segment(order=order, cut=piece, out=out, level=level))
    return found


def _pieces(cut: Cut, keys: Sequence[float], duration_s: float) -> list[Cut]:
    edges, end_s = [cut.begin_s], min(cut.end_s, duration_s)
    for key_s in keys:
        far = key_s - max(edges[-1], 0.0) >= SEGMENT_S
        if far and key_s > cut.begin_s and end_s - key_s >= SEGMENT_S:
            edges.append(key_s)
    pairs = zip(edges, [*edges[1:], cut.end_s], strict=True)
    return [replace(cut, begin_s=begin, end_s=end) for begin, end in pairs]


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


def render_segment(segment: Segment, progress: Progress) -> int:
    """Render one piece; the number of its frames. What is there already is kept."""
    if segment.out.exists():
        progress(segment.frames, segment.frames)
        return segment.frames
    order = segment.order
    with whole_file(segment.out) as part:
        return make_pictures(order, Painter(order), [segment.cut], part, progress, level=segment.level)


def make_pictures(
    order: Order, painter: Painter, cuts: Sequence[Cut], out: Path | None, progress: Progress, *,
    level: LightLevel | None = None, two_pass: TwoPass | None = None,
) -> int:  # fmt: skip
    """Decode, paint and encode cuts of a clip into a file, or to nowhere; the number of frames."""
    info, fps, total = order.info, order.delivery.fps, sum(frames_of(order, cut) for cut in cuts)
    place, kind = (out, "pictures") if out else (Path(os.devnull), "none")
    with open_clip(info.path) as source, opened(place, kind) as target:
        base = source.streams.video[0].time_base
        stream = add_picture(target, painter, base=base, fps=fps, two_pass=two_pass, level=level)
        return Pump(info, painter, cuts, total, fps=fps, progress=progress).run(source, target, stream)


def one_after_another(segments: Sequence[Segment], progress: Progress) -> None:
    """The maker of segments of a machine that is alone."""
    total, before = sum(s.frames for s in segments), 0
    for segment in segments:

        def told(done: int, _: int, before: int = before) -> bool:
            return progress(before + done, total)

        render_segment(segment, told)
        before += segment.frames

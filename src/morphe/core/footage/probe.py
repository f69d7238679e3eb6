"""Open a clip and say what it is, without trusting it."""

from __future__ import annotations

import logging
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np

from morphe.core.errors import (
    DecodeError,
    NoPicture,
    OutputError,
    TooLarge,
    UnsupportedPixelFormat,
    is_disk_full,
)
from morphe.core.footage.info import SignalInfo, untold_matrix
from morphe.core.footage.motion import motion_of
from morphe.core.footage.planes import READABLE_FORMATS
from morphe.core.footage.there import address_of, check_there
from morphe.core.pulse import alive
from morphe.core.signal.primaries import Primaries
from morphe.core.signal.ycbcr import Matrix, Range

__all__ = ["open_clip", "probe"]

logging.getLogger("libav").setLevel(logging.CRITICAL)

MAX_SIDE = 8192
MIN_SIDE = 16
CUT_S = 0.25  # a file that ends this much before it says was cut
MAX_DURATION_S = 6 * 3600

# ITU-T H.273 code points
MATRICES = {1: Matrix.BT709, 5: Matrix.BT601, 6: Matrix.BT601, 9: Matrix.BT2020, 10: Matrix.BT2020}
PRIMARIES = {
    1: Primaries.BT709,
    5: Primaries.BT601_625,
    6: Primaries.BT601_525,
    7: Primaries.BT601_525,
    9: Primaries.BT2020,
    12: Primaries.P3_D65,
}
TRANSFERS = {
    1: "bt709",
    4: "gamma22",
    5: "gamma28",
    6: "bt601",
    8: "linear",
    13: "srgb",
    14: "bt2020",
    15: "bt2020",
    16: "pq",
    18: "hlg",
}
UNTOLD = {
    Matrix.BT2020: "matrix: bt2020 because the other tags are of BT.2020 or BT.2100",
    Matrix.BT709: "matrix: bt709 because height >= 720",
    Matrix.BT601: "matrix: bt601 because height < 720",
}
RANGES = {1: Range.NARROW, 2: Range.FULL}


@contextmanager
def open_clip(path: Path) -> Iterator[Any]:
    """Open a clip for reading; every failure becomes a sentence about this file."""
    name = path.name
    check_there(path)
    try:
        container = av.open(address_of(path), metadata_errors="replace")
    except (av.error.FFmpegError, OSError, ValueError) as error:
        raise DecodeError(
            f"{name} cannot be read as video; it may be damaged, cut short or another kind of file: "
            "copy it again from the card."
        ) from error
    try:
        if not container.streams.video:
            raise NoPicture(f"{name} has no picture in it; choose a video clip.")
        yield container
    except av.error.FFmpegError as error:
        if is_disk_full(error):  # of what was being written meanwhile: the source is not to blame
            raise OutputError("The disk is full; free some space and try again.") from error
        raise DecodeError(f"{name} stops being readable part-way; copy it again from the card.") from error
    finally:
        container.close()


@dataclass(frozen=True)
class _Timing:
    frames: int
    duration_s: float
    variable: bool
    last_byte: int  # of the index, 0 if there is none
    end_s: float  # of the last packet of any stream, 0 if the index was read instead


def _timing(container: Any, stream: Any) -> _Timing:
    """Count frames and spacing from the container's index, or by reading the packets."""
    entries = stream.index_entries
    last_byte, end_s = 0, 0.0
    whole = len(entries) == stream.frames and not any(e.is_discard for e in entries)  # no edit list hides any
    if "mp4" in container.format.name and len(entries) and whole:
        stamps = np.array([e.timestamp for e in entries], np.int64)
        last_byte = max(e.pos + e.size for e in entries)
    else:
        stamps, end_s = _packet_times(container, stream)
    base = float(stream.time_base)
    gaps = np.diff(np.sort(stamps))
    if not len(gaps):
        return _Timing(len(stamps), 0.0, False, last_byte, end_s)
    # Containers round to their time base, so constant rates may alternate by a tick or two.
    typical = float(np.median(gaps))
    variable = bool((np.abs(gaps.astype(float) - typical) > max(2.0, 0.02 * typical)).mean() > 0.005)
    return _Timing(
        len(stamps), float(stamps.max() - stamps.min() + typical) * base, variable, last_byte, end_s
    )


def _packet_times(container: Any, stream: Any) -> tuple[Any, float]:
    """Times of all frames in ticks, and where the last packet of any stream ends, in seconds."""
    seen, end_s = [], 0.0
    container.seek(0)
    for packet in container.demux():
        if packet.pts is None or not packet.size:
            continue
        end_s = max(end_s, float((packet.pts + (packet.duration or 0)) * packet.time_base))
        if packet.stream.index == stream.index and not packet.is_discard:
            seen.append(packet.pts)
    container.seek(0)
    return np.array(sorted(seen), np.int64), end_s


def _check_size(name: str, width: int, height: int) -> None:
    if width > MAX_SIDE or height > MAX_SIDE:
        raise TooLarge(
            f"{name} is {width}×{height}; the largest side that is accepted is {MAX_SIDE} px: "
            "export it smaller."
        )
    if width < MIN_SIDE or height < MIN_SIDE:
        raise TooLarge(f"{name} is only {width}×{height}; a clip needs at least {MIN_SIDE} px a side.")


def _first_frame(container: Any, stream: Any, name: str) -> Any:
    if stream.codec_context is None:
        raise DecodeError(f"{name} uses a codec that is not known here; export it as H.264 or HEVC.")
    try:
        for frame in alive(container.decode(stream)):
            return frame
    except av.error.FFmpegError as error:
        raise DecodeError(
            f"{name} has a picture that cannot be decoded; copy it again from the card, "
            "or export it as H.264 or HEVC."
        ) from error
    raise NoPicture(f"{name} has no frame that can be decoded; copy it again from the card.")


def _assumptions(height: int, tags: dict[str, object]) -> tuple[str, ...]:
    said = []
    if tags["range"] is Range.UNSPECIFIED:
        said.append("range: narrow because the file does not say")
    if tags["matrix"] is Matrix.UNSPECIFIED:
        said.append(UNTOLD[untold_matrix(str(tags["transfer"]), Primaries(str(tags["primaries"])), height)])
    if tags["primaries"] is Primaries.UNSPECIFIED:
        said.append("primaries: bt709 because the file does not say")
    if tags["transfer"] == "unspecified":
        said.append("transfer: judged from the picture because the file does not say")
    return tuple(said)


def _colour_tags(frame: Any, codec: Any) -> dict[str, Any]:
    def tag(frame_value: Any, stream_value: Any) -> int:
        return int(frame_value) if int(frame_value) not in (0, 2) else int(stream_value)

    code_range = RANGES.get(int(frame.color_range) or int(codec.color_range), Range.UNSPECIFIED)
    if frame.format.name.startswith("yuvj"):
        code_range = Range.FULL
    primaries = tag(frame.color_primaries, codec.color_primaries)
    transfer = tag(frame.color_trc, codec.color_trc)
    return {
        "range": code_range,
        "matrix": MATRICES.get(tag(frame.colorspace, codec.colorspace), Matrix.UNSPECIFIED),
        "primaries": PRIMARIES.get(primaries, Primaries.UNSPECIFIED),
        "transfer": TRANSFERS.get(transfer, "unspecified"),
    }


def _container_name(names: str) -> str:
    return {"mov,mp4,m4a,3gp,3g2,mj2": "mp4", "matroska,webm": "mkv"}.get(names, names.split(",")[0])


def probe(path: Path | str) -> SignalInfo:
    """Read a clip's facts: size, rate, depth, colour tags, rotation, sound.

    Raises
    ------
    MediaError
        With a sentence for the person, for anything that is no usable clip.
    """
    path = Path(path)
    name = path.name
    with open_clip(path) as container:
        stream = container.streams.video[0]
        codec = stream.codec_context
        if codec is None:
            raise DecodeError(f"{name} uses a codec that is not known here; export it as H.264 or HEVC.")
        if codec.width and codec.height:
            _check_size(name, codec.width, codec.height)
        timing = _timing(container, stream)
        if timing.frames == 0:
            raise NoPicture(f"{name} has no frames; copy it again from the card.")
        if timing.last_byte > path.stat().st_size:
            raise DecodeError(f"{name} is cut short; copy it again from the card.")
        if timing.duration_s > MAX_DURATION_S:
            raise TooLarge(
                f"{name} lasts {timing.duration_s / 3600:.1f} h; at most "
                f"{MAX_DURATION_S // 3600} h are accepted: cut it into parts."
            )
        frame = _first_frame(container, stream, name)
        _check_size(name, frame.width, frame.height)
        layout = READABLE_FORMATS.get(frame.format.name)
        if layout is None:
            raise UnsupportedPixelFormat(
                f"{name} stores its pixels as {frame.format.name}, which cannot be measured; "
                "export it as 4:2:0, 4:2:2 or 4:4:4 video with 8 or 10 bits.",
                got=frame.format.name,
            )
        tags = _colour_tags(frame, codec)
        audio = container.streams.audio[0] if container.streams.audio else None
        declared = (container.duration or 0) / 1e6
        if timing.end_s and declared > timing.end_s * 1.02 + CUT_S:
            raise DecodeError(f"{name} is cut short; copy it again from the card.")
        metadata = {**dict(container.metadata), **dict(stream.metadata)}
        rate = stream.average_rate or stream.guessed_rate or Fraction(25)
        if timing.frames > 1 and timing.duration_s > 0:
            measured = timing.frames / timing.duration_s
            if timing.variable or abs(measured / float(rate) - 1) > 0.02:
                rate = Fraction(measured).limit_denominator(1001)
        return SignalInfo(
            path=path,
            codec=codec.codec.canonical_name,
            container="mov" if path.suffix.lower() == ".mov" else _container_name(container.format.name),
            width=frame.width,
            height=frame.height,
            rotation=-round(frame.rotation / 90) * 90 % 360,
            fps=Fraction(rate),
            variable_rate=timing.variable,
            frames=timing.frames,
            duration_s=timing.duration_s or timing.frames / float(rate),
            bit_depth=layout.bit_depth,
            chroma=layout.chroma,
            bitrate=int(stream.bit_rate or path.stat().st_size * 8 / max(timing.duration_s, 0.04)),
            assumed=_assumptions(frame.height, tags),
            motion=motion_of(container),
            audio=audio.codec_context.codec.canonical_name if audio and audio.codec_context else None,
            creation_time=metadata.get("creation_time"),
            timecode=metadata.get("timecode"),
            pixel_aspect=Fraction(stream.sample_aspect_ratio or 1) or Fraction(1),
            start_s=float((stream.start_time or 0) * stream.time_base),
            metadata=metadata,
            **tags,
        )

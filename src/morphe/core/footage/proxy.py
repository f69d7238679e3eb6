"""Proxies: a small copy of a clip, in its own encoding, that a browser plays and seeks in smoothly.

Upright, H.264, 8 bits, at most 960 px wide, narrow BT.709 matrix, the source's times; not graded, so that a
table can be applied while it plays.
"""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from functools import lru_cache
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np

from morphe.core.errors import DecodeError, NoPicture
from morphe.core.footage.info import SignalInfo
from morphe.core.footage.planes import planes_from_frame
from morphe.core.footage.probe import open_clip
from morphe.core.footage.yuv import frame_codes
from morphe.core.signal.arrays import Float
from morphe.core.signal.ycbcr import Matrix, rgb_to_ycbcr, ycbcr_to_rgb

__all__ = ["PROXY_WIDTH", "make_proxy"]

PROXY_WIDTH = 960
KEY_EVERY_S = 0.5  # so that a seek decodes little
BT709_TAG, NARROW_TAG = 1, 1  # ITU-T H.273


def make_proxy(
    info: SignalInfo, out: Path, *, progress: Callable[[int, int], bool] = lambda done, total: True
) -> int:
    """Write the proxy of a clip and give its number of frames; 0 if `progress` asked to stop.

    Raises
    ------
    NoPicture
        If no frame can be decoded.
    """
    width, height = _size(info)
    count = 0
    with (
        open_clip(info.path) as source,
        av.open(str(out), "w", format="mp4", options={"movflags": "+faststart"}) as target,
    ):
        video = source.streams.video[0]
        video.thread_type = "AUTO"
        stream = _stream(target, info, width, height, video.time_base)
        try:
            for frame in source.decode(video):
                if frame.pts is None:
                    continue
                small = _small(frame, info, width, height)
                small.pts, small.time_base = frame.pts, frame.time_base
                target.mux(stream.encode(small))
                count += 1
                if count % 25 == 0 and not progress(count, info.frames):
                    return 0
        except av.error.InvalidDataError as error:
            if not count:
                raise DecodeError(
                    f"{info.path.name} cannot be decoded; copy it again from the card."
                ) from error
        target.mux(stream.encode(None))
    if not count:
        raise NoPicture(f"{info.path.name} has no frame that can be decoded.")
    return count


def _size(info: SignalInfo) -> tuple[int, int]:
    """Even width and height, upright, with square pixels as stored."""
    width, height = info.upright_size
    scale = min(1.0, PROXY_WIDTH / max(width, height))
    return max(2, round(width * scale / 2) * 2), max(2, round(height * scale / 2) * 2)


def _stream(target: Any, info: SignalInfo, width: int, height: int, time_base: Fraction) -> Any:
    stream = target.add_stream("libx264", rate=Fraction(info.fps).limit_denominator(100000))
    stream.width, stream.height, stream.pix_fmt = width, height, "yuv420p"
    key_every = max(1, round(float(info.fps) * KEY_EVERY_S))
    stream.options = {"preset": "veryfast", "crf": "17", "tune": "fastdecode", "g": str(key_every), "bf": "0"}
    context = stream.codec_context
    context.time_base = stream.time_base = time_base
    context.color_range, context.colorspace = NARROW_TAG, BT709_TAG
    context.color_primaries = context.color_trc = BT709_TAG
    return stream


@lru_cache(maxsize=8)
def _to_709(matrix: Matrix) -> Float:
    """The 3x3 from Y'CbCr of one matrix to that of BT.709."""
    return rgb_to_ycbcr(ycbcr_to_rgb(np.eye(3, dtype=np.float32), matrix)).T.astype(np.float32)


def _small(frame: Any, info: SignalInfo, width: int, height: int) -> Any:
    """Scale a frame as it is stored, turn it, and bring its codes to narrow BT.709 of 8 bits."""
    turned = info.rotation in (90, 270)
    stored = (height, width) if turned else (width, height)
    scaled = frame.reformat(width=stored[0], height=stored[1], format=frame.format.name)
    planes = planes_from_frame(scaled, info)
    out: Any = av.VideoFrame(width, height, "yuv420p")
    if planes.bit_depth == 8 and info.is_ordinary and planes.cb.shape == (height // 2, width // 2):
        codes = (planes.luma, planes.cb, planes.cr)
    else:
        signal = np.asarray(cv2.transform(planes.signal(), _to_709(planes.matrix)), np.float32)
        codes = frame_codes(signal, bit_depth=8, matrix=Matrix.BT709, is_signal=True)
    for target, plane in zip(out.planes, codes, strict=True):
        row = np.frombuffer(target, np.uint8).reshape(target.height, -1)
        row[:, : plane.shape[1]] = plane
    out.color_range, out.colorspace = NARROW_TAG, BT709_TAG
    return out

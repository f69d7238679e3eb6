"""Proxies: a small copy of a clip, in its own encoding, that a browser plays and seeks in smoothly.

Upright, H.264, 8 bits, at most 960 px wide, narrow BT.709 matrix, the source's times; not graded, so that a
table can be applied while it plays.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
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
from morphe.core.footage.there import address_of
from morphe.core.footage.yuv import frame_codes
from morphe.core.pulse import alive
from morphe.core.signal.arrays import Codes, Encoded, Float
from morphe.core.signal.ycbcr import LUMA_WEIGHTS, Matrix, Range, range_scale, rgb_to_ycbcr, ycbcr_to_rgb

__all__ = ["PROXY_WIDTH", "fitting_chroma_gain", "make_proxy", "without_chroma_gain"]

PROXY_WIDTH = 960
KEY_EVERY_S = 0.5  # so that a seek decodes little
CHROMA_GAINS = (3.0, 2.0)
OUTSIDE_SHARE = 0.001  # of pixels that may leave 0..1 by spreading
BT709_TAG, NARROW_TAG = 1, 1  # ITU-T H.273


def make_proxy(
    info: SignalInfo,
    out: Path,
    *,
    chroma_gain: float = 1.0,
    progress: Callable[[int, int], bool] = lambda done, total: True,
) -> int:
    """Write the proxy of a clip and give its number of frames; 0 if `progress` asked to stop.

    Parameters
    ----------
    chroma_gain : by which colour is spread over the codes (see `fitting_chroma_gain`)

    Raises
    ------
    NoPicture
        If no frame can be decoded.
    """
    width, height = _size(info)
    count = 0
    with (
        open_clip(info.path) as source,
        av.open(address_of(out), "w", format="mp4", options={"movflags": "+faststart"}) as target,
    ):
        video = source.streams.video[0]
        video.thread_type = "AUTO"
        stream = _stream(target, info, width, height, video.time_base)
        try:
            for frame in alive(source.decode(video)):
                if frame.pts is None:
                    continue
                small = _small(frame, info, width, height, chroma_gain)
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


def _luma(encoded: Encoded) -> Encoded:
    """BT.709 luma (..., 1)."""
    return (encoded @ np.array(LUMA_WEIGHTS[Matrix.BT709], np.float32))[..., None]


def fitting_chroma_gain(frames: Sequence[Encoded]) -> float:
    """How far the colour of encoded frames (H, W, 3) can be spread before it leaves 0..1.

    Log and flat pictures hold little colour; in 8 bits its few codes would show as blotches once graded.
    """
    for gain in CHROMA_GAINS:
        spread = [_luma(f) + np.float32(gain) * (f - _luma(f)) for f in frames]
        outside = [float(((s < 0) | (s > 1)).any(axis=-1).mean()) for s in spread]
        if max(outside, default=1.0) < OUTSIDE_SHARE:
            return gain
    return 1.0


def without_chroma_gain(encoded: Encoded, gain: float) -> Encoded:
    """Undo the spread in encoded R'G'B' (..., 3) as a proxy holds it."""
    luma = _luma(encoded)
    return (luma + (encoded - luma) / np.float32(gain)).astype(np.float32)


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


@lru_cache(maxsize=8)
def _recoded(code_range: Range, bit_depth: int, chroma_gain: float) -> tuple[Codes, Codes]:
    """Tables from codes of luma and of chroma to those of a proxy."""
    stored, proxy = range_scale(code_range, bit_depth), range_scale(Range.NARROW, 8)
    codes = np.arange(2**bit_depth, dtype=np.float32)
    luma = (codes - stored.luma_offset) / stored.luma_scale * proxy.luma_scale + proxy.luma_offset
    chroma = (codes - stored.chroma_offset) / stored.chroma_scale * chroma_gain
    chroma = chroma * proxy.chroma_scale + proxy.chroma_offset
    first, other = (np.clip(np.rint(t), 0, proxy.max_code).astype(np.uint8) for t in (luma, chroma))
    return first, other


def _small(frame: Any, info: SignalInfo, width: int, height: int, chroma_gain: float) -> Any:
    """Scale a frame as it is stored, turn it, and bring its codes to narrow BT.709 of 8 bits."""
    turned = info.rotation in (90, 270)
    stored = (height, width) if turned else (width, height)
    scaled = frame.reformat(width=stored[0], height=stored[1], format=frame.format.name)
    planes = planes_from_frame(scaled, info)
    out: Any = av.VideoFrame(width, height, "yuv420p")
    if planes.matrix is Matrix.BT709 and planes.cb.shape == (height // 2, width // 2):
        of_luma, of_chroma = _recoded(planes.range, planes.bit_depth, chroma_gain)
        codes = (of_luma[planes.luma], of_chroma[planes.cb], of_chroma[planes.cr])
    else:
        signal = np.asarray(cv2.transform(planes.signal(), _to_709(planes.matrix)), np.float32)
        signal[..., 1:] *= np.float32(chroma_gain)
        codes = frame_codes(signal, bit_depth=8, matrix=Matrix.BT709, is_signal=True)
    for target, plane in zip(out.planes, codes, strict=True):
        row = np.frombuffer(target, np.uint8).reshape(target.height, -1)
        row[:, : plane.shape[1]] = plane
    out.color_range, out.colorspace = NARROW_TAG, BT709_TAG
    return out

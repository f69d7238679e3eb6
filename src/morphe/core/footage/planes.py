"""Decoded Y'CbCr planes as arrays, upright, and the encoded R'G'B' picture made from them.

The matrix is applied here and not by the decoder's scaler, which would clip what lies
outside the nominal range and guess untagged matrices.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import cv2
import numpy as np

from morphe.core.errors import UnsupportedPixelFormat
from morphe.core.footage.info import SignalInfo
from morphe.core.signal.arrays import Codes, Encoded, Plane
from morphe.core.signal.ycbcr import Matrix, Range, range_scale, ycbcr_to_rgb

__all__ = ["READABLE_FORMATS", "PixelLayout", "Planes", "planes_from_frame"]

MEASURE_WIDTH = 960


@dataclass(frozen=True, slots=True)
class PixelLayout:
    """How a pixel format stores its components."""

    bit_depth: int
    chroma: str
    interleaved: bool = False
    shift: int = 0  # bits to drop, for formats that keep codes in the high bits


def _layouts() -> dict[str, PixelLayout]:
    formats = {"nv12": PixelLayout(8, "4:2:0", True), "p010le": PixelLayout(10, "4:2:0", True, 6)}
    for digits, chroma in (("420", "4:2:0"), ("422", "4:2:2"), ("444", "4:4:4")):
        formats[f"yuv{digits}p"] = formats[f"yuvj{digits}p"] = PixelLayout(8, chroma)
        for depth in (10, 12):
            formats[f"yuv{digits}p{depth}le"] = PixelLayout(depth, chroma)
    formats["gray"] = PixelLayout(8, "4:0:0")
    formats["gray10le"] = PixelLayout(10, "4:0:0")
    return formats


READABLE_FORMATS = _layouts()


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Planes:
    """Codes of one upright frame: luma (H, W), cb and cr (h, w) with h, w by the chroma format."""

    luma: Codes
    cb: Codes
    cr: Codes
    bit_depth: int
    range: Range
    matrix: Matrix

    @property
    def size(self) -> tuple[int, int]:
        """(width, height) of the luma plane."""
        return self.luma.shape[1], self.luma.shape[0]

    def within(self, left: int, top: int, right: int, bottom: int) -> Planes:
        """A window of the picture, widened to whole blocks of chroma."""
        width, height = self.size
        across, down = (-(-n // c) for n, c in zip((width, height), self.cb.shape[::-1], strict=True))
        left, top = left // across, top // down
        right, bottom = -(-right // across), -(-bottom // down)
        luma = self.luma[top * down : bottom * down, left * across : right * across]
        cb, cr = (plane[top:bottom, left:right] for plane in (self.cb, self.cr))
        return replace(self, luma=luma, cb=cb, cr=cr)

    def signal(self, *, width: int | None = None) -> Encoded:
        """Y'CbCr (H, W, 3) float32 as signal, area-averaged to at most `width` px; nothing is clipped."""
        full_w, full_h = self.size
        w, h = _fit(full_w, full_h, width)
        scale = range_scale(self.range, self.bit_depth)
        luma = (_resize(self.luma, w, h) - np.float32(scale.luma_offset)) / np.float32(scale.luma_scale)
        chroma = [
            (_resize(_centred(c, full_w), w, h) - np.float32(scale.chroma_offset))
            / np.float32(scale.chroma_scale)
            for c in (self.cb, self.cr)
        ]
        return np.stack([luma, *chroma], axis=-1)

    def encoded(self, *, width: int | None = None) -> Encoded:
        """Encoded R'G'B' (H, W, 3) float32, area-averaged to at most `width` px; nothing is clipped."""
        return ycbcr_to_rgb(self.signal(width=width), self.matrix)


def _fit(width: int, height: int, limit: int | None) -> tuple[int, int]:
    if limit is None or width <= limit:
        return width, height
    return limit, max(1, round(height * limit / width))


def _resize(plane: Plane, width: int, height: int) -> Plane:
    if plane.shape == (height, width):
        return plane.astype(np.float32)
    shrinks = plane.shape[1] >= width and plane.shape[0] >= height
    how = cv2.INTER_AREA if shrinks else cv2.INTER_LINEAR
    source = plane if plane.dtype == np.float32 else plane.astype(np.float32)
    return cv2.resize(source, (width, height), interpolation=how)


def _centred(chroma: Codes, luma_width: int) -> Plane:
    """Move chroma that is co-sited with even luma columns to the centre of its pair (H.264 type 0)."""
    plane = chroma.astype(np.float32)
    if chroma.shape[1] >= luma_width:
        return plane
    moved = plane.copy()
    moved[:, :-1] += np.float32(0.25) * (plane[:, 1:] - plane[:, :-1])
    return moved


def _plane(frame: Any, index: int, layout: PixelLayout, width: int, height: int) -> Codes:
    plane = frame.planes[index]
    wide = layout.bit_depth > 8
    row = np.frombuffer(plane, np.uint16 if wide else np.uint8).reshape(plane.height, -1)
    return row[:height, :width]


def planes_from_frame(frame: Any, info: SignalInfo) -> Planes:
    """Take the planes of a decoded frame, turned upright.

    The arrays may be views of the frame's memory and are not to be written to.

    Raises
    ------
    UnsupportedPixelFormat
        If the frame is not stored as planar or semi-planar Y'CbCr.
    """
    name = frame.format.name
    layout = READABLE_FORMATS.get(name)
    if layout is None:
        raise UnsupportedPixelFormat(
            f"{info.path.name} stores its pixels as {name}, which cannot be measured; "
            "export it as 4:2:0, 4:2:2 or 4:4:4 video with 8 or 10 bits.",
            got=name,
        )
    width, height = frame.width, frame.height
    luma = _plane(frame, 0, layout, width, height)
    cw = width if layout.chroma == "4:4:4" else (width + 1) // 2
    ch = (height + 1) // 2 if layout.chroma == "4:2:0" else height
    if layout.chroma == "4:0:0":
        cb = cr = np.full(((height + 1) // 2, cw), 2 ** (layout.bit_depth - 1), luma.dtype)
    elif layout.interleaved:
        pair = _plane(frame, 1, layout, 2 * cw, ch)
        cb, cr = pair[:, 0::2], pair[:, 1::2]
    else:
        cb, cr = (_plane(frame, i, layout, cw, ch) for i in (1, 2))
    if layout.shift:
        luma, cb, cr = luma >> layout.shift, cb >> layout.shift, cr >> layout.shift
    turns = -(info.rotation // 90) % 4
    if turns:
        luma, cb, cr = (np.ascontiguousarray(np.rot90(p, turns)) for p in (luma, cb, cr))
    return Planes(
        luma=luma,
        cb=cb,
        cr=cr,
        bit_depth=layout.bit_depth,
        range=info.effective_range,
        matrix=info.effective_matrix,
    )

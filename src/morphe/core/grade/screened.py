"""Light that spreads in lens and film: found in a small picture, screened over the frame.

The square of a code stands for its light: near what a display shows, and quick for every pixel.
"""

from __future__ import annotations

import cv2
import numpy as np

from morphe.core.bands import over_rows
from morphe.core.grade.step import Frame
from morphe.core.signal.arrays import Float, Plane
from morphe.core.signal.ycbcr import ycbcr_to_rgb

__all__ = ["blurred", "places", "reduced_light", "screened"]

SMALL = 270  # rows: light that spreads is smooth


def reduced_light(frame: Frame) -> Float:
    """The frame as light (h, w, 3) of at most 270 rows."""
    rows = min(SMALL, frame.height)
    size = (max(round(frame.width * rows / frame.height), 1), rows)
    luma = cv2.resize(frame.luma, size, interpolation=cv2.INTER_AREA)
    chroma = cv2.resize(frame.chroma, size, interpolation=cv2.INTER_AREA)
    encoded = ycbcr_to_rgb(np.concatenate([luma[..., None], chroma], axis=-1))
    return np.square(np.clip(encoded, 0, 1))


def blurred(light: Float, share: float) -> Float:
    """A Gaussian blur whose spread is a share of the picture's height."""
    sigma = max(share * light.shape[0], 0.3)
    return np.asarray(cv2.GaussianBlur(light, (0, 0), sigma, borderType=cv2.BORDER_REPLICATE), np.float32)


def places(height: int, width: int) -> tuple[Plane, Plane]:
    """Shares of width (1, W) and height (H, 1) at the middles of pixels."""
    x = (np.arange(width, dtype=np.float32) + 0.5) / width
    y = (np.arange(height, dtype=np.float32) + 0.5) / height
    return x[None, :], y[:, None]


def screened(frame: Frame, added: Float) -> Frame:
    """The frame with light (h, w, 3) laid over it: black takes all of it, white none."""
    from morphe.core.grade.kernels import screened_rows  # compiled: late, as few grades need it

    size = frame.width, len(added)
    spread = np.stack([cv2.resize(one, size, interpolation=cv2.INTER_LINEAR) for one in cv2.split(added)])
    luma, chroma = np.empty_like(frame.luma), np.empty_like(frame.chroma)
    over_rows(len(chroma), lambda a, b: screened_rows(a, b, frame.luma, frame.chroma, spread, luma, chroma))
    return Frame(luma=luma, chroma=chroma)

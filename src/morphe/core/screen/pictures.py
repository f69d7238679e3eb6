"""Stills as the browser takes them: JPEG, and PNG that lets the picture below through."""

from __future__ import annotations

import cv2
import numpy as np

from morphe.core.errors import ColourError
from morphe.core.signal.arrays import Encoded, Mask

__all__ = ["jpeg", "only_lit"]

JPEG_QUALITY = 88


def jpeg(encoded: Encoded) -> bytes:
    """Encode a still for the browser."""
    lit = encoded if cv2.minMaxLoc(encoded.reshape(len(encoded), -1))[0] >= 0 else np.maximum(encoded, 0)
    picture = cv2.convertScaleAbs(lit, alpha=255)  # rounds and saturates
    done, data = cv2.imencode(
        ".jpg", cv2.cvtColor(picture, cv2.COLOR_RGB2BGR), [cv2.IMWRITE_JPEG_QUALITY, JPEG_QUALITY]
    )
    if not done:
        raise ColourError("The picture could not be encoded.")
    return data.tobytes()


def only_lit(lit: Mask) -> bytes:
    """A PNG that darkens all but some pixels (H, W)."""
    overlay = np.zeros((*lit.shape, 4), np.uint8)
    overlay[..., :3] = 20
    overlay[..., 3] = 170
    overlay[lit] = (255, 255, 255, 0)
    done, data = cv2.imencode(".png", overlay, [cv2.IMWRITE_PNG_COMPRESSION, 1])
    if not done:
        raise ColourError("The picture could not be encoded.")
    return data.tobytes()

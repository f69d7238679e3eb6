"""Judging frames on disk: encoded R'G'B' as half floats, kept in memory by the web process."""

from __future__ import annotations

import io
import os
from functools import lru_cache

import numpy as np
from django.core.files.base import ContentFile

from morphe.core.signal.arrays import Encoded
from morphe.core.stored import read_array

__all__ = ["load_picture", "picture_file", "sized_for_web", "small_picture", "written"]


def picture_file(encoded: Encoded) -> ContentFile[bytes]:
    """A picture (H, W, 3) as a file for storage; half floats keep a thousandth of full scale."""
    buffer = io.BytesIO()
    np.save(buffer, encoded.astype(np.float16))
    return ContentFile(buffer.getvalue())


def load_picture(path: str) -> Encoded:
    """Read a stored picture, from memory if it was read before and no process has written it anew."""
    return _loaded(path, written(path))


def written(path: str) -> int:
    """What tells a file from one of the same name that is written later."""
    return os.stat(path).st_mtime_ns


@lru_cache(maxsize=6)  # pictures of about 6 MB each: the frames of a clip or two
def _loaded(path: str, mark: int) -> Encoded:
    picture = read_array(path).astype(np.float32)
    picture.setflags(write=False)
    return picture


def small_picture(path: str, step: int) -> Encoded:
    """Every so many pixels of a stored picture; little more than those is read."""
    found = read_array(path, mapped=True)[::step, ::step]
    return np.ascontiguousarray(found).astype(np.float32)


def sized_for_web(size_bytes: float) -> str:
    """Bytes in words."""
    for unit in ("B", "kB", "MB", "GB"):
        if size_bytes < 1000 or unit == "GB":
            return f"{size_bytes:.0f} {unit}" if unit in ("B", "kB") else f"{size_bytes:.1f} {unit}"
        size_bytes /= 1000
    return ""

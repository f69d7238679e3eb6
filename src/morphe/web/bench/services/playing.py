"""What the browser needs to play a clip graded: the proxy in ranges, and tables for its moments."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from morphe.core.errors import MediaError
from morphe.core.footage.proxy import without_chroma_gain
from morphe.core.grade.grade import Grade
from morphe.core.pipeline.cube import PREVIEW_SIZE, SIGNAL_DOMAIN, bake
from morphe.core.pipeline.passes import ColourPass, compile_grade
from morphe.core.signal.arrays import Encoded

__all__ = ["Part", "Tables", "part_of", "tables_for"]

MOST_TABLES = 16  # of a grade that moves; between them the browser blends
CHUNK = 1 << 18


@dataclass(frozen=True, slots=True, kw_only=True)
class Tables:
    """Tables as half floats (count, n, n, n, 3), red slowest, with the moments they are for."""

    data: bytes
    times_s: tuple[float, ...]
    size: int = PREVIEW_SIZE
    domain: tuple[float, float] = SIGNAL_DOMAIN


def tables_for(grade: Grade, duration_s: float, *, chroma_gain: float = 1.0) -> Tables:
    """Bake one table, or as many as a moving grade needs, over the colours of a proxy."""
    times = [float(t) for t in np.linspace(0, duration_s, MOST_TABLES)] if grade.moves else [0.0]

    def seen(encoded: Encoded) -> Encoded:
        return without_chroma_gain(encoded, chroma_gain)

    before = seen if chroma_gain != 1.0 else None
    colour = [one for one in compile_grade(grade).passes if isinstance(one, ColourPass)]
    first = colour[0] if colour else ColourPass()
    baked = [np.clip(bake(first.at(t), before=before).table, -1, 4).astype(np.float16) for t in times]
    return Tables(data=b"".join(t.tobytes() for t in baked), times_s=tuple(times))


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """A range of a file: first and last byte, the whole size, and the bytes."""

    first: int
    last: int
    size: int
    chunks: Iterator[bytes]


def part_of(path: Path, wanted: str) -> Part:
    """The range that a header such as `bytes=0-` asks for; without one the whole file.

    Raises
    ------
    MediaError
        If it lies outside the file.
    """
    size = path.stat().st_size
    first, last = 0, size - 1
    if wanted.startswith("bytes="):
        start, _, end = wanted.removeprefix("bytes=").split(",")[0].partition("-")
        try:
            if start:
                first, last = int(start), min(int(end) if end else last, last)
            else:
                first = max(size - int(end), 0)
        except ValueError as error:
            raise MediaError("The range is not readable.") from error
    if not 0 <= first <= last:
        raise MediaError("The range lies outside the file.")
    return Part(first=first, last=last, size=size, chunks=_chunks(path, first, last))


def _chunks(path: Path, first: int, last: int) -> Iterator[bytes]:
    with path.open("rb") as stream:
        stream.seek(first)
        left = last - first + 1
        while left > 0 and (chunk := stream.read(min(CHUNK, left))):
            left -= len(chunk)
            yield chunk

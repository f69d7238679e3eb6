"""What the browser needs to play a clip graded: the proxy in ranges, and passes for its moments."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import partial
from pathlib import Path

from morphe.core.errors import MediaError
from morphe.core.footage.proxy import without_chroma_gain
from morphe.core.grade.grade import Grade
from morphe.core.pipeline.playing import Playing, playing

__all__ = ["Part", "part_of", "passes_for"]

CHUNK = 1 << 18


def passes_for(grade: Grade, duration_s: float, *, chroma_gain: float = 1.0) -> Playing:
    """All passes of a grade over the colours of a proxy."""
    spread = partial(without_chroma_gain, gain=chroma_gain) if chroma_gain != 1.0 else None
    return playing(grade, duration_s, before=spread)


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

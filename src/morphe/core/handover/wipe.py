"""Before and after in one film: an edge that moves over the picture, as filmed on its right."""

from __future__ import annotations

import math
from collections.abc import Sequence

from morphe.core.signal.arrays import Codes

__all__ = ["edge_of", "wiped"]

ROUND_S = 6.0  # there and back
REST = 0.15  # of a half round in which the edge stands, out of sight or nearly so
LINE = 4  # pixels, light


def edge_of(time_s: float, width: int) -> int:
    """Where the edge stands at a moment: 0 shows all as filmed, `width` all as graded; even."""
    way = 0.5 - 0.5 * math.cos(2 * math.pi * time_s / ROUND_S)
    way = min(max((way - REST) / (1 - 2 * REST), 0.0), 1.0)
    return round(way * width / 2) * 2


def wiped(after: Sequence[Codes], before: Sequence[Codes], time_s: float, bits: int) -> None:
    """Lay the picture as filmed over the right of a graded one; planes of 4:2:0, luma first."""
    width = after[0].shape[1]
    edge = edge_of(time_s, width)
    light, grey = 235 << (bits - 8), 128 << (bits - 8)
    for number, (made, filmed) in enumerate(zip(after, before, strict=True)):
        by = 2 if number else 1
        made[:, edge // by :] = filmed[:, edge // by :]
        if 0 < edge < width:
            made[:, edge // by : (edge + LINE) // by] = grey if number else light

"""Curves as CSV: a stop from grey and its code in each row, to read and to write."""

from __future__ import annotations

import csv
import io
from itertools import pairwise

import numpy as np

from morphe.core.errors import LutError
from morphe.core.signal.landmarks import stops_drawn
from morphe.core.signal.point_curve import GREY, MOST_POINTS, PointCurve
from morphe.core.signal.profiles import Profile
from morphe.core.signal.ycbcr import Range, range_scale

__all__ = ["read_stop_csv", "stop_csv"]

# Column of the code -> (black, span) that make a fraction of the narrow range of it.
SCALES = {
    "percent": (0.0, 100.0),
    "code8": (16.0, 219.0),
    "code10": (64.0, 876.0),
    "fraction": (0.0, 1.0),
}


def read_stop_csv(text: str, name: str) -> PointCurve:
    """Read rows of stop and code; the header names the columns `stop` and one of code8, code10, percent.

    Raises
    ------
    LutError
        Naming the row and what is wrong with it.
    """
    lines = csv.reader(io.StringIO(text.lstrip("\ufeff")), delimiter=_delimiter(text))
    try:
        rows = [row for row in lines if any(cell.strip() for cell in row)]
    except csv.Error as error:
        raise LutError(f"{name}, row {lines.line_num}: a cell is far too long; check the file.") from error
    if not rows:
        raise LutError(f"{name} is empty; write a header such as stop,code10 and a row for each stop.")
    header = [c.strip().lower() for c in rows[0]]
    column = next((c for c in SCALES if c in header), None)
    if "stop" not in header or column is None:
        raise LutError(f"{name}, row 1: the header must name stop and one of {', '.join(SCALES)}.")
    if len(rows) - 1 > MOST_POINTS:
        raise LutError(f"{name} has more than {MOST_POINTS} rows; a curve needs far fewer.")
    black, span = SCALES[column]
    points = []
    for number, row in enumerate(rows[1:], 2):
        stop, code = (_number(row, header.index(c), number, name) for c in ("stop", column))
        points.append(((code - black) / span, stop, number))
    points.sort(key=lambda p: p[1])
    for before, after in pairwise(points):
        if after[0] <= before[0] or after[1] <= before[1]:
            raise LutError(f"{name}, row {after[2]}: with more light the code must rise, here it does not.")
    if len(points) < 3:
        raise LutError(f"{name} has {len(points)} rows of numbers; at least 3 are needed.")
    return PointCurve.of([(code, stop) for code, stop, _ in points])


def _delimiter(text: str) -> str:
    first = text.splitlines()[0] if text.strip() else ""
    return ";" if first.count(";") > first.count(",") else ","


def _number(row: list[str], index: int, number: int, name: str) -> float:
    word = row[index].strip() if index < len(row) else ""
    try:
        value = float(word.replace(",", "."))
    except ValueError as error:
        raise LutError(f"{name}, row {number}: “{word[:20]}” is no number.") from error
    if not -1e5 < value < 1e5:
        raise LutError(f"{name}, row {number}: “{word[:20]}” is no usable number.")
    return value


def stop_csv(profile: Profile) -> str:
    """Write a profile's curve, a row for each half stop, with codes of 8 and 10 bits."""
    lines = ["stop,percent,code8,code10"]
    stops = stops_drawn(profile)
    for half in range(2 * stops[0], 2 * stops[-1] + 1):
        level = float(profile.encode(np.array(GREY * 2.0 ** (half / 2))))
        scales = [range_scale(Range.NARROW, bits) for bits in (8, 10)]
        codes = [level * s.luma_scale + s.luma_offset for s in scales]
        lines.append(f"{half / 2:g},{100 * level:.6f},{codes[0]:.4f},{codes[1]:.4f}")
    return "\n".join(lines) + "\n"

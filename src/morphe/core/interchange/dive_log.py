"""Dive logs as CSV: seconds and depth in each row, to read."""

from __future__ import annotations

import csv
import io

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.water.hints import MOST_DEPTHS, Depths

__all__ = ["read_depths", "read_dive_log"]

LONGEST = 1_000_000  # characters
MOST_ROWS = 50_000
SECONDS, METRES = ("time_s", "time", "seconds", "s"), ("depth_m", "depth", "metres", "m")


def read_dive_log(
    text: str, name: str, *, begins_s: float = 0.0, duration_s: float
) -> tuple[tuple[float, float], ...]:
    """Read the part of a log that belongs to a clip, as (seconds of the clip, metres).

    The header names a column of seconds or minutes:seconds and one of metres.

    Parameters
    ----------
    begins_s : time of the log at which the clip begins

    Raises
    ------
    ColourError
        Naming the row and what is wrong with it.
    """
    if len(text) > LONGEST:
        raise ColourError(f"{name} is far too long for a dive log; cut it to the dive.")
    lines = csv.reader(io.StringIO(text.lstrip("\ufeff")), delimiter=_delimiter(text))
    try:
        rows = [row for row in lines if any(cell.strip() for cell in row)]
    except csv.Error as error:
        raise ColourError(f"{name}, row {lines.line_num}: a cell is far too long; check the file.") from error
    if not rows or len(rows) > MOST_ROWS:
        raise ColourError(f"{name} is no dive log; it needs a header such as time_s,depth_m and rows below.")
    header = [cell.strip().lower() for cell in rows[0]]
    columns = [next((header.index(n) for n in names if n in header), None) for names in (SECONDS, METRES)]
    if columns[0] is None or columns[1] is None:
        raise ColourError(f"{name}, row 1: the header must name time_s and depth_m.")
    found: dict[float, float] = {}
    for number, row in enumerate(rows[1:], 2):
        seconds = _seconds(row, columns[0], f"{name}, row {number}") - begins_s
        found[seconds] = _number(row, columns[1], f"{name}, row {number}")
    return _within(sorted(found.items()), duration_s, name)


def read_depths(text: str, duration_s: float) -> Depths:
    """Depths typed at moments: pairs of seconds and metres, such as "0 2; 4 9"."""
    pairs = [pair.split() for pair in text.replace(",", ".").replace(":", " ").split(";") if pair.strip()]
    if any(len(pair) != 2 for pair in pairs) or len(pairs) > MOST_DEPTHS:
        raise ColourError("Depths at moments are pairs of seconds and metres, such as 0 2; 4 9.")
    found = {_number(p, 0, "Depths"): _number(p, 1, "Depths") for p in pairs}
    return _within(sorted(found.items()), duration_s, "What was typed") if found else ()


def _within(points: list[tuple[float, float]], duration_s: float, name: str) -> Depths:
    """Points inside a clip and at its ends, no more than are needed."""
    if not points or points[-1][0] < 0 or points[0][0] > duration_s:
        raise ColourError(f"{name} has no depth within the clip's {duration_s:.1f} s; check where it begins.")
    times, metres = zip(*points, strict=True)
    inside = [t for t in times if 0 < t < duration_s]
    step = -(-len(inside) // (MOST_DEPTHS - 2)) or 1
    kept = [0.0, *inside[::step], duration_s]
    return tuple((t, round(float(np.interp(t, times, metres)), 3)) for t in kept)


def _delimiter(text: str) -> str:
    first = text.splitlines()[0] if text.strip() else ""
    return ";" if first.count(";") > first.count(",") else ","


def _seconds(row: list[str], index: int, where: str) -> float:
    word = row[index].strip() if index < len(row) else ""
    parts = word.split(":")
    if len(parts) > 3:
        raise ColourError(f"{where}: “{word[:20]}” is no time; write seconds or minutes:seconds.")
    total = 0.0
    for part in parts:
        total = 60 * total + _number([part], 0, where)
    return total


def _number(row: list[str], index: int, where: str) -> float:
    word = row[index].strip() if index < len(row) else ""
    try:
        value = float(word.replace(",", "."))
    except ValueError as error:
        raise ColourError(f"{where}: “{word[:20]}” is no number.") from error
    if not -1e5 < value < 1e6:
        raise ColourError(f"{where}: “{word[:20]}” is no usable number.")
    return value

""".cube files read: a person's 1D or 3D conversion, every row checked before it is used.

Keywords as in the open text format: TITLE, LUT_1D_SIZE, LUT_3D_SIZE, DOMAIN_MIN and _MAX,
LUT_1D_INPUT_RANGE, LUT_3D_INPUT_RANGE; a file may hold curves and a cube behind them.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, field
from itertools import islice

import numpy as np

from morphe.core.errors import LutError
from morphe.core.grade.table import ConversionTable
from morphe.core.signal.arrays import Float

__all__ = ["MAX_BYTES", "read_cube"]

MAX_BYTES = 90_000_000  # 129 points a side with nine decimals
CURVE_SIZES, CUBE_SIZES = (2, 65536), (2, 129)
SANE = (-2.0, 8.0)  # BT.709 code; anything beyond is no conversion to video
SIZE = re.compile(r"[0-9]{1,6}")
NUMBERS = re.compile(r"\s*[-+.0-9]")
CHUNK = 20_000  # lines read at once


@dataclass
class _Head:
    curve_size: int = 0
    cube_size: int = 0
    low: list[float] = field(default_factory=lambda: [0.0, 0.0, 0.0])
    high: list[float] = field(default_factory=lambda: [1.0, 1.0, 1.0])

    @property
    def rows(self) -> int:
        """How many rows of numbers there must be."""
        return self.curve_size + self.cube_size**3


def read_cube(
    text: str, name: str, told: Callable[[int, int], object] = lambda done, total: None
) -> ConversionTable:
    """Read a .cube file's text.

    Parameters
    ----------
    told : called with how many lines of how many have been read

    Raises
    ------
    LutError
        Naming the row and what is wrong with it.
    """
    if len(text) > MAX_BYTES:
        raise LutError(f"{name} is far too long for a LUT; choose a .cube file of at most 129 points a side.")
    head, lines = _Head(), text.removeprefix("\ufeff").splitlines()
    found: list[Float] = []
    for start in range(0, len(lines), CHUNK):
        chunk = lines[start : start + CHUNK]
        quick = _quick(chunk)
        found.append(_row_by_row(head, chunk, start, name) if quick is None else quick)
        told(start + len(chunk), len(lines))
        if head.rows and sum(map(len, found)) > head.rows:
            break  # no more of it need be read to be refused
    rows = np.concatenate(found) if found else np.empty((0, 3))
    _check_count(head, rows, lines, name)
    return _table(head, rows.astype(np.float32))


def _quick(lines: list[str]) -> Float | None:
    """Rows of three sane numbers (n, 3); None if there is anything else among the lines."""
    try:
        rows = np.loadtxt(lines, ndmin=2) if any(map(str.strip, lines)) else np.empty((0, 3))
    except ValueError:
        return None
    return rows if rows.shape[1] == 3 and ((rows >= SANE[0]) & (rows <= SANE[1])).all() else None


def _row_by_row(head: _Head, lines: list[str], start: int, name: str) -> Float:
    rows = []
    for number, line in enumerate(lines, start + 1):
        words = line.split("#", 1)[0].split()
        if not words:
            continue
        if words[0][0].isalpha() and words[0].lower() not in ("nan", "inf", "infinity"):
            _keyword(head, words, number, name)
        else:
            rows.append(_row(words, number, name))
    return np.array(rows).reshape(-1, 3)


def _check_count(head: _Head, rows: Float, lines: list[str], name: str) -> None:
    wanted = head.rows
    if not wanted:
        raise LutError(f"{name} names no size: LUT_1D_SIZE or LUT_3D_SIZE is missing.")
    if len(rows) < wanted:
        raise LutError(f"{name} should have {wanted} rows of numbers and has {len(rows)}.")
    if len(rows) > wanted:
        numbers = (n for n, line in enumerate(lines, 1) if NUMBERS.match(line))
        first = next(islice(numbers, wanted, None))
        raise LutError(f"{name} should have {wanted} rows of numbers; row {first} is too many.")


def _keyword(head: _Head, words: list[str], number: int, name: str) -> None:
    key, values = words[0].upper(), words[1:]
    if key in ("LUT_1D_SIZE", "LUT_3D_SIZE"):
        low, high = CURVE_SIZES if key == "LUT_1D_SIZE" else CUBE_SIZES
        if len(values) != 1 or not SIZE.fullmatch(values[0]) or not low <= int(values[0]) <= high:
            raise LutError(f"{name}, row {number}: {key} must be a whole number from {low} to {high}.")
        if key == "LUT_1D_SIZE":
            head.curve_size = int(values[0])
        else:
            head.cube_size = int(values[0])
    elif key in ("DOMAIN_MIN", "DOMAIN_MAX"):
        if key == "DOMAIN_MIN":
            head.low = _row(values, number, name)
        else:
            head.high = _row(values, number, name)
    elif key in ("LUT_1D_INPUT_RANGE", "LUT_3D_INPUT_RANGE"):
        low_high = _numbers(values, 2, number, name)
        if key == "LUT_1D_INPUT_RANGE" or not head.curve_size:
            head.low, head.high = [low_high[0]] * 3, [low_high[1]] * 3
    elif key != "TITLE":
        raise LutError(f"{name}, row {number}: “{words[0][:30]}” is no keyword of a .cube file.")
    if any(h <= lo for lo, h in zip(head.low, head.high, strict=True)):
        raise LutError(f"{name}, row {number}: the domain must rise from its minimum to its maximum.")


def _row(words: list[str], number: int, name: str) -> list[float]:
    return _numbers(words, 3, number, name)


def _numbers(words: list[str], count: int, number: int, name: str) -> list[float]:
    if len(words) != count:
        raise LutError(f"{name}, row {number}: {count} numbers are wanted, {len(words)} are there.")
    try:
        values = [float(word) for word in words]
    except ValueError as error:
        raise LutError(f"{name}, row {number}: “{' '.join(words)[:40]}” are no numbers.") from error
    if not all(SANE[0] <= v <= SANE[1] for v in values):
        raise LutError(
            f"{name}, row {number}: “{' '.join(words)[:40]}” lies outside {SANE[0]:g} to {SANE[1]:g}."
        )
    return values


def _table(head: _Head, rows: Float) -> ConversionTable:
    curves = rows[: head.curve_size].T.copy() if head.curve_size else None
    cube = None
    if head.cube_size:
        n = head.cube_size
        cube = np.ascontiguousarray(rows[head.curve_size :].reshape(n, n, n, 3).transpose(2, 1, 0, 3))
    return ConversionTable(
        low=np.array(head.low, np.float32), high=np.array(head.high, np.float32), curves=curves, cube=cube
    )

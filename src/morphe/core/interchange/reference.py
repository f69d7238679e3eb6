"""Reference values of a 24-patch target: read from CSV or CGATS text, and written as CSV."""

from __future__ import annotations

import csv

import numpy as np

from morphe.core.errors import LutError
from morphe.core.measure.target import COLUMNS, ROWS, Reference
from morphe.core.signal.arrays import Float
from morphe.core.signal.perception import WHITE_D65, xyz_to_lab

__all__ = ["read_reference", "reference_csv"]

WHITE_D50 = np.array([0.96422, 1.0, 0.82521])  # CIE 15
BRADFORD = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])
LAB = (("LAB_L", "LAB_A", "LAB_B"), ("L", "A", "B"), ("L*", "A*", "B*"))
NAMES = ("SAMPLE_NAME", "SAMPLE_ID", "NAME")
PATCHES = COLUMNS * ROWS


def read_reference(text: str, name: str, *, white: str = "") -> Reference:
    """Read 24 rows of CIELAB.

    Parameters
    ----------
    white : "d50" or "d65"; left blank, CGATS files are taken as D50 (ISO 13655) and CSV as D65

    Raises
    ------
    LutError
        Naming the row and what is wrong with it.
    """
    is_cgats = "BEGIN_DATA_FORMAT" in text
    header, rows = _cgats(text, name) if is_cgats else _csv(text, name)
    columns = next((c for c in LAB if all(word in header for word in c)), None)
    if columns is None:
        raise LutError(f"{name} has no columns of CIELAB; name them L, a, b or LAB_L, LAB_A, LAB_B.")
    if len(rows) != PATCHES:
        raise LutError(
            f"{name} has {len(rows)} patches; a target has {PATCHES}, row by row from the top left."
        )
    named = next((header.index(word) for word in NAMES if word in header), None)
    lab = np.array([[_number(row, header.index(c), at, name) for c in columns] for at, row in rows])
    if (white or ("d50" if is_cgats else "d65")).lower() == "d50":
        lab = _from_d50(lab)
    labels = [row[named] if named is not None else f"patch {i}" for i, (_, row) in enumerate(rows, 1)]
    return Reference(names=tuple(labels), lab=tuple((float(v[0]), float(v[1]), float(v[2])) for v in lab))


Rows = list[tuple[int, list[str]]]


def _csv(text: str, name: str) -> tuple[list[str], Rows]:
    first = text.splitlines()[0] if text.strip() else ""
    delimiter = ";" if first.count(";") > first.count(",") else ","
    try:
        lines = list(csv.reader(text.lstrip("\ufeff").splitlines(), delimiter=delimiter))
    except csv.Error as error:
        raise LutError(f"{name} is no table; write a row for each patch, with commas between.") from error
    if not lines or not first:
        raise LutError(f"{name} is empty; write a header such as name,L,a,b and a row for each patch.")
    header = [cell.strip().upper() for cell in lines[0]]
    return header, [(n, row) for n, row in enumerate(lines[1:], 2) if any(cell.strip() for cell in row)]


def _cgats(text: str, name: str) -> tuple[list[str], Rows]:
    header: list[str] = []
    rows: Rows = []
    part = ""
    for number, line in enumerate(text.splitlines(), 1):
        words = line.split()
        if line.strip() in ("BEGIN_DATA_FORMAT", "BEGIN_DATA"):
            part = line.strip()
        elif line.strip() in ("END_DATA_FORMAT", "END_DATA"):
            part = ""
        elif words and part == "BEGIN_DATA_FORMAT":
            header += [word.upper() for word in words]
        elif words and part == "BEGIN_DATA":
            if len(words) != len(header):
                raise LutError(
                    f"{name}, row {number}: {len(header)} fields are wanted, {len(words)} are there."
                )
            rows.append((number, words))
    return header, rows


def _number(row: list[str], index: int, number: int, name: str) -> float:
    word = row[index].strip().replace(",", ".") if index < len(row) else ""
    try:
        value = float(word)
    except ValueError as error:
        raise LutError(f"{name}, row {number}: “{word[:20]}” is no number.") from error
    if not -200 <= value <= 200:
        raise LutError(f"{name}, row {number}: “{word[:20]}” is no value of CIELAB.")
    return value


def _from_d50(lab: Float) -> Float:
    """CIELAB under D50 to D65 by Bradford adaptation."""
    fy = (lab[:, 0] + 16) / 116
    f = np.stack([fy + lab[:, 1] / 500, fy, fy - lab[:, 2] / 200], axis=-1)
    xyz = np.where(f > 6 / 29, f**3, 3 * (6 / 29) ** 2 * (f - 4 / 29)) * WHITE_D50
    gains = (BRADFORD @ WHITE_D65) / (BRADFORD @ WHITE_D50)
    adapted = xyz @ (np.linalg.inv(BRADFORD) @ np.diag(gains) @ BRADFORD).T
    return xyz_to_lab(adapted)


def reference_csv(reference: Reference) -> str:
    """Write a reference as CSV, D65."""
    rows = [f"{n},{v[0]:g},{v[1]:g},{v[2]:g}" for n, v in zip(reference.names, reference.lab, strict=True)]
    return "\n".join(["name,L,a,b", *rows]) + "\n"

""".cube files: 3D tables as text, red fastest, written by us and checked before they leave.

Keywords TITLE, LUT_3D_SIZE, DOMAIN_MIN, DOMAIN_MAX; the domain is written only where it is not 0..1.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.grade.grade import Grade
from morphe.core.pipeline.cube import DELIVERY_SIZE, SIGNAL_DOMAIN, CubeLut, bake_grade

__all__ = ["cube_of", "cube_text", "numbered"]

SANE = (-0.5, 2.0)


def cube_of(grade: Grade, *, outside_nominal: bool, size: int = DELIVERY_SIZE) -> CubeLut:
    """Bake a delivery table; clips that use codes outside the nominal range get the wider domain."""
    return bake_grade(grade, size=size, domain=SIGNAL_DOMAIN if outside_nominal else (0.0, 1.0))


def numbered(path: Path, count: int) -> list[Path]:
    """Where the tables of so many shots go: NAME-01.cube, NAME-02.cube; NAME.cube where there is one."""
    if count == 1:
        return [path]
    return [path.with_name(f"{path.stem}-{n:02d}{path.suffix}") for n in range(1, count + 1)]


def cube_text(lut: CubeLut, *, title: str) -> str:
    """Write a table as .cube text.

    Raises
    ------
    ColourError
        If an entry is no finite number, which a reader would silently take for 0.
    """
    if not np.isfinite(lut.table).all():
        raise ColourError("The grade gives values that are no numbers; reset the last step.")
    rows = np.clip(lut.table.transpose(2, 1, 0, 3).reshape(-1, 3), *SANE)
    head = [f'TITLE "{"".join(c for c in title if c.isascii() and c.isprintable() and c != chr(34))}"']
    head.append(f"LUT_3D_SIZE {lut.size}")
    if lut.domain != (0.0, 1.0):
        head += [
            f"DOMAIN_{name} {v:g} {v:g} {v:g}" for name, v in zip(("MIN", "MAX"), lut.domain, strict=True)
        ]
    # Writing whole rows through one format string is twenty times quicker than a call per row.
    body = ("%.6f %.6f %.6f\n" * len(rows)) % tuple(rows.ravel().tolist())
    return "\n".join(head) + "\n" + body

"""Compile the kernels once, so that nobody waits for them later: `python -m morphe.core.handover.warm_up`."""

from __future__ import annotations

import sys
from dataclasses import replace
from pathlib import Path

import numba
import numpy as np
from llvmlite.binding import get_host_cpu_name

from morphe.core.footage.planes import Planes
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer, Scope
from morphe.core.grade.region import Ellipse, Region
from morphe.core.grade.steps import Exposure, Vignette
from morphe.core.pipeline.passes import compile_grade
from morphe.core.pipeline.planes import Grader, to_420
from morphe.core.pipeline.screen import graded_still
from morphe.core.pipeline.tables import CodesIn
from morphe.core.screen.scopes import scope_pictures
from morphe.core.signal.ycbcr import Matrix, Range

__all__ = ["warm_up", "warm_up_once"]

CORE = Path(__file__).parents[1]
DONE = Path(__file__).parent / "__pycache__" / "kernels.done"  # goes when compiled code is thrown away


def warm_up_once() -> None:
    """`warm_up`, unless that was done since the code last changed, for this kind of processor."""
    changed = max(path.stat().st_mtime_ns for path in CORE.rglob("*.py"))
    stamp = f"{changed} {sys.version} {numba.__version__} {get_host_cpu_name()}"
    if DONE.exists() and DONE.read_text() == stamp:
        return
    warm_up()
    try:
        DONE.write_text(stamp)
    except OSError:  # a folder that is only read: it is done at every start
        return


def warm_up() -> None:
    """Run every kernel once for each type it serves; compiled code is kept on disk."""
    plain = Grade.of(Exposure(stops=0.1))
    still = np.linspace(0, 1, 16 * 16 * 3, dtype=np.float32).reshape(16, 16, 3)
    scope_pictures(graded_still(still, plain))
    region = Layer(id="part", steps=(Exposure(stops=0.2),), region=Region(shape=Ellipse()))
    finish = Layer(id="finish", scope=Scope.FINISH, steps=(Vignette(amount=10),))
    stacked = replace(plain, layers=(*plain.layers, region, finish))
    for bits, dtype in ((8, np.uint8), (10, np.uint16)):
        luma, chroma = np.full((16, 16), 60, dtype), np.full((8, 8), 2 ** (bits - 1), dtype)
        planes = Planes(
            luma=luma, cb=chroma, cr=chroma, bit_depth=bits, range=Range.NARROW, matrix=Matrix.BT709
        )
        codes = CodesIn(bit_depth=bits, range=Range.NARROW, matrix=Matrix.BT709)
        out = (np.empty_like(luma), np.empty_like(chroma), np.empty_like(chroma))
        for grade in (plain, stacked):
            Grader(compile_grade(grade), codes, bits).grade(to_420(planes, bits=bits), 0.0, out)


if __name__ == "__main__":
    warm_up_once()

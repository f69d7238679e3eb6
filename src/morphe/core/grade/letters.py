"""Words drawn in letters of the world: in the first of the shipped typefaces that has a letter."""

from __future__ import annotations

import unicodedata
from collections.abc import Sequence
from functools import lru_cache
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from morphe.core.signal.arrays import Plane

__all__ = ["FACES", "FALLBACKS", "drawn_words", "missing_letters"]

FACES = Path(__file__).resolve().parents[1] / "typefaces"
TEXT = FACES / "atkinson-hyperlegible-next-latin-regular.ttf"  # has what its woff2 siblings have
# For letters that it lacks: see LICENCES.md beside the faces.
OTHERS = tuple(FACES / f"{name}-regular.ttf" for name in ("lohit-devanagari", "garuda", "wqy-microhei"))
FALLBACKS = {  # by whether it is bold
    False: (FACES / "dejavu-sans-regular.ttf", *OTHERS),
    True: (FACES / "dejavu-sans-bold.ttf", *OTHERS),
}
BOLD = 600  # weight from which a fallback is bold
UNSEEN = {"Cc", "Cf", "Zs", "Zl", "Zp"}  # categories that are not drawn: spaces, marks of direction
CLINGS = {"Mn", "Me", "Mc", *UNSEEN}  # that stay with the letter before them


@lru_cache
def _letters_of(face: Path) -> frozenset[int]:
    from fontTools.ttLib import TTFont  # type: ignore[import-untyped]  # late: only words need it

    with TTFont(face, lazy=True) as font:
        return frozenset(font.getBestCmap())


def missing_letters(text: str) -> str:
    """The letters of a text that no shipped typeface has, each once."""
    there = frozenset().union(*(_letters_of(face) for face in (TEXT, *FALLBACKS[False])))
    gone = [c for c in dict.fromkeys(text) if ord(c) not in there and unicodedata.category(c) not in UNSEEN]
    return "".join(gone)


def _runs(line: str, faces: Sequence[Path]) -> list[tuple[int, str]]:
    """A line in pieces of one face each, by its number among `faces`; the first has the letters of `TEXT`."""
    known = [_letters_of(face if number else TEXT) for number, face in enumerate(faces)]
    runs: list[tuple[int, str]] = []
    for letter in line:
        has = [number for number, letters in enumerate(known) if ord(letter) in letters] or [0]
        before = runs[-1][0] if runs else has[0]
        clings = unicodedata.category(letter) in CLINGS and before in has
        number = before if clings else has[0]
        if runs and number == before:
            runs[-1] = number, runs[-1][1] + letter
        else:
            runs.append((number, letter))
    return runs


def drawn_words(text: str, face: Path, weight: int, size: float, padding: float) -> Plane:
    """Words in letters of `size` pixels, as shares of white (h, w), with so many pixels around them.

    face : a variable typeface with the letters of `TEXT`
    """
    faces = (face, *FALLBACKS[weight >= BOLD])
    fonts = [ImageFont.truetype(str(path), max(size, 2.0)) for path in faces]
    fonts[0].set_variation_by_axes([weight])
    step = fonts[0].getbbox("A")[3] + 0.1 * size
    placed, boxes = [], []
    for number, line in enumerate(text.splitlines()):
        x, y = 0.0, number * step
        for run, piece in _runs(line, faces):
            placed.append((x, y, piece, fonts[run]))
            left, top, right, bottom = fonts[run].getbbox(piece, anchor="ls")
            boxes.append((x + left, y + top, x + right, y + bottom))
            x += fonts[run].getlength(piece)
    edges = np.array(boxes or [(0.0, 0.0, 0.0, 0.0)])
    left, top = edges[:, 0].min(), edges[:, 1].min()
    width, height = (edges[:, 2].max() - left, edges[:, 3].max() - top)
    size_px = (max(round(width + 2 * padding), 1), max(round(height + 2 * padding), 1))
    canvas = Image.new("L", size_px)
    pen = ImageDraw.Draw(canvas)
    for x, y, piece, font in placed:
        pen.text((padding - left + x, padding - top + y), piece, font=font, fill=255, anchor="ls")
    return np.asarray(canvas, np.float32) / 255

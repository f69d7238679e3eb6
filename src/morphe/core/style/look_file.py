"""Looks as one file: name, words, the layers of style and finish, their LUTs, and a picture.

JSON; tables as compressed arrays and the picture as JPEG, both in base 64.
"""

from __future__ import annotations

import base64
import binascii
import io
import json
import zipfile
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np

from morphe.core.errors import ColourError, LutError, UnknownName
from morphe.core.grade.layer import Layer, Scope
from morphe.core.grade.recipe import SCHEMA, layer_from_json, layer_to_json
from morphe.core.grade.table import SHELF, ConversionTable

__all__ = ["ENDING", "MAX_BYTES", "LookFile", "look_from_text", "look_text"]

FORMAT, ENDING = "morphe-look", "look.json"
MAX_BYTES = 12_000_000  # a cube of 65 points a side, and a picture
MOST_NAME, MOST_WORDS, MOST_PICTURE = 60, 300, 400_000
LARGEST = 129  # points a side
HOPELESS = "This is no look that Morphe has saved, or it was cut short; ask for the file again."


@dataclass(frozen=True, slots=True, kw_only=True)
class LookFile:
    """A look as it travels; `picture` is a JPEG, empty for none."""

    name: str
    words: str
    layers: tuple[Layer, ...]
    picture: bytes = b""

    def __post_init__(self) -> None:
        if not self.name.strip() or len(self.name) > MOST_NAME or len(self.words) > MOST_WORDS:
            raise ColourError(f"A look has a name of at most {MOST_NAME} letters and {MOST_WORDS} of words.")
        if not self.layers or any(x.scope not in (Scope.STYLE, Scope.FINISH) for x in self.layers):
            raise ColourError("A look is made of style and finish; put some on first.")
        if any(x.region is not None or x.moves for x in self.layers if x.scope is Scope.STYLE):
            raise ColourError("A look holds for any clip: nothing in it may move or be a part.")

    @property
    def tables(self) -> tuple[str, ...]:
        """Digests of the LUTs that it needs."""
        steps = (step for layer in self.layers for step in layer.steps)
        return tuple(sorted({d for s in steps if (d := str(getattr(s, "table", "")))}))


def look_text(look: LookFile) -> str:
    """Write a look with all it needs."""
    return json.dumps(
        {
            "format": FORMAT, "schema": SCHEMA, "name": look.name, "words": look.words,
            "layers": [layer_to_json(layer) for layer in look.layers],
            "tables": {digest: _packed(SHELF.get(digest)) for digest in look.tables},
            "picture": base64.b64encode(look.picture).decode(),
        },
        indent=1,
    ) + "\n"  # fmt: skip


def look_from_text(text: str) -> LookFile:
    """Read a look; its LUTs are put on the shelf.

    Raises
    ------
    LutError
        With what is wrong, if the file is foreign, broken or from a newer version.
    """
    data = _data(text)
    try:
        for digest, packed in data.get("tables", {}).items():
            if SHELF.keep(_unpacked(packed)) != digest:
                raise LutError(HOPELESS)
        picture = base64.b64decode(data.get("picture", ""), validate=True)
        return LookFile(
            name=str(data["name"]), words=str(data.get("words", "")), picture=_checked(picture),
            layers=tuple(layer_from_json(item) for item in data["layers"]),
        )  # fmt: skip
    except (ColourError, UnknownName) as error:
        raise LutError(f"The look cannot be used: {error}") from error
    except (KeyError, TypeError, AttributeError, ValueError, binascii.Error) as error:
        raise LutError(HOPELESS) from error


def _data(text: str) -> dict[str, Any]:
    if len(text) > MAX_BYTES:
        raise LutError("The file is far too long for a look.")
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise LutError(HOPELESS) from error
    if not isinstance(data, dict) or data.get("format") != FORMAT or not isinstance(data.get("schema"), int):
        raise LutError(HOPELESS)
    if data["schema"] > SCHEMA:
        raise LutError(f"The look is of a later version ({data['schema']}); update Morphe.")
    return data


def _checked(picture: bytes) -> bytes:
    """The picture, written anew: what is no picture is left out."""
    if not picture or len(picture) > MOST_PICTURE:
        return b""
    found = cv2.imdecode(np.frombuffer(picture, np.uint8), cv2.IMREAD_COLOR)
    if found is None:
        return b""
    return bytes(cv2.imencode(".jpg", found)[1].tobytes())


def _packed(table: ConversionTable) -> str:
    parts = {"low": table.low, "high": table.high, "curves": table.curves, "cube": table.cube}
    out = io.BytesIO()
    np.savez_compressed(out, **{k: v for k, v in parts.items() if v is not None})  # type: ignore[arg-type]
    return base64.b64encode(out.getvalue()).decode()


def _unpacked(text: str) -> ConversionTable:
    content = base64.b64decode(text, validate=True)
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            if sum(entry.file_size for entry in archive.infolist()) > 12 * LARGEST**3 + 2_000_000:
                raise LutError(HOPELESS)
        with np.load(io.BytesIO(content), allow_pickle=False) as kept:
            parts = {name: np.asarray(kept[name], np.float32) for name in kept.files}
    except (OSError, zipfile.BadZipFile, EOFError) as error:
        raise LutError(HOPELESS) from error
    if not all(np.isfinite(part).all() for part in parts.values()) or not _is_table(parts):
        raise LutError(HOPELESS)
    return ConversionTable(
        low=parts["low"], high=parts["high"], curves=parts.get("curves"), cube=parts.get("cube")
    )


def _is_table(parts: dict[str, Any]) -> bool:
    if not {"low", "high"} <= set(parts) <= {"low", "high", "curves", "cube"} or len(parts) < 3:
        return False
    cube, curves = parts.get("cube"), parts.get("curves")
    ends = parts["low"].shape == (3,) == parts["high"].shape and (parts["high"] > parts["low"]).all()
    is_cube = cube is None or (
        cube.ndim == 4 and cube.shape == (*(3 * cube.shape[:1]), 3) and cube.shape[0] >= 2
    )
    return bool(ends and is_cube and (curves is None or (curves.ndim == 2 and curves.shape[0] == 3)))

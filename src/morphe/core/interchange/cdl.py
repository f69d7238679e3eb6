"""ASC colour decision lists (v1.2): read from .cc, .ccc and .cdl; written as .cc, with what is lost."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any
from xml.etree import ElementTree

import numpy as np
from defusedxml import DTDForbidden, EntitiesForbidden
from defusedxml.ElementTree import fromstring

from morphe.core.errors import LutError
from morphe.core.grade.grade import Grade
from morphe.core.grade.source import Source
from morphe.core.grade.step import FrameStep
from morphe.core.grade.steps.cdl import Cdl
from morphe.core.pipeline.colour import through
from morphe.core.signal.arrays import Float
from morphe.core.signal.perception import delta_e_2000, encoded_to_lab

__all__ = ["MAX_BYTES", "FromGrade", "cdl_of", "cdl_text", "read_cdl"]

MAX_BYTES = 2_000_000
SIDE = 7  # colours a side that a grade is looked at with


@dataclass(frozen=True, slots=True, kw_only=True)
class FromGrade:
    """A decision list that comes near a grade: what it misses on average, and what it cannot hold at all."""

    cdl: Cdl
    residual: float  # mean CIEDE2000
    left_out: tuple[str, ...]

    @property
    def sentence(self) -> str:
        said = f"It comes within {self.residual:.1f} ΔE00 of the grade on average"
        return f"{said}; it cannot hold {', '.join(self.left_out)}." if self.left_out else f"{said}."


def cdl_of(grade: Grade) -> FromGrade:
    """The decision list that comes nearest to what a grade does after the source's conversion.

    Ten numbers for ordinary video: slope, offset and power of each channel and a saturation, by least squares
    over colours of the whole cube.
    """
    from scipy.optimize import least_squares  # heavy: late, as only handing out a decision list needs it

    layers = tuple(layer for layer in grade.layers if layer.region is None and layer.at_work)
    axis = np.linspace(0.04, 0.96, SIDE, dtype=np.float32)
    colours = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1).reshape(-1, 3)
    wanted = np.clip(through(Source(), layers, colours), 0, 1)

    def missed(numbers: Float) -> Float:
        return (_of(numbers).apply(colours) - wanted).ravel().astype(float)

    start = np.array([*[1.0] * 3, *[0.0] * 3, *[1.0] * 3, 1.0])
    low = [*[0.0] * 3, *[-1.0] * 3, *[0.1] * 3, 0.0]
    high = [*[8.0] * 3, *[1.0] * 3, *[8.0] * 3, 4.0]
    found = _of(least_squares(missed, start, bounds=(low, high), diff_step=1e-3).x)
    apart = delta_e_2000(encoded_to_lab(found.apply(colours)), encoded_to_lab(wanted.astype(np.float32)))
    return FromGrade(cdl=found, residual=float(apart.mean()), left_out=_left_out(grade))


def _of(numbers: Float) -> Cdl:
    n = [float(v) for v in numbers]
    return Cdl(
        slope=(n[0], n[1], n[2]), offset=(n[3], n[4], n[5]), power=(n[6], n[7], n[8]), saturation=n[9]
    )  # fmt: skip


def _left_out(grade: Grade) -> tuple[str, ...]:
    said = []
    if grade.source.at_work:
        said.append("the conversion of the profile (hand its .cube along)")
    for layer in grade.layers:
        if layer.region is not None and layer.at_work:
            said.append(f"the region “{layer.label}”")
        said += [s.label.lower() for s in layer.steps if isinstance(s, FrameStep) and s.at_work]
    if any(layer.moves for layer in grade.layers):
        said.append("what changes during the clip")
    return tuple(dict.fromkeys(said))


def cdl_text(cdl: Cdl, name: str, words: str = "") -> str:
    """Write a decision list as a ColorCorrection (.cc), with words for whoever reads it."""
    root = ElementTree.Element("ColorCorrection", id=name)
    if words:
        ElementTree.SubElement(root, "Description").text = words
    sop = ElementTree.SubElement(root, "SOPNode")
    for tag, values in (("Slope", cdl.slope), ("Offset", cdl.offset), ("Power", cdl.power)):
        ElementTree.SubElement(sop, tag).text = " ".join(f"{v:.6f}" for v in values)
    saturation = ElementTree.SubElement(ElementTree.SubElement(root, "SatNode"), "Saturation")
    saturation.text = f"{cdl.saturation:.6f}"
    ElementTree.indent(root)
    return ElementTree.tostring(root, encoding="unicode", xml_declaration=True) + "\n"


def read_cdl(text: str, name: str) -> list[tuple[str, Cdl]]:
    """Read all corrections of a .cc, .ccc or .cdl: pairs of id and numbers.

    Raises
    ------
    LutError
        If it is no decision list, or its numbers are none.
    """
    if len(text) > MAX_BYTES:
        raise LutError(f"{name} is far too long for a decision list.")
    try:
        root = fromstring(re.sub(r"^\s*<\?xml[^>]*\?>", "", text), forbid_dtd=True)
    except (DTDForbidden, EntitiesForbidden) as error:
        raise LutError(f"{name} declares entities; export it without them.") from error
    except (ElementTree.ParseError, ValueError) as error:
        raise LutError(f"{name} is no readable decision list; export it again as .cc or .cdl.") from error
    found = [e for e in root.iter() if _tag(e) == "ColorCorrection"]
    if not found:
        raise LutError(f"{name} has no ColorCorrection in it; export it as .cc, .ccc or .cdl.")
    return [(str(e.get("id") or f"{number}"), _read(e, name)) for number, e in enumerate(found, 1)]


def _read(element: Any, name: str) -> Cdl:
    texts = {_tag(e): e.text or "" for e in element.iter()}
    try:
        return Cdl(
            slope=_three(texts.get("Slope", "1 1 1")), offset=_three(texts.get("Offset", "0 0 0")),
            power=_three(texts.get("Power", "1 1 1")), saturation=float(texts.get("Saturation", "1")),
        )  # fmt: skip
    except ValueError as error:
        raise LutError(f"{name} has numbers that no decision list can have; export it again.") from error


def _three(text: str) -> tuple[float, float, float]:
    red, green, blue = (float(v) for v in text.split())
    return red, green, blue


def _tag(element: Any) -> str:
    return str(element.tag).rsplit("}", 1)[-1]

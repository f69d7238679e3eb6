"""HDR that goes out as HDR: HLG (BT.2100-2), graded as light of the scene.

Exposure and balance are light and mean the same on any display; black and white points, curves and looks
were set on an ordinary picture, and stay behind.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from morphe.core.footage.info import SignalInfo
from morphe.core.grade.edges import Edges
from morphe.core.grade.grade import Grade
from morphe.core.grade.source import Source
from morphe.core.grade.steps.balance import Balance
from morphe.core.grade.steps.exposure import Exposure
from morphe.core.pipeline.passes import ColourPass, FramePass, Pipeline
from morphe.core.signal.arrays import Encoded, Float
from morphe.core.signal.hdr import LUMINANCE_2020, PEAK, SYSTEM_GAMMA
from morphe.core.signal.transfer import decode_hlg, decode_pq, encode_hlg

__all__ = ["hdr_left_out", "hdr_pipeline", "why_not_hdr"]

TRANSFERS = ("hlg", "pq")
CARRIED = (Exposure, Balance)


def why_not_hdr(info: SignalInfo) -> str:
    """Why a clip cannot go out as HDR, in a sentence; empty if it can."""
    if info.transfer not in TRANSFERS:
        return "It was not filmed in HDR, and light that is not in the file cannot be added."
    if info.bit_depth < 10:
        return "It was filmed in HDR with 8 bits only, which would show bands."
    return ""


def hdr_left_out(grade: Grade) -> tuple[str, ...]:
    """Steps at work that an HDR file does not carry, by their names."""
    said: dict[str, None] = {}
    for _, step in grade.steps():
        if step.at_work and not isinstance(step, (*CARRIED, Edges, *(type(s) for s in Source().steps))):
            said[step.label] = None
    return tuple(said)


@dataclass(frozen=True, slots=True, kw_only=True)
class HlgPass(ColourPass):
    """Camera's HLG or PQ to HLG in BT.2020 primaries, with what of the grade is light of the scene."""

    carried: tuple[Exposure | Balance, ...] = ()
    pq: bool = False

    def apply(self, encoded: Encoded) -> Encoded:
        light = _scene_of_pq(encoded) if self.pq else decode_hlg(np.maximum(encoded, 0))
        for step in self.carried:
            light = step.apply_wide(light)
        return encode_hlg(np.maximum(light, 0).astype(np.float32)).astype(np.float32)


def _scene_of_pq(encoded: Encoded) -> Float:
    """PQ to light of the scene, 0..1, by the inverse OOTF of a display of 1000 cd/m2 (BT.2100-2, table 5)."""
    shown = np.minimum(decode_pq(np.maximum(encoded, 0)) / PEAK, 1)
    luminance = (shown @ LUMINANCE_2020.astype(shown.dtype))[..., None]
    return shown * np.power(np.maximum(luminance, 1e-6), 1 / SYSTEM_GAMMA - 1).astype(shown.dtype)


def hdr_pipeline(grade: Grade, info: SignalInfo) -> Pipeline:
    """The passes by which a clip filmed in HDR goes out as HLG; light over time is held at the middle."""
    held = grade.at(info.duration_s / 2)
    carried = [step for _, step in held.steps() if isinstance(step, CARRIED) and step.at_work]
    one = HlgPass(carried=tuple(carried), pq=info.transfer == "pq")
    edges = grade.source.edges
    bars = (FramePass(step=edges),) if edges.at_work else ()
    return Pipeline(passes=(one, *bars), denoise=grade.source.denoise)

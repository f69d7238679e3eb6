"""HDR that goes out as HDR: of which clips, and by which passes."""

from __future__ import annotations

import numpy as np

from morphe.core.footage.info import SignalInfo
from morphe.core.grade.grade import Grade
from morphe.core.pipeline.hdr_space import HdrSpace, carried
from morphe.core.pipeline.passes import Pipeline, compile_grade
from morphe.core.pipeline.screen import graded_still
from morphe.core.signal.arrays import Encoded
from morphe.core.signal.hdr import hlg_to_display, nits_to_sdr_display
from morphe.core.signal.profiles import HDR

__all__ = ["hdr_on_this_screen", "hdr_pipeline", "space_of", "why_not_hdr"]


def why_not_hdr(info: SignalInfo, *grades: Grade) -> str:
    """Why a clip cannot go out as HDR, in a sentence; empty if it can."""
    if not info.is_hdr:
        return "It was not filmed in HDR, and light that is not in the file cannot be added."
    if info.bit_depth < 10:
        return "It was filmed in HDR with 8 bits only, which would show bands."
    for convert in (grade.source.convert for grade in grades):
        if convert.at_work and convert.profile not in HDR:
            return f"Its file says HDR, and it is worked on as {convert.summary}."
    return ""


def space_of(info: SignalInfo, grade: Grade, goes: str) -> HdrSpace:
    """How the codes of a clip come, by its profile, and go out as "hlg" or "pq"."""
    convert = grade.source.convert
    came = convert.profile if convert.at_work and convert.profile in HDR else info.transfer
    return HdrSpace(came=came, goes=goes, rendering=convert.rendering)


def hdr_pipeline(grade: Grade, info: SignalInfo, goes: str = "hlg") -> Pipeline:
    """The passes by which a clip filmed in HDR goes out so, with all of its grade that is carried."""
    return compile_grade(carried(grade), space_of(info, grade, goes))


def hdr_on_this_screen(picture: Encoded, grade: Grade, info: SignalInfo, time_s: float) -> Encoded:
    """A still (H, W, 3) as a display of 1000 cd/m2 shows it, rolled off to an ordinary one (BT.2390)."""
    code = graded_still(picture, hdr_pipeline(grade, info), time_s)
    light = nits_to_sdr_display(hlg_to_display(code))
    return np.power(np.clip(light, 0, 1), 1 / 2.4).astype(np.float32)

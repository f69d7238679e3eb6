"""HDR that goes out as HDR: of which clips, and by which passes."""

from __future__ import annotations

from morphe.core.footage.info import SignalInfo
from morphe.core.grade.grade import Grade
from morphe.core.pipeline.hdr_space import HdrSpace, carried
from morphe.core.pipeline.passes import Pipeline, compile_grade

__all__ = ["hdr_pipeline", "space_of", "why_not_hdr"]

TRANSFERS = ("hlg", "pq")


def why_not_hdr(info: SignalInfo, *grades: Grade) -> str:
    """Why a clip cannot go out as HDR, in a sentence; empty if it can."""
    if info.transfer not in TRANSFERS:
        return "It was not filmed in HDR, and light that is not in the file cannot be added."
    if info.bit_depth < 10:
        return "It was filmed in HDR with 8 bits only, which would show bands."
    for convert in (grade.source.convert for grade in grades):
        if convert.at_work and convert.profile not in TRANSFERS:
            return f"Its file says HDR, and it is worked on as {convert.summary}."
    return ""


def space_of(info: SignalInfo, grade: Grade, goes: str) -> HdrSpace:
    """How the codes of a clip come, by its profile, and go out as "hlg" or "pq"."""
    convert = grade.source.convert
    came = convert.profile if convert.at_work and convert.profile in TRANSFERS else info.transfer
    return HdrSpace(came=came, goes=goes, rendering=convert.rendering)


def hdr_pipeline(grade: Grade, info: SignalInfo, goes: str = "hlg") -> Pipeline:
    """The passes by which a clip filmed in HDR goes out so, with all of its grade that is carried."""
    return compile_grade(carried(grade), space_of(info, grade, goes))

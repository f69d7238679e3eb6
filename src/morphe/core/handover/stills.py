"""Stills of a clip as it is graded: PNG, JPEG, and PNG of 16 bits, full size."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np

from morphe.core.errors import OutputError
from morphe.core.footage.info import SignalInfo
from morphe.core.footage.reader import frame_at
from morphe.core.grade.grade import Grade
from morphe.core.handover.output import check_output, whole_file
from morphe.core.pipeline.cube import DELIVERY_SIZE
from morphe.core.pipeline.screen import graded_still
from morphe.core.signal.arrays import Encoded

__all__ = ["STILLS", "StillKind", "graded_picture", "write_still"]


@dataclass(frozen=True, slots=True, kw_only=True)
class StillKind:
    """A kind of still: its name for people, its ending, its depth."""

    label: str
    about: str
    ending: str
    bits: int = 8


STILLS = {
    "png": StillKind(label="PNG", about="without loss", ending=".png"),
    "jpeg": StillKind(label="JPEG", about="small, for sending", ending=".jpg"),
    "png16": StillKind(label="PNG, 16-bit", about="for work elsewhere", ending=".png", bits=16),
}
QUALITY = 93  # of JPEG


def graded_picture(info: SignalInfo, grade: Grade, time_s: float) -> Encoded:
    """The frame at a moment, graded and cropped, in full size: (H, W, 3) of BT.709 as encoded."""
    made = np.clip(graded_still(frame_at(info, time_s).encoded(), grade, time_s, size=DELIVERY_SIZE), 0, 1)
    if grade.crop is not None:
        left, top, right, bottom = grade.crop.at(time_s).window(made.shape[1], made.shape[0])
        made = made[top:bottom, left:right]
    return made


def write_still(info: SignalInfo, grade: Grade, time_s: float, out: Path, kind: str) -> tuple[int, int]:
    """Write the graded frame at a moment; its width and height.

    Its codes are those of the film, so that it looks like it beside it.

    Raises
    ------
    OutputError
        If there is no such kind, or `out` cannot be written.
    """
    if kind not in STILLS:
        raise OutputError(f"Stills are {', '.join(STILLS)}; choose one of these.")
    check_output(out, info.path)
    chosen = STILLS[kind]
    shown = graded_picture(info, grade, time_s)
    most = 2**chosen.bits - 1
    codes = np.rint(shown * most).astype(np.uint16 if chosen.bits == 16 else np.uint8)
    done, data = cv2.imencode(chosen.ending, codes[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, QUALITY])
    if not done:
        raise OutputError(f"{out.name} could not be written as {chosen.label}; choose another kind.")
    with whole_file(out) as part:
        part.write_bytes(data.tobytes())
    return codes.shape[1], codes.shape[0]

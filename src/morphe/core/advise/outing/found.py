"""Findings as bytes, so that a clip can be looked at by one machine and judged by another."""

from __future__ import annotations

import io
import json
from pathlib import Path
from typing import Any

import numpy as np

from morphe.core.advise.counted import Counted
from morphe.core.advise.findings import Findings
from morphe.core.footage.info import SignalInfo
from morphe.core.footage.judging import JudgingFrame
from morphe.core.measure.file_strength import FileStrength
from morphe.core.measure.picture_area import PictureArea
from morphe.core.measure.readings import Readings
from morphe.core.signal.arrays import Encoded
from morphe.core.stored import read_arrays

__all__ = ["from_bytes", "to_bytes"]


def to_bytes(findings: Findings) -> bytes:
    """All but the light over time. Pictures keep a thousandth of full scale, as where they are stored."""
    numbers = {
        "info": findings.info.record(),
        "before": findings.before.as_json(),
        "found": findings.as_json(),
        "exact": [findings.noise_codes, findings.blockiness],
        "frames": [[f.role, f.time_s] for f in findings.frames],
    }
    arrays: dict[str, Any] = {"numbers": np.array(json.dumps(numbers))}
    for number, frame in enumerate(findings.frames):
        arrays[f"picture{number}"] = frame.encoded.astype(np.float16)
        if (grain := frame.grain) is not None:
            arrays[f"grain{number}"] = grain.astype(np.float16)
    buffer = io.BytesIO()
    np.savez(buffer, **arrays)
    return buffer.getvalue()


def from_bytes(data: bytes, path: Path) -> Findings:
    """What `to_bytes` gave, of the clip at `path`."""
    arrays = read_arrays(io.BytesIO(data))
    numbers = json.loads(str(arrays["numbers"]))
    info = SignalInfo.from_json(numbers["info"], path)
    noise, blocks = numbers["exact"]
    faces = numbers["found"]["faces"]
    return Findings(
        info=info,
        frames=tuple(
            JudgingFrame(
                role=role, time_s=time_s, encoded=_picture(arrays[f"picture{n}"]),
                kept_grain=_picture(arrays[f"grain{n}"]) if f"grain{n}" in arrays else None,
            )
            for n, (role, time_s) in enumerate(numbers["frames"])
        ),
        before=Readings.from_json(numbers["before"]),
        noise_codes=noise,
        blockiness=blocks,
        strength=FileStrength.from_json(
            numbers["found"], bit_depth=info.bit_depth, noise=noise, blocks=blocks
        ),
        counted=Counted(area=PictureArea.from_json(numbers["found"].get("area", {}))),
        faces=None if faces is None else tuple(tuple(tuple(box) for box in boxes) for boxes in faces),
    )  # fmt: skip


def _picture(half: Any) -> Encoded:
    picture: Encoded = half.astype(np.float32)
    return picture

"""What a clip says of itself, and what was assumed where it says nothing."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, fields
from fractions import Fraction
from pathlib import Path
from typing import Any

from morphe.core.footage.motion import Motion
from morphe.core.footage.shots import Shot
from morphe.core.signal.primaries import Primaries
from morphe.core.signal.profiles import HDR
from morphe.core.signal.ycbcr import Matrix, Range

__all__ = ["SignalInfo", "untold_matrix"]


@dataclass(frozen=True, slots=True, kw_only=True)
class SignalInfo:
    """Facts of one clip. `width` and `height` are as stored; `rotation` is clockwise, to stand upright.

    `shot` is what of it is worked on, if that is not all of it.
    `range`, `matrix`, `primaries` and `transfer` are as tagged; the `effective_` properties resolve
    missing tags by the assumptions that `assumed` lists in words.
    """

    path: Path
    codec: str
    container: str
    width: int
    height: int
    rotation: int
    fps: Fraction
    variable_rate: bool
    frames: int
    duration_s: float
    bit_depth: int
    chroma: str
    bitrate: int
    range: Range
    matrix: Matrix
    primaries: Primaries
    transfer: str
    assumed: tuple[str, ...] = ()
    audio: str | None = None
    motion: Motion = Motion.NONE
    creation_time: str | None = None
    timecode: str | None = None
    pixel_aspect: Fraction = Fraction(1)
    start_s: float = 0.0
    shot: Shot | None = None
    metadata: dict[str, str] = field(default_factory=dict, hash=False)

    @property
    def effective_range(self) -> Range:
        return Range.NARROW if self.range is Range.UNSPECIFIED else self.range

    @property
    def effective_matrix(self) -> Matrix:
        if self.matrix is not Matrix.UNSPECIFIED:
            return self.matrix
        return untold_matrix(self.transfer, self.primaries, self.height)

    @property
    def is_hdr(self) -> bool:
        """Whether its file says so."""
        return self.transfer in HDR

    @property
    def effective_primaries(self) -> Primaries:
        return Primaries.BT709 if self.primaries is Primaries.UNSPECIFIED else self.primaries

    @property
    def worked_on(self) -> Shot:
        """The stretch that is worked on."""
        return self.shot or Shot(begin_s=0.0, end_s=self.duration_s)

    @property
    def is_ordinary(self) -> bool:
        """Whether the planes already are what every output is: narrow BT.709."""
        return self.effective_range is Range.NARROW and self.effective_matrix is Matrix.BT709

    @property
    def upright_size(self) -> tuple[int, int]:
        """(width, height) after rotation."""
        turned = self.rotation in (90, 270)
        return (self.height, self.width) if turned else (self.width, self.height)

    def record(self) -> dict[str, Any]:
        """All facts as plain values, for `from_json`."""
        return {
            **self.as_json(),
            "rate": str(self.fps),
            "duration_s": self.duration_s,
            "creation_time": self.creation_time,
            "timecode": self.timecode,
            "pixel_aspect": str(self.pixel_aspect),
            "start_s": self.start_s,
            "motion": str(self.motion),
            "shot": self.shot and self.shot.as_json(),
        }

    @classmethod
    def from_json(cls, data: Mapping[str, Any], path: Path) -> SignalInfo:
        """Facts from what `record`, or `as_json`, gave; what the latter leaves out is at its usual value."""
        known = {f.name for f in fields(cls)}
        values = {name: value for name, value in data.items() if name in known}
        values |= {
            "path": path,
            "fps": Fraction(data.get("rate", values["fps"])).limit_denominator(100000),
            "pixel_aspect": Fraction(values.get("pixel_aspect", 1)),
            "range": Range(values["range"]),
            "matrix": Matrix(values["matrix"]),
            "primaries": Primaries(values["primaries"]),
            "motion": Motion(values.get("motion", "")),
            "shot": Shot.from_json(values["shot"]) if values.get("shot") else None,
            "assumed": tuple(values.get("assumed", ())),
        }
        return cls(**values)

    def as_json(self) -> dict[str, object]:
        """The facts in the form the command line prints."""
        return {
            "codec": self.codec,
            "container": self.container,
            "width": self.width,
            "height": self.height,
            "rotation": self.rotation,
            "fps": round(float(self.fps), 4),
            "variable_rate": self.variable_rate,
            "frames": self.frames,
            "duration_s": round(self.duration_s, 4),
            "bit_depth": self.bit_depth,
            "chroma": self.chroma,
            "bitrate": self.bitrate,
            "range": str(self.range),
            "matrix": str(self.matrix),
            "primaries": str(self.primaries),
            "transfer": self.transfer,
            "assumed": list(self.assumed),
            "audio": self.audio,
        }


def untold_matrix(transfer: str, primaries: Primaries, height: int) -> Matrix:
    """The matrix of a file that names none: by its other tags, else by its rows."""
    if transfer in HDR or primaries is Primaries.BT2020:
        return Matrix.BT2020
    return Matrix.BT709 if height >= 720 else Matrix.BT601

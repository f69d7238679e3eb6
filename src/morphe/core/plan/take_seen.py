"""What is looked at of a take before it is judged: a clip, or a photograph of the scene or of a screen."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

from morphe.core.advise.findings import look
from morphe.core.footage.info import SignalInfo
from morphe.core.footage.stretch import Stretch, stretch_of
from morphe.core.measure.faces import Box
from morphe.core.measure.noise import noise_of
from morphe.core.measure.readings import luma_of
from morphe.core.signal.arrays import Encoded
from morphe.core.signal.primaries import Primaries
from morphe.core.signal.ycbcr import Matrix, Range

__all__ = ["TakeSeen", "see_clip", "see_still"]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class TakeSeen:
    """What was seen of a take: pictures (H, W, 3) as the camera wrote them; of a clip also a stretch."""

    info: SignalInfo
    pictures: tuple[Encoded, ...]
    times_s: tuple[float, ...]
    noise_codes: float  # of 8 bits
    faces: tuple[tuple[Box, ...], ...] | None = None  # by picture; None where they were not looked for
    stretch: Stretch | None = None

    @property
    def is_still(self) -> bool:
        return self.stretch is None


def see_clip(path: Path | str) -> TakeSeen:
    """Look at a clip: its judging frames, and three seconds frame by frame.

    Raises
    ------
    MediaError
        If it cannot be read.
    """
    found = look(path)
    return TakeSeen(
        info=found.info, pictures=found.pictures,
        times_s=tuple(f.time_s for f in found.frames), noise_codes=found.noise.codes,
        faces=found.faces, stretch=stretch_of(found.info),
    )  # fmt: skip


def see_still(picture: Encoded, path: Path) -> TakeSeen:
    """A photograph (H, W, 3), encoded as BT.709: of the scene, or of the screen of another camera."""
    height, width = picture.shape[:2]
    info = SignalInfo(
        path=path, codec="still", container="still", width=width, height=height, rotation=0, fps=Fraction(25),
        variable_rate=False, frames=1, duration_s=0.04, bit_depth=8, chroma="4:4:4", bitrate=0,
        range=Range.FULL, matrix=Matrix.BT709, primaries=Primaries.BT709, transfer="bt709",
    )  # fmt: skip
    noise = noise_of(luma_of(picture) * 219)
    return TakeSeen(info=info, pictures=(picture,), times_s=(0.0,), noise_codes=noise)

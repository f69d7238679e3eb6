"""What a file can bear: its bits, its noise, its blocks, the tones it holds and how smooth they are."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from morphe.core.footage.planes import Planes
from morphe.core.measure.banding import BANDS, Runs, banding_index, runs_of, step_lightness
from morphe.core.measure.noise import noise_of
from morphe.core.measure.strain import blockiness
from morphe.core.signal.arrays import Float
from morphe.core.signal.ycbcr import range_scale

__all__ = ["FileStrength", "strength_of_planes"]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class FileStrength:
    """What a file brings along: bits, noise in its own codes, and how much blocks show.

    tones : shares of pixels by band of luma (BANDS,)
    runs : shares in runs of equal codes, or None where a clip was read by an older version
    """

    bit_depth: int
    noise: float
    blocks: float
    tones: Float
    runs: Runs | None = None

    @property
    def codes(self) -> float:
        """Codes between black and white."""
        return 219.0 * 2 ** (self.bit_depth - 8)

    @property
    def banding(self) -> float:
        """The index of banding of the file as it is."""
        return 0.0 if self.runs is None else banding_index(self.runs, step_lightness(self.bit_depth))

    def as_json(self) -> dict[str, Any]:
        return {
            "tones": [round(float(v), 4) for v in self.tones],
            "runs": None if self.runs is None else self.runs.as_json(),
        }

    @classmethod
    def from_json(
        cls, data: Mapping[str, Any], *, bit_depth: int, noise: float, blocks: float
    ) -> FileStrength:
        """From what `as_json` gave; of an older clip nothing is known of its tones, and all are taken to be
        there."""
        runs, tones = data.get("runs"), data.get("tones")
        return cls(
            bit_depth=bit_depth, noise=noise, blocks=blocks,
            tones=np.array(tones, float) if tones else np.full(BANDS, 1 / BANDS),
            runs=Runs.from_json(runs) if runs else None,
        )  # fmt: skip


def strength_of_planes(frames: Sequence[Planes]) -> FileStrength:
    """Measure decoded frames of one file at full size."""
    first = frames[0]
    scale = range_scale(first.range, first.bit_depth)
    found = [runs_of(p.luma, p.bit_depth) for p in frames]
    levels = [(p.luma.astype(np.float32) - scale.luma_offset) / scale.luma_scale for p in frames]
    tones = [np.histogram(np.clip(level, 0, 0.9999), BANDS, (0, 1))[0] / level.size for level in levels]
    return FileStrength(
        bit_depth=first.bit_depth,
        noise=float(np.median([noise_of(p.luma.astype(np.float32)) for p in frames])),
        blocks=float(np.median([blockiness(p.luma) for p in frames])),
        tones=np.mean(tones, axis=0),
        runs=Runs(
            shares=np.mean([r.shares for r in found], axis=0), steps=np.mean([r.steps for r in found], axis=0)
        ),
    )

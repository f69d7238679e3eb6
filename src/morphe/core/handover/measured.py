"""What a delivered file shows of the strain it was put to, beside what the source showed."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frames_at
from morphe.core.measure.file_strength import FileStrength, strength_of_planes

__all__ = ["BANDING_SHOWS", "BLOCKS_SHOW", "measured_in"]

BANDING_SHOWS, BLOCKS_SHOW = 0.3, 1.5


def measured_in(out: Path, before: FileStrength, times_s: Sequence[float]) -> dict[str, Any]:
    """Banding, blocks and noise of the source and of a file, at the same moments, as plain values."""
    info = probe(out)
    frames = [planes for _, planes in frames_at(info, [min(t, info.duration_s) for t in times_s])]
    if not frames:
        return {}
    after = strength_of_planes(frames)
    return {
        "banding": [round(before.banding, 3), round(after.banding, 3)],
        "blocks": [round(before.blocks, 2), round(after.blocks, 2)],
        "noise": [round(s.noise / 2 ** (s.bit_depth - 8), 2) for s in (before, after)],
    }

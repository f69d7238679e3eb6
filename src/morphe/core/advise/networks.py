"""Small taught networks in plain numpy: several of one shape, whose answers are averaged."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from morphe.core.signal.arrays import Float

__all__ = ["FARTHEST", "Networks", "read_taught"]

FARTHEST = 5.0  # deviations: rarer traits count as this


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Networks:
    """Layers of weights (networks, in, out) and offsets (networks, out), and how inputs are scaled."""

    mean: Float
    spread: Float
    weights: tuple[Float, ...]
    offsets: tuple[Float, ...]

    def scaled(self, inputs: Float) -> Float:
        """Inputs (..., n) as the networks take them."""
        return np.clip((inputs - self.mean) / self.spread, -FARTHEST, FARTHEST)

    def answers(self, inputs: Float) -> Float:
        """What every network says (networks, out) to inputs (n,); layers rectify but for the last."""
        values = np.broadcast_to(self.scaled(inputs), (len(self.weights[0]), len(inputs)))
        for layer, (weights, offsets) in enumerate(zip(self.weights, self.offsets, strict=True)):
            values = np.maximum(values, 0) if layer else values
            values = np.einsum("ni,nio->no", values, weights) + offsets
        return values

    @classmethod
    def of(cls, arrays: Mapping[str, Float], name: str) -> Networks:
        """The networks that a file keeps under a name."""
        layers = sum(key.startswith(f"{name}_weights") for key in arrays)
        return cls(
            mean=arrays["mean"], spread=arrays["spread"],
            weights=tuple(arrays[f"{name}_weights{n}"] for n in range(layers)),
            offsets=tuple(arrays[f"{name}_offsets{n}"] for n in range(layers)),
        )  # fmt: skip


def read_taught(path: Path) -> dict[str, Float]:
    """All arrays of a file of weights, as they are computed with."""
    with np.load(path) as file:
        return {name: file[name].astype(np.float64) for name in file.files}

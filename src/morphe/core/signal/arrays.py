"""Names of the array types that pass between rooms; the name says the state of the light."""

from __future__ import annotations

from typing import Any, TypeAlias

import numpy as np
from numpy.typing import NDArray

__all__ = ["Codes", "Encoded", "Float", "Linear", "Mask", "Plane", "highest", "lowest"]

Float: TypeAlias = NDArray[np.floating[Any]]
Encoded: TypeAlias = NDArray[np.float32]  # (..., 3) after a transfer function, 0 = nominal black, 1 = white
Linear: TypeAlias = NDArray[np.float32]  # (..., 3) scene-linear, grey card at 0.18
Codes: TypeAlias = NDArray[Any]  # integer codes as decoded
Plane: TypeAlias = NDArray[Any]  # (H, W) one component
Mask: TypeAlias = NDArray[np.bool_]  # (H, W) the pixels that are meant


def highest(colours: Float) -> Plane:
    """The highest of the three channels (..., 3); an axis of three is too short for numpy's own maximum."""
    return np.maximum(np.maximum(colours[..., 0], colours[..., 1]), colours[..., 2])


def lowest(colours: Float) -> Plane:
    """The lowest of the three channels (..., 3)."""
    return np.minimum(np.minimum(colours[..., 0], colours[..., 1]), colours[..., 2])

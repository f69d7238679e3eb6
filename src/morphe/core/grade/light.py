"""The state of the light that a step works in."""

from __future__ import annotations

from enum import StrEnum

__all__ = ["Light"]


class Light(StrEnum):
    """State of the light a step works in."""

    ENCODED = "encoded"
    LINEAR = "linear"  # scene-linear, BT.709 primaries
    WIDE = "wide"  # scene-linear, BT.2020 primaries

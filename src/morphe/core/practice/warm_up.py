"""Compile what draws the scenes once, so that the first exercise is there at once."""

from __future__ import annotations

from morphe.core.practice.scenes import MEADOW, PLACES_TO_MEND, Shot

__all__ = ["warm_up"]


def warm_up() -> None:
    """Draw every kind of scene; compiled code is kept on disk."""
    for scene in (*PLACES_TO_MEND, MEADOW):
        Shot(scene=scene, time_s=0.0).light.max()


if __name__ == "__main__":
    warm_up()

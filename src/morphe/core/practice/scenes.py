"""What exercises are made of: made-up scenes in light as it was, whose truth is known."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from morphe.core.signal.arrays import Encoded, Linear
from morphe.core.standins.cameras import truth
from morphe.core.standins.demo import render_scene
from morphe.core.standins.materials import MATERIALS, render_material

__all__ = ["DRY", "SIZE", "chosen_scene", "light_of", "picture_of"]

SIZE = (480, 270)  # of a picture to look at
PLACES = ("sluice-round", "sluice-approach", "jetty-tan", "jetty-deep")
DRY = (*PLACES, *MATERIALS)
LONGEST_S = 4.0


def chosen_scene(generator: np.random.Generator, *, with_person: bool = False) -> tuple[str, float]:
    """A scene and a moment of it, by chance."""
    names = tuple(p for p in PLACES if p.startswith("jetty")) if with_person else DRY
    return str(generator.choice(names)), round(float(generator.uniform(0, LONGEST_S)), 2)


@lru_cache(maxsize=32)
def light_of(scene: str, time_s: float) -> Linear:
    """A scene as scene-linear BT.709 (H, W, 3); not to be written to."""
    width, height = SIZE
    if scene in MATERIALS:
        made = render_material(scene, width=width, height=height)
    else:
        made = render_scene(scene, time_s, width=width, height=height)
    made.setflags(write=False)
    return made


def picture_of(scene: str, time_s: float) -> Encoded:
    """The truth: the scene as a right camera shows it, encoded BT.709."""
    return truth(light_of(scene, time_s))

"""What exercises are made of: made-up scenes in light as it was, whose truth is known."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np

from morphe.core.signal.arrays import Encoded, Linear, Mask, Plane
from morphe.core.standins.cameras import truth
from morphe.core.standins.demo import render_scene
from morphe.core.standins.jetty import render_jetty
from morphe.core.standins.materials import MATERIALS, render_material
from morphe.core.standins.seagrass import render_seagrass

__all__ = ["DRY", "MEADOW", "PEOPLE", "PLACES_TO_MEND", "SIZE", "Shot", "chosen_shot", "softened"]

SIZE = (480, 270)  # of a picture to look at
PEOPLE = {"jetty-tan": "tan", "jetty-deep": "deep"}
OTHER_SKIN = {"tan": "dark", "deep": "pale"}
PLACES_TO_MEND = ("sluice-round", "sluice-approach", *PEOPLE)
UNTELLING = ("planks",)  # nothing in it whose colour or brightness one knows: who could say what is wrong?
DRY = (*PLACES_TO_MEND, *(name for name in MATERIALS if name not in UNTELLING))
MEADOW, BRIGHT = "seagrass", 0.75
EDGE_STOPS = (0.12, 0.45)  # from its surroundings: a pixel is left alone; it is drawn as soft as a lens does
SOFT = 0.75  # pixels
LONGEST_S, STEP_S = 4.0, 0.5  # moments of a scene lie so far apart: what was drawn once serves again


@dataclass(frozen=True, slots=True, kw_only=True)
class Shot:
    """A scene at a moment."""

    scene: str
    time_s: float

    @property
    def light(self) -> Linear:
        """Scene-linear BT.709 (H, W, 3); not to be written to."""
        return _light(self.scene, 0.0 if self.scene in MATERIALS else self.time_s)

    @property
    def truth(self) -> Encoded:
        """The scene as a right camera shows it, encoded BT.709."""
        return truth(self.light)

    @property
    def away(self) -> Plane:
        """Metres (H, W) from the lens, under water."""
        return _meadow(self.time_s)[1]

    @property
    def skin(self) -> Mask:
        """Pixels (H, W) that are skin: those that change when the person is drawn with other skin."""
        return _skin(self.scene, self.time_s)

    @property
    def face(self) -> Mask:
        """The largest piece of skin."""
        count, pieces, stats, _ = cv2.connectedComponentsWithStats(self.skin.astype(np.uint8))
        if count < 2:
            return self.skin
        return np.asarray(pieces == 1 + int(np.argmax(stats[1:, cv2.CC_STAT_AREA])))

    def later(self, seconds: float) -> Shot:
        """The same scene at another moment."""
        return Shot(scene=self.scene, time_s=(self.time_s + seconds) % LONGEST_S)


def chosen_shot(generator: np.random.Generator, names: Sequence[str] = DRY) -> Shot:
    """One of several scenes and a moment of it, by chance."""
    moment = int(generator.integers(0, round(LONGEST_S / STEP_S)))
    return Shot(scene=str(generator.choice(names)), time_s=moment * STEP_S)


@lru_cache(maxsize=48)
def _light(scene: str, time_s: float) -> Linear:
    width, height = SIZE
    if scene in MATERIALS:
        made = render_material(scene, width=width, height=height)
    elif scene == MEADOW:
        made = _meadow(time_s)[0]
    else:
        made = softened(render_scene(scene, time_s, width=width, height=height))
    made.setflags(write=False)
    return made


def softened(light: Linear) -> Linear:
    """Light (H, W, 3) with the stairs taken out of its hard edges; all else stays as it is."""
    soft = cv2.GaussianBlur(light, (0, 0), SOFT)
    stops = np.abs(np.log2((light.mean(axis=-1) + 1e-4) / (soft.mean(axis=-1) + 1e-4)))
    low, high = EDGE_STOPS
    share = np.clip((stops - low) / (high - low), 0, 1)[..., None]
    return np.asarray(light + share * (soft - light), np.float32)


@lru_cache(maxsize=8)
def _meadow(time_s: float) -> tuple[Linear, Plane]:
    """A meadow under water without the water: its light, exposed for its bright end, and how far it is."""
    light, away = render_seagrass(time_s, width=SIZE[0], height=SIZE[1])
    return light * np.float32(BRIGHT / np.quantile(light.max(axis=-1), 0.995)), away


@lru_cache(maxsize=8)
def _skin(scene: str, time_s: float) -> Mask:
    width, height = SIZE
    if scene not in PEOPLE:
        return np.zeros((height, width), bool)
    other = softened(render_jetty(time_s, width=width, height=height, skin=OTHER_SKIN[PEOPLE[scene]]))
    light = _light(scene, time_s)
    return np.asarray(np.abs(np.log2((other + 1e-4) / (light + 1e-4))).min(axis=-1) > 0.35)

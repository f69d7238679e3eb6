"""The meadow filmed under water: at three depths in two waters, with a lamp, with a filter that is too much
so near the surface, and on a descent with its dive log."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache

import numpy as np

from morphe.core.signal.arrays import Linear
from morphe.core.standins.seagrass import DURATION_S, render_seagrass
from morphe.core.water.hints import RED_FILTER
from morphe.core.water.imaging import Dive, seen_under_water, water_of

__all__ = ["DESCENT", "DIVES", "DIVE_LOG", "depth_at", "render_dive"]

SHALLOW_M, DEEP_M = 2.0, 9.0
DIVES = {
    "seagrass-2": Dive(water=water_of("II"), depth_m=2.0),
    "seagrass-2-filter": Dive(water=water_of("II"), depth_m=2.0, filter=RED_FILTER),
    "seagrass-5": Dive(water=water_of("1C"), depth_m=5.0),
    "seagrass-9": Dive(water=water_of("II"), depth_m=9.0, lamp=(2.4, 2.3, 2.1)),
}
DESCENT = "seagrass-descent"
METERED, GLANCE = 0.75, (160, 90)  # of light: where a camera puts the bright end; how closely it looks


def depth_at(time_s: float) -> float:
    """Depth on the descent, in metres."""
    share = min(max(time_s / DURATION_S, 0.0), 1.0)
    return SHALLOW_M + (DEEP_M - SHALLOW_M) * share * share * (3 - 2 * share)


DIVE_LOG = "time_s,depth_m\n" + "".join(f"{t / 4:.2f},{depth_at(t / 4):.2f}\n" for t in range(17))


def dive_at(scene: str, time_s: float) -> Dive:
    """The circumstances of a scene at a moment."""
    return replace(DIVES["seagrass-2"], depth_m=depth_at(time_s)) if scene == DESCENT else DIVES[scene]


@lru_cache(maxsize=256)
def _gain(scene: str, time_s: float) -> float:
    light, distance = render_seagrass(time_s, width=GLANCE[0], height=GLANCE[1])
    seen = seen_under_water(light, distance, dive_at(scene, time_s))
    return METERED / float(np.quantile(seen.max(axis=-1), 0.995))


def render_dive(scene: str) -> Callable[[float, int, int], Linear]:
    """A renderer (seconds, width, height) of a scene at the sensor, metered, balanced for daylight."""

    def rendered(time_s: float, width: int, height: int) -> Linear:
        light, distance = render_seagrass(time_s, width=width, height=height)
        seen = seen_under_water(light, distance, dive_at(scene, time_s))
        return seen * np.float32(_gain(scene, time_s if scene == DESCENT else 0.0))

    return rendered

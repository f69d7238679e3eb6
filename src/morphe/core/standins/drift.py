"""A made-up clip whose camera let exposure and white balance wander, with the wander known."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np

from morphe.core.signal.arrays import Encoded, Float
from morphe.core.standins.cameras import Exposure, film, record
from morphe.core.standins.demo import render_scene

__all__ = ["wander", "wandering_clip"]

FPS = 25


def wander(time_s: float, duration_s: float, stops: float, mired: float) -> tuple[float, float]:
    """Exposure and warmth at a moment: a slow swing of ±`stops`, and a slide over `mired` with soft ends."""
    share = time_s / duration_s
    return stops * float(np.sin(2 * np.pi * share)), mired * float(0.5 - 0.5 * np.cos(np.pi * share))


def wandering_clip(
    path: Path, exposure: Exposure, *, stops: float, mired: float, seconds: float = 8.0, width: int = 640,
    scene: str = "sluice-approach", seed: int = 5, title: str = "",
) -> tuple[Path, Float]:  # fmt: skip
    """Record a slow pan whose light wanders; gives the path and (n, 3) seconds, stops, mired as set."""
    generator = np.random.default_rng(seed)
    count = round(seconds * FPS)
    truth = np.array([(n / FPS, *wander(n / FPS, seconds, stops, mired)) for n in range(count)])
    wide = round(1.25 * width) // 2 * 2
    light = render_scene(scene, 1.5, width=wide, height=wide * 9 // 16)

    def frames() -> Iterator[Encoded]:
        for number, (_, more, warm) in enumerate(truth):
            x = round((wide - width) * number / count)
            view = light[: width * 9 // 16 // 2 * 2, x : x + width]
            shot = replace(
                exposure, exposure_stops=exposure.exposure_stops + more, warm_mired=exposure.warm_mired + warm
            )
            yield film(view, shot, generator)

    return record(frames(), path, exposure, title=title), truth

"""The watch over skin: which step, after the one that set it right, moves it off its line again."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer
from morphe.core.grade.source import Source
from morphe.core.grade.step import ColourStep
from morphe.core.grade.steps import SkinTurn
from morphe.core.measure.skin import SKIN_ZONE_DEG, skin_of_pixels
from morphe.core.pipeline.colour import through
from morphe.core.signal.arrays import Encoded

__all__ = ["SkinWatch", "watch_skin"]

WORTH = 1.5  # degrees: a step that moves skin by less is not named
MOST_PIXELS = 150
NO_SOURCE = Source()


@dataclass(frozen=True, slots=True, kw_only=True)
class SkinWatch:
    """Where skin ends up, in degrees from its line, its luma in percent, and a warning if a step moved it."""

    off_deg: float
    luma: float
    warning: str = ""


def watch_skin(pixels: Encoded, grade: Grade, time_s: float = 0.0) -> SkinWatch:
    """Follow skin (n, 3), as filmed, through every step of a grade; regions are not heeded."""
    some = pixels[:: max(1, len(pixels) // MOST_PIXELS)]
    held = grade.at(time_s)
    layers = [layer for layer in held.layers if layer.region is None]
    last = skin_of_pixels(through(held.source, layers, some))
    found = SkinWatch(off_deg=last.off_deg, luma=last.luma)
    if abs(last.off_deg) <= SKIN_ZONE_DEG:
        return found
    offs = [(name, key, skin_of_pixels(seen)) for name, key, seen in _stages(some, held)]
    set_right = next((n for n, (_, key, _) in enumerate(offs) if key == SkinTurn.key), None)
    if set_right is None:
        return found
    moves = [
        (abs(after[2].off_deg) - abs(before[2].off_deg), after[0])
        for before, after in zip(offs[set_right:], offs[set_right + 1 :], strict=False)
    ]
    worst = max(moves, default=(0.0, ""))
    if worst[0] < WORTH:
        return found
    warning = f"{worst[1]} moves skin off its line: it lies {abs(last.off_deg):.0f}° away at the end."
    return SkinWatch(off_deg=last.off_deg, luma=last.luma, warning=warning)


def _stages(pixels: Encoded, grade: Grade) -> Iterator[tuple[str, str, Encoded]]:
    """The pixels after the source and after every step at work, with the step's name and key."""
    seen = through(grade.source, (), pixels)
    yield "As filmed", "", seen
    for layer in grade.layers:
        if not layer.at_work or layer.region is not None:
            continue
        for step in layer.steps:
            if not step.at_work or not isinstance(step, ColourStep):
                continue
            alone = Layer(id=layer.id, scope=layer.scope, steps=(step,), strength=layer.strength)
            seen = np.asarray(through(NO_SOURCE, (alone,), seen))
            yield f"{step.label} ({layer.label.lower()})", step.key, seen

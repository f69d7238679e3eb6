"""The depth card as one drawing: surface, depth, distance, lens or lamp, what is left, how things look."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from morphe.core.signal.transfer import encode_bt709
from morphe.core.water.depth_card import DepthCard, depth_card
from morphe.core.water.hints import WaterHints
from morphe.core.water.imaging import water_colour

__all__ = ["DepthDrawing", "depth_drawing"]

TOP, BOTTOM, SUBJECT_X, LENS_X = 18.0, 132.0, 44.0, (84.0, 176.0)
SHALLOWEST_M, ROOM = 8.0, 1.35  # the drawing reaches at least so deep, and so far below the subject
FARTHEST_M = 8.0
LEAST_STOPS = 6.0  # lost: an empty bar
CHANNELS = ("Red", "Green", "Blue")
BRIGHT = 0.30  # of light: how bright the drawn water's brightest channel is


@dataclass(frozen=True, slots=True, kw_only=True)
class Bar:
    """What is left of one channel: how full its bar is (0..100), and the words beside it."""

    name: str
    full: float
    words: str
    y: int

    @property
    def key(self) -> str:
        return self.name.lower()


@dataclass(frozen=True, slots=True, kw_only=True)
class Thing:
    """A swatch: colours for SVG, dry and as seen."""

    name: str
    dry: str
    seen: str
    x: int


@dataclass(frozen=True, slots=True, kw_only=True)
class DepthDrawing:
    """Places in a box of 360 by 200: the water at the left, what is left of the light beside it, below it how
    things look."""

    card: DepthCard
    subject: tuple[float, float]
    lens_x: float
    deepest: str
    water: str
    bars: tuple[Bar, ...]
    things: tuple[Thing, ...]

    @property
    def lamp(self) -> str:
        """The lamp's light, from the lens to the subject."""
        x, y = self.subject
        return f"M{self.lens_x} {y} L{x} {y - 10} v20 z"

    @property
    def words(self) -> str:
        """The drawing for those who cannot see it."""
        lit = "by a lamp" if self.card.has_lamp else "by daylight"
        left = ", ".join(f"{b.name.lower()} {b.words}" for b in self.bars)
        return (
            f"A subject at {self.card.depth_m:g} m, {self.card.distance_m:g} m from the lens, lit {lit}. "
            f"Light left: {left}."
        )


def depth_drawing(hints: WaterHints, bit_depth: int = 8) -> DepthDrawing:
    """Draw the depth card for what is known of a dive."""
    card = depth_card(hints, bit_depth)
    deepest = max(SHALLOWEST_M, ROOM * card.depth_m)
    reach = min(card.distance_m / FARTHEST_M, 1.0)
    return DepthDrawing(
        card=card,
        subject=(SUBJECT_X, round(TOP + (BOTTOM - TOP) * card.depth_m / deepest, 1)),
        lens_x=round(LENS_X[0] + (LENS_X[1] - LENS_X[0]) * reach, 1),
        deepest=f"{deepest:.0f}",
        water=_endless(hints),
        bars=tuple(_bar(n, card.left[n]) for n in range(3)),
        things=tuple(
            Thing(name=s.name, dry=_hex(s.dry), seen=_hex(s.seen), x=72 * n)
            for n, s in enumerate(card.swatches)
        ),
    )


def _bar(channel: int, left: float) -> Bar:
    lost = -math.log2(max(left, 1e-9))
    share = f"{100 * left:.0f} %" if left >= 0.02 else f"{100 * left:.2g} %"
    full = round(100 * max(0.0, 1 - lost / LEAST_STOPS), 1)
    return Bar(name=CHANNELS[channel], full=full, words=share, y=34 + 36 * channel)


def _endless(hints: WaterHints) -> str:
    light = water_colour(hints.dive)
    red, green, blue = encode_bt709(light * BRIGHT / max(float(light.max()), 1e-9))
    return _hex((float(red), float(green), float(blue)))


def _hex(colour: tuple[float, float, float]) -> str:
    codes = np.clip(np.round(np.array(colour) * 255), 0, 255).astype(int)
    return "#{:02x}{:02x}{:02x}".format(*codes)

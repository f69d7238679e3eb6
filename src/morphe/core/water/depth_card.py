"""The depth card: what light is left where one films, how things look there, what would help next time."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from morphe.core.signal.arrays import Float
from morphe.core.signal.transfer import encode_bt709
from morphe.core.water.hints import USUAL_DEPTH_M, USUAL_DISTANCE_M, WaterHints, ceiling_of
from morphe.core.water.imaging import seen_under_water

__all__ = ["Better", "DepthCard", "Swatch", "depth_card"]

THINGS = (  # light reflected in daylight (R, G, B)
    ("White", (0.85, 0.85, 0.85)),
    ("Grey", (0.18, 0.18, 0.18)),
    ("Sand", (0.48, 0.38, 0.24)),
    ("Skin", (0.40, 0.22, 0.15)),
    ("Red", (0.45, 0.03, 0.03)),
)
BRIGHT = 0.75  # of light: where the brightest channel of white is put, as a camera meters
WORTH = 0.3  # stops: a way to do better is named from here
CLOSER, SHALLOWER = 0.5, 0.6  # of the distance, of the depth
NEVER_NEARER_M, NEVER_SHALLOWER_M = 0.3, 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Swatch:
    """A thing as it is and as the camera sees it there, encoded (R, G, B) 0..1."""

    name: str
    dry: tuple[float, float, float]
    seen: tuple[float, float, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class Better:
    """A way to do better another time: what it wins, and what to answer when the next shoot is planned.

    Parameters
    ----------
    key : closer, lamp or shallower
    won : stops by which red comes nearer to green
    """

    key: str
    words: str
    won: float
    depth_m: float | None = None
    distance_m: float | None = None
    lamp: bool | None = None

    @property
    def sentence(self) -> str:
        return f"{self.words}: {self.won:.1f} stops more red."

    @property
    def answers(self) -> dict[str, str]:
        """As the plan's questions are answered."""
        lamp = None if self.lamp is None else "yes" if self.lamp else "no"
        said = {
            "depth_m": None if self.depth_m is None else f"{self.depth_m:g}",
            "distance_m": None if self.distance_m is None else f"{self.distance_m:g}",
            "lamp": lamp,
        }
        return {name: value for name, value in said.items() if value is not None}


@dataclass(frozen=True, slots=True, kw_only=True)
class DepthCard:
    """Depth and distance in metres, with `is_supposed` where they are only usual; shares of light left."""

    depth_m: float
    distance_m: float
    has_lamp: bool
    is_supposed: bool
    left: tuple[float, float, float]
    swatches: tuple[Swatch, ...]
    behind: float  # stops by which red lies behind green
    verdict: str
    better: tuple[Better, ...]


def depth_card(hints: WaterHints, bit_depth: int = 8) -> DepthCard:
    """Work out the card for what is known of a dive; what is not known is as usual."""
    left = hints.left
    behind = float(np.log2(left[1] / max(left[0], 1e-9)))
    return DepthCard(
        depth_m=USUAL_DEPTH_M if hints.depth_m is None else hints.depth_m,
        distance_m=USUAL_DISTANCE_M if hints.distance_m is None else hints.distance_m,
        has_lamp=bool(hints.lamp), is_supposed=hints.depth_m is None or hints.distance_m is None,
        left=(float(left[0]), float(left[1]), float(left[2])), swatches=_swatches(hints), behind=behind,
        verdict=_verdict(behind, bit_depth), better=_better(hints, behind),
    )  # fmt: skip


def _swatches(hints: WaterHints) -> tuple[Swatch, ...]:
    light = np.array([[colour for _, colour in THINGS]], np.float32)
    distance = USUAL_DISTANCE_M if hints.distance_m is None else hints.distance_m
    seen = seen_under_water(light, np.full(light.shape[:2], distance, np.float32), hints.dive)
    seen = seen * np.float32(BRIGHT / max(float(seen[0, 0].max()), 1e-9))
    return tuple(
        Swatch(name=name, dry=_code(np.array(colour)), seen=_code(seen[0, n]))
        for n, (name, colour) in enumerate(THINGS)
    )


def _code(light: Float) -> tuple[float, float, float]:
    red, green, blue = (float(v) for v in np.clip(encode_bt709(np.clip(light, 0, 1)), 0, 1))
    return red, green, blue


def _verdict(behind: float, bit_depth: int) -> str:
    ceiling = ceiling_of(bit_depth)
    if behind <= 0.4:
        return "Red keeps up with green here."
    said = f"Red lies {behind:.1f} stops behind green"
    if behind <= 0.8 * ceiling:
        return f"{said}; {bit_depth} bits can give it back."
    if behind <= 1.2 * ceiling:
        return f"{said}; {bit_depth} bits give back part of it, with noise."
    return f"{said}; {bit_depth} bits cannot give it back."


def _better(hints: WaterHints, behind: float) -> tuple[Better, ...]:
    """What to do another time, the largest gain first."""
    depth = USUAL_DEPTH_M if hints.depth_m is None else hints.depth_m
    distance = USUAL_DISTANCE_M if hints.distance_m is None else hints.distance_m
    near = round(max(CLOSER * distance, NEVER_NEARER_M), 1)
    ways: list[tuple[str, str, dict[str, float | bool]]] = [
        ("closer", f"Half as far away, at {near:g} m", {"distance_m": near})
    ]
    if not hints.lamp:
        lit_m, up = round(min(distance, 1.0), 1), round(max(SHALLOWER * depth, NEVER_SHALLOWER_M), 1)
        ways += [
            ("lamp", f"With a lamp, at {lit_m:g} m", {"lamp": True, "distance_m": lit_m}),
            ("shallower", f"At {up:g} m depth", {"depth_m": up}),
        ]
    found = []
    for key, words, other in ways:
        left = replace(hints, **other).left  # type: ignore[arg-type]
        won = behind - float(np.log2(left[1] / max(left[0], 1e-9)))
        if won >= WORTH:
            found.append(Better(key=key, words=words, won=won, **other))  # type: ignore[arg-type]
    return tuple(sorted(found, key=lambda way: -way.won))

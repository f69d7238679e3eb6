"""Pictures whose light goes on above white: how their codes come and go, and what of a grade they carry.

Between, light is what an ordinary rendering of the clip has (1.0 is reference white), without the end of it
that rolls lights in, so that numbers mean the same in both.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from morphe.core.grade.convert import SCENE
from morphe.core.grade.grade import Grade
from morphe.core.grade.step import InHdr
from morphe.core.signal.arrays import Encoded, Float, Linear, highest
from morphe.core.signal.hdr import (
    PEAK,
    REFERENCE_WHITE,
    display_to_hlg_scene,
    hlg_scene_to_display,
    hlg_to_display,
    pq_to_display,
)
from morphe.core.signal.primaries import Primaries, rgb_to_rgb
from morphe.core.signal.profiles import PROFILES
from morphe.core.signal.transfer import decode_bt709, encode_bt709, encode_hlg, encode_pq

__all__ = ["HDR_WHITE", "HdrSpace", "carried", "left_out"]

HDR_WHITE = 0.75  # HLG signal of reference white (BT.2408, table 1)
TOE = 1e-3  # of reference white: 0.2 cd/m2; there a parabola meets the power with its value and slope
EDGE = TOE ** (1 / 2.4)
RISE, BEND = (2 - 1 / 2.4) * EDGE / TOE, (1 / 2.4 - 1) * EDGE / TOE**2
_HLG = PROFILES.get("hlg")
_TO_709 = rgb_to_rgb(Primaries.BT2020, Primaries.BT709).T
_TO_2020 = rgb_to_rgb(Primaries.BT709, Primaries.BT2020).T


@dataclass(frozen=True)
class HdrSpace:
    """Codes that come in as "hlg" or "pq" and go out as one of them, light rendered for a display or not."""

    came: str = "hlg"
    goes: str = "hlg"
    rendering: str = "display"

    def light(self, encoded: Encoded) -> Linear:
        """R'G'B' (..., 3) of BT.2020 to light in BT.709 primaries; other colours are negative somewhere."""
        if self._is_scene:
            return np.asarray(_HLG.decode(encoded) @ _TO_709, np.float32)
        nits = (hlg_to_display if self.came == "hlg" else pq_to_display)(encoded.astype(np.float64))
        return np.asarray(decode_bt709(_root(nits / REFERENCE_WHITE @ _TO_709)), np.float32)

    def code(self, light: Linear) -> Encoded:
        """Back to R'G'B' (..., 3) of BT.2020; nothing is lost that the codes can say."""
        exact = light.astype(np.float64)
        scene: Float
        if self._is_scene:
            scene = exact @ _TO_2020 / self._scene_white
        elif self.goes == "hlg":
            scene = display_to_hlg_scene(_power(encode_bt709(exact)) @ _TO_2020 * REFERENCE_WHITE)
        else:
            return np.asarray(encode_pq(_power(encode_bt709(exact)) @ _TO_2020 * REFERENCE_WHITE), np.float32)
        if self.goes == "pq":
            return np.asarray(encode_pq(hlg_scene_to_display(scene)), np.float32)
        # What is brighter than the display keeps its hue: channels are not cut one by one.
        return np.asarray(encode_hlg(scene / np.maximum(highest(scene)[..., None], 1)), np.float32)

    @cached_property
    def peak(self) -> float:
        """The brightest light that a display of 1000 cd/m2 shows, in white."""
        if self._is_scene:
            return self._scene_white
        return float(decode_bt709(_root(np.array(PEAK / REFERENCE_WHITE))))

    @property
    def _is_scene(self) -> bool:
        return self.rendering == SCENE and self.came == "hlg"

    @property
    def _scene_white(self) -> float:
        return float(_HLG.decode(np.array(1.0)))


def _root(display: Float) -> Float:
    """Signal of BT.1886 for light of a display; a parabola about 0, a line below, which tables can follow."""
    curved = np.power(np.maximum(display, TOE), 1 / 2.4)
    toe = RISE * display + BEND * np.square(np.maximum(display, 0))
    return np.asarray(np.where(display < TOE, toe, curved))


def _power(signal: Float) -> Float:
    """The inverse of `_root`."""
    held = np.clip(signal, 0, EDGE)
    toe = np.minimum(signal, 0) / RISE + (np.sqrt(RISE**2 + 4 * BEND * held) - RISE) / (2 * BEND)
    return np.asarray(np.where(signal < EDGE, toe, np.power(np.maximum(signal, EDGE), 2.4)))


def carried(grade: Grade) -> Grade:
    """A grade without the steps that have no meaning above white."""
    layers = tuple(
        replace(layer, steps=tuple(step for step in layer.steps if step.in_hdr is not InHdr.LEFT_OUT))
        for layer in grade.layers
    )
    return replace(grade, layers=layers)


def left_out(grade: Grade) -> tuple[str, ...]:
    """Steps at work that are not carried, by their names, each once."""
    said = (
        step.label
        for layer in grade.layers
        if layer.at_work
        for step in layer.steps
        if step.at_work and step.in_hdr is InHdr.LEFT_OUT
    )
    return tuple(dict.fromkeys(said))

"""The steps of a correction after conversion, each with the light it works in.

A step's `apply` takes and returns (..., 3) float32 in the state named by `works_in`; only `Convert`
changes state, from the camera's encoding to scene-linear light. The source is never clipped here.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from morphe.core.grade.convert import Convert
from morphe.core.grade.even_out import EvenOut
from morphe.core.grade.step import STEPS, Light, Step, register_step
from morphe.core.signal.arrays import Encoded, Float, Linear
from morphe.core.signal.light import adaptation_matrix
from morphe.core.signal.perception import linear_to_oklab, oklab_to_linear
from morphe.core.signal.primaries import LUMINANCE_709, Primaries, rgb_to_rgb
from morphe.core.signal.transfer import decode_bt1886, encode_bt1886
from morphe.core.signal.ycbcr import LUMA_WEIGHTS, Matrix

__all__ = [
    "STEPS",
    "Balance",
    "BlackPoint",
    "Contrast",
    "Convert",
    "EvenOut",
    "Exposure",
    "HoldLights",
    "Light",
    "MidLevel",
    "Saturation",
    "Step",
    "WhitePoint",
]


@register_step
@dataclass(frozen=True, slots=True, kw_only=True)
class Exposure(Step):
    """Scale scene-linear light by a number of stops."""

    key: ClassVar[str] = "exposure"
    label: ClassVar[str] = "Exposure"
    works_in: ClassVar[Light] = Light.LINEAR
    limits: ClassVar[dict[str, tuple[float, float]]] = {"stops": (-6.0, 6.0)}
    units: ClassVar[dict[str, str]] = {"stops": "stops"}

    stops: float = 0.0

    def apply(self, picture: Linear) -> Linear:
        return picture * np.float32(2.0**self.stops)


@register_step
@dataclass(frozen=True, slots=True, kw_only=True)
class Balance(Step):
    """Neutralise a light that is `warmth` mired warmer and `tint` (Duv × 1000) greener than neutral.

    Positive values therefore make the picture cooler and more magenta; luminance of neutrals is kept.
    """

    key: ClassVar[str] = "balance"
    label: ClassVar[str] = "White balance"
    works_in: ClassVar[Light] = Light.LINEAR
    limits: ClassVar[dict[str, tuple[float, float]]] = {"warmth": (-110.0, 300.0), "tint": (-60.0, 60.0)}
    units: ClassVar[dict[str, str]] = {"warmth": "mired", "tint": "Duv ×1000"}

    warmth: float = 0.0
    tint: float = 0.0

    def apply(self, picture: Linear) -> Linear:
        return picture @ self._matrix().T.astype(np.float32)

    def apply_wide(self, picture: Linear) -> Linear:
        wide = rgb_to_rgb(Primaries.BT709, Primaries.BT2020)
        return picture @ (wide @ self._matrix() @ np.linalg.inv(wide)).T.astype(np.float32)

    def _matrix(self) -> Float:
        return adaptation_matrix(self.warmth, self.tint / 1000)


KNEE = 0.80  # linear light above which lights are rolled in
LOW_KNEE = 0.45  # share of a lowered white above which it is brought back


@register_step
@dataclass(frozen=True, slots=True, kw_only=True)
class HoldLights(Step):
    """Bring light `stops` above white smoothly to 100 % (C1 at the knee).

    Negative stops do the reverse: after exposure was lowered, lights that had clipped return to white
    along a rising curve, so that they stay lights and show no edge.
    """

    key: ClassVar[str] = "lights"
    label: ClassVar[str] = "Bright end"
    works_in: ClassVar[Light] = Light.LINEAR
    limits: ClassVar[dict[str, tuple[float, float]]] = {"stops": (-2.0, 6.0)}
    units: ClassVar[dict[str, str]] = {"stops": "stops"}

    stops: float = 0.0

    def apply(self, picture: Linear) -> Linear:
        limit = 2.0**self.stops
        knee = KNEE if limit >= 1 else LOW_KNEE * limit
        span, reach = 1 - knee, limit - knee
        over = np.clip(picture - np.float32(knee), 0, np.float32(max(reach, 8.0) if limit >= 1 else reach))
        rolled = knee + over / (1 + over * np.float32(1 / span - 1 / reach))
        return np.where(picture > knee, rolled, picture).astype(np.float32)


@register_step
@dataclass(frozen=True, slots=True, kw_only=True)
class BlackPoint(Step):
    """Lower the black point by `lower` percent: that level goes to 0, white stays."""

    key: ClassVar[str] = "black"
    label: ClassVar[str] = "Black point"
    limits: ClassVar[dict[str, tuple[float, float]]] = {"lower": (-20.0, 40.0)}
    units: ClassVar[dict[str, str]] = {"lower": "%"}

    lower: float = 0.0

    def apply(self, picture: Encoded) -> Encoded:
        b = np.float32(self.lower / 100)
        return (picture - b) / (1 - b)


@register_step
@dataclass(frozen=True, slots=True, kw_only=True)
class WhitePoint(Step):
    """Raise the white point by `raise_by` percent: the level 100 - raise_by goes to 100, black stays."""

    key: ClassVar[str] = "white"
    label: ClassVar[str] = "White point"
    limits: ClassVar[dict[str, tuple[float, float]]] = {"raise_by": (-30.0, 60.0)}
    units: ClassVar[dict[str, str]] = {"raise_by": "%"}

    raise_by: float = 0.0

    def apply(self, picture: Encoded) -> Encoded:
        return picture / np.float32(1 - self.raise_by / 100)


MID_ANCHOR = 0.45  # the tone whose movement the number names


@register_step
@dataclass(frozen=True, slots=True, kw_only=True)
class MidLevel(Step):
    """Move a 45 % tone by `lift` percent along a power curve that pins black and white."""

    key: ClassVar[str] = "mid"
    label: ClassVar[str] = "Mid level"
    limits: ClassVar[dict[str, tuple[float, float]]] = {"lift": (-30.0, 30.0)}
    units: ClassVar[dict[str, str]] = {"lift": "%"}

    lift: float = 0.0

    def apply(self, picture: Encoded) -> Encoded:
        power = np.float32(np.log(MID_ANCHOR + self.lift / 100) / np.log(MID_ANCHOR))
        curved = np.power(np.maximum(picture, 0), power)
        # Below black a straight line keeps noise symmetric; above white the curve goes on.
        return np.where(picture < 0, picture, curved).astype(np.float32)


@register_step
@dataclass(frozen=True, slots=True, kw_only=True)
class Contrast(Step):
    """S-curve on a log-odds tone scale: `amount` percent steeper at the pivot, black and white pinned.

    Half of it works per channel (which saturates), half on luma with the ratios kept.
    """

    key: ClassVar[str] = "contrast"
    label: ClassVar[str] = "Contrast"
    limits: ClassVar[dict[str, tuple[float, float]]] = {"amount": (-50.0, 100.0), "pivot": (10.0, 90.0)}
    units: ClassVar[dict[str, str]] = {"amount": "%", "pivot": "%"}

    amount: float = 0.0
    pivot: float = 43.0

    @property
    def is_neutral(self) -> bool:
        return self.amount == 0

    def _curve(self, v: Float) -> Float:
        c, p = 1 + self.amount / 100, self.pivot / 100
        m = ((1 - p) / p) ** (1 / c) * p / (1 - p)
        inner = np.clip(v, 0, 1)
        up, down = np.power(inner, c), np.power(m * (1 - inner), c)
        curved = up / (up + down)
        return np.where((v > 0) & (v < 1), curved, v)

    def apply(self, picture: Encoded) -> Encoded:
        luma = (picture @ np.array(LUMA_WEIGHTS[Matrix.BT709], np.float32))[..., None]
        gain = self._curve(luma) / np.maximum(luma, 1e-4)
        kept = picture * np.where(luma > 1e-4, gain, 1.0)
        return (0.5 * (self._curve(picture) + kept)).astype(np.float32)


@register_step
@dataclass(frozen=True, slots=True, kw_only=True)
class Saturation(Step):
    """Scale Oklch chroma by `amount` percent; a colour gains less the nearer it is to the gamut surface."""

    key: ClassVar[str] = "saturation"
    label: ClassVar[str] = "Saturation"
    limits: ClassVar[dict[str, tuple[float, float]]] = {"amount": (-100.0, 150.0)}
    units: ClassVar[dict[str, str]] = {"amount": "%"}

    amount: float = 0.0

    def apply(self, picture: Encoded) -> Encoded:
        inner = np.clip(picture, 0, 1)
        light = decode_bt1886(inner).astype(np.float32)
        s = np.float32(1 + self.amount / 100)
        if s > 1:
            luminance = (light @ LUMINANCE_709.astype(np.float32))[..., None]
            away, safe = light - luminance, np.clip(luminance, 1e-5, 1 - 1e-5)
            reach = np.maximum(-away / safe, away / (1 - safe)).max(axis=-1, keepdims=True)
            s = s / (1 + (s - 1) * np.clip(reach, 0, 1))
        lab = linear_to_oklab(light)
        lab = np.concatenate([lab[..., :1], lab[..., 1:] * s], axis=-1)
        moved = encode_bt1886(oklab_to_linear(lab))
        # What lay outside 0..1 keeps its distance from the edge.
        return (moved + (picture - inner)).astype(np.float32)

"""The steps of a correction: frozen values in real units, each with the light it works in.

A step's `apply` takes and returns (..., 3) float32 in the state named by `works_in`; only `Convert`
changes state, from the camera's encoding to scene-linear light. The source is never clipped here.
"""

from __future__ import annotations

from dataclasses import dataclass, fields
from enum import StrEnum
from typing import ClassVar, TypeVar

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.registry import Registry
from morphe.core.signal.arrays import Encoded, Float, Linear
from morphe.core.signal.camera_log import CameraLog
from morphe.core.signal.hdr import nits_to_sdr_display, pq_to_display
from morphe.core.signal.light import adaptation_matrix
from morphe.core.signal.perception import linear_to_oklab, oklab_to_linear
from morphe.core.signal.primaries import LUMINANCE_709, Primaries, compress_gamut, rgb_to_rgb
from morphe.core.signal.profiles import PROFILES, Kind
from morphe.core.signal.transfer import decode_bt709, decode_bt1886, encode_bt1886
from morphe.core.signal.ycbcr import LUMA_WEIGHTS, Matrix

__all__ = [
    "STEPS",
    "Balance",
    "BlackPoint",
    "Contrast",
    "Convert",
    "Exposure",
    "HoldLights",
    "Light",
    "MidLevel",
    "Saturation",
    "Step",
    "WhitePoint",
]


class Light(StrEnum):
    """State of the light a step works in."""

    ENCODED = "encoded"
    LINEAR = "linear"


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """Base of all steps. `on` is the rung's switch; limits are (low, high) per parameter."""

    key: ClassVar[str] = ""
    label: ClassVar[str] = ""
    works_in: ClassVar[Light] = Light.ENCODED
    gives: ClassVar[Light] = Light.ENCODED
    limits: ClassVar[dict[str, tuple[float, float]]] = {}
    units: ClassVar[dict[str, str]] = {}

    on: bool = True

    def __post_init__(self) -> None:
        for name, (low, high) in self.limits.items():
            value = getattr(self, name)
            if not isinstance(value, (int, float)) or isinstance(value, bool) or not low <= value <= high:
                raise ColourError(
                    f"{self.label}: {name.replace('_', ' ')} must lie between {low:g} and {high:g}, "
                    f"not {value!r}."
                )

    @classmethod
    def within(cls, name: str, value: float) -> float:
        """The nearest value that parameter `name` may take."""
        low, high = cls.limits[name]
        return float(min(max(value, low), high))

    @property
    def is_neutral(self) -> bool:
        """Whether the parameters are those that change nothing."""
        return all(getattr(self, f.name) == f.default for f in fields(self) if f.name != "on")

    @property
    def at_work(self) -> bool:
        return self.on and not self.is_neutral

    def apply(self, picture: Float) -> Float:
        raise NotImplementedError


STEPS: Registry[type[Step]] = Registry("step")
S = TypeVar("S", bound=type[Step])


def _step(cls: S) -> S:
    STEPS.register(cls.key)(cls)
    return cls


@_step
@dataclass(frozen=True, slots=True, kw_only=True)
class Convert(Step):
    """Turn the camera's profile into scene-linear BT.709 light.

    `profile` is a key of the built-in profiles, or "fitted" with the four numbers of a log curve
    (slope, offset, linear offset, break) measured from the clip itself.
    `primaries` overrides the profile's own; `chroma` widens colours that a fitted curve left muted.
    """

    key: ClassVar[str] = "convert"
    label: ClassVar[str] = "Profile"
    works_in: ClassVar[Light] = Light.ENCODED
    gives: ClassVar[Light] = Light.LINEAR
    limits: ClassVar[dict[str, tuple[float, float]]] = {"chroma": (0.5, 2.5)}

    profile: str = "std-709"
    curve: tuple[float, float, float, float] | None = None
    primaries: str = ""
    chroma: float = 1.0

    def __post_init__(self) -> None:
        Step.__post_init__(self)
        if self.profile == "fitted":
            if self.curve is None or len(self.curve) != 4:
                raise ColourError("A fitted profile needs the four numbers of its curve.")
            self._fitted()
        else:
            PROFILES.get(self.profile)
        if self.primaries and self.primaries not in [str(p) for p in Primaries]:
            raise ColourError(f"There are no primaries {self.primaries!r}.")

    def _fitted(self) -> CameraLog:
        slope, offset, lift, edge = self.curve or (0.0, 0.0, 0.0, 0.0)
        return CameraLog(log_slope=slope, log_offset=offset, linear_offset=lift, linear_break=edge)

    def apply(self, picture: Encoded) -> Linear:
        """Camera-encoded to scene-linear BT.709.

        HLG is the light of the scene like any camera curve; PQ is light of a display, so it arrives
        through the rendering of BT.2390 to reference white.
        """
        if self.profile == "fitted":
            linear = self._fitted().decode(picture)
            gamut = Primaries.BT709
        else:
            profile = PROFILES.get(self.profile)
            if profile.kind is Kind.PQ:
                display = nits_to_sdr_display(pq_to_display(picture))
                return decode_bt709(encode_bt1886(display)).astype(np.float32)
            linear = profile.decode(picture)
            gamut = profile.primaries
        gamut = Primaries(self.primaries) if self.primaries else gamut
        if gamut not in (Primaries.BT709, Primaries.UNSPECIFIED):
            linear = linear @ rgb_to_rgb(gamut, Primaries.BT709).T.astype(np.float32)
            linear = _inside_gamut(linear)
        if self.chroma != 1.0:
            luminance = (linear @ LUMINANCE_709.astype(np.float32))[..., None]
            linear = luminance + np.float32(self.chroma) * (linear - luminance)
        return linear.astype(np.float32)


UNBOUNDED = 1e6  # light may stay as bright as it is; a later step rolls it in


def _inside_gamut(linear: Linear) -> Linear:
    """Compress only what the wider primaries left negative."""
    return compress_gamut(linear, threshold=0.85, peak=UNBOUNDED)


@_step
@dataclass(frozen=True, slots=True, kw_only=True)
class Exposure(Step):
    """Scale scene-linear light by a number of stops."""

    key: ClassVar[str] = "exposure"
    label: ClassVar[str] = "Exposure"
    works_in: ClassVar[Light] = Light.LINEAR
    gives: ClassVar[Light] = Light.LINEAR
    limits: ClassVar[dict[str, tuple[float, float]]] = {"stops": (-6.0, 6.0)}
    units: ClassVar[dict[str, str]] = {"stops": "stops"}

    stops: float = 0.0

    def apply(self, picture: Linear) -> Linear:
        return picture * np.float32(2.0**self.stops)


@_step
@dataclass(frozen=True, slots=True, kw_only=True)
class Balance(Step):
    """Neutralise a light that is `warmth` mired warmer and `tint` (Duv × 1000) greener than neutral.

    Positive values therefore make the picture cooler and more magenta; luminance of neutrals is kept.
    """

    key: ClassVar[str] = "balance"
    label: ClassVar[str] = "White balance"
    works_in: ClassVar[Light] = Light.LINEAR
    gives: ClassVar[Light] = Light.LINEAR
    limits: ClassVar[dict[str, tuple[float, float]]] = {"warmth": (-110.0, 300.0), "tint": (-60.0, 60.0)}
    units: ClassVar[dict[str, str]] = {"warmth": "mired", "tint": "Duv ×1000"}

    warmth: float = 0.0
    tint: float = 0.0

    def apply(self, picture: Linear) -> Linear:
        return picture @ adaptation_matrix(self.warmth, self.tint / 1000).T.astype(np.float32)


KNEE = 0.80  # linear light above which lights are rolled in
LOW_KNEE = 0.45  # share of a lowered white above which it is brought back


@_step
@dataclass(frozen=True, slots=True, kw_only=True)
class HoldLights(Step):
    """Bring light `stops` above white smoothly to 100 % (C1 at the knee).

    Negative stops do the reverse: after exposure was lowered, lights that had clipped return to white
    along a rising curve, so that they stay lights and show no edge.
    """

    key: ClassVar[str] = "lights"
    label: ClassVar[str] = "Bright end"
    works_in: ClassVar[Light] = Light.LINEAR
    gives: ClassVar[Light] = Light.LINEAR
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


@_step
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


@_step
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


@_step
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


@_step
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


@_step
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

"""Footage of any camera: photographs filmed in any curve, light and exposure, with the truth beside them.

Nothing here is a known camera: every number is drawn by chance from ranges wide enough to hold those that
people film with. What a picture was before is the truth.
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np

from morphe.core.advise.profile.prior import FITTED, FITTED_FLAT
from morphe.core.signal.arrays import Encoded, Float, Linear
from morphe.core.signal.camera_log import CameraLog
from morphe.core.signal.families import WHITE, FlatGamma
from morphe.core.signal.light import adaptation_matrix, light_rgb
from morphe.core.signal.point_curve import GREY
from morphe.core.signal.primaries import LUMINANCE_709, Primaries, rgb_to_rgb
from morphe.core.signal.profiles import PROFILES, Kind
from morphe.core.signal.transfer import decode_bt709, encode_bt709
from morphe.core.signal.ycbcr import Matrix, rgb_to_ycbcr, ycbcr_to_rgb

__all__ = [
    "Camera",
    "Faults",
    "Filmed",
    "any_camera",
    "any_faults",
    "film_any",
    "kelvin_light",
    "light_of",
    "part_of",
    "read_photograph",
    "recorded",
]

WIDTH, WIDEST = 192, 640
LUMA = LUMINANCE_709.astype(np.float32)
TO_2020 = rgb_to_rgb(Primaries.BT709, Primaries.BT2020).T.astype(np.float32)
MIRED_D65 = 1e6 / 6504


@dataclass(frozen=True, kw_only=True)
class Camera:
    """A curve of any family; `colour` is the share of colour left by it, in light or (flat) in codes."""

    key: str  # of CLASSES
    curve: object
    kind: Kind
    colour: float = 1.0
    wide: bool = False
    clip: float = 1.0  # brightest light kept

    def encode(self, light: Linear) -> Encoded:
        if self.wide:
            light = np.asarray(light @ TO_2020, np.float32)
        if self.kind is not Kind.FLAT and self.colour != 1:
            grey = (light @ LUMA)[..., None]
            light = grey + np.float32(self.colour) * (light - grey)
        code = np.asarray(self.curve.encode(np.minimum(light, np.float32(self.clip))), np.float32)
        if self.kind is Kind.FLAT and self.colour != 1:
            luma = (code @ LUMA)[..., None]
            code = luma + np.float32(self.colour) * (code - luma)
        return code


@dataclass(frozen=True, kw_only=True)
class Faults:
    """What went wrong: exposure in stops, light as mired warmer and Duv greener, noise in light."""

    stops: float = 0.0
    mired: float = 0.0
    duv: float = 0.0
    read: float = 0.0008
    shot: float = 2e-5
    bits: int = 8
    lights: float = 0.0  # how far lights reach beyond the photograph's white

    @property
    def is_lit(self) -> bool:
        return bool(self.mired or self.duv)


@dataclass(frozen=True, kw_only=True)
class Filmed:
    """A picture as filmed and as it is to be, both encoded (H, W, 3); light under the same fault of light."""

    camera: Camera
    faults: Faults
    picture: Encoded
    truth: Encoded
    landing: tuple[float, float, float]  # codes of black, grey and white as well exposed


def kelvin_light(kelvin: float, duv: float) -> tuple[float, float]:
    """(mired, Duv) of a light that a camera balanced for D65 sees."""
    return 1e6 / kelvin - MIRED_D65, duv


@dataclass(frozen=True)
class _Vivid:
    """An in-camera S-curve upon ordinary video, about a pivot."""

    strength: float
    pivot: float

    def encode(self, light: Float) -> Float:
        v = np.clip(encode_bt709(np.asarray(light)), 0, 1.2)
        m = self.pivot / (1 - self.pivot)
        with np.errstate(divide="ignore", invalid="ignore"):
            odds = np.clip(v, 0, 0.9999) / (1 - np.clip(v, 0, 0.9999)) / m
            bent = m * odds**self.strength
        return np.where(v < 0.9999, bent / (1 + bent), v)


def any_camera(key: str, generator: np.random.Generator) -> Camera:
    """A camera of one of the classes that `resemblance` tells apart."""
    uniform = generator.uniform
    if key == FITTED_FLAT:
        lift = uniform(0.0, 0.10) if generator.random() < 0.5 else uniform(0.06, 0.20)
        white = uniform(0.62, 0.95)
        curve = FlatGamma(black=lift, span=white - lift, power=uniform(0.72, 1.1))
        return Camera(key=key, curve=curve, kind=Kind.FLAT, colour=uniform(0.42, 1.0), clip=uniform(1.0, 1.3))
    if key == FITTED:
        curvature = float(np.exp(uniform(np.log(6), np.log(600))))
        black, white = uniform(0.03, 0.20), uniform(0.48, 0.80)
        slope = (white - black) / np.log2(1 + WHITE * curvature)
        offset = 1 / curvature
        edge = uniform(0, 0.02) if generator.random() < 0.6 else 0.0
        curve = CameraLog(
            log_slope=slope,
            log_offset=black - slope * np.log2(offset),
            linear_offset=offset,
            linear_break=edge,
        )
        clip = float(curve.decode(np.array(uniform(0.88, 1.0))))
        wide = generator.random() < 0.2
        return Camera(key=key, curve=curve, kind=Kind.LOG, colour=uniform(0.75, 1.0), wide=wide, clip=clip)
    if key == "std-709" and generator.random() < 0.3:
        punchy = _Vivid(strength=float(np.exp(uniform(-0.1, 0.3))), pivot=uniform(0.35, 0.5))
        return Camera(key=key, curve=punchy, kind=Kind.STANDARD, colour=uniform(0.9, 1.2), clip=1.1)
    profile = PROFILES.get(key)
    wide = profile.primaries is Primaries.BT2020
    clip = 1.0 if profile.kind is Kind.STANDARD else profile.clip
    return Camera(key=key, curve=profile, kind=profile.kind, wide=wide, clip=clip)


def any_faults(camera: Camera, generator: np.random.Generator) -> Faults:
    """Most clips are metered and balanced well; the rest err, some by far."""
    g = generator
    night = g.random() < 0.08
    stops = 0.0 if g.random() < 0.45 else g.normal(0, 0.9)
    if night:
        stops = g.uniform(-3.8, -1.8)
    mired = duv = 0.0
    if g.random() < 0.55:
        mired, duv = kelvin_light(float(np.exp(g.uniform(np.log(2700), np.log(15000)))), g.normal(0, 0.007))
        if g.random() < 0.5:
            mired, duv = 0.35 * mired, 0.5 * duv
    read = float(np.exp(g.normal(np.log(0.0008), 0.5))) * (4 if night else 1)
    bits = 10 if camera.kind in (Kind.HLG, Kind.PQ) else int(g.choice([8, 10]))
    lights = g.uniform(0, 4) if camera.clip > 1.5 and g.random() < 0.6 else 0.0
    return Faults(
        stops=float(stops), mired=float(mired), duv=float(duv), read=read,
        shot=read * read * (50 if night else 30), bits=bits, lights=float(lights),
    )  # fmt: skip


def part_of(photograph: Float, generator: np.random.Generator) -> Encoded:
    """Part of a photograph (H, W, 3) at the working size, its look varied a little: it stays a truth."""
    height, width = photograph.shape[:2]
    aspect, share = generator.uniform(1.3, 1.8), generator.uniform(0.5, 1.0)
    wide = int(min(width, height * aspect) * share)
    high = int(wide / aspect)
    x, y = generator.integers(0, width - wide + 1), generator.integers(0, height - high + 1)
    size = (WIDTH, int(WIDTH / aspect))
    part = cv2.resize(photograph[y : y + high, x : x + wide], size, interpolation=cv2.INTER_AREA)
    if generator.random() < 0.5:
        part = part[:, ::-1]
    if generator.random() < 0.5:
        part = part ** np.float32(np.exp(generator.normal(0, 0.12)))
    if generator.random() < 0.5:
        luma = (part @ LUMA)[..., None]
        part = luma + np.float32(np.exp(generator.normal(0, 0.2))) * (part - luma)
    return np.clip(part, 0, 1).astype(np.float32)


def film_any(truth: Encoded, camera: Camera, faults: Faults, generator: np.random.Generator) -> Filmed:
    """Film a picture whose light is that of BT.709 codes."""
    light = decode_bt709(truth).astype(np.float32)
    if faults.lights:
        low = light.min(axis=-1, keepdims=True)
        light = light * (1 + np.float32(faults.lights) * np.clip((low - 0.85) / 0.15, 0, 1) ** 2)
    if faults.is_lit:
        light = np.maximum(light @ np.linalg.inv(adaptation_matrix(faults.mired, faults.duv)).T, 0)
        light = light.astype(np.float32)
    light = light * np.float32(2.0**faults.stops)
    picture = recorded(light, camera, faults, generator)
    well = 2.0**faults.stops
    at = [float(camera.curve.encode(np.array(x * well))) for x in (0.0, GREY, WHITE)]
    return Filmed(camera=camera, faults=faults, picture=picture, truth=truth, landing=(at[0], at[1], at[2]))


def recorded(light: Linear, camera: Camera, faults: Faults, generator: np.random.Generator) -> Encoded:
    """Light on the sensor (H, W, 3) as the file gives it back: noise, curve, whole codes, halved colour."""
    sigma = np.sqrt(faults.read**2 + faults.shot * np.maximum(light, 0))
    light = light + sigma * generator.standard_normal(light.shape, np.float32)
    code = np.clip(camera.encode(light), 0, 1)
    return _written(code, camera.kind in (Kind.HLG, Kind.PQ), faults.bits)


def _written(code: Encoded, hdr: bool, bits: int) -> Encoded:
    """As integer Y'CbCr with halved colour planes, read by BT.709's matrix."""
    levels = np.float32(219 * 2 ** (bits - 8))
    ycc = rgb_to_ycbcr(code, Matrix.BT2020 if hdr else Matrix.BT709)
    height, width = ycc.shape[:2]
    small = cv2.resize(ycc[..., 1:], (width // 2, height // 2), interpolation=cv2.INTER_AREA)
    ycc[..., 1:] = cv2.resize(small, (width, height), interpolation=cv2.INTER_LINEAR)
    return ycbcr_to_rgb(np.round(ycc * levels) / levels, Matrix.BT709).astype(np.float32)


def light_of(faults: Faults) -> Float:
    """log2 (R/G, B/G) of white under a fault of light."""
    return np.log2(light_rgb(faults.mired, faults.duv)[[0, 2]])


def read_photograph(path: Path) -> Float:
    """A photograph (H, W, 3), 0..1, reduced so that parts of it are quickly at the working size."""
    picture = cv2.imread(str(path))
    scale = min(1.0, WIDEST / picture.shape[1])
    picture = cv2.resize(picture, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    return cv2.cvtColor(picture, cv2.COLOR_BGR2RGB).astype(np.float32) / 255

"""Camera profiles: transfer curve + primaries, and what they leave of black, grey, white and clip.

All curves are defined on the narrow range. Cameras and names are made up or general.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from morphe.core.registry import Registry
from morphe.core.signal.arrays import Float
from morphe.core.signal.camera_log import CameraLog
from morphe.core.signal.primaries import Primaries
from morphe.core.signal.transfer import (
    decode_bt709,
    decode_hlg,
    decode_pq,
    encode_bt709,
    encode_hlg,
    encode_pq,
)

__all__ = ["HDR", "LOG_CURVES", "PROFILES", "Kind", "Profile"]

Curve = Callable[[Float], Float]


class Kind(StrEnum):
    """The family of pictures a camera can write."""

    STANDARD = "standard"
    FLAT = "flat"
    LOG = "log"
    HLG = "hlg"
    PQ = "pq"

    @property
    def word(self) -> str:
        """The kind as a sentence says it."""
        return {"standard": "ordinary", "hlg": "HLG", "pq": "PQ"}.get(self.value, self.value)


HDR = (Kind.HLG, Kind.PQ)  # of BT.2100; a tag and a profile of either bear its name
LOG_CURVES = {
    "log-mild": CameraLog.of((0.1258, 0.6825, 0.03086, 0.012)),
    "log-lifted": CameraLog.of((0.0975, 0.6646, 0.02263, 0.010)),
    "log-wide": CameraLog.of((0.0863, 0.5824, 0.01675, 0.010)),
}


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Profile:
    """One way a camera writes scene light into code values.

    `encode` takes scene-linear to the narrow-range fraction, `decode` is its inverse;
    `clip` is the brightest scene light that is kept (grey card 0.18).
    """

    key: str
    label: str
    kind: Kind
    encode: Curve
    decode: Curve
    primaries: Primaries
    clip: float


PROFILES: Registry[Profile] = Registry("profile")


def _add(
    key: str, label: str, kind: Kind, encode: Curve, decode: Curve, clip: float, wide: bool = False
) -> None:
    primaries = Primaries.BT2020 if wide else Primaries.BT709
    PROFILES.register(key)(
        Profile(key=key, label=label, kind=kind, encode=encode, decode=decode, primaries=primaries, clip=clip)
    )


VIVID_GAIN, VIVID_POWER, VIVID_M = 1.018234, 1.3, 0.8445


def encode_vivid(linear: Float) -> Float:
    """Contrasty in-camera picture: an S-curve upon BT.709."""
    v = np.clip(encode_bt709(np.asarray(linear) / VIVID_GAIN), 0, 1)
    up, down = np.power(v, VIVID_POWER), np.power(VIVID_M * (1 - v), VIVID_POWER)
    return up / np.maximum(up + down, 1e-12)


def decode_vivid(signal: Float) -> Float:
    """Inverse of `encode_vivid`; outside 0..1 it goes on along straight lines."""
    y = np.asarray(signal)
    inner = np.clip(y, 1e-6, 1 - 1e-6)
    r = VIVID_M * np.power(inner / (1 - inner), 1 / VIVID_POWER)
    return VIVID_GAIN * decode_bt709(r / (1 + r)) + np.minimum(y, 0) / 4.5 + np.maximum(y - 1, 0)


FLAT_BLACK, FLAT_SPAN, FLAT_LIFT = 0.045, 0.7183, 0.004


def encode_flat(linear: Float) -> Float:
    """Low-contrast gamma with lifted black."""
    x = np.maximum(np.asarray(linear), -FLAT_LIFT)
    return FLAT_BLACK + FLAT_SPAN * (np.power(x + FLAT_LIFT, 1 / 2.2) - FLAT_LIFT ** (1 / 2.2))


def decode_flat(signal: Float) -> Float:
    """Inverse of `encode_flat`."""
    base = (np.asarray(signal) - FLAT_BLACK) / FLAT_SPAN + FLAT_LIFT ** (1 / 2.2)
    return np.power(np.maximum(base, 0), 2.2) - FLAT_LIFT


HLG_GREY = float(decode_hlg(np.array(0.38)))  # BT.2408: an 18 % card sits at 38 %


def _register_all() -> None:
    _add("std-709", "Ordinary video (BT.709)", Kind.STANDARD, encode_bt709, decode_bt709, 1.0)
    _add("vivid-a", "Punchy standard", Kind.STANDARD, encode_vivid, decode_vivid, VIVID_GAIN)
    _add("flat-a", "Flat gamma", Kind.FLAT, encode_flat, decode_flat, 2.036)
    logs = (
        ("log-mild", "Mild log", 4.844, False),
        ("log-lifted", "Lifted flat log", 8.146, False),
        ("log-wide", "Wide log", 16.292, True),
    )
    for key, label, clip, wide in logs:
        curve = LOG_CURVES[key]
        _add(key, label, Kind.LOG, curve.encode, curve.decode, clip, wide)
    to_scene = 0.18 / HLG_GREY

    def hlg(x: Float) -> Float:
        return encode_hlg(np.asarray(x) / to_scene)

    def scene_from_hlg(v: Float) -> Float:
        return decode_hlg(v) * to_scene

    _add("hlg", "HLG (BT.2100)", Kind.HLG, hlg, scene_from_hlg, to_scene, wide=True)
    # PQ is display light; a grey card of 26 cd/m2 ties it to the scene (BT.2408).
    nits = 26.0 / 0.18

    def pq(x: Float) -> Float:
        return encode_pq(np.asarray(x) * nits)

    def scene_from_pq(v: Float) -> Float:
        return decode_pq(v) / nits

    _add("pq", "PQ (BT.2100)", Kind.PQ, pq, scene_from_pq, 1000 / nits, wide=True)


_register_all()

"""Transfer functions and their inverses, side by side.

Documents: ITU-R BT.709-6, BT.1886 (2011), IEC 61966-2-1:1999, ITU-R BT.2100-2, SMPTE ST 2084:2014.
All functions are elementwise, keep the shape and clip nothing unless said.
"""

from __future__ import annotations

import numpy as np

from morphe.core.signal.arrays import Float

__all__ = [
    "decode_bt709",
    "decode_bt1886",
    "decode_hlg",
    "decode_pq",
    "decode_srgb",
    "encode_bt709",
    "encode_bt1886",
    "encode_hlg",
    "encode_pq",
    "encode_srgb",
]

# The pair for which both segments meet with one slope; BT.709-6 prints 1.099 and 0.018.
ALPHA_709 = 1.09929682680944
BETA_709 = 0.018053968510807


def encode_bt709(linear: Float) -> Float:
    """BT.709-6 item 1.2 OETF: scene-linear to signal, extended above 1 and linear below 0."""
    x = np.asarray(linear)
    curved = ALPHA_709 * np.power(np.maximum(x, BETA_709), 0.45) - (ALPHA_709 - 1)
    return np.where(x < BETA_709, 4.5 * x, curved).astype(x.dtype, copy=False)


def decode_bt709(signal: Float) -> Float:
    """Inverse of `encode_bt709`."""
    v = np.asarray(signal)
    edge = 4.5 * BETA_709
    curved = np.power((np.maximum(v, edge) + (ALPHA_709 - 1)) / ALPHA_709, 1 / 0.45)
    return np.where(v < edge, v / 4.5, curved).astype(v.dtype, copy=False)


def encode_bt1886(display_linear: Float) -> Float:
    """Inverse BT.1886 EOTF for a display with black at 0: V = L^(1/2.4); negatives give 0."""
    return np.power(np.maximum(display_linear, 0), 1 / 2.4)


def decode_bt1886(signal: Float) -> Float:
    """BT.1886 EOTF for a display with black at 0, 1.0 = reference white."""
    return np.power(np.maximum(signal, 0), 2.4)


def encode_srgb(linear: Float) -> Float:
    """IEC 61966-2-1 encoding."""
    x = np.asarray(linear)
    curved = 1.055 * np.power(np.maximum(x, 0.0031308), 1 / 2.4) - 0.055
    return np.where(x <= 0.0031308, 12.92 * x, curved).astype(x.dtype, copy=False)


def decode_srgb(signal: Float) -> Float:
    """Inverse of `encode_srgb`."""
    v = np.asarray(signal)
    curved = np.power((np.maximum(v, 0.04045) + 0.055) / 1.055, 2.4)
    return np.where(v <= 0.04045, v / 12.92, curved).astype(v.dtype, copy=False)


# BT.2100-2 table 5
HLG_A = 0.17883277
HLG_B = 1 - 4 * HLG_A
HLG_C = 0.5 - HLG_A * np.log(4 * HLG_A)


def encode_hlg(scene: Float) -> Float:
    """BT.2100-2 HLG OETF: E in 0..1 to signal; odd below 0."""
    e = np.asarray(scene)
    root: Float = np.sign(e) * np.sqrt(3 * np.abs(e))
    curved = HLG_A * np.log(np.maximum(12 * e - HLG_B, 1e-9)) + HLG_C
    return np.where(e <= 1 / 12, root, curved).astype(e.dtype, copy=False)


def decode_hlg(signal: Float) -> Float:
    """Inverse of `encode_hlg`."""
    v = np.asarray(signal)
    curved = (np.exp((np.maximum(v, 0.5) - HLG_C) / HLG_A) + HLG_B) / 12
    return np.where(v <= 0.5, np.sign(v) * v * v / 3, curved).astype(v.dtype, copy=False)


# ST 2084:2014, 5.2
PQ_M1, PQ_M2 = 2610 / 16384, 2523 / 32
PQ_C1, PQ_C2, PQ_C3 = 3424 / 4096, 2413 / 128, 2392 / 128


def encode_pq(luminance_cd_m2: Float) -> Float:
    """ST 2084 inverse EOTF: 0..10000 cd/m2 to signal; negatives give the code of 0."""
    y = np.power(np.maximum(luminance_cd_m2, 0) / 10000, PQ_M1)
    return np.power((PQ_C1 + PQ_C2 * y) / (1 + PQ_C3 * y), PQ_M2)


def decode_pq(signal: Float) -> Float:
    """ST 2084 EOTF: signal to cd/m2; above 1, where it is not defined, the 10000 of 1."""
    p = np.power(np.clip(signal, 0, 1), 1 / PQ_M2)
    return 10000 * np.power(np.maximum(p - PQ_C1, 0) / (PQ_C2 - PQ_C3 * p), 1 / PQ_M1)

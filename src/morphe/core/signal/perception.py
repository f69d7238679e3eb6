"""Perceptual coordinates and colour difference.

Documents: Ottosson 2020 (Oklab), CIE 15:2018 (CIELAB), ISO/CIE 11664-6 and Sharma et al. 2005 (CIEDE2000).
"""

from __future__ import annotations

import numpy as np

from morphe.core.signal.arrays import Float
from morphe.core.signal.primaries import Primaries, rgb_to_xyz
from morphe.core.signal.transfer import decode_bt1886, encode_pq

__all__ = [
    "delta_e_2000",
    "delta_e_itp",
    "encoded_to_lab",
    "lab_to_linear",
    "linear_to_lab",
    "linear_to_oklab",
    "oklab_to_linear",
    "xyz_to_lab",
]

RGB_TO_LMS = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
LMS_TO_OKLAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)
LMS_TO_RGB = np.linalg.inv(RGB_TO_LMS)
OKLAB_TO_LMS = np.linalg.inv(LMS_TO_OKLAB)


def linear_to_oklab(linear: Float) -> Float:
    """Linear BT.709 (..., 3) to Oklab (..., 3): L 0..1, a, b about -0.4..0.4."""
    dtype = np.asarray(linear).dtype
    return np.cbrt(linear @ RGB_TO_LMS.T.astype(dtype)) @ LMS_TO_OKLAB.T.astype(dtype)


def oklab_to_linear(oklab: Float) -> Float:
    """Inverse of `linear_to_oklab`."""
    dtype = np.asarray(oklab).dtype
    lms = oklab @ OKLAB_TO_LMS.T.astype(dtype)
    return (lms * lms * lms) @ LMS_TO_RGB.T.astype(dtype)


WHITE_D65 = np.array([0.3127 / 0.3290, 1.0, (1 - 0.3127 - 0.3290) / 0.3290])


def xyz_to_lab(xyz: Float) -> Float:
    """XYZ (..., 3), white Y = 1, to CIELAB with white D65."""
    t = np.asarray(xyz) / WHITE_D65
    f = np.where(t > (6 / 29) ** 3, np.cbrt(t), t / (3 * (6 / 29) ** 2) + 4 / 29)
    fx, fy, fz = np.moveaxis(f, -1, 0)
    return np.stack([116 * fy - 16, 500 * (fx - fy), 200 * (fy - fz)], axis=-1)


def linear_to_lab(linear: Float) -> Float:
    """Linear BT.709 (..., 3), 1.0 = white, to CIELAB with white D65."""
    return xyz_to_lab(np.asarray(linear, np.float64) @ rgb_to_xyz(Primaries.BT709).T)


def lab_to_linear(lab: Float) -> Float:
    """Inverse of `linear_to_lab`."""
    lightness, a, b = np.moveaxis(np.asarray(lab, np.float64), -1, 0)
    fy = (lightness + 16) / 116
    f = np.stack([fy + a / 500, fy, fy - b / 200], axis=-1)
    t = np.where(f > 6 / 29, f**3, 3 * (6 / 29) ** 2 * (f - 4 / 29))
    return (t * WHITE_D65) @ np.linalg.inv(rgb_to_xyz(Primaries.BT709)).T


def encoded_to_lab(encoded: Float) -> Float:
    """BT.709 R'G'B' (..., 3) as a BT.1886 display shows it (black 0) to CIELAB, D65; clipped to 0..1."""
    light = decode_bt1886(np.clip(np.asarray(encoded, np.float64), 0, 1))
    return xyz_to_lab(light @ rgb_to_xyz(Primaries.BT709).T)


def delta_e_2000(lab_a: Float, lab_b: Float) -> Float:
    """CIEDE2000 between two arrays (..., 3) of CIELAB, all weights 1 (ISO/CIE 11664-6)."""
    l1, a1, b1 = np.moveaxis(np.asarray(lab_a, np.float64), -1, 0)
    l2, a2, b2 = np.moveaxis(np.asarray(lab_b, np.float64), -1, 0)
    c7 = ((np.hypot(a1, b1) + np.hypot(a2, b2)) / 2) ** 7
    g = 0.5 * (1 - np.sqrt(c7 / (c7 + 25.0**7)))
    a1, a2 = a1 * (1 + g), a2 * (1 + g)
    c1, c2 = np.hypot(a1, b1), np.hypot(a2, b2)
    h1, h2 = np.degrees(np.arctan2(b1, a1)) % 360, np.degrees(np.arctan2(b2, a2)) % 360
    grey = c1 * c2 == 0
    dh = np.where(grey, 0, (h2 - h1 + 180) % 360 - 180)
    dh = np.where((dh == -180) & (h2 > h1), 180.0, dh)
    dl, dc = l2 - l1, c2 - c1
    d_hue = 2 * np.sqrt(c1 * c2) * np.sin(np.radians(dh / 2))
    l_mean, c_mean = (l1 + l2) / 2, (c1 + c2) / 2
    half = (h1 + h2) / 2
    h_mean = np.where(np.abs(h1 - h2) <= 180, half, np.where(h1 + h2 < 360, half + 180, half - 180))
    h_mean = np.where(grey, h1 + h2, h_mean)
    t = (
        1
        - 0.17 * np.cos(np.radians(h_mean - 30))
        + 0.24 * np.cos(np.radians(2 * h_mean))
        + 0.32 * np.cos(np.radians(3 * h_mean + 6))
        - 0.20 * np.cos(np.radians(4 * h_mean - 63))
    )
    s_l = 1 + 0.015 * (l_mean - 50) ** 2 / np.sqrt(20 + (l_mean - 50) ** 2)
    s_c = 1 + 0.045 * c_mean
    s_h = 1 + 0.015 * c_mean * t
    m7 = c_mean**7
    turn = -2 * np.sqrt(m7 / (m7 + 25.0**7))
    r_t = turn * np.sin(np.radians(60 * np.exp(-(((h_mean - 275) / 25) ** 2))))
    x, y, z = dl / s_l, dc / s_c, d_hue / s_h
    return np.sqrt(np.maximum(x * x + y * y + z * z + r_t * y * z, 0))


# BT.2100-2 table 7: light of BT.2020 to LMS, and PQ of that to I, Ct, Cp.
_TO_LMS = np.array([[1688, 2146, 262], [683, 2951, 462], [99, 309, 3688]]) / 4096
_TO_ICTCP = np.array([[2048, 2048, 0], [6610, -13613, 7003], [17933, -17390, -543]]) / 4096


def delta_e_itp(nits_a: Float, nits_b: Float) -> Float:
    """ΔE_ITP (BT.2124-0) between two arrays (..., 3) of BT.2020 light in cd/m2; 1 is just visible."""
    one, other = (encode_pq(np.maximum(nits, 0) @ _TO_LMS.T) @ _TO_ICTCP.T for nits in (nits_a, nits_b))
    apart = (one - other) * np.array([1.0, 0.5, 1.0])
    return np.asarray(720 * np.sqrt(np.square(apart).sum(axis=-1)))

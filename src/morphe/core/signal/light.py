"""The colour of light: temperature, mired, tint, and adaptation from one light to another.

Documents: CIE 15:2018 (daylight), Kim et al. 2002 (Planckian cubic), Ohno 2014 (Duv polynomial),
McCamy 1992 (correlated colour temperature), Li et al. 2017 (CAT16).
"""

from __future__ import annotations

import numpy as np

from morphe.core.signal.arrays import Float
from morphe.core.signal.primaries import D65, Primaries, rgb_to_xyz

__all__ = [
    "D65_MIRED",
    "adaptation_matrix",
    "duv",
    "light_rgb",
    "light_shift",
    "locus_xy",
    "xy_to_kelvin",
]

D65_KELVIN = 6504.0
D65_MIRED = 1e6 / D65_KELVIN
CAT16 = np.array(
    [[0.401288, 0.650173, -0.051461], [-0.250268, 1.204414, 0.045854], [-0.002079, 0.048952, 0.953127]]
)


def _daylight_xy(kelvin: float) -> tuple[float, float]:
    t = kelvin
    if t <= 7000:
        x = -4.6070e9 / t**3 + 2.9678e6 / t**2 + 99.11 / t + 0.244063
    else:
        x = -2.0064e9 / t**3 + 1.9018e6 / t**2 + 247.48 / t + 0.237040
    return x, -3 * x * x + 2.87 * x - 0.275


def _planckian_xy(kelvin: float) -> tuple[float, float]:
    t = kelvin
    if t <= 4000:
        x = -0.2661239e9 / t**3 - 0.2343589e6 / t**2 + 877.6956 / t + 0.179910
    else:
        x = -3.0258469e9 / t**3 + 2.1070379e6 / t**2 + 222.6347 / t + 0.240390
    if t <= 2222:
        y = -1.1063814 * x**3 - 1.34811020 * x**2 + 2.18555832 * x - 0.20219683
    elif t <= 4000:
        y = -0.9549476 * x**3 - 1.37418593 * x**2 + 2.09137015 * x - 0.16748867
    else:
        y = 3.0817580 * x**3 - 5.87338670 * x**2 + 3.75112997 * x - 0.37001483
    return x, y


def locus_xy(kelvin: float) -> tuple[float, float]:
    """Chromaticity of white light: Planckian below 4000 K, daylight above 5000 K, a blend between."""
    t = float(np.clip(kelvin, 1667, 25000))
    if t <= 4000:
        return _planckian_xy(t)
    if t >= 5000:
        return _daylight_xy(t)
    share = (1e6 / 4000 - 1e6 / t) / (1e6 / 4000 - 1e6 / 5000)
    warm, cool = np.array(_planckian_xy(t)), np.array(_daylight_xy(t))
    x, y = warm + share * (cool - warm)
    return float(x), float(y)


def xy_to_kelvin(x: float, y: float) -> float:
    """Correlated colour temperature by McCamy's formula; best between 2850 and 6500 K."""
    n = (x - 0.3320) / (0.1858 - y)
    return float(449 * n**3 + 3525 * n**2 + 6823.3 * n + 5520.33)


def _xy_to_uv(x: float, y: float) -> tuple[float, float]:
    d = -2 * x + 12 * y + 3
    return 4 * x / d, 6 * y / d


def _uv_to_xy(u: float, v: float) -> tuple[float, float]:
    d = 2 * u - 8 * v + 4
    return 3 * u / d, 2 * v / d


def duv(x: float, y: float) -> float:
    """Signed distance from the Planckian locus in CIE 1960 uv: + green, - magenta (Ohno 2014)."""
    u, v = _xy_to_uv(x, y)
    du, dv = u - 0.292, v - 0.24
    a = np.arctan2(dv, du)
    k = (-0.471106, 1.925865, -2.4243787, 1.5317403, -0.5179722, 0.0893944, -0.00616793)
    return float(np.hypot(du, dv) - sum(c * a**i for i, c in enumerate(k)))


def _light_xy(mired_shift: float, tint: float) -> tuple[float, float]:
    """Chromaticity of a light `mired_shift` warmer than D65 and `tint` (Duv) greener than the locus."""
    mired = float(np.clip(D65_MIRED + mired_shift, 40, 600))
    here = np.array(_xy_to_uv(*locus_xy(1e6 / mired)))
    ahead = np.array(_xy_to_uv(*locus_xy(1e6 / min(mired + 1, 600))))
    along = (ahead - here) / max(float(np.hypot(*(ahead - here))), 1e-9)
    # Across the locus: turned so that a positive tint raises v, towards green.
    across = np.array([-along[1], along[0]])
    across = across if across[1] > 0 else -across
    origin = np.array(D65) - np.array(locus_xy(D65_KELVIN))  # so that no shift is exactly D65
    x, y = np.array(_uv_to_xy(*(here + tint * across))) + origin
    return float(x), float(y)


def _xyz(xy: tuple[float, float]) -> Float:
    x, y = xy
    return np.array([x / y, 1.0, (1 - x - y) / y])


def light_rgb(mired_shift: float, tint: float) -> Float:
    """Linear BT.709 colour (green = 1) of white paper under a light `mired_shift` warmer than D65."""
    rgb = np.linalg.solve(rgb_to_xyz(Primaries.BT709), _xyz(_light_xy(mired_shift, tint)))
    return rgb / rgb[1]


def light_shift(rgb: Float) -> tuple[float, float]:
    """Find (mired shift, tint) of the light that gives white paper this linear BT.709 colour.

    The inverse of `light_rgb`, by Newton steps on (log2 R/G, log2 B/G); far lights end at the limits.
    """
    want = np.log2(np.maximum(np.asarray(rgb, float)[[0, 2]] / max(float(rgb[1]), 1e-9), 1e-6))
    at = np.zeros(2)
    unit = np.array([1.0, 0.0005])
    for _ in range(40):
        here = np.log2(np.maximum(light_rgb(*at)[[0, 2]], 1e-6))
        columns = [
            (np.log2(np.maximum(light_rgb(*(at + step))[[0, 2]], 1e-6)) - here) / size
            for step, size in ((np.array([unit[0], 0]), unit[0]), (np.array([0, unit[1]]), unit[1]))
        ]
        step = np.linalg.lstsq(np.stack(columns, axis=1), want - here, rcond=None)[0]
        at = np.clip(at + 0.7 * np.clip(step, [-60, -0.01], [60, 0.01]), [-113, -0.08], [400, 0.08])
    return float(at[0]), float(at[1])


def adaptation_matrix(mired_shift: float, tint: float) -> Float:
    """CAT16 matrix on linear BT.709 that makes a light `mired_shift` warmer, `tint` greener than D65 neutral.

    The luminance of that light's white is kept, so a correction does not change exposure.
    """
    to_xyz = rgb_to_xyz(Primaries.BT709)
    source, target = CAT16 @ _xyz(_light_xy(mired_shift, tint)), CAT16 @ _xyz(D65)
    adapt = np.linalg.solve(CAT16, np.diag(target / source) @ CAT16)
    return np.linalg.solve(to_xyz, adapt @ to_xyz)

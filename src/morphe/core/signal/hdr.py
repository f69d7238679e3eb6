"""HLG and PQ brought into an ordinary BT.709 picture, anchored at reference white.

Documents: BT.2100-2 (HLG, OOTF), SMPTE ST 2084:2014, BT.2390 (EETF), BT.2408 (reference white 203 cd/m2).
"""

from __future__ import annotations

import numpy as np

from morphe.core.signal.arrays import Float, highest
from morphe.core.signal.primaries import Primaries, compress_gamut, rgb_to_rgb
from morphe.core.signal.transfer import decode_hlg, decode_pq, encode_pq

__all__ = [
    "PEAK",
    "REFERENCE_WHITE",
    "display_to_hlg_scene",
    "hlg_scene_to_display",
    "hlg_to_display",
    "nits_to_sdr_display",
    "pq_to_display",
]

REFERENCE_WHITE = 203.0  # cd/m2, BT.2408
PEAK = 1000.0


LUMINANCE_2020 = np.array([0.2627, 0.6780, 0.0593])  # BT.2100-2 table 5
SYSTEM_GAMMA = 1.2  # of a display of 1000 cd/m2


def hlg_to_display(encoded: Float) -> Float:
    """HLG R'G'B' (..., 3) to cd/m2 on a display of 1000 cd/m2, BT.2020 primaries (BT.2100-2 OOTF)."""
    return hlg_scene_to_display(np.maximum(decode_hlg(encoded), 0))


def hlg_scene_to_display(scene: Float) -> Float:
    """Light of the scene as HLG holds it (..., 3), 0..1, to cd/m2 by the OOTF of BT.2100-2, table 5."""
    luminance = (scene @ LUMINANCE_2020.astype(scene.dtype))[..., None]
    return PEAK * np.power(np.maximum(luminance, 1e-9), SYSTEM_GAMMA - 1).astype(scene.dtype) * scene


def display_to_hlg_scene(nits: Float) -> Float:
    """The inverse of `hlg_scene_to_display`; colours outside BT.2020 stay negative."""
    shown = nits / PEAK
    luminance = (shown @ LUMINANCE_2020.astype(shown.dtype))[..., None]
    return np.asarray(shown * np.power(np.maximum(luminance, 1e-9), 1 / SYSTEM_GAMMA - 1))


def pq_to_display(encoded: Float) -> Float:
    """PQ R'G'B' (..., 3) to cd/m2, BT.2020 primaries."""
    return decode_pq(encoded)


def _roll(norm: Float) -> Float:
    """BT.2390 EETF from the source peak to reference white, on cd/m2."""
    top = encode_pq(np.array(PEAK))
    ceiling = float(encode_pq(np.array(REFERENCE_WHITE)) / top)
    knee = 1.5 * ceiling - 0.5
    e1 = encode_pq(np.minimum(norm, PEAK)) / top
    t = np.clip((e1 - knee) / (1 - knee), 0, 1)
    spline = (
        (2 * t**3 - 3 * t**2 + 1) * knee
        + (t**3 - 2 * t**2 + t) * (1 - knee)
        + (-2 * t**3 + 3 * t**2) * ceiling
    )
    return decode_pq(np.where(e1 < knee, e1, spline) * top)


def nits_to_sdr_display(nits: Float) -> Float:
    """Display light in cd/m2 (BT.2020) to display-linear BT.709, 1.0 = white, colours compressed inside."""
    norm = highest(nits)[..., None]
    rolled = (nits * (_roll(norm) / np.maximum(norm, 1e-6)) / REFERENCE_WHITE).astype(nits.dtype)
    return compress_gamut(rolled @ rgb_to_rgb(Primaries.BT2020, Primaries.BT709).T.astype(nits.dtype))

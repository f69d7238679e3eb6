"""The colour of the light in a clip: a vote over lights that could have lit it.

Candidates lie on a grid of (mired, Duv) about D65. Each gains by the pixels that would be neutral under
it, in several brightness bands; loses by its distance from three classical estimators (grey edge, shades
of grey, white patch); and is weighed by a prior along the daylight-lamp line with a spike at neutral.

References: Finlayson & Trezzi 2004 (shades of grey), van de Weijer et al. 2007 (grey edge).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np

from morphe.core.signal.arrays import Float, Linear
from morphe.core.signal.light import light_rgb
from morphe.core.signal.primaries import LUMINANCE_709

__all__ = ["LightEstimate", "estimate_light"]

MIREDS = np.arange(-90.0, 151.0, 5.0)
DUVS = np.arange(-0.024, 0.0241, 0.002)
BANDS = ((20, 60, 0.25), (60, 88, 0.35), (88, 99, 0.40))  # luminance percentiles and weight
BIN = 0.04
REACH = 1.8  # the plane of log2 ratios spans this much to either side
NEAR_STOPS = 0.2
ONE_COLOUR_STOPS = 0.25


@dataclass(frozen=True, slots=True, kw_only=True)
class LightEstimate:
    """Light found: mired warmer than neutral, Duv greener, and what speaks for it.

    `share` is the share of pixels within .2 stop of neutral under it, `disagreement_stops` the spread of
    the classical estimators, `confidence` 0..1 combines both.
    """

    warmth: float
    tint: float
    share: float
    disagreement_stops: float
    confidence: float


@lru_cache(maxsize=1)
def _grid() -> tuple[Float, Float, Float]:
    """(n, 2) log2 ratios (R/G, B/G) of every candidate, with its mired and Duv."""
    mired, tint = (g.ravel() for g in np.meshgrid(MIREDS, DUVS, indexing="ij"))
    ratios = np.array([np.log2(light_rgb(m, t)[[0, 2]]) for m, t in zip(mired, tint, strict=True)])
    return ratios, mired, tint


def _usable(frame: Linear) -> Float:
    """Mask of pixels neither clipped nor in the noise."""
    peak, low = frame.max(axis=-1), frame.min(axis=-1)
    return (peak < 0.92) & (low > 0.006)


def _minkowski(values: Float, power: float = 6.0) -> Float:
    scale = max(float(values.max()), 1e-9)
    return scale * np.power(np.power(values / scale, power).mean(axis=0), 1 / power)


def _grey_edge(frames: Sequence[Linear]) -> Float:
    """Minkowski mean of gradient magnitudes per channel."""
    edges = []
    for frame in frames:
        mask = cv2.erode(_usable(frame).astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
        soft = cv2.GaussianBlur(frame, (0, 0), 1.5)
        gradient = np.hypot(cv2.Sobel(soft, cv2.CV_32F, 1, 0), cv2.Sobel(soft, cv2.CV_32F, 0, 1))
        edges.append(gradient[mask])
    values = np.concatenate(edges)
    return _minkowski(values) if len(values) > 50 else np.ones(3)


def _ratios(rgb: Float) -> Float:
    return np.log2(np.maximum(rgb[..., [0, 2]], 1e-6) / np.maximum(rgb[..., 1:2], 1e-6))


def _one_colour(ratios: Float) -> bool:
    """Whether one colour fills the frame: sea, sky or leaves then pass for neutral under a coloured light."""
    low, high = np.percentile(ratios, [10, 90], axis=0)
    return bool((high - low).max() < ONE_COLOUR_STOPS)


def _votes(pixels: Linear) -> Float:
    """Smoothed density (bins, bins) of log ratios over the bands, scaled to a maximum of 1 per band."""
    luminance = pixels @ LUMINANCE_709.astype(np.float32)
    ratios = np.clip(_ratios(pixels), -REACH + BIN, REACH - BIN)
    bins = int(2 * REACH / BIN)
    edges = np.percentile(luminance, [p for low, high, _ in BANDS for p in (low, high)]).reshape(-1, 2)
    total = np.zeros((bins, bins), np.float32)
    for (low, high), (_, _, weight) in zip(edges, BANDS, strict=True):
        band = ratios[(luminance >= low) & (luminance <= high)]
        counts, _, _ = np.histogram2d(band[:, 0], band[:, 1], bins=bins, range=[[-REACH, REACH]] * 2)
        soft = cv2.GaussianBlur(counts.astype(np.float32), (0, 0), 0.07 / BIN)
        total += weight * soft / max(float(soft.max()), 1e-9)
    return total


def estimate_light(frames: Sequence[Linear]) -> LightEstimate:
    """Estimate the light of scene-linear frames (H, W, 3), about 256 px wide."""
    pixels = np.concatenate([f[_usable(f)] for f in frames])
    if len(pixels) < 500:
        return LightEstimate(warmth=0.0, tint=0.0, share=0.0, disagreement_stops=9.0, confidence=0.0)
    ratios, mired, tint = _grid()
    votes = _votes(pixels)
    at = np.clip(((ratios + REACH) / BIN).astype(int), 0, votes.shape[0] - 1)
    support = np.log(0.03 + votes[at[:, 0], at[:, 1]])
    luminance = pixels @ LUMINANCE_709.astype(np.float32)
    bright = pixels[luminance >= np.percentile(luminance, 97)]
    classical = np.stack(
        [_ratios(_grey_edge(frames)), _ratios(_minkowski(pixels)), _ratios(bright.mean(axis=0))]
    )
    widths = np.array([0.30, 0.30, 0.35])
    distance = ((ratios[:, None] - classical) ** 2).sum(axis=-1) / (2 * widths**2)
    prior = np.log(
        np.exp(-0.5 * ((mired / 38) ** 2 + (tint / 0.006) ** 2))
        + 6.0 * np.exp(-0.5 * ((mired / 7) ** 2 + (tint / 0.002) ** 2))
    )
    score = 2.2 * support - 0.8 * np.minimum(distance, 6).sum(axis=1) + prior
    weight = np.exp(score - score.max())
    weight /= weight.sum()
    warmth, duv = float(weight @ mired), float(weight @ tint)
    found = np.log2(light_rgb(warmth, duv)[[0, 2]])
    near = float((np.abs(_ratios(pixels) - found).max(axis=1) < NEAR_STOPS).mean())
    spread = float(np.linalg.norm(classical - np.median(classical, axis=0), axis=1).mean())
    confidence = float(np.clip((near - 0.07) / 0.20, 0, 1) * np.clip(1.35 - spread / 0.5, 0, 1))
    if _one_colour(_ratios(pixels)):
        confidence = 0.0
    return LightEstimate(
        warmth=warmth, tint=duv, share=near, disagreement_stops=spread, confidence=confidence
    )

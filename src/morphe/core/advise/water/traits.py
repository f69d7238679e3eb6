"""What an underwater picture is looked at by: numbers that say how water changed its channels."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from morphe.core.signal.arrays import Float, Linear

__all__ = ["TRAITS", "look_at_water"]

FLOOR = 2.0**-11
BANDS = 4  # of rows, from the top: far water lies above
LEVELS, RATIOS = (0.5, 2, 10, 25, 50, 75, 90, 98, 99.6), (3, 15, 50, 85, 97)
TRAITS = 3 * len(LEVELS) + 1 + 2 * len(RATIOS) + 9 * BANDS + 9 + 7 + 3 + 4


def look_at_water(frames: Sequence[Linear]) -> Float:
    """Traits (TRAITS,) of scene-linear frames (H, W, 3): levels, ratios and details of the channels.

    Everything is in stops about the median of green, so that exposure matters little.
    """
    pixels = np.concatenate([f.reshape(-1, 3) for f in frames])
    stops = np.log2(np.maximum(pixels, FLOOR))
    middle = float(np.median(stops[:, 1]))
    levels = np.percentile(stops, LEVELS, axis=0).T - middle
    ratios = stops[:, [0, 2]] - stops[:, 1:2]
    parts = [
        levels.ravel(), [middle], np.percentile(ratios, RATIOS, axis=0).T.ravel(),
        _bands(frames, middle), _details(frames, middle), _together(pixels),
        _stops(pixels[_brightest(pixels)].mean(axis=0)) - middle,
        [(pixels[:, 0] < 2.0**-8).mean(), (pixels[:, 0] < 2.0**-10).mean(),
         (pixels > 0.95).any(axis=1).mean(), (pixels[:, 0] > pixels[:, 1]).mean()],
    ]  # fmt: skip
    return np.concatenate([np.asarray(p, np.float64) for p in parts])


def _stops(values: Float) -> Float:
    return np.log2(np.maximum(values, FLOOR))


def _brightest(pixels: Linear) -> Float:
    luma = pixels.sum(axis=1)
    return luma >= np.percentile(luma, 99)


def _bands(frames: Sequence[Linear], middle: float) -> Float:
    """Mean, spread and dark end of every channel in bands of rows."""
    found = []
    for band in range(BANDS):
        rows = np.concatenate(
            [
                f[band * len(f) // BANDS : (band + 1) * len(f) // BANDS].reshape(-1, 3)
                for f in frames
            ]
        )  # fmt: skip
        dark = rows[rows.sum(axis=1) <= np.percentile(rows.sum(axis=1), 2)].mean(axis=0)
        found += [
            _stops(rows.mean(axis=0)) - middle, _stops(rows.std(axis=0)) - middle, _stops(dark) - middle,
        ]  # fmt: skip
    return np.concatenate(found)


def _details(frames: Sequence[Linear], middle: float) -> Float:
    """Differences between neighbours, from which a veil has no part: usual ones, strong ones, and noise."""
    across = np.concatenate([np.abs(f[:, 2:] - f[:, :-2]).reshape(-1, 3) for f in frames])
    noise = np.concatenate([np.abs(2 * f[:, 1:-1] - f[:, 2:] - f[:, :-2]).reshape(-1, 3) for f in frames])
    strong = across[across.sum(axis=1) >= np.percentile(across.sum(axis=1), 90)]
    return np.concatenate(
        [_stops(across.mean(axis=0)) - middle, _stops(strong.mean(axis=0)) - middle,
         _stops(np.percentile(noise, 25, axis=0)) - middle]
    )  # fmt: skip


def _together(pixels: Linear) -> Float:
    """How red and blue go with green: slopes and offsets of straight lines, correlations, spread of green."""
    mean = pixels.mean(axis=0)
    away = pixels - mean
    spread = np.maximum((away**2).mean(axis=0), 1e-10)
    both = (away[:, [0, 2]] * away[:, 1:2]).mean(axis=0)
    slope = both / spread[1]
    offset = (mean[[0, 2]] - slope * mean[1]) / max(mean[1], FLOOR)
    return np.concatenate(
        [np.clip(slope, -1, 4), np.clip(offset, -2, 4), both / np.sqrt(spread[1] * spread[[0, 2]]),
         [np.sqrt(spread[1]) / max(mean[1], FLOOR)]]
    )  # fmt: skip

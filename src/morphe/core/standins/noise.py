"""Tileable fractal textures, the stuff that land, water and clouds are made of."""

from __future__ import annotations

import numpy as np
from numba import njit

from morphe.core.signal.arrays import Float

__all__ = ["fractal", "sample", "smoothstep"]


def fractal(size: int, roughness: float, generator: np.random.Generator) -> Float:
    """Make a tileable (size, size) float32 texture with mean 0, deviation 1 and spectrum 1/f^roughness."""
    fx, fy = np.fft.fftfreq(size)[:, None], np.fft.rfftfreq(size)[None, :]
    f = np.hypot(fx, fy)
    f[0, 0] = 1
    phase = generator.uniform(0, 2 * np.pi, f.shape)
    amplitude = generator.rayleigh(1.0, f.shape) * f**-roughness
    amplitude[0, 0] = 0
    texture = np.fft.irfft2(amplitude * np.exp(1j * phase), s=(size, size))
    return ((texture - texture.mean()) / texture.std()).astype(np.float32)


@njit(nogil=True, cache=True, fastmath=True)
def sample(texture, u, v):  # type: ignore[no-untyped-def]
    """Read a tileable texture at (u, v) in tiles, bilinearly."""
    n = texture.shape[0]
    x, y = u * n, v * n
    fx, fy = np.floor(x), np.floor(y)
    ix, iy = int(fx) % n, int(fy) % n
    jx, jy = (ix + 1) % n, (iy + 1) % n
    wx, wy = x - fx, y - fy
    top = texture[iy, ix] * (1 - wx) + texture[iy, jx] * wx
    bottom = texture[jy, ix] * (1 - wx) + texture[jy, jx] * wx
    return top * (1 - wy) + bottom * wy


@njit(nogil=True, cache=True, fastmath=True)
def smoothstep(low, high, x):  # type: ignore[no-untyped-def]
    t = min(max((x - low) / (high - low), 0.0), 1.0)
    return t * t * (3 - 2 * t)

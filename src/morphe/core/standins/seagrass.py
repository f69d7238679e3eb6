"""A seagrass meadow on a sandy bottom with a swimmer, fish and stones, as it would look without any water.

Painted back to front, each thing with its distance, so that water of any kind can be put before it
(`core.water.imaging`). Far ahead lies open water.
"""

from __future__ import annotations

from functools import lru_cache

import cv2
import numpy as np

from morphe.core.signal.arrays import Float, Linear, Plane
from morphe.core.standins.jetty import SKIN_TONES
from morphe.core.standins.noise import fractal

__all__ = ["DURATION_S", "render_seagrass"]

DURATION_S = 4.0
EYE_M, HORIZON = 1.15, 0.30  # height of the lens over the sand; share of the frame above the horizon
FOCAL = 0.82  # of the width
FAR_M = 14.0  # beyond, there is only water
SAND, SAND_DARK = (0.52, 0.42, 0.28), (0.36, 0.29, 0.19)
BLADES, GRASS = 1700, ((0.055, 0.16, 0.030), (0.11, 0.24, 0.045), (0.20, 0.26, 0.07))
STONES = ((-1.7, 3.4, 0.34), (1.95, 2.7, 0.26), (0.7, 6.2, 0.5), (-3.4, 6.5, 0.6))  # x, z, radius in metres
SUIT, TRIM, TANK, FIN = (0.035, 0.045, 0.075), (0.75, 0.10, 0.06), (0.75, 0.72, 0.16), (0.85, 0.62, 0.05)
FISH = (0.62, 0.55, 0.16), (0.30, 0.33, 0.40)
MASK, SLATE = (0.02, 0.02, 0.025), (0.82, 0.82, 0.80)


@lru_cache(maxsize=1)
def _textures() -> tuple[Float, Float]:
    rng = np.random.default_rng(41)
    return fractal(512, 1.6, rng), fractal(512, 0.9, rng)


class _Canvas:
    """Light (H, W, 3) and distance (H, W), painted back to front."""

    def __init__(self, width: int, height: int) -> None:
        self.width, self.height = width, height
        self.light = np.zeros((height, width, 3), np.float32)
        self.distance = np.full((height, width), np.inf, np.float32)

    def place(self, x: float, y: float, z: float) -> tuple[float, float, float]:
        """Where a point (metres: right, up from the sand, ahead) is drawn, and pixels for a metre there."""
        scale = FOCAL * self.width / z
        return self.width / 2 + x * scale, HORIZON * self.height + (EYE_M - y) * scale, scale

    def fill(self, outline: Float, colour: tuple[float, ...], z: float, shade: Plane | None = None) -> None:
        """Paint an outline (n, 2) in pixels, smoothly edged, as far away as `z`."""
        low = np.maximum(np.floor(outline.min(axis=0)).astype(int) - 2, 0)
        high = np.minimum(np.ceil(outline.max(axis=0)).astype(int) + 3, (self.width, self.height))
        if (high <= low).any():
            return
        cover = np.zeros((high[1] - low[1], high[0] - low[0]), np.uint8)
        points = np.round((outline - low) * 16).astype(np.int32)
        cv2.fillPoly(cover, [points], 255, lineType=cv2.LINE_AA, shift=4)
        part = (slice(low[1], high[1]), slice(low[0], high[0]))
        share = (cover / np.float32(255))[..., None]
        tone = np.array(colour, np.float32) * _rounded(cover)[..., None]
        self.light[part] += share * (tone - self.light[part])
        self.distance[part][cover > 127] = z


def _rounded(cover: Plane) -> Plane:
    """Lit from above, darker towards the edges, as round things are."""
    inside = cv2.distanceTransform((cover > 127).astype(np.uint8), cv2.DIST_L2, 3)
    thick = max(float(inside.max()), 1.0)
    rows = np.linspace(1.18, 0.72, cover.shape[0], dtype=np.float32)[:, None]
    return np.asarray((0.62 + 0.38 * np.minimum(inside / (0.6 * thick), 1)) * rows, np.float32)


def _ground(canvas: _Canvas, time_s: float, pan: float) -> None:
    """Sand with ripples and the net of light that waves throw on it."""
    clouds, grain = _textures()
    rows = np.arange(int(HORIZON * canvas.height) + 1, canvas.height)
    z = EYE_M * FOCAL * canvas.width / (rows + 0.5 - HORIZON * canvas.height)
    x = (np.arange(canvas.width) + 0.5 - canvas.width / 2)[None, :] / (FOCAL * canvas.width) * z[:, None]
    depth = np.repeat(z[:, None], canvas.width, axis=1)
    x = x + pan
    ripple = np.sin(9.0 * depth + 1.6 * _read(clouds, x * 0.05, depth * 0.05) + 0.8 * x)
    patches = _smoothed(_read(clouds, x * 0.035 + 0.3, depth * 0.035), -0.3, 0.9)
    tone = 1 + 0.07 * ripple + 0.10 * _read(grain, x * 0.25, depth * 0.25)
    net = _net(x, depth, time_s)
    sand = np.array(SAND, np.float32) + (np.array(SAND_DARK, np.float32) - SAND) * patches[..., None]
    light = sand * (tone * (0.86 + 0.55 * net))[..., None]
    seen = depth < FAR_M
    part = slice(rows[0], canvas.height)
    canvas.light[part] = np.where(seen[..., None], light, 0)
    canvas.distance[part] = np.where(seen, np.hypot(depth, x - pan), np.inf)


def _smoothed(values: Float, low: float, high: float) -> Float:
    share = np.clip((values - low) / (high - low), 0, 1)
    return share * share * (3 - 2 * share)


def _net(x: Float, z: Float, time_s: float) -> Float:
    """The bright net of light on the bottom, 0..1."""
    phase = 2 * np.pi * time_s / DURATION_S
    clouds, grain = _textures()
    one = _read(clouds, x * 0.11 + 0.02 * np.sin(phase), z * 0.11 + 0.02 * np.cos(phase))
    other = _read(grain, x * 0.06 - 0.02 * np.cos(phase), z * 0.06 + 0.3)
    return np.asarray(np.exp(-((one + 0.4 * other) ** 2) / 0.05))


def _read(texture: Float, u: Float, v: Float) -> Plane:
    """A texture that repeats, at places in its own widths (bilinear)."""
    size = texture.shape[0]
    found: Plane = cv2.remap(
        texture.astype(np.float32), np.mod(u * size, size).astype(np.float32),
        np.mod(v * size, size).astype(np.float32), cv2.INTER_LINEAR, borderMode=cv2.BORDER_WRAP,
    ).astype(np.float32, copy=False)  # fmt: skip
    return found


def _stone(canvas: _Canvas, x: float, z: float, radius: float) -> None:
    turn = np.linspace(0, 2 * np.pi, 40)
    rough = 1 + 0.09 * np.sin(3 * turn + x) + 0.05 * np.sin(7 * turn + z)
    px, py, scale = canvas.place(x, 0.45 * radius, z)
    round_about = radius * scale * rough[:, None] * np.stack([np.cos(turn), 0.62 * np.sin(turn)], axis=1)
    canvas.fill(np.array([px, py]) + round_about, (0.20, 0.18, 0.15), z)


def _blades(canvas: _Canvas, time_s: float, pan: float, near: float, far: float) -> None:
    """Seagrass between two distances, swaying, the farther first."""
    rng = np.random.default_rng(7)
    roots = np.stack([rng.uniform(-7, 7, BLADES), 1.25 + 11.0 * rng.random(BLADES) ** 1.35], axis=1)
    tall, lean = rng.uniform(0.22, 0.62, BLADES), rng.normal(0, 0.16, BLADES)
    hue, phase = rng.random(BLADES), rng.random(BLADES)
    clump = np.sin(1.7 * roots[:, 0]) + np.sin(1.1 * roots[:, 1] + 2) > -0.55
    for n in np.argsort(-roots[:, 1]):
        x, z = roots[n]
        if not (near <= z < far and clump[n]) or (abs(x - 0.3) < 0.8 and 1.6 < z < 2.7):
            continue
        sway = lean[n] + 0.10 * np.sin(2 * np.pi * (time_s / DURATION_S + phase[n]) + 0.6 * x)
        _blade(canvas, x - pan, z, tall[n], sway, GRASS[int(3 * hue[n])])


def _blade(canvas: _Canvas, x: float, z: float, tall: float, sway: float, colour: tuple[float, ...]) -> None:
    share = np.linspace(0, 1, 7)
    px, py, scale = canvas.place(x, 0.0, z)
    bent, up = 1.6 * sway * share**2, share * (1 - 0.12 * abs(sway))
    middle = np.array([px, py]) + scale * tall * np.stack([bent, -up], axis=1)
    half = 0.5 * scale * 0.022 * np.array([0.8, 1, 1, 0.95, 0.8, 0.55, 0.1])
    outline = np.concatenate([middle - [[1, 0]] * half[:, None], (middle + [[1, 0]] * half[:, None])[::-1]])
    canvas.fill(outline, colour, z)


def _limb(
    canvas: _Canvas, start: Float, end: Float, radii: tuple[float, float], colour: tuple[float, ...]
) -> None:
    """A tapering limb between two points (x, y, z) in metres."""
    (ax, ay, scale), (bx, by, _) = canvas.place(*start), canvas.place(*end)
    along = np.arctan2(by - ay, bx - ax)
    half = np.linspace(np.pi / 2, 3 * np.pi / 2, 9)
    cap = scale * np.stack([np.cos(half + along), np.sin(half + along)], axis=1)
    ends = np.concatenate([np.array([ax, ay]) + radii[0] * cap, np.array([bx, by]) - radii[1] * cap])
    canvas.fill(ends, colour, float(start[2]))


def _swimmer(canvas: _Canvas, time_s: float, skin: tuple[float, ...]) -> None:
    """Somebody gliding over the meadow from left to right, a white slate in the hand."""
    kick = np.sin(2 * np.pi * time_s / DURATION_S * 2)
    at = np.array([0.22 + 0.10 * np.sin(2 * np.pi * time_s / DURATION_S), 0.98, 2.75])

    def point(x: float, y: float) -> Float:
        return at + np.array([x, y, 0.0])

    _limb(canvas, point(-0.55, 0.03), point(-0.98, 0.06 + 0.07 * kick), (0.085, 0.055), SUIT)
    _limb(canvas, point(-0.98, 0.06 + 0.07 * kick), point(-1.30, 0.02 + 0.15 * kick), (0.05, 0.085), FIN)
    _limb(canvas, point(-0.55, 0.0), point(-0.96, -0.02 - 0.07 * kick), (0.09, 0.058), SUIT)
    _limb(canvas, point(-0.96, -0.02 - 0.07 * kick), point(-1.28, -0.06 - 0.15 * kick), (0.05, 0.09), FIN)
    _limb(canvas, point(-0.34, 0.17), point(0.10, 0.20), (0.085, 0.085), TANK)
    _limb(canvas, point(-0.52, 0.02), point(0.14, 0.06), (0.125, 0.15), SUIT)
    _limb(canvas, point(-0.30, 0.02), point(0.06, 0.04), (0.022, 0.022), TRIM)
    _limb(canvas, point(0.14, 0.02), point(0.34, -0.20), (0.06, 0.048), SUIT)
    _limb(canvas, point(0.34, -0.20), point(0.56, -0.14), (0.045, 0.036), skin)
    corners = ((0.52, -0.24), (0.74, -0.20), (0.70, 0.0), (0.48, -0.04))
    slate = np.array([canvas.place(*point(x, y))[:2] for x, y in corners])
    canvas.fill(slate, SLATE, at[2])
    _limb(canvas, point(0.54, -0.14), point(0.60, -0.12), (0.042, 0.036), skin)
    _limb(canvas, point(0.26, 0.10), point(0.34, 0.12), (0.108, 0.100), skin)
    _limb(canvas, point(0.22, 0.15), point(0.24, 0.17), (0.100, 0.092), SUIT)
    _limb(canvas, point(0.34, 0.15), point(0.41, 0.145), (0.045, 0.042), MASK)


def _fish(canvas: _Canvas, time_s: float) -> None:
    rng = np.random.default_rng(5)
    for n in range(16):
        z = float(3.2 + 4.5 * rng.random())
        x = float(rng.uniform(-1.6, 2.6) + 0.35 * np.sin(2 * np.pi * (time_s / DURATION_S + n / 16)))
        y, long = float(1.35 + 0.55 * rng.random()), float(0.09 + 0.07 * rng.random())
        px, py, scale = canvas.place(x, y, z)
        turn = np.linspace(0.35, 2 * np.pi - 0.35, 22)
        wag = 0.25 * np.sin(2 * np.pi * 3 * time_s / DURATION_S + n)
        body = np.stack([-np.cos(turn), 0.36 * np.sin(turn)], 1)
        tail = np.array([[-1.45, 0.34 + wag], [-1.30, wag * 0.6], [-1.45, -0.34 + wag]])
        canvas.fill(
            np.array([px, py]) + long * scale * np.concatenate([body * [-1, 1], tail]), FISH[n % 2], z
        )


def render_seagrass(time_s: float, *, width: int, height: int, skin: str = "tan") -> tuple[Linear, Plane]:
    """Render the meadow as scene-linear BT.709 (height, width, 3) in daylight, and its distance in metres.

    Open water has no light of its own and lies infinitely far away.
    """
    canvas = _Canvas(width, height)
    pan = 0.16 * np.sin(2 * np.pi * time_s / DURATION_S)
    _ground(canvas, time_s, pan)
    for x, z, radius in sorted(STONES, key=lambda stone: -stone[1]):
        _blades(canvas, time_s, pan, z, 20.0 if z == max(s[1] for s in STONES) else z + 1.2)
        _stone(canvas, x - pan, z, radius)
    _blades(canvas, time_s, pan, 2.3, 20.0)
    _fish(canvas, time_s)
    _swimmer(canvas, time_s, SKIN_TONES[skin])
    _blades(canvas, time_s, pan, 0.0, 2.3)
    return np.clip(canvas.light, 0, 1.1), canvas.distance

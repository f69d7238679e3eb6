"""A drawn figure at a jetty on an overcast day: face and hands, a white mug, water and far shore behind."""

from __future__ import annotations

from functools import lru_cache

import cv2
import numpy as np
from numba import njit

from morphe.core.bands import over_rows
from morphe.core.signal.arrays import Float, Linear
from morphe.core.standins.noise import fractal, sample, smoothstep

__all__ = ["DURATION_S", "SKIN_TONES", "render_jetty"]

DURATION_S = 4.0
EXPOSURE = 0.95
# Linear BT.709 albedos of drawn skin, from deep to pale.
SKIN_TONES: dict[str, tuple[float, float, float]] = {
    "dark": (0.070, 0.035, 0.022),
    "deep": (0.125, 0.060, 0.037),
    "brown": (0.21, 0.108, 0.066),
    "tan": (0.33, 0.178, 0.108),
    "light": (0.44, 0.265, 0.180),
    "pale": (0.58, 0.375, 0.275),
}
SKIN, JACKET, SCARF, HAT, ENAMEL, EYE, LIP, BROW, RIM, IRIS = range(10)


@lru_cache(maxsize=1)
def _textures() -> tuple[Float, Float]:
    rng = np.random.default_rng(19)
    return fractal(512, 1.5, rng), fractal(512, 0.7, rng)


@njit(nogil=True, cache=True, fastmath=True)
def _ellipsoid(x, y, z, cx, cy, cz, rx, ry, rz):  # type: ignore[no-untyped-def]
    ax, ay, az = (x - cx) / rx, (y - cy) / ry, (z - cz) / rz
    k0 = np.sqrt(ax * ax + ay * ay + az * az)
    bx, by, bz = ax / rx, ay / ry, az / rz
    return k0 * (k0 - 1.0) / (np.sqrt(bx * bx + by * by + bz * bz) + 1e-9)


@njit(nogil=True, cache=True, fastmath=True)
def _capsule(x, y, z, ax, ay, az, bx, by, bz, r0, r1):  # type: ignore[no-untyped-def]
    px, py, pz, dx, dy, dz = x - ax, y - ay, z - az, bx - ax, by - ay, bz - az
    h = min(max((px * dx + py * dy + pz * dz) / (dx * dx + dy * dy + dz * dz), 0.0), 1.0)
    ex, ey, ez = px - dx * h, py - dy * h, pz - dz * h
    return np.sqrt(ex * ex + ey * ey + ez * ez) - (r0 + (r1 - r0) * h)


@njit(nogil=True, cache=True, fastmath=True)
def _blend(a, b, k):  # type: ignore[no-untyped-def]
    h = max(k - abs(a - b), 0.0) / k
    return min(a, b) - h * h * k * 0.25


@njit(nogil=True, cache=True, fastmath=True)
def _head(x, y, z, turn):  # type: ignore[no-untyped-def]
    """Distance and material of the head, in the head's own turned frame."""
    c, s = np.cos(turn), np.sin(turn)
    x, z = x * c - z * s, x * s + z * c
    m = abs(x)
    d = _ellipsoid(x, y, z, 0, 1.645, 0.0, 0.079, 0.108, 0.097)
    d = _blend(d, _ellipsoid(x, y, z, 0, 1.583, -0.022, 0.058, 0.062, 0.066), 0.05)
    d = _blend(d, _ellipsoid(m, y, z, 0.041, 1.605, -0.066, 0.026, 0.022, 0.022), 0.03)
    d = _blend(d, _ellipsoid(x, y, z, 0, 1.540, -0.066, 0.022, 0.016, 0.018), 0.03)
    d = -_blend(-d, _ellipsoid(m, y, z, 0.032, 1.640, -0.103, 0.017, 0.012, 0.016), 0.022)
    d = _blend(d, _ellipsoid(m, y, z, 0.032, 1.654, -0.089, 0.024, 0.007, 0.011), 0.014)
    d = _blend(d, _capsule(x, y, z, 0, 1.645, -0.096, 0, 1.607, -0.114, 0.0075, 0.0125), 0.016)
    d = _blend(d, _ellipsoid(m, y, z, 0.013, 1.604, -0.101, 0.009, 0.008, 0.010), 0.010)
    d = _blend(d, _ellipsoid(m, y, z, 0.083, 1.628, 0.010, 0.0105, 0.030, 0.019), 0.008)
    d = _blend(d, _capsule(x, y, z, 0, 1.58, 0.012, 0, 1.42, 0.03, 0.046, 0.054), 0.03)
    material = SKIN
    eye = _ellipsoid(m, y, z, 0.032, 1.639, -0.079, 0.0135, 0.0125, 0.0135)
    if eye < d:
        d, material = eye, EYE
        gx, gy = m - 0.031, y - 1.6385
        r = gx * gx + gy * gy
        if r < 0.0062 * 0.0062:
            material = IRIS
    lid = _ellipsoid(m, y, z, 0.032, 1.6465, -0.080, 0.0165, 0.0075, 0.0155)
    if lid < d:
        d, material = lid, SKIN
    brow = _capsule(m, y, z, 0.016, 1.662, -0.0995, 0.050, 1.6635, -0.081, 0.0042, 0.0024)
    if brow < d:
        d, material = brow, BROW
    mouth = _ellipsoid(x, y, z, 0, 1.5815, -0.086, 0.021, 0.0052, 0.0125)
    mouth = min(mouth, _ellipsoid(x, y, z, 0, 1.5745, -0.086, 0.0175, 0.0062, 0.0125))
    if mouth < d:
        d, material = mouth, LIP
    hat = _ellipsoid(x, y, z, 0, 1.690, 0.008, 0.089, 0.092, 0.105)
    hat = max(hat, 1.693 - y - 0.25 * z)
    fold = _ellipsoid(x, y, z, 0, 1.702, 0.004, 0.0955, 0.026, 0.109) + 0.0
    hat = min(hat, max(fold, 1.680 - y - 0.12 * z))
    hat += 0.0016 * np.sin(95 * np.arctan2(x, z)) * (1.0 if y < 1.726 else 0.6)
    if hat < d:
        d, material = hat, HAT
    return d, material


@njit(nogil=True, cache=True, fastmath=True)
def _figure(x, y, z, turn, breath):  # type: ignore[no-untyped-def]
    # Parts that cannot be nearest here are stood in for by a bound, which keeps the march quick.
    m = abs(x)
    d, material = max(1.44 - y, 0.04), SKIN
    if y > 1.38:
        d, material = _head(x, y, z, turn)
    if y > 1.56:
        return d, material
    body = _ellipsoid(x, y, z, 0, 1.20, 0.03, 0.19, 0.27, 0.122 + breath)
    body = _blend(body, _ellipsoid(x, y, z, 0, 0.86, 0.03, 0.195, 0.36, 0.14), 0.10)
    body = _blend(body, _capsule(m, y, z, 0.03, 1.405, 0.03, 0.165, 1.375, 0.035, 0.062, 0.066), 0.07)
    arm = _capsule(m, y, z, 0.198, 1.355, 0.03, 0.245, 1.13, -0.01, 0.062, 0.056)
    arm = _blend(arm, _capsule(m, y, z, 0.245, 1.13, -0.01, 0.092, 1.205, -0.205, 0.055, 0.040), 0.03)
    body = _blend(body, arm, 0.025)
    body += 0.0028 * np.sin(46 * y + 6 * m) * smoothstep(1.42, 1.30, y)
    if m < 0.006 and z < 0:
        body += 0.004
    if body < d:
        d, material = body, JACKET
    ring = np.sqrt(
        (np.sqrt(x * x + (z - 0.022) ** 2 * 1.1) - 0.073) ** 2 + ((y - 1.455 + 0.25 * z) * 0.72) ** 2
    )
    scarf = ring - 0.033 + 0.003 * np.sin(60 * y + 10 * np.arctan2(x, z))
    scarf = _blend(scarf, _capsule(x, y, z, -0.03, 1.42, -0.085, -0.045, 1.22, -0.125, 0.034, 0.026), 0.03)
    if scarf < d:
        d, material = scarf, SCARF
    near = np.sqrt(x * x + (y - 1.225) ** 2 + (z + 0.262) ** 2) - 0.125
    if near > 0.03:
        return min(d, near), material
    mx, mz = x, z + 0.262
    r = np.sqrt(mx * mx + mz * mz)
    wall = max(abs(r - 0.041) - 0.0022, abs(y - 1.232) - 0.046)
    wall = min(wall, max(r - 0.041, abs(y - 1.192) - 0.004))
    handle = np.sqrt((np.sqrt((mx - 0.045) ** 2 + (y - 1.232) ** 2) - 0.022) ** 2 + mz * mz) - 0.005
    mug = min(wall, handle)
    if mug < d:
        d, material = mug, ENAMEL
        if y > 1.272:
            material = RIM
    hand = _ellipsoid(m, y, z, 0.060, 1.218, -0.238, 0.018, 0.040, 0.036)
    for k in range(4):
        h = 1.250 - 0.0195 * k
        hand = _blend(
            hand, _capsule(m, y, z, 0.056, h, -0.262, 0.034, h - 0.002, -0.304, 0.0105, 0.0092), 0.006
        )
        hand = _blend(
            hand, _capsule(m, y, z, 0.034, h - 0.002, -0.304, 0.012, h - 0.004, -0.311, 0.0092, 0.008), 0.005
        )
    hand = _blend(hand, _capsule(m, y, z, 0.058, 1.246, -0.225, 0.047, 1.275, -0.252, 0.012, 0.0095), 0.010)
    if hand < d:
        d, material = hand, SKIN
    return d, material


@njit(nogil=True, cache=True, fastmath=True)
def _shade(x, y, z, dx, dy, dz, material, turn, breath, skin, weave, out):  # type: ignore[no-untyped-def]
    e = 0.0012
    nx = _figure(x + e, y, z, turn, breath)[0] - _figure(x - e, y, z, turn, breath)[0]
    ny = _figure(x, y + e, z, turn, breath)[0] - _figure(x, y - e, z, turn, breath)[0]
    nz = _figure(x, y, z + e, turn, breath)[0] - _figure(x, y, z - e, turn, breath)[0]
    inv = 1.0 / (np.sqrt(nx * nx + ny * ny + nz * nz) + 1e-9)
    nx, ny, nz = nx * inv, ny * inv, nz * inv
    open_sky, reach = 1.0, 0.012
    for _ in range(5):
        gap = _figure(x + nx * reach, y + ny * reach, z + nz * reach, turn, breath)[0]
        open_sky -= 0.55 * max(reach - gap, 0.0) / reach * 0.34
        reach *= 2.0
    open_sky = max(open_sky, 0.08)
    shadow, t = 1.0, 0.02
    lx, ly, lz = -0.50, 0.74, -0.45
    for _ in range(14):
        gap = _figure(
            x + nx * 0.004 + lx * t, y + ny * 0.004 + ly * t, z + nz * 0.004 + lz * t, turn, breath
        )[0]
        shadow = min(shadow, 0.5 + 3.2 * gap / t)
        t += max(gap, 0.015)
        if shadow < 0 or t > 0.7:
            break
    shadow = max(shadow, 0.0)
    facing = nx * lx + ny * ly + nz * lz
    key = max((facing + 0.25) / 1.25, 0.0) * (0.25 + 0.75 * shadow)
    sky = (0.55 + 0.45 * ny) * open_sky
    bounce = (0.5 - 0.5 * ny) * open_sky * 0.30
    r, g, b = 0.05, 0.05, 0.05
    gloss = 0.03
    if material in (SKIN, LIP):
        r, g, b = skin[0], skin[1], skin[2]
        if material == LIP:
            r, g, b = r * 0.86, g * 0.60, b * 0.62
        flush = 0.0
        if y > 1.5:
            flush = np.exp(-(((abs(x) - 0.045) / 0.024) ** 2) - ((y - 1.606) / 0.022) ** 2)
            flush += 0.7 * np.exp(-((x / 0.018) ** 2) - ((y - 1.61) / 0.018) ** 2)
        g *= 1 - 0.16 * flush
        b *= 1 - 0.17 * flush
        gloss = 0.055
    elif material == JACKET:
        r, g, b = 0.032, 0.088, 0.125
        shade = 1.0 + 0.08 * sample(weave, 7 * x, 7 * y)
        r, g, b = r * shade, g * shade, b * shade
    elif material == SCARF:
        r, g, b = 0.46, 0.245, 0.035
        shade = 1.0 + 0.16 * np.sin(420 * y) * np.sin(300 * x)
        r, g, b = r * shade, g * shade, b * shade
    elif material == HAT:
        r, g, b = 0.30, 0.052, 0.046
        if y > 1.728:
            r, g, b = 0.26, 0.045, 0.04
    elif material == ENAMEL:
        r, g, b = 0.83, 0.83, 0.82
        gloss = 0.16
    elif material == RIM:
        r, g, b = 0.03, 0.06, 0.16
        gloss = 0.12
    elif material == EYE:
        r, g, b = 0.62, 0.59, 0.57
        gloss = 0.10
    elif material == IRIS:
        r, g, b = 0.03, 0.022, 0.016
        gloss = 0.16
    elif material == BROW:
        r, g, b = 0.045, 0.030, 0.022
    warm = 1.0
    if material == SKIN:
        warm = 1.10  # light that travels under the skin comes back redder where it is dark
    lr = key * 0.62 + sky * 0.94 + bounce * 0.9
    lg = key * 0.62 + sky * 0.97 + bounce * 0.95
    lb = key * 0.60 + sky * 1.00 + bounce * 0.9
    hx, hy, hz = lx - dx, ly - dy, lz - dz
    hi = 1.0 / np.sqrt(hx * hx + hy * hy + hz * hz)
    shine = max((nx * hx + ny * hy + nz * hz) * hi, 0.0) ** 22 * shadow
    rim = (1 - max(-(nx * dx + ny * dy + nz * dz), 0.0)) ** 4 * max(ny + 0.4, 0.0) * 0.35
    out[0] = r * lr * (warm if lr < 0.8 else 1.0) + gloss * (shine + rim)
    out[1] = g * lg + gloss * (shine + rim)
    out[2] = b * lb + gloss * (shine + rim) * 1.02


@njit(nogil=True, cache=True, fastmath=True)
def _figure_rows(first, end, picture, cover, eye, forward, right, up, zoom, turn, breath, sway, skin, weave):  # type: ignore[no-untyped-def]
    rows, columns = picture.shape[0], picture.shape[1]
    out = np.zeros(3)
    for j in range(first, end):
        for i in range(columns):
            a = (i + 0.5 - columns / 2) / columns * zoom
            b = (rows / 2 - j - 0.5) / columns * zoom
            dx = forward[0] + a * right[0] + b * up[0]
            dy = forward[1] + a * right[1] + b * up[1]
            dz = forward[2] + a * right[2] + b * up[2]
            inv = 1.0 / np.sqrt(dx * dx + dy * dy + dz * dz)
            dx, dy, dz = dx * inv, dy * inv, dz * inv
            ox, oy, oz = eye[0] - sway, eye[1], eye[2]
            t, at, material = 1.15, -1.0, 0
            # The figure stands in a slab around z = 0: rays that pass it by need no march.
            across = abs(ox + dx / dz * (0.03 - oz))
            if across > 0.36 or oy + dy / dz * (0.03 - oz) > 1.83:
                continue
            for _ in range(64):
                d, material = _figure(ox + dx * t, oy + dy * t, oz + dz * t, turn, breath)
                if d < 0.0006:
                    at = t
                    break
                t += 0.85 * d
                if t > 1.95:
                    break
            if at > 0:
                _shade(
                    ox + dx * t,
                    oy + dy * t,
                    oz + dz * t,
                    dx,
                    dy,
                    dz,
                    material,
                    turn,
                    breath,
                    skin,
                    weave,
                    out,
                )
                for c in range(3):
                    picture[j, i, c] = out[c]
                cover[j, i] = 1.0


@njit(nogil=True, cache=True, fastmath=True)
def _background_rows(first, end, picture, eye, forward, right, up, zoom, time, clouds, grain):  # type: ignore[no-untyped-def]
    rows, columns = picture.shape[0], picture.shape[1]
    for j in range(first, end):
        for i in range(columns):
            a = (i + 0.5 - columns / 2) / columns * zoom
            b = (rows / 2 - j - 0.5) / columns * zoom
            dx = forward[0] + a * right[0] + b * up[0]
            dy = forward[1] + a * right[1] + b * up[1]
            dz = forward[2] + a * right[2] + b * up[2]
            inv = 1.0 / np.sqrt(dx * dx + dy * dy + dz * dz)
            dx, dy, dz = dx * inv, dy * inv, dz * inv
            azimuth = np.arctan2(dx, dz)
            hill = 0.030 + 0.016 * sample(clouds, 0.21 * azimuth + 0.1, 0.2)
            hill += 0.0035 * sample(grain, 0.9 * azimuth, 0.4)
            if dy > 0 and dy > hill:
                u, v = dx / (dy + 0.22) * 0.11, dz / (dy + 0.22) * 0.11
                c = sample(clouds, u, v) + 0.35 * sample(clouds, 3 * u, 3 * v + 0.2)
                base = 0.80 + 0.34 * dy
                picture[j, i, 0] = base * (0.93 + 0.075 * c)
                picture[j, i, 1] = base * (0.97 + 0.070 * c)
                picture[j, i, 2] = base * (1.03 + 0.062 * c)
            elif dy > 0.0:
                tree = sample(grain, 2.3 * azimuth, dy * 9.0)
                field = smoothstep(-0.2, 0.8, sample(clouds, 0.9 * azimuth, 0.7))
                veil = 0.36 + 0.3 * smoothstep(0.02, 0.0, dy)
                for c in range(3):
                    woods = (0.040, 0.062, 0.038)[c] * (1 + 0.22 * tree)
                    meadow = (0.14, 0.15, 0.06)[c] * (1 + 0.08 * tree)
                    land = woods + (meadow - woods) * field * smoothstep(0.028, 0.006, dy)
                    picture[j, i, c] = land + ((0.56, 0.61, 0.66)[c] - land) * veil * 0.62
            else:
                t = -eye[1] / dy
                x, z = eye[0] + dx * t, eye[2] + dz * t
                deck = -1.06 - 0.0  # the planks lie half a metre above the tide
                td = (deck - 0.55 + 1.06 - eye[1] + 0.0) / dy
                px, pz = eye[0] + dx * td, eye[2] + dz * td
                if abs(px - 0.55 - 0.10 * pz) < 0.85 and pz < 9.5 and td > 0:
                    plank = np.floor(pz / 0.145)
                    gap = pz / 0.145 - plank
                    tone = 0.72 + 0.42 * ((plank * 0.618) % 1.0)
                    tone *= 1 + 0.16 * sample(grain, px * 0.9, plank * 0.37)
                    if gap < 0.07:
                        tone *= 0.2
                    edge = smoothstep(0.85, 0.80, abs(px - 0.55 - 0.10 * pz))
                    tone *= 0.35 + 0.65 * edge
                    for c in range(3):
                        picture[j, i, c] = (0.24, 0.215, 0.185)[c] * tone
                    continue
                fade = 1.0 / (1.0 + 0.02 * t)
                ripple = sample(grain, x * 0.031 + 0.012 * time, z * 0.10 - 0.02 * time)
                ripple += 0.8 * sample(clouds, x * 0.05, z * 0.16 + 0.03 * time)
                slope = 0.030 * fade * ripple
                up_ray = min(max(-dy + slope, 0.0), 1.0)
                fresnel = 0.03 + 0.97 * (1 - up_ray) ** 6
                mirror = smoothstep(0.018, 0.055, -dy + 0.7 * slope)
                for c in range(3):
                    shore = (0.26, 0.30, 0.30)[c]
                    heaven = (0.80, 0.84, 0.89)[c]
                    body = (0.055, 0.085, 0.075)[c]
                    shown = shore + (heaven - shore) * mirror
                    picture[j, i, c] = body * (1 - fresnel) + shown * fresnel


def _posts(picture: Linear, eye: Float, zoom: float, columns: int, pan: float) -> None:
    """Draw mooring posts and a white dinghy into the background, back to front."""
    rows = picture.shape[0]
    middle = rows / 2

    def place(x: float, y: float, z: float) -> tuple[float, float, float]:
        scale = columns / zoom / (z - eye[2])
        return columns / 2 + (x - eye[0]) * scale + pan, middle - (y - eye[1]) * scale, scale

    hull = np.array([[-0.9, 0.0], [-0.75, 0.34], [1.05, 0.42], [0.78, 0.0]])
    cx, cy, s = place(3.1, 0.0, 10.5)
    outline = np.round(np.stack([cx + hull[:, 0] * s, cy - hull[:, 1] * s], axis=1)).astype(np.int32)
    cv2.fillPoly(picture, [outline], (0.74, 0.75, 0.74), lineType=cv2.LINE_AA)
    stripe = outline.copy()
    stripe[[0, 3], 1] = np.round(outline[[1, 2], 1] + 0.30 * (outline[[0, 3], 1] - outline[[1, 2], 1]))
    cv2.fillPoly(picture, [stripe], (0.035, 0.12, 0.17), lineType=cv2.LINE_AA)
    for x, z in ((1.95, 7.0), (0.25, 7.0), (1.65, 4.2)):
        px, top, s = place(x, 1.06, z)
        foot = place(x, 0.0, z)[1]
        half = 0.085 * s
        cv2.rectangle(
            picture,
            (round(px - half), round(top)),
            (round(px + half), round(foot)),
            (0.085, 0.072, 0.058),
            -1,
        )
        lit = (round(px - half), round(top)), (round(px - 0.45 * half), round(foot))
        cv2.rectangle(picture, *lit, (0.15, 0.13, 0.108), -1)
        cap = (round(px - half), round(top)), (round(px + half), round(top + 0.10 * s))
        cv2.rectangle(picture, *cap, (0.62, 0.62, 0.60), -1)


def render_jetty(time_s: float, *, width: int, height: int, skin: str = "tan") -> Linear:
    """Render the figure at the jetty as scene-linear BT.709 (height, width, 3), metered for the face."""
    clouds, grain = _textures()
    phase = 2 * np.pi * time_s / DURATION_S
    hold = 0.006 * np.sin(1.7 * phase) + 0.003 * np.sin(4.3 * phase)  # a camera held in the hand
    eye = np.array([0.24 + 0.4 * hold, 1.50 + 0.3 * hold, -1.62])
    forward = np.array([0.0, -0.052 + hold * 0.4, 1.0])
    forward /= np.linalg.norm(forward)
    right = np.cross(np.array([0.0, 1.0, 0.0]), forward)
    right /= np.linalg.norm(right)
    up = np.cross(forward, right)
    zoom = 0.98 * max(1.0, 1.25 * width / height / (16 / 9)) if width < height else 0.98
    far = np.zeros((height, width, 3), np.float32)
    over_rows(
        height,
        lambda a, b: _background_rows(a, b, far, eye, forward, right, up, zoom, time_s, clouds, grain),
        bands=8,
    )
    _posts(far, eye, zoom, width, 0.0)
    cv2.GaussianBlur(far, (0, 0), 0.0022 * max(width, height), dst=far)  # the lens is focused on the person
    near, cover = np.zeros_like(far), np.zeros((height, width), np.float32)
    turn = -0.20 + 0.13 * np.sin(phase)
    breath = 0.002 * np.sin(2 * phase)
    tone = np.array(SKIN_TONES[skin])
    over_rows(
        height,
        lambda a, b: _figure_rows(
            a, b, near, cover, eye, forward, right, up, zoom, turn, breath, -0.20, tone, grain
        ),
        bands=16,
    )
    picture: Linear = (far * (1 - cover[..., None]) + near * cover[..., None]) * np.float32(EXPOSURE)
    return picture

"""Salt marsh and an old sluice from the air in low sun: a drone circles from sun-behind to into-the-sun."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numba import njit

from morphe.core.bands import over_rows
from morphe.core.signal.arrays import Float, Linear
from morphe.core.standins.noise import fractal, sample, smoothstep

__all__ = ["DURATION_S", "render_marsh"]

DURATION_S = 4.0
TILE_M = 420.0  # the land repeats after this many metres
TEXELS = 1024
SUN = np.array([0.80, 0.27, -0.535]) / np.linalg.norm([0.80, 0.27, -0.535])
SUN_RGB = np.array([2.9, 2.25, 1.45])
SKY_RGB = np.array([0.36, 0.47, 0.66])
EXPOSURE = 0.62  # brings the log mean of the flight to a grey card


def _box(x: float, y: float, z: float, dx: float, dy: float, dz: float) -> list[list[float]]:
    """Half-spaces (normal, offset) of a box centred on (x, z) that stands on y."""
    return [
        [1, 0, 0, x + dx], [-1, 0, 0, dx - x], [0, 1, 0, y + dy], [0, -1, 0, -y],
        [0, 0, 1, z + dz], [0, 0, -1, dz - z],
    ]  # fmt: skip


def _roof(x: float, y: float, z: float, dx: float, height: float, dz: float) -> list[list[float]]:
    slope = np.array([0.0, dz, height]) / np.hypot(dz, height)
    ridge = float(slope @ np.array([0, y + height, z]))
    other = float(slope[1] * (y + height) - slope[2] * z)
    return [
        [1, 0, 0, x + dx], [-1, 0, 0, dx - x], [0, slope[1], slope[2], ridge],
        [0, slope[1], -slope[2], other], [0, -1, 0, -y], [0, 1, 0, y + height],
    ]  # fmt: skip


@lru_cache(maxsize=1)
def _solids() -> tuple[Float, Float]:
    """The sluice as convex solids (n, 6, 4) and linear albedos (n, 4); the last value is the pattern."""
    brick, timber, white, slate, stone = (
        (0.26, 0.105, 0.062, 1), (0.075, 0.055, 0.04, 2), (0.80, 0.80, 0.78, 0),
        (0.075, 0.082, 0.095, 3), (0.33, 0.31, 0.27, 0),
    )  # fmt: skip
    parts: list[tuple[list[list[float]], tuple[float, ...]]] = [
        (_box(-6.2, -1.0, 0, 1.7, 4.6, 3.8), brick),
        (_box(6.2, -1.0, 0, 1.7, 4.6, 3.8), brick),
        (_box(0, -1.0, 0, 0.7, 4.4, 3.4), brick),
        (_box(-2.7, -0.6, 0.4, 1.9, 2.9, 0.18), timber),
        (_box(2.7, -0.2, 0.4, 1.9, 3.1, 0.18), timber),
        (_box(0, 3.5, 0, 8.4, 0.32, 1.7), stone),
        (_box(-10.6, 2.0, 0.6, 3.1, 3.6, 2.8), white),
        (_roof(-10.6, 5.6, 0.6, 3.5, 2.3, 3.2), slate),
        (_box(-12.6, 5.8, 0.4, 0.42, 3.0, 0.42), brick),
        (_box(-9.6, 2.3, -2.24, 0.55, 1.9, 0.06), (0.03, 0.09, 0.13, 0)),
        (_box(-11.9, 3.4, -2.24, 0.5, 0.9, 0.05), (0.05, 0.06, 0.07, 0)),
    ]
    for x in np.linspace(-7.9, 7.9, 9):
        parts.append((_box(float(x), 3.8, -1.6, 0.07, 1.15, 0.07), white))
        parts.append((_box(float(x), 3.8, 1.6, 0.07, 1.15, 0.07), white))
    for side in (-1.6, 1.6):
        parts.append((_box(0, 4.75, side, 8.0, 0.12, 0.06), white))
    for x in (-2.7, 2.7):
        parts.append((_box(x, 3.8, 0.4, 0.16, 1.9, 0.16), timber))
    return np.array([p for p, _ in parts]), np.array([c for _, c in parts])


@lru_cache(maxsize=1)
def _land() -> tuple[Float, Float, Float, Float]:
    """Height (n, n) in metres over the tide, albedo (n, n, 3), clouds and grass, all tileable."""
    rng = np.random.default_rng(71)
    n = TEXELS
    rough, patches, fine = fractal(n, 1.7, rng), fractal(n, 1.5, rng), fractal(n, 0.65, rng)
    warp_x, warp_z, creek = fractal(n, 2.1, rng), fractal(n, 2.1, rng), fractal(n, 1.9, rng)
    axis = np.arange(n)
    zi, xi = np.meshgrid(axis, axis, indexing="ij")
    wx, wz = (xi + 16 * warp_x).astype(int) % n, (zi + 16 * warp_z).astype(int) % n
    metres = TILE_M / n
    x, z = (xi - n / 2) * metres, (zi - n / 2) * metres
    channel = np.abs(
        x - 9 * np.sin(2 * np.pi * z / TILE_M * 2) - 6 * np.sin(2 * np.pi * z / TILE_M * 5) * 0.4
    )
    channel = channel + 1.6 * fine * np.clip(channel / 12, 0, 1)
    banks = np.clip((channel - 4.2) / 7.0, 0, 1)
    creeks = np.clip(np.abs(creek[wz, wx]) / 0.16, 0, 1) ** 0.8
    wet = np.minimum(banks, 0.12 + 0.88 * creeks)
    dike = np.exp(-((np.abs(z) / 4.6) ** 4)) * np.clip((channel - 5.0) / 2.5, 0, 1)
    height = -0.9 + 1.75 * wet + 0.16 * rough * wet + 0.09 * fine * np.clip(wet * 1.5 - 0.4, 0, 1)
    height = np.maximum(height, -0.9) + 2.6 * dike

    def mix(a: Float, b: tuple[float, ...], w: Float) -> Float:
        return a * (1 - w[..., None]) + np.array(b) * w[..., None]

    def step(low: float, high: float, v: Float) -> Float:
        t = np.clip((v - low) / (high - low), 0, 1)
        return t * t * (3 - 2 * t)

    albedo = np.broadcast_to(np.array([0.115, 0.135, 0.042]), (n, n, 3)).copy()
    albedo = mix(albedo, (0.25, 0.205, 0.085), step(-0.2, 1.2, patches))
    albedo = mix(albedo, (0.16, 0.105, 0.15), 0.65 * step(0.7, 1.7, rough + 0.4 * fine))
    albedo = mix(albedo, (0.25, 0.075, 0.055), 0.75 * step(0.9, 0.45, wet) * step(-0.6, 0.6, patches[::-1]))
    albedo = mix(albedo, (0.155, 0.125, 0.092), step(0.62, 0.30, wet))
    albedo = mix(albedo, (0.085, 0.07, 0.055), step(0.32, 0.12, wet))
    albedo = mix(albedo, (0.10, 0.16, 0.035), 0.8 * step(0.25, 0.8, dike))
    albedo = mix(albedo, (0.34, 0.29, 0.21), 0.8 * np.exp(-((z / 0.9) ** 2)) * (dike > 0.5))
    albedo *= np.exp(0.20 * fine + 0.08 * patches)[..., None]
    return (
        height.astype(np.float32),
        albedo.astype(np.float32),
        fractal(512, 1.55, rng),
        fractal(512, 0.55, rng),
    )


@njit(nogil=True, cache=True, fastmath=True)
def _sky(dx, dy, dz, clouds, sun, out):  # type: ignore[no-untyped-def]
    up = max(dy, 0.0)
    toward = max(dx * sun[0] + dy * sun[1] + dz * sun[2], 0.0)
    low = np.exp(-up * 5.0)
    r, g, b = 0.20 + 0.62 * low, 0.34 + 0.52 * low, 0.66 + 0.26 * low
    warm = toward * toward * toward * low
    glow = 0.55 * toward**24 + 0.30 * toward**6 * low
    r, g, b = r + 0.55 * warm + 1.5 * glow, g + 0.22 * warm + 1.15 * glow, b - 0.12 * warm + 0.75 * glow
    if dy > 0.012:
        u, v = dx / (dy + 0.10) * 0.055, dz / (dy + 0.10) * 0.055
        c = sample(clouds, u, v) + 0.45 * sample(clouds, 3.1 * u + 0.3, 3.1 * v)
        cover = smoothstep(0.25, 1.5, c) * smoothstep(0.012, 0.16, dy)
        lit = 0.72 + 0.9 * toward**5 + 0.15 * (1 - smoothstep(0.9, 2.2, c))
        r += (1.10 * lit - r) * cover * 0.85
        g += (0.98 * lit - g) * cover * 0.85
        b += (0.90 * lit - b) * cover * 0.85
    if toward > 0.9996:
        r, g, b = r + 22.0, g + 18.0, b + 12.0
    out[0], out[1], out[2] = r, g, b


@njit(nogil=True, cache=True, fastmath=True)
def _hit_solids(ox, oy, oz, dx, dy, dz, planes, limit):  # type: ignore[no-untyped-def]
    """Nearest convex solid along a ray: distance, index and face, or index -1."""
    best, which, face = limit, -1, 0
    for s in range(planes.shape[0]):
        near, far, at = 0.0, best, -1
        for p in range(6):
            nx, ny, nz, off = planes[s, p, 0], planes[s, p, 1], planes[s, p, 2], planes[s, p, 3]
            along = nx * dx + ny * dy + nz * dz
            gap = off - (nx * ox + ny * oy + nz * oz)
            if along > -1e-9 and along < 1e-9:
                if gap < 0:
                    far = -1.0
                    break
            elif along < 0:
                t = gap / along
                if t > near:
                    near, at = t, p
            else:
                t = gap / along
                if t < far:
                    far = t
            if near >= far:
                break
        if near < far and near > 1e-3 and at >= 0 and near < best:
            best, which, face = near, s, at
    return best, which, face


@njit(nogil=True, cache=True, fastmath=True)
def _height(height, x, z):  # type: ignore[no-untyped-def]
    return sample(height, x / TILE_M + 0.5, z / TILE_M + 0.5)


@njit(nogil=True, cache=True, fastmath=True)
def _sunlit(x, y, z, height, planes, sun):  # type: ignore[no-untyped-def]
    """Share of the sun that reaches a point, 0..1."""
    reach = 60.0
    _, which, _ = _hit_solids(x, y, z, sun[0], sun[1], sun[2], planes, reach)
    if which >= 0:
        return 0.0
    light, t = 1.0, 0.35
    for _ in range(14):
        gap = y + sun[1] * t - _height(height, x + sun[0] * t, z + sun[2] * t)
        light = min(light, 0.5 + 6.0 * gap / t)
        if light <= 0:
            return 0.0
        t *= 1.38
    return min(light, 1.0)


@njit(nogil=True, cache=True, fastmath=True)
def _ground(x, z, distance, height, albedo, grass, planes, sun, sun_rgb, sky_rgb, out):  # type: ignore[no-untyped-def]
    e = 0.25 + 0.004 * distance
    h = _height(height, x, z)
    gx = (_height(height, x + e, z) - _height(height, x - e, z)) / (2 * e)
    gz = (_height(height, x, z + e) - _height(height, x, z - e)) / (2 * e)
    inv = 1.0 / np.sqrt(gx * gx + gz * gz + 1)
    facing = max((-gx * sun[0] + sun[1] - gz * sun[2]) * inv, 0.0)
    # Standing grass catches low sun better than flat ground would.
    facing = 0.75 * facing + 0.16
    light = facing * _sunlit(x, h + 0.1, z, height, planes, sun)
    n = albedo.shape[0]
    u, v = (x / TILE_M + 0.5) * n, (z / TILE_M + 0.5) * n
    fu, fv = np.floor(u), np.floor(v)
    wu, wv = u - fu, v - fv
    iu, iv = int(fu) % n, int(fv) % n
    ju, jv = (iu + 1) % n, (iv + 1) % n
    # Blades and tussocks: detail finer than the land's texels, fading before it would alias.
    tuft = np.exp(-distance / 75.0) * sample(grass, x * 0.085, z * 0.085)
    blade = np.exp(-distance / 38.0) * sample(grass, x * 0.31, z * 0.24)
    grain = max(1.0 + 0.26 * tuft + 0.30 * blade, 0.25)
    for c in range(3):
        a = (albedo[iv, iu, c] * (1 - wu) + albedo[iv, ju, c] * wu) * (1 - wv) + (
            albedo[jv, iu, c] * (1 - wu) + albedo[jv, ju, c] * wu
        ) * wv
        out[c] = a * grain * (sun_rgb[c] * light + sky_rgb[c] * (0.55 + 0.45 * inv))


@njit(nogil=True, cache=True, fastmath=True)
def _solid(x, y, z, which, face, planes, colours, height, sun, sun_rgb, sky_rgb, out):  # type: ignore[no-untyped-def]
    nx, ny, nz = planes[which, face, 0], planes[which, face, 1], planes[which, face, 2]
    facing = max(nx * sun[0] + ny * sun[1] + nz * sun[2], 0.0)
    light = 0.0
    if facing > 0:
        light = facing * _sunlit(x + nx * 0.02, y + ny * 0.02, z + nz * 0.02, height, planes, sun)
    pattern = colours[which, 3]
    shade = 1.0 + 0.10 * sample(height, (x + y) * 0.11, (z - y) * 0.11)
    along = x if abs(nz) > 0.5 else z
    if pattern == 1:
        course = np.floor(y / 0.22)
        joint = (y / 0.22 - course < 0.14) or ((along / 0.5 + 0.5 * (course % 2)) % 1.0 < 0.07)
        shade *= 1.25 if joint else 0.88 + 0.24 * ((course * 7.3 + np.floor(along / 0.5) * 3.7) % 1.0)
        shade *= 0.45 + 0.55 * smoothstep(0.0, 1.3, y)
    elif pattern == 2:
        shade *= 0.75 + 0.5 * ((np.floor(along / 0.3) * 5.3) % 1.0)
        shade *= 0.5 + 0.5 * smoothstep(0.0, 1.5, y)
    elif pattern == 3:
        shade *= 0.8 + 0.4 * ((np.floor(y / 0.25) * 5.7 + np.floor(along / 0.4) * 2.9) % 1.0)
    for c in range(3):
        ambient = sky_rgb[c] * (0.55 + 0.45 * ny) + 0.05 * sun_rgb[c]
        out[c] = colours[which, c] * shade * (sun_rgb[c] * light + ambient)


@njit(nogil=True, cache=True, fastmath=True)
def _trace(ox, oy, oz, dx, dy, dz, time, scene, out, tmp):  # type: ignore[no-untyped-def]
    height, albedo, grass, clouds, planes, colours, sun, sun_rgb, sky_rgb = scene
    far = 2600.0
    solid_t, which, face = _hit_solids(ox, oy, oz, dx, dy, dz, planes, far)
    t, hit, before = 0.0, False, 0.0
    if dy < -1e-4:
        t = max((3.3 - oy) / dy, 0.0)
        for _ in range(220):
            y = oy + dy * t
            gap = y - max(_height(height, ox + dx * t, oz + dz * t), 0.0)
            if gap < 0.004 + 0.0006 * t:
                hit = True
                break
            before = t
            t += max(0.42 * gap, 0.02 + 0.0012 * t)
            if t > far or t > solid_t:
                break
        if hit:
            low, high = before, t
            for _ in range(5):
                mid = 0.5 * (low + high)
                if oy + dy * mid > max(_height(height, ox + dx * mid, oz + dz * mid), 0.0):
                    low = mid
                else:
                    high = mid
            t = high
    distance = far
    if which >= 0 and (not hit or solid_t < t):
        distance = solid_t
        _solid(
            ox + dx * solid_t,
            oy + dy * solid_t,
            oz + dz * solid_t,
            which,
            face,
            planes,
            colours,
            height,
            sun,
            sun_rgb,
            sky_rgb,
            out,
        )
    elif hit:
        distance = t
        x, z = ox + dx * t, oz + dz * t
        ground = _height(height, x, z)
        if ground > 0.0:
            _ground(x, z, t, height, albedo, grass, planes, sun, sun_rgb, sky_rgb, out)
        else:
            calm = 0.020 / (1.0 + 0.004 * t)
            u, v = x * 0.052 + 0.021 * time, z * 0.052 + 0.013 * time
            nx = calm * (sample(clouds, u, v) + 0.7 * sample(clouds, 2.7 * u, 2.7 * v + 0.03 * time))
            nz = calm * (sample(clouds, v + 0.37, u) + 0.7 * sample(clouds, 2.7 * v, 2.7 * u + 0.5))
            inv = 1.0 / np.sqrt(nx * nx + nz * nz + 1)
            facing = -(dx * nx + dy + dz * nz) * inv
            rx = dx + 2 * facing * nx * inv
            ry = abs(dy + 2 * facing * inv)
            rz = dz + 2 * facing * nz * inv
            fresnel = 0.02 + 0.98 * (1.0 - min(max(facing, 0.0), 1.0)) ** 5
            st, sw, sf = _hit_solids(x, 0.01, z, rx, ry, rz, planes, 80.0)
            if sw >= 0:
                _solid(
                    x + rx * st,
                    ry * st,
                    z + rz * st,
                    sw,
                    sf,
                    planes,
                    colours,
                    height,
                    sun,
                    sun_rgb,
                    sky_rgb,
                    tmp,
                )
            else:
                _sky(rx, ry, rz, clouds, sun, tmp)
            depth = min(-ground, 0.9)
            light = 0.35 + 0.65 * _sunlit(x, 0.05, z, height, planes, sun)
            for c in range(3):
                bottom = (0.092, 0.076, 0.05)[c] * np.exp(-depth * (1.2, 0.9, 1.6)[c])
                body = (0.018, 0.026, 0.020)[c]
                out[c] = (bottom + body) * (1 - fresnel) * 1.3 * light + fresnel * min(tmp[c], 9.0)
    else:
        _sky(dx, dy, dz, clouds, sun, out)
        ridge = 0.010 + 0.006 * sample(clouds, 0.35 * np.arctan2(dx, dz), 0.3)
        ridge += 0.002 * sample(clouds, 2.9 * np.arctan2(dx, dz), 0.6)
        if dy < ridge:
            for c in range(3):
                out[c] = out[c] * 0.72 + (0.05, 0.07, 0.09)[c] * 0.28
        return
    # Haze takes the colour of the sky behind it, warmer towards the sun.
    toward = max(dx * sun[0] + dz * sun[2], 0.0)
    _sky(dx, 0.02, dz, clouds, sun, tmp)
    for c in range(3):
        veil = 1 - np.exp(-distance * (0.00095, 0.00110, 0.00135)[c] * (1 + 0.5 * toward))
        out[c] += (0.82 * min(tmp[c], 2.2) - out[c]) * veil


@njit(nogil=True, cache=True, fastmath=True)
def _render_rows(first, end, picture, eye, forward, right, up, zoom, time, scene, exposure):  # type: ignore[no-untyped-def]
    rows, columns = picture.shape[0], picture.shape[1]
    out, tmp = np.zeros(3), np.zeros(3)
    for j in range(first, end):
        for i in range(columns):
            a = (i + 0.5 - columns / 2) / columns * zoom
            b = (rows / 2 - j - 0.5) / columns * zoom
            dx = forward[0] + a * right[0] + b * up[0]
            dy = forward[1] + a * right[1] + b * up[1]
            dz = forward[2] + a * right[2] + b * up[2]
            inv = 1.0 / np.sqrt(dx * dx + dy * dy + dz * dz)
            _trace(eye[0], eye[1], eye[2], dx * inv, dy * inv, dz * inv, time, scene, out, tmp)
            for c in range(3):
                picture[j, i, c] = exposure * out[c]


def render_marsh(time_s: float, *, width: int, height: int, flight: int = 0) -> Linear:
    """Render the marsh at `time_s` as scene-linear BT.709 (height, width, 3), metered for the whole flight.

    `flight` 0 circles from sun-behind to into the sun, 1 approaches with the sun at the side.
    """
    land, albedo, clouds, grass = _land()
    planes, colours = _solids()
    share = time_s / DURATION_S
    sun_at = np.arctan2(SUN[0], SUN[2])
    if flight == 0:
        # The camera stands opposite to where it looks: sun-behind means standing towards the sun.
        angle = sun_at + np.radians(-20 - 118 * share)
        reach, rise, aim = 47.0, 17.0 - 4 * share, 3.2
    else:
        angle = sun_at + np.radians(52 + 10 * share)
        reach, rise, aim = 62.0 - 14 * share, 12.5, 2.0
    eye = np.array([reach * np.sin(angle), rise, reach * np.cos(angle)])
    forward = np.array([-2.0, aim + 2.2, 0.0]) - eye
    forward /= np.linalg.norm(forward)
    right = np.cross(np.array([0.0, 1.0, 0.0]), forward)
    right /= np.linalg.norm(right)
    up = np.cross(forward, right)
    picture = np.empty((height, width, 3), np.float32)
    scene = (land, albedo, grass, clouds, planes, colours, SUN, SUN_RGB, SKY_RGB)
    over_rows(
        height,
        lambda first, end: _render_rows(
            first, end, picture, eye, forward, right, up, 1.12, time_s, scene, EXPOSURE
        ),
        bands=16,
    )
    return picture

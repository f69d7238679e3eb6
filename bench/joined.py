"""Files of several shots, and single clips that only look like them: moved over photographs, really encoded.

Everything is drawn from a seed: rate, length of the shots, how they are joined, what happens within them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np

from morphe.core.footage.yuv import frame_codes
from morphe.core.signal.light import light_rgb
from morphe.core.signal.primaries import LUMINANCE_709
from morphe.core.signal.transfer import decode_bt709, encode_bt709
from morphe.core.signal.ycbcr import Matrix

__all__ = ["Joined", "Seam", "draw_joined", "draw_single", "film_shot", "write"]

RATES = ("12", "15", "24000/1001", "24", "25", "30000/1001", "30", "50", "60000/1001", "60")
SIZE = (320, 180)
SINGLES = ("calm", "whip", "flash", "lightning", "jump", "balance", "drift", "cellar", "walk", "shake")


@dataclass(frozen=True, slots=True, kw_only=True)
class Seam:
    """Where one shot ends and the next begins: the frames (first, last) of the change; alike for a cut."""

    kind: str  # cut, dissolve, black
    first: int
    last: int


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Joined:
    """Frames (n of (h, w, 3) encoded), and where shots meet."""

    rate: Fraction
    frames: Sequence[np.ndarray]
    seams: tuple[Seam, ...] = ()
    kind: str = "joined"


def _path(generator: np.random.Generator, count: int, rate: float, kind: str) -> np.ndarray:
    """Where the camera looks (count, 3): x, y of the view in 0..1 of its room, and its size."""
    t = np.arange(count) / rate
    ends = generator.uniform(0.2, 0.8, (2, 2))
    speed = generator.uniform(0.02, 0.2)
    way = ends[0] + (ends[1] - ends[0]) * np.minimum(speed * t, 1)[:, None]
    hand = generator.choice([0.0, 0.003, 0.008])
    way = way + hand * np.stack([np.sin(7.1 * t + 1), np.sin(9.3 * t)], axis=1)
    if kind == "shake":
        way += 0.03 * np.stack([np.sin(31 * t + 1), np.sin(38 * t)], axis=1)
    if kind == "whip":
        begin, length = generator.uniform(0.3, 0.5) * t[-1], generator.uniform(0.15, 0.4)
        swing = np.clip((t - begin) / length, 0, 1)
        way[:, 0] = 0.02 + 0.96 * (3 * swing**2 - 2 * swing**3)
    zoom = generator.uniform(0.4, 0.6) * np.exp(generator.choice([0, 0, 0.04, -0.04]) * t)
    return np.column_stack([np.clip(way, 0, 1), zoom])


def _view(photograph: np.ndarray, place: np.ndarray) -> np.ndarray:
    height, width = photograph.shape[:2]
    wide = min(width, height * SIZE[0] / SIZE[1]) * min(place[2], 0.95)
    x, y = place[0] * (width - wide), place[1] * (height - wide * SIZE[1] / SIZE[0])
    scale = wide / SIZE[0]
    view = np.array([[scale, 0, x + scale / 2], [0, scale, y + scale / 2]])
    small = cv2.warpAffine(photograph, view, SIZE, flags=cv2.WARP_INVERSE_MAP | cv2.INTER_AREA)
    return np.clip(small, 0, 1)


def film_shot(
    photograph: np.ndarray, count: int, rate: float, generator: np.random.Generator, kind: str = "calm"
) -> list[np.ndarray]:
    """Frames of one shot (count of (h, w, 3) encoded); `kind` is what happens in it."""
    path = _path(generator, count, rate, kind)
    frames = []
    gain = _light(kind, count, rate, generator)
    if (
        kind == "cellar"
    ):  # from the sun through a door: the view grows dark, the camera opens, all else goes on
        path[:, 0] = np.linspace(0.1, 0.9, count)
    for at in range(count):
        here, steps = path[at], 1
        if at and kind in ("whip", "shake"):  # what moves quickly is blurred over half of the interval
            steps = 1 + int(min(np.abs(path[at, :2] - path[at - 1, :2]).max() * 60, 8))
        views = [_view(photograph, here + (path[at - 1] - here) * 0.5 * s / steps) for s in range(steps)]
        picture = np.mean(views, axis=0)
        if kind == "walk":  # somebody passes close by
            left = int((at / count * 2.2 - 0.6) * SIZE[0])
            picture[20:, max(left, 0) : max(left + 110, 0)] = (0.2, 0.16, 0.15)
        if (gain[at] != 1).any():
            light = decode_bt709(picture.astype(np.float32)) * gain[at].astype(np.float32)
            picture = np.clip(encode_bt709(light), 0, 1)
        frames.append(picture.astype(np.float32))
    return frames


def _light(kind: str, count: int, rate: float, generator: np.random.Generator) -> np.ndarray:
    """Gains (count, 3) of the light."""
    t, stops = np.arange(count) / rate, np.zeros(count)
    mired = np.zeros(count)
    middle = generator.uniform(0.3, 0.7) * t[-1]
    if kind in ("flash", "lightning"):
        for _ in range(1 if kind == "flash" else int(generator.integers(2, 5))):
            begin = int(generator.uniform(0.1, 0.9) * count)
            stops[begin : begin + max(1, round(generator.uniform(0.02, 0.12) * rate))] = generator.uniform(
                1.5, 4
            )
    elif kind == "jump":
        stops = np.where(t > middle, generator.choice([-1, 1]) * generator.uniform(0.5, 2.0), 0)
    elif kind == "balance":
        mired = np.where(t > middle, generator.choice([-1, 1]) * generator.uniform(30, 90), 0)
    elif kind == "drift":
        stops = generator.uniform(0.5, 1.5) * np.sin(
            2 * np.pi * t / max(t[-1], 0.1) + generator.uniform(0, 6)
        )
    elif kind == "cellar":
        stops = -4 / (1 + np.exp(-(t - middle) * 6)) + 2.5 / (1 + np.exp(-(t - middle - 0.7) * 5))
    cast = np.stack([light_rgb(m, 0.0) for m in mired]) if mired.any() else np.ones((count, 3))
    return cast / (cast @ LUMINANCE_709)[:, None] * 2.0 ** stops[:, None]


def draw_single(photograph: np.ndarray, seed: Sequence[int], kind: str) -> Joined:
    """One clip that must not be cut."""
    generator = np.random.default_rng(seed)
    rate = Fraction(str(generator.choice(RATES)))
    count = max(round(generator.uniform(2.0, 5.0) * float(rate)), 12)
    return Joined(rate=rate, frames=film_shot(photograph, count, float(rate), generator, kind), kind=kind)


def draw_joined(photographs: Sequence[np.ndarray], seed: Sequence[int], *, steady: bool = False) -> Joined:
    """As many shots as there are photographs, joined; with cuts alone and steady light if so wanted."""
    generator = np.random.default_rng(seed)
    rate = Fraction(str(generator.choice(RATES)))
    frames: list[np.ndarray] = []
    seams: list[Seam] = []
    for photograph in photographs:
        count = max(round(generator.uniform(1.2, 3.5) * float(rate)), 10)
        shot = film_shot(
            photograph,
            count,
            float(rate),
            generator,
            str(generator.choice(["calm"] * 5 + ["drift", "shake"])),
        )
        if frames:
            kind = "cut" if steady else str(generator.choice(["cut"] * 3 + ["dissolve", "black"]))
            seams.append(_join(frames, shot, kind, max(round(generator.uniform(0.3, 1.0) * float(rate)), 4)))
        frames += shot
    return Joined(rate=rate, frames=frames, seams=tuple(seams))


def _join(frames: list[np.ndarray], shot: list[np.ndarray], kind: str, length: int) -> Seam:
    """Join in place: what overlaps leaves the end of `frames`, or the beginning of `shot`, changed."""
    if kind == "cut":
        return Seam(kind=kind, first=len(frames), last=len(frames))
    if kind == "dissolve":
        length = min(length, len(shot) // 2, len(frames) // 2)
        for at in range(length):
            share = (at + 1) / (length + 1)
            frames[len(frames) - length + at] = (1 - share) * frames[
                len(frames) - length + at
            ] + share * shot[at]
        del shot[:length]
        return Seam(kind=kind, first=len(frames) - length, last=len(frames))
    half = min(length, len(shot) // 2, len(frames) // 2)
    for at in range(half):
        frames[-1 - at] = frames[-1 - at] * (at / half)
        shot[at] = shot[at] * (at / half)
    return Seam(kind=kind, first=len(frames) - half, last=len(frames) + half)


def write(path: Path, clip: Joined, crf: int = 21) -> Path:
    """Encode it as H.264 of 8 bits."""
    with av.open(str(path), "w") as container:
        stream = container.add_stream("libx264", rate=clip.rate)
        height, width = clip.frames[0].shape[:2]
        stream.width, stream.height, stream.pix_fmt = width, height, "yuv420p"
        stream.options = {"preset": "veryfast", "crf": str(crf)}
        context = stream.codec_context
        context.color_range = context.colorspace = context.color_primaries = context.color_trc = 1
        noise = np.random.default_rng(len(clip.frames))
        for at, picture in enumerate(clip.frames):
            noisy = np.clip(picture + noise.normal(0, 0.006, picture.shape[:2])[..., None], 0, 1).astype(
                np.float32
            )
            frame = av.VideoFrame(width, height, "yuv420p")
            for plane, codes in zip(
                frame.planes, frame_codes(noisy, bit_depth=8, matrix=Matrix.BT709), strict=True
            ):
                np.frombuffer(plane, np.uint8).reshape(plane.height, -1)[:, : codes.shape[1]] = codes
            frame.pts, frame.time_base = at, 1 / clip.rate
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return path

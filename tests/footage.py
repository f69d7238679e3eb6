"""Clips for tests: real files, tiny, with whatever codec, tags and oddities a test asks for."""

from __future__ import annotations

import random
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from functools import lru_cache
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np

from morphe.core.signal.ycbcr import Matrix, Range, range_scale, rgb_to_ycbcr

__all__ = [
    "ClipSpec",
    "any_clip",
    "any_spec",
    "blocks_apart",
    "click_of",
    "decoded_planes",
    "frame_times",
    "other_scene",
    "picture_planes",
    "scene",
    "several_shots",
    "write_clip",
    "write_sound",
]  # fmt: skip

LOSSLESS = {
    "libx264": {"preset": "ultrafast", "qp": "0"},
    "libx265": {"x265-params": "lossless=1:log-level=0"},
}
CLICK_S = 0.5  # after the first frame


@dataclass(frozen=True, kw_only=True)
class ClipSpec:
    """How a clip is stored; the defaults are a small, tagged, ordinary one."""

    codec: str = "libx264"
    pixel_format: str = "yuv420p"
    size: tuple[int, int] = (96, 64)
    frames: int = 12
    fps: Fraction = Fraction(25)
    pts: Sequence[int] | None = None  # in ticks; None is one frame after the other
    ticks: int = 1  # of a frame
    start_s: Fraction = Fraction(0)  # at which the container begins
    rotation: int = 0  # clockwise, to stand upright
    range: Range | None = Range.NARROW
    matrix: Matrix | None = Matrix.BT709
    primaries: int = 1  # ITU-T H.273
    transfer: int = 1
    options: dict[str, str] = field(default_factory=dict)
    sound: str | None = None  # codec
    sound_rate: int = 48000
    sound_layout: str = "stereo"
    sound_at_s: float = 0.0  # beside the picture
    sound_tracks: int = 1
    metadata: dict[str, str] = field(default_factory=dict)
    timecode: str | None = None

    @property
    def bit_depth(self) -> int:
        return 10 if "10" in self.pixel_format else 8

    @property
    def times_s(self) -> list[float]:
        """When each frame is shown, from the first."""
        ticks = self.pts or range(0, self.frames * self.ticks, self.ticks)
        return [float((t - ticks[0]) / (self.fps * self.ticks)) for t in ticks]


def scene(width: int, height: int, index: int = 0) -> np.ndarray:
    """A picture (H, W, 3) with ramps, colours and a moving bright square, 0..1."""
    x, y = np.meshgrid(np.linspace(0, 1, width), np.linspace(0, 1, height))
    picture = np.stack([0.08 + 0.7 * x, 0.10 + 0.6 * y, 0.15 + 0.3 * (1 - x) + 0.2 * y], axis=-1)
    left = (4 + 3 * index) % max(width - 12, 1)
    picture[height // 3 : height // 3 + 8, left : left + 10] = 0.92
    return picture.astype(np.float32)


def picture_planes(picture: np.ndarray, spec: ClipSpec) -> list[np.ndarray]:
    """Codes of the three planes of a picture, chroma averaged over its block."""
    scale = range_scale(spec.range or Range.NARROW, spec.bit_depth)
    signal = rgb_to_ycbcr(picture.astype(np.float32), spec.matrix or Matrix.BT709)
    dtype = np.uint8 if spec.bit_depth == 8 else np.uint16
    luma = np.rint(signal[..., 0] * scale.luma_scale + scale.luma_offset)
    across = 1 if "444" in spec.pixel_format else 2
    down = 2 if "420" in spec.pixel_format else 1
    planes = [luma]
    for chroma in np.moveaxis(signal[..., 1:], -1, 0):
        wide = np.pad(chroma, ((0, chroma.shape[0] % down), (1, 1)), mode="edge")
        if across == 2:  # co-sited with even columns
            seen = 0.25 * wide[:, :-2:2] + 0.5 * wide[:, 1:-1:2] + 0.25 * wide[:, 2::2]
        else:
            seen = wide[:, 1:-1]
        mean = seen.reshape(seen.shape[0] // down, down, -1).mean(axis=1)
        planes.append(np.rint(mean * scale.chroma_scale + scale.chroma_offset))
    return [np.clip(p, 0, scale.max_code).astype(dtype) for p in planes]


Pictures = Callable[[int], np.ndarray]


def write_clip(
    path: Path, spec: ClipSpec | None = None, pictures: Pictures | None = None, *, lossless: bool = True
) -> Path:
    """Write a clip of `pictures(index)` (H, W, 3), or of the test scene."""
    spec = spec or ClipSpec()
    width, height = spec.size
    draw = pictures or (lambda index: scene(width, height, index))
    # a colon in a name is no protocol
    with av.open(f"file:{path}", "w", options={"movflags": "use_metadata_tags"}) as container:
        container.metadata.update(spec.metadata)
        stream = _video(container, spec, lossless)
        count = spec.sound_tracks if spec.sound else 0
        sounds = [container.add_stream(spec.sound, rate=spec.sound_rate) for _ in range(count)]
        for sound in sounds:
            sound.codec_context.layout = spec.sound_layout
        begin = round(spec.start_s * spec.fps * spec.ticks)
        for index in range(spec.frames):
            frame = _frame(picture_planes(draw(index), spec), spec)
            frame.pts = begin + (spec.pts[index] if spec.pts else index * spec.ticks)
            frame.time_base = 1 / (spec.fps * spec.ticks)
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
        for sound in sounds:
            length = max(spec.times_s[-1] + float(1 / spec.fps), 0.2)
            _tone(container, sound, length, float(spec.start_s) + spec.sound_at_s, CLICK_S - spec.sound_at_s)
    return path


def _video(container: Any, spec: ClipSpec, lossless: bool) -> Any:
    stream = container.add_stream(spec.codec, rate=spec.fps)
    stream.width, stream.height = spec.size
    stream.pix_fmt = spec.pixel_format
    stream.codec_context.time_base = 1 / (spec.fps * spec.ticks)
    stream.options = {**(LOSSLESS.get(spec.codec, {}) if lossless else {}), **spec.options}
    if spec.range is not None:
        stream.codec_context.color_range = 2 if spec.range is Range.FULL else 1
    if spec.matrix is not None:
        stream.codec_context.colorspace = {Matrix.BT601: 6, Matrix.BT709: 1, Matrix.BT2020: 9}[spec.matrix]
        stream.codec_context.color_primaries = spec.primaries
        stream.codec_context.color_trc = spec.transfer
    if spec.timecode:
        stream.metadata["timecode"] = spec.timecode
    if spec.rotation:
        stream.set_display_rotation(-spec.rotation)
    return stream


def _frame(planes: list[np.ndarray], spec: ClipSpec) -> Any:
    frame = av.VideoFrame(*spec.size, spec.pixel_format)
    for target, codes in zip(frame.planes, planes, strict=True):
        rows = np.frombuffer(target, codes.dtype).reshape(target.height, -1)
        rows[:, : codes.shape[1]] = codes
    if spec.range is not None:
        frame.color_range = 2 if spec.range is Range.FULL else 1
    if spec.matrix is not None:
        frame.colorspace = {Matrix.BT601: 6, Matrix.BT709: 1, Matrix.BT2020: 9}[spec.matrix]
    return frame


def _tone(container: Any, stream: Any, seconds: float, at_s: float = 0.0, click_s: float = CLICK_S) -> None:
    """A soft tone with one loud click in it."""
    rate, layout = stream.codec_context.sample_rate, stream.codec_context.layout
    time = np.arange(int(rate * seconds)) / rate
    wave = 0.05 * np.sin(2 * np.pi * 440 * time)
    wave[(time >= click_s) & (time < click_s + 0.01)] = 0.8
    samples = np.repeat((wave * 32767).astype(np.int16), layout.nb_channels).reshape(1, -1)
    frame = av.AudioFrame.from_ndarray(samples, format="s16", layout=layout.name)
    frame.sample_rate = rate
    frame.pts, frame.time_base = round(at_s * rate), Fraction(1, rate)
    resampler = av.AudioResampler(stream.codec_context.format, layout.name, rate, stream.frame_size or 1024)
    for part in [*resampler.resample(frame), *resampler.resample(None)]:
        container.mux(stream.encode(part))
    container.mux(stream.encode(None))


def write_sound(path: Path, seconds: float = 0.5) -> Path:
    """A file with sound and no picture."""
    with av.open(f"file:{path}", "w") as container:
        stream = container.add_stream("aac", rate=48000)
        stream.codec_context.layout = "stereo"
        _tone(container, stream, seconds)
    return path


def decoded_planes(path: Path) -> list[list[np.ndarray]]:
    """All frames' planes as the decoder gives them."""
    with av.open(f"file:{path}") as container:
        frames = []
        for frame in container.decode(video=0):
            dtype = np.uint16 if "10" in frame.format.name else np.uint8
            planes = []
            for number, plane in enumerate(frame.planes):
                rows = np.frombuffer(plane, dtype).reshape(plane.height, -1)
                across = frame.width if number == 0 or "444" in frame.format.name else (frame.width + 1) // 2
                planes.append(rows[:, :across].copy())
            frames.append(planes)
        return frames


@lru_cache(maxsize=16)
def blocks_apart(one: Path, other: Path) -> float:
    """The most by which blocks of luma differ in any frame of two files, in codes of 8 bits.

    Files of one order differ by what coding does, which such blocks hardly show.
    """
    worst = 0.0
    for a, b in zip(decoded_planes(one), decoded_planes(other), strict=True):
        scale = 1 if a[0].dtype == np.uint8 else 4
        size = (a[0].shape[1] // 16, a[0].shape[0] // 16)
        blocks = [cv2.resize(p[0].astype(np.float32), size, interpolation=cv2.INTER_AREA) for p in (a, b)]
        worst = max(worst, float(np.abs(blocks[0] - blocks[1]).mean()) / scale)
    return worst


def _blots(width: int, height: int, seed: int) -> np.ndarray:
    draw = np.random.default_rng(seed)
    x, y = np.meshgrid(np.arange(3 * width) / width - 1, np.arange(height) / width)
    picture = np.full((height, 3 * width, 3), draw.uniform(0.2, 0.45, 3), np.float32)
    for _ in range(150):
        place, size = draw.uniform((-1, 0), (2, height / width)), draw.uniform(0.01, 0.08)
        picture[(x - place[0]) ** 2 + (y - place[1]) ** 2 < size**2] = draw.uniform(0.05, 0.9, 3)
    return picture


def other_scene(width: int, height: int, seed: int, at: float = 0.0) -> np.ndarray:
    """A picture (H, W, 3) of blots that no other seed has, moved by `at` (-1..1) of its width, 0..1."""
    left, share = divmod((1 + at) * width, 1)
    wide = _blots(width, height, seed)[:, int(left) : int(left) + width + 1]
    wide = np.pad(wide, ((0, 0), (0, width + 1 - wide.shape[1]), (0, 0)), mode="edge")
    return ((1 - share) * wide[:, :-1] + share * wide[:, 1:]).astype(np.float32)


def several_shots(
    lengths: Sequence[int], seed: int, gains: Sequence[float] = (), size: tuple[int, int] = (192, 108)
) -> Pictures:
    """Shots of so many frames, each of other things and perhaps of other light, joined by cuts."""
    edges = np.cumsum([0, *lengths])

    def draw(index: int) -> np.ndarray:
        shot = int(np.searchsorted(edges, index, "right")) - 1
        picture = other_scene(*size, seed * 100 + shot, at=0.002 * (index - edges[shot]))
        return np.clip(picture * (gains[shot] if gains else 1.0), 0, 1)

    return draw


# -- clips drawn by chance: what cameras, phones, editors and messengers write -------------------------

RATES = (
    "12",
    "15",
    "24000/1001",
    "24",
    "25",
    "30000/1001",
    "30",
    "48",
    "50",
    "60000/1001",
    "60",
    "100",
    "120",
    "240",
)
SIZES = ((160, 90), (192, 108), (90, 160), (128, 96), (214, 120), (120, 120), (144, 116), (158, 90))
SOUNDS = {
    "mp4": (None, "aac", "aac", "flac", "libopus"), "mov": (None, "aac", "pcm_s16le"),
    "mkv": (None, "aac", "pcm_s16le", "flac", "libopus"),
}  # fmt: skip
NAMES = (
    "clip",
    "DSC 0012",
    "Fluß am Morgen",
    "take-3 (copy)",
    "été_Ⅱ",
    "a'b",
    "100%",
    "10:05",
    "no\u00a0break",
    "漫步",
)


def any_spec(seed: int) -> tuple[ClipSpec, str, str]:
    """The facts of a clip, its name and its container, drawn from a seed."""
    draw = random.Random(seed)
    ten = draw.random() < 0.35
    codec = "libx265" if ten else draw.choice(["libx264"] * 4 + ["libx265", "mpeg4", "mjpeg"])
    chroma = draw.choice(["420"] * 5 + ["422", "444"]) if codec.startswith("libx") else "420"
    full = codec == "mjpeg" or (codec != "mpeg4" and draw.random() < 0.15)
    box = draw.choice(list(SOUNDS))
    sound = draw.choice(SOUNDS[box])
    rate, frames = (
        Fraction(draw.choice(RATES)),
        draw.choice([1, 2, 7]) if draw.random() < 0.2 else draw.randint(24, 60),
    )
    uneven = codec != "mpeg4" and draw.random() < 0.2
    pts = [10 * i + (3 if i % 3 else 0) for i in range(frames)] if uneven else None
    spec = ClipSpec(
        codec=codec, pixel_format=f"yuv{'j' if codec == 'mjpeg' else ''}{chroma}p{'10le' if ten else ''}",
        size=draw.choice(SIZES), frames=frames, fps=rate, pts=pts, ticks=10 if uneven else 1,
        start_s=draw.choice([Fraction(0)] * 3 + [Fraction(3, 2)]),
        rotation=draw.choice([0, 0, 0, 90, 180, 270]) if box != "mkv" else 0,
        range=Range.FULL if full else draw.choice([Range.NARROW, Range.NARROW, None]),
        matrix=draw.choice([Matrix.BT709, Matrix.BT709, Matrix.BT601, None]),
        options={"g": draw.choice(["1", "12", "250"])} | ({"bf": "2"} if codec == "libx264" else {}),
        sound=sound, sound_rate=48000 if sound == "libopus" else draw.choice([44100, 48000, 96000]),
        sound_layout=draw.choice(["stereo", "stereo", "mono", "stereo" if sound == "libopus" else "4.0"]),
        sound_at_s=draw.choice([0.0, 0.0, -0.02, 0.021, 0.25]),
        timecode="09:59:58:10" if box == "mov" and rate in (24, 25, 30) and draw.random() < 0.3 else None,
    )  # fmt: skip
    return spec, draw.choice(NAMES), box


def any_clip(folder: Path, seed: int) -> tuple[Path, ClipSpec]:
    """Write the clip of a seed; what it holds comes with it. The seed is printed, to have a failure again."""
    spec, name, box = any_spec(seed)
    print(f"any_clip({seed}): {name}.{box} {spec}")
    return write_clip(folder / f"{name}.{box}", spec), spec


def frame_times(path: Path) -> list[float]:
    """When the frames of a file are shown, from the first."""
    with av.open(f"file:{path}") as container:
        stream = container.streams.video[0]
        shown = sorted(p.pts * p.time_base for p in container.demux(stream) if p.size and not p.is_discard)
    return [float(t - shown[0]) for t in shown]


def click_of(path: Path) -> float | None:
    """When the click is heard, in seconds after the first frame; None where there is no sound."""
    with av.open(f"file:{path}") as container:
        if not container.streams.audio:
            return None
        video = container.streams.video[0]
        begin = min(p.pts * p.time_base for p in container.demux(video) if p.size and not p.is_discard)
        container.seek(0)
        for frame in container.decode(container.streams.audio[0]):
            samples = frame.to_ndarray()
            heard = np.abs(
                samples / (32768 if samples.dtype == np.int16 else 2**31 if samples.dtype == np.int32 else 1)
            )
            if not frame.format.is_planar:
                heard = heard.reshape(-1, frame.layout.nb_channels).T
            if (heard > 0.4).any():
                at = int(np.argmax((heard > 0.4).any(axis=0)))
                return float(frame.pts * frame.time_base - begin) + at / frame.sample_rate
    return None

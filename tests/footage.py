"""Clips for tests: real files, tiny, with whatever codec, tags and oddities a test asks for."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np

from morphe.core.signal.ycbcr import Matrix, Range, range_scale, rgb_to_ycbcr

__all__ = ["ClipSpec", "decoded_planes", "picture_planes", "scene", "write_clip", "write_sound"]

LOSSLESS = {
    "libx264": {"preset": "ultrafast", "qp": "0"},
    "libx265": {"x265-params": "lossless=1:log-level=0"},
}


@dataclass(frozen=True, kw_only=True)
class ClipSpec:
    """How a clip is stored; the defaults are a small, tagged, ordinary one."""

    codec: str = "libx264"
    pixel_format: str = "yuv420p"
    size: tuple[int, int] = (96, 64)
    frames: int = 12
    fps: Fraction = Fraction(25)
    pts: Sequence[int] | None = None  # in ticks of 1/fps; None is one tick per frame
    rotation: int = 0  # clockwise, to stand upright
    range: Range | None = Range.NARROW
    matrix: Matrix | None = Matrix.BT709
    primaries: int = 1  # ITU-T H.273
    transfer: int = 1
    options: dict[str, str] = field(default_factory=dict)
    sound: str | None = None
    metadata: dict[str, str] = field(default_factory=dict)
    timecode: str | None = None

    @property
    def bit_depth(self) -> int:
        return 10 if "10" in self.pixel_format else 8


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
    with av.open(str(path), "w", options={"movflags": "use_metadata_tags"}) as container:
        container.metadata.update(spec.metadata)
        stream = _video(container, spec, lossless)
        sound = container.add_stream(spec.sound, rate=48000) if spec.sound else None
        if sound is not None:
            sound.codec_context.layout = "stereo"
        for index in range(spec.frames):
            frame = _frame(picture_planes(draw(index), spec), spec)
            frame.pts = spec.pts[index] if spec.pts else index
            frame.time_base = 1 / spec.fps
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
        if sound is not None:
            _tone(container, sound, float(spec.frames / spec.fps))
    return path


def _video(container: Any, spec: ClipSpec, lossless: bool) -> Any:
    stream = container.add_stream(spec.codec, rate=spec.fps)
    stream.width, stream.height = spec.size
    stream.pix_fmt = spec.pixel_format
    stream.codec_context.time_base = 1 / spec.fps
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


def _tone(container: Any, stream: Any, seconds: float) -> None:
    count = int(48000 * seconds)
    wave = (0.2 * np.sin(2 * np.pi * 440 * np.arange(count) / 48000) * 32767).astype(np.int16)
    samples = np.repeat(wave, 2).reshape(1, -1)
    frame = av.AudioFrame.from_ndarray(samples, format="s16", layout="stereo")
    frame.sample_rate = 48000
    resampler = av.AudioResampler(stream.codec_context.format, "stereo", 48000, stream.frame_size or 1024)
    for part in [*resampler.resample(frame), *resampler.resample(None)]:
        container.mux(stream.encode(part))
    container.mux(stream.encode(None))


def write_sound(path: Path, seconds: float = 0.5) -> Path:
    """A file with sound and no picture."""
    with av.open(str(path), "w") as container:
        stream = container.add_stream("aac", rate=48000)
        stream.codec_context.layout = "stereo"
        _tone(container, stream, seconds)
    return path


def decoded_planes(path: Path) -> list[list[np.ndarray]]:
    """All frames' planes as the decoder gives them."""
    with av.open(str(path)) as container:
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

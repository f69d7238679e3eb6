"""Made-up cameras: what happens to scene light on its way into a file."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np

from morphe.core.footage.yuv import frame_codes
from morphe.core.signal.arrays import Encoded, Linear
from morphe.core.signal.light import light_rgb
from morphe.core.signal.primaries import LUMINANCE_709, Primaries, rgb_to_rgb
from morphe.core.signal.profiles import HDR, PROFILES, Kind, Profile
from morphe.core.signal.ycbcr import Matrix

__all__ = ["Exposure", "film", "film_in", "record", "truth"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Exposure:
    """Everything that a camera was set to when it filmed.

    `exposure_stops` is the error of exposure, `warm_mired` and `green_duv` the error of white balance
    (the picture comes out that much too warm and too green), `noise` the deviation of read noise in
    scene-linear light, `sharpening` the amount of the in-camera unsharp mask. `tags` is what the file
    says of itself: the truth ("own"), nothing ("none"), or what files of another profile say (its key).
    """

    profile: str = "std-709"
    exposure_stops: float = 0.0
    warm_mired: float = 0.0
    green_duv: float = 0.0
    noise: float = 0.0012
    sharpening: float = 0.25
    bit_depth: int = 8
    codec: str = "libx264"
    bits_per_pixel: float = 0.26
    tags: str = "own"

    @property
    def kind(self) -> Kind:
        return PROFILES.get(self.profile).kind

    @property
    def is_hdr(self) -> bool:
        return self.kind in HDR

    @property
    def tagged_kind(self) -> Kind | None:
        """The kind of picture that the file's tags tell of, if it has any."""
        if self.tags == "none":
            return None
        return self.kind if self.tags == "own" else PROFILES.get(self.tags).kind

    @property
    def pixel_format(self) -> str:
        return "yuv420p" if self.bit_depth == 8 else "yuv420p10le"


def truth(linear: Linear) -> Encoded:
    """The ordinary BT.709 picture (..., 3) of a metered scene, clipped to 0..1: what a correction aims at."""
    return np.clip(PROFILES.get("std-709").encode(linear), 0, 1).astype(np.float32)


def film(linear: Linear, exposure: Exposure, generator: np.random.Generator) -> Encoded:
    """Turn scene-linear BT.709 (H, W, 3) into the encoded picture the camera writes, noise included."""
    return film_in(PROFILES.get(exposure.profile), linear, exposure, generator)


def film_in(profile: Profile, linear: Linear, exposure: Exposure, generator: np.random.Generator) -> Encoded:
    """As `film`, in any profile: `exposure.profile` is not looked at."""
    cast = light_rgb(exposure.warm_mired, exposure.green_duv)
    cast = cast / (cast @ LUMINANCE_709)
    light = linear * np.asarray(cast * 2.0**exposure.exposure_stops, np.float32)
    if profile.primaries is Primaries.BT2020:
        light = light @ rgb_to_rgb(Primaries.BT709, Primaries.BT2020).T.astype(np.float32)
    # Photon noise grows with the root of light, read noise is the same everywhere.
    sigma = exposure.noise * np.sqrt(1 + np.maximum(light, 0) * 40)
    light = np.clip(light + sigma * generator.standard_normal(light.shape, np.float32), -0.01, profile.clip)
    encoded = profile.encode(light).astype(np.float32)
    if exposure.sharpening:
        soft = cv2.GaussianBlur(encoded, (0, 0), 1.2)
        encoded = encoded + np.float32(exposure.sharpening) * (encoded - soft)
    return np.clip(encoded, 0, 1.0)


def record(
    pictures: Iterable[Encoded],
    path: Path,
    exposure: Exposure,
    *,
    fps: Fraction = Fraction(25),
    title: str = "",
) -> Path:
    """Encode pictures (H, W, 3) as the made-up camera would and write the clip to `path`."""
    with av.open(str(path), "w", options={"movflags": "+faststart"}) as container:
        if title:
            container.metadata["title"] = title
        stream: Any = None
        for count, picture in enumerate(pictures):
            if stream is None:
                height, width = picture.shape[:2]
                stream = _stream(container, exposure, width, height, fps)
            frame = _frame(picture, exposure)
            frame.pts, frame.time_base = count, 1 / fps
            container.mux(stream.encode(frame))
        if stream is not None:
            container.mux(stream.encode(None))
    return path


def _stream(container: Any, exposure: Exposure, width: int, height: int, fps: Fraction) -> Any:
    stream = container.add_stream(exposure.codec, rate=fps)
    stream.width, stream.height, stream.pix_fmt = width, height, exposure.pixel_format
    stream.bit_rate = int(exposure.bits_per_pixel * width * height * float(fps))
    stream.options = {"preset": "medium"}
    context = stream.codec_context
    if exposure.codec == "libx265":
        stream.options = {**stream.options, "x265-params": "log-level=none"}
        context.codec_tag = "hvc1"
    if told := exposure.tagged_kind:
        gamut = 9 if told in HDR else 1  # ITU-T H.273 code points
        context.color_range, context.colorspace, context.color_primaries = 1, gamut, gamut
        context.color_trc = {Kind.HLG: 18, Kind.PQ: 16}.get(told, 1)
    return stream


def _frame(picture: Encoded, exposure: Exposure) -> Any:
    matrix = Matrix.BT2020 if exposure.is_hdr else Matrix.BT709
    height, width = picture.shape[:2]
    frame: Any = av.VideoFrame(width, height, exposure.pixel_format)
    planes = frame_codes(picture, bit_depth=exposure.bit_depth, matrix=matrix)
    for target, codes in zip(frame.planes, planes, strict=True):
        row = np.frombuffer(target, codes.dtype).reshape(target.height, -1)
        row[:, : codes.shape[1]] = codes
    if told := exposure.tagged_kind:
        frame.color_range, frame.colorspace = 1, 9 if told in HDR else 1
    return frame

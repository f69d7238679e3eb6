"""The file that is written: its container, and its picture track with an encoder and tags."""

from __future__ import annotations

import os
from fractions import Fraction
from pathlib import Path
from typing import Any

import av

from morphe.core.errors import OutputError
from morphe.core.footage.there import address_of
from morphe.core.handover.light_level import LightLevel, level_options
from morphe.core.handover.painter import Painter
from morphe.core.handover.presets import Preset
from morphe.core.handover.size_kept import TwoPass

__all__ = ["add_picture", "opened", "tag"]

os.environ.setdefault("SVT_LOG", "1")  # of the AV1 encoder: errors alone
NARROW_TAG = 1  # ITU-T H.273
# What is written, how: a file that goes out begins to play while it loads; pictures on their way wait for it.
FORMATS = {
    "file": ("mp4", {"movflags": "+faststart+use_metadata_tags"}),
    "pictures": ("mp4", {}),
    "none": ("null", {}),
}


def opened(path: Path, kind: str = "file") -> Any:
    """A file to be written to, as one of `FORMATS`.

    Raises
    ------
    OutputError
        If it cannot be.
    """
    try:
        container, options = FORMATS[kind]
        return av.open(address_of(path), "w", format=container, options=options)
    except (av.error.FFmpegError, OSError) as error:
        raise OutputError(f"{path.parent} cannot be written to; choose another folder.") from error


def add_picture(
    target: Any, painter: Painter, *, base: Fraction, fps: Fraction | None = None,
    two_pass: TwoPass | None = None, level: LightLevel | None = None,
) -> Any:  # fmt: skip
    """The picture's track, with an encoder by the preset.

    Its times are counted in `base`; with even frames a second, in one frame.
    """
    info, preset = painter.info, painter.preset
    stream = target.add_stream(preset.codec, rate=Fraction(fps or info.fps).limit_denominator(100000))
    stream.width, stream.height = painter.shape.size
    stream.pix_fmt = painter.pixel_format
    stream.options = dict(preset.options)
    context = stream.codec_context
    if preset.codec == "libx264" and (fps or not info.variable_rate):
        stream.options["x264-params"] = "force-cfr=1"  # the stream says its rate, not the ticks it counts in
    if level is not None:
        for name, told in level_options(preset.codec, level).items():
            stream.options[name] = ":".join(filter(None, [stream.options.get(name), told]))
    if two_pass is not None:
        stream.options = two_pass.options(stream.options)
        if two_pass.rate:
            context.bit_rate = two_pass.rate
    if preset.tag:
        context.codec_tag = preset.tag
    context.thread_type = "FRAME"  # slices would cost a tenth of the speed and some of the quality
    context.thread_count = 0  # as many as serve the encoder on this machine
    context.time_base = stream.time_base = 1 / fps if fps else base
    marks = preset.marks
    context.color_range, context.colorspace = NARROW_TAG, marks.matrix_number
    context.color_primaries, context.color_trc = marks.primaries, marks.transfer
    aspect = info.pixel_aspect
    if aspect != 1:
        context.sample_aspect_ratio = 1 / aspect if info.rotation in (90, 270) else aspect
    return stream


def tag(frame: Any, preset: Preset) -> None:
    """Say on a frame what its codes mean."""
    marks = preset.marks
    frame.color_range, frame.colorspace = NARROW_TAG, marks.matrix_number
    frame.color_primaries, frame.color_trc = marks.primaries, marks.transfer
    frame.pict_type = 0  # the encoder chooses its own

"""CLF files (SMPTE ST 2136-1:2024): a profile written, a person's conversion read, by OpenColorIO."""

from __future__ import annotations

import re
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import PyOpenColorIO as ocio

from morphe.core.errors import LutError
from morphe.core.grade.table import ConversionTable
from morphe.core.pipeline.cube import CubeLut
from morphe.core.signal.arrays import Float
from morphe.core.signal.camera_log import CameraLog, general_log
from morphe.core.signal.primaries import Primaries, rgb_to_rgb
from morphe.core.signal.profiles import Profile
from morphe.core.signal.transfer import encode_bt709

__all__ = ["MAX_BYTES", "FromClf", "clf_of_cube", "clf_text", "read_clf"]

MAX_BYTES = 60_000_000
CURVE_SIZE, CUBE_SIZE = 8192, 65
LIGHT = 1.5  # what white code gives beyond this is light of the scene, not video code
FORMAT = "Academy/ASC Common LUT Format"


def clf_text(profile: Profile, *, curve: CameraLog | None, matrix: Float | None = None) -> str:
    """Write a profile as CLF: code (fraction of the narrow range) to scene-linear BT.709.

    Parameters
    ----------
    curve : the log curve, if the profile is one; it is then written as its parameters
    matrix : (3, 3) on the light, after the profile's primaries
    """
    group = ocio.GroupTransform()
    group.appendTransform(_log(curve) if curve else _table(profile))
    whole = np.eye(3) if matrix is None else np.asarray(matrix, float)
    if profile.primaries not in (Primaries.BT709, Primaries.UNSPECIFIED):
        whole = whole @ rgb_to_rgb(profile.primaries, Primaries.BT709)
    if not np.allclose(whole, np.eye(3)):
        square = np.eye(4)
        square[:3, :3] = whole
        group.appendTransform(ocio.MatrixTransform(square.ravel().tolist()))
    return str(group.write(FORMAT, ocio.Config.CreateRaw()))


def clf_of_cube(lut: CubeLut, *, title: str, left_out: Sequence[str] = ()) -> str:
    """A baked table as CLF; beyond its domain the edge is held. What is left out is said in the file."""
    size = lut.table.shape[0]
    low, high = lut.domain
    group = ocio.GroupTransform()
    if (low, high) != (0.0, 1.0):
        scale, offset = [1 / (high - low)] * 3, [-low / (high - low)] * 3
        group.appendTransform(ocio.MatrixTransform(np.diag([*scale, 1.0]).ravel().tolist(), [*offset, 0.0]))
    cube = ocio.Lut3DTransform(gridSize=size, interpolation=ocio.INTERP_TETRAHEDRAL)
    cube.setData(np.ascontiguousarray(lut.table, np.float32).ravel())
    group.appendTransform(cube)
    about = group.getFormatMetadata()
    about.setID(title)
    if left_out:
        about.addChildElement("Description", f"A table cannot hold {', '.join(left_out)}.")
    return str(group.write(FORMAT, ocio.Config.CreateRaw()))


def _log(curve: CameraLog) -> Any:
    log = ocio.LogCameraTransform(linSideBreak=[curve.linear_break] * 3, direction=ocio.TRANSFORM_DIR_INVERSE)
    log.setBase(2.0)
    log.setLogSideSlopeValue([curve.log_slope] * 3)
    log.setLogSideOffsetValue([curve.log_offset] * 3)
    log.setLinSideSlopeValue([1.0] * 3)
    log.setLinSideOffsetValue([curve.linear_offset] * 3)
    if curve.linear_slope is not None:
        log.setLinearSlopeValue([curve.linear_slope] * 3)
    return log


def _table(profile: Profile) -> Any:
    light = np.asarray(profile.decode(np.linspace(0, 1, CURVE_SIZE)), np.float32)
    lut = ocio.Lut1DTransform(CURVE_SIZE, False)
    lut.setData(np.repeat(light[:, None], 3, axis=1).ravel())
    lut.setFileOutputBitDepth(ocio.BIT_DEPTH_F32)
    return lut


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class FromClf:
    """What a CLF file turned out to be: a log curve with a matrix, or a table to BT.709 code."""

    curve: CameraLog | None = None
    matrix: tuple[float, ...] | None = None
    table: ConversionTable | None = None


def read_clf(text: str, name: str, *, gives_light: bool | None = None) -> FromClf:
    """Read a CLF file's text; a camera log curve keeps its numbers, anything else is sampled.

    Parameters
    ----------
    gives_light : whether its result is scene-linear light and not video code; None judges by its white.

    Raises
    ------
    LutError
        If it is no CLF, or gives values that are no numbers.
    """
    if len(text) > MAX_BYTES:
        raise LutError(f"{name} is far too long for a CLF file.")
    if "<!DOCTYPE" in text.upper() or "<!ENTITY" in text.upper():
        raise LutError(
            f"{name} declares entities, which a CLF file has no use for; export it again without them."
        )
    if "<ProcessList" not in text:
        raise LutError(f"{name} is no CLF file: it has no ProcessList.")
    processor = _processor(text, name)
    found = _log_of(list(processor.createGroupTransform()))
    return found or FromClf(table=_sampled(processor.getDefaultCPUProcessor(), name, gives_light))


def _processor(text: str, name: str) -> Any:
    # OpenColorIO keeps files by their path for ever, so every reading has a path of its own.
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "conversion.clf"
        path.write_text(text, encoding="utf-8")
        config = ocio.Config.CreateRaw()
        config.setProcessorCacheFlags(ocio.PROCESSOR_CACHE_OFF)
        try:
            return config.getProcessor(ocio.FileTransform(str(path), interpolation=ocio.INTERP_TETRAHEDRAL))
        except (ocio.Exception, UnicodeDecodeError) as error:  # its messages quote the file
            where = re.search(r"At line (\d+)", str(error))
            row = f" (row {where[1]})" if where else ""
            raise LutError(f"{name} cannot be read as CLF{row}; save it anew as Academy CLF.") from error


def _log_of(parts: list[Any]) -> FromClf | None:
    """A camera log curve, alone or with a matrix behind it."""
    if not parts or not isinstance(parts[0], ocio.LogCameraTransform) or len(parts) > 2:
        return None
    log = parts[0]
    if log.getDirection() != ocio.TRANSFORM_DIR_INVERSE:
        return None
    read = [log.getLogSideSlopeValue(), log.getLogSideOffsetValue(), log.getLinSideOffsetValue(),
            log.getLinSideBreakValue(), log.getLinSideSlopeValue()]  # fmt: skip
    if any(len(set(channel)) > 1 for channel in read):
        return None
    slope, offset, lift, edge, side = (float(channel[0]) for channel in read)
    straight = log.getLinearSlopeValue() if log.isLinearSlopeValueSet() else None
    curve = general_log(
        log_slope=slope, log_offset=offset, linear_offset=lift, linear_break=edge, linear_side_slope=side,
        base=float(log.getBase()), linear_slope=float(straight[0]) if straight else None,
    )  # fmt: skip
    if len(parts) == 1:
        return FromClf(curve=curve)
    if not isinstance(parts[1], ocio.MatrixTransform) or any(parts[1].getOffset()):
        return None
    matrix = np.array(parts[1].getMatrix()).reshape(4, 4)[:3, :3]
    return FromClf(curve=curve, matrix=tuple(float(v) for v in matrix.ravel()))


def _sampled(cpu: Any, name: str, gives_light: bool | None) -> ConversionTable:
    ramp = np.repeat(np.linspace(0, 1, CURVE_SIZE, dtype=np.float32)[:, None], 3, axis=1)
    white = float(_through(cpu, np.ones((1, 3), np.float32), name).max())
    is_light = white > LIGHT if gives_light is None else gives_light
    domain = {"low": np.zeros(3, np.float32), "high": np.ones(3, np.float32)}
    if not cpu.hasChannelCrosstalk():
        curves = _code(_through(cpu, ramp, name), is_light).T
        return ConversionTable(curves=np.ascontiguousarray(curves), **domain)
    axis = np.linspace(0, 1, CUBE_SIZE, dtype=np.float32)
    grid = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1).reshape(-1, 3)
    cube = _code(_through(cpu, grid, name), is_light).reshape(CUBE_SIZE, CUBE_SIZE, CUBE_SIZE, 3)
    return ConversionTable(cube=cube, **domain)


def _through(cpu: Any, values: Float, name: str) -> Float:
    out = np.ascontiguousarray(values, np.float32).copy()
    cpu.applyRGB(out)
    if not np.isfinite(out).all():
        raise LutError(f"{name} gives values that are no numbers; export it again.")
    return out


def _code(values: Float, is_light: bool) -> Float:
    return (encode_bt709(values) if is_light else values).astype(np.float32)

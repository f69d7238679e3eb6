"""What a browser needs to grade while it plays: tables, masks and shaders of every pass, for all moments."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from morphe.core.grade.grade import Grade
from morphe.core.grade.region import Region
from morphe.core.pipeline.cube import PREVIEW_SIZE, SIGNAL_DOMAIN, bake
from morphe.core.pipeline.passes import ColourPass, FramePass, MaskedPass, Pass, compile_grade
from morphe.core.signal.arrays import Encoded, Float, Plane

__all__ = ["MOST_TABLES", "Playing", "playing"]

MOST_TABLES = 16  # of a pass that moves; between them the browser blends
PLACES_PER_S, MOST_PLACES = 12, 1500  # of a region that moves
UNIFORMS_PER_S = 6
REACH = 9  # colours a side by which the range between passes is found
MARGIN = 0.05


@dataclass(kw_only=True)
class Playing:
    """Passes as plain values, and the numbers they speak of, half floats one after another."""

    passes: list[dict[str, Any]] = field(default_factory=list)
    data: bytes = b""

    def add(self, about: dict[str, Any], *numbers: Float) -> None:
        self.passes.append(about)
        self.data += b"".join(np.ascontiguousarray(n, np.float16).tobytes() for n in numbers)


def playing(
    grade: Grade, duration_s: float, *, before: Callable[[Encoded], Encoded] | None = None
) -> Playing:
    """Prepare a grade for a player.

    Parameters
    ----------
    before : brings the colours of a proxy to those of its clip, if they are others
    """
    out = Playing()
    passes: Sequence[Pass] = compile_grade(grade).passes or (ColourPass(),)
    if before and not isinstance(passes[0], ColourPass):
        passes = (ColourPass(), *passes)
    for number, one in enumerate(passes):
        domain = SIGNAL_DOMAIN if number == 0 else _reach(passes[:number], duration_s)
        if isinstance(one, FramePass):
            plane = one.step.plane()
            out.add(_frame_pass(one, duration_s, plane), *([] if plane is None else [plane]))
            continue
        inside = one.inside if isinstance(one, MaskedPass) else one
        times = [float(t) for t in np.linspace(0, duration_s, MOST_TABLES)] if inside.moves else [0.0]
        first = before if number == 0 else None
        tables = [np.clip(bake(inside.at(t), domain=domain, before=first).table, -2, 6) for t in times]
        about = {"kind": "colour", "size": PREVIEW_SIZE, "domain": domain, "times": times}
        if isinstance(one, MaskedPass):
            mask, plane = _mask(one.region, duration_s)
            out.add(
                {**about, "kind": "masked", "layer": one.layer.id, "strength": one.strength, "region": mask},
                *tables,
                plane,
            )
        else:
            out.add(about, *tables)
    return out


def _mask(region: Region, duration_s: float) -> tuple[dict[str, Any], Plane]:
    distances, half = region.distance_field
    count = int(np.clip(duration_s * PLACES_PER_S, 2, MOST_PLACES)) if region.moves else 1
    places = []
    for time_s in np.linspace(0, duration_s, count):
        at = region.place(float(time_s))
        places.append([round(v, 5) for v in (float(time_s), at.x, at.y, at.size, at.turn)])
    about = {"samples": len(distances), "half": half, "feather": region.feather, "inverse": region.inverse,
             "places": places}  # fmt: skip
    return about, distances


def _frame_pass(one: FramePass, duration_s: float, plane: Plane | None) -> dict[str, Any]:
    count = int(np.clip(duration_s * UNIFORMS_PER_S, 2, MOST_PLACES)) if one.moves else 1
    times = [float(t) for t in np.linspace(0, duration_s, count)]
    numbers = [one.step.at(t).uniforms() for t in times]
    return {"kind": "frame", "key": one.step.key, "shader": one.step.shader, "strength": one.strength,
            "times": times, "numbers": numbers, "plane": None if plane is None else plane.shape}  # fmt: skip


def _reach(passes: Sequence[Pass], duration_s: float) -> tuple[float, float]:
    """The range that colours can have after some passes; a mask only mixes what is on either side of it."""
    axis = np.linspace(*SIGNAL_DOMAIN, REACH, dtype=np.float32)
    grid: Encoded = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1).reshape(-1, 3)
    low, high = 0.0, 1.0
    for time_s in np.linspace(0, duration_s, 3):
        seen = grid
        for one in passes:
            if isinstance(one, FramePass):
                continue
            inside = one.inside if isinstance(one, MaskedPass) else one
            changed = inside.at(float(time_s)).apply(seen)
            seen = np.concatenate([seen, changed]) if isinstance(one, MaskedPass) else changed
        low, high = min(low, float(seen.min())), max(high, float(seen.max()))
    return max(low - MARGIN, -2.0), min(high + MARGIN, 6.0)

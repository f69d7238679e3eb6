"""A Grade compiled into passes: what can be one table is one; masks and neighbours stand apart."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from itertools import groupby

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.grade.denoise import Denoise
from morphe.core.grade.edges import Edges
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer, Scope
from morphe.core.grade.region import Region
from morphe.core.grade.source import Source
from morphe.core.grade.step import FrameStep
from morphe.core.pipeline.colour import through
from morphe.core.pipeline.hdr_space import HDR_WHITE, HdrSpace
from morphe.core.signal.arrays import Encoded, Float

__all__ = ["ColourPass", "FramePass", "MaskedPass", "Pass", "Pipeline", "compile_grade"]

CHANGE = 1.0  # of a number's even change, between two moments whose tables are blended
BENT = 0.2  # the way between them may leave the straight line by this much
EVEN_STOPS = 0.10  # of light over time
WATER_STOPS = 0.25  # of what water took: tables so far apart are blended to half a code of 8 bits
SAMPLES_PER_S, MOST_SAMPLES = 12, 2400


@dataclass(frozen=True, slots=True, kw_only=True)
class ColourPass:
    """Colour steps of a source and of neighbouring layers, which join into one table."""

    source: Source = field(default_factory=Source)
    layers: tuple[Layer, ...] = ()
    space: HdrSpace | None = None

    @property
    def moves(self) -> bool:
        return self.source.moves or any(layer.moves for layer in self.layers)

    def at(self, time_s: float) -> ColourPass:
        if not self.moves:
            return self
        held = tuple(layer.at(time_s) for layer in self.layers)
        return replace(self, source=self.source.at(time_s), layers=held)

    @property
    def at_rest(self) -> ColourPass:
        """Without what changes: light over time as it came, numbers as in the middle of their way."""
        if not self.moves:
            return self
        held = self.at(0.5 * (self.knots[0] + self.knots[-1]))
        return replace(held, source=self.source.at_rest)

    def apply(self, encoded: Encoded) -> Encoded:
        """Evaluate directly (..., 3); nothing is clipped."""
        return through(self.source, self.layers, encoded, self.space)

    @property
    def knots(self) -> tuple[float, ...]:
        """Moments between which the picture changes little and evenly."""
        return _knots(self.source, self.layers)


@dataclass(frozen=True, slots=True, kw_only=True)
class MaskedPass:
    """The colour steps of a layer, as far as its region says."""

    layer: Layer
    space: HdrSpace | None = None

    @property
    def region(self) -> Region:
        if self.layer.region is None:
            raise ColourError("A masked pass needs a region.")
        return self.layer.region

    @property
    def strength(self) -> float:
        return self.layer.strength

    @property
    def moves(self) -> bool:
        return self.layer.moves

    def at(self, time_s: float) -> MaskedPass:
        return replace(self, layer=self.layer.at(time_s)) if self.moves else self

    @property
    def inside(self) -> ColourPass:
        """What is done where the region is full."""
        return ColourPass(layers=(replace(self.layer, strength=1.0, region=None),), space=self.space)

    def apply(self, encoded: Encoded) -> Encoded:
        """Evaluate directly (H, W, 3), by the region's exact shape."""
        height, width = encoded.shape[:2]
        x, y = ((np.arange(n) + 0.5) / n for n in (width, height))
        share = self.region.share_at(x[None, :], y[:, None], width / height)[..., None]
        mixed = encoded + self.strength * share * (self.inside.apply(encoded) - encoded)
        return np.asarray(mixed, np.float32)


@dataclass(frozen=True, slots=True, kw_only=True)
class FramePass:
    """A step that needs neighbours or place, at a strength, on signal of which `white` is 100 %."""

    step: FrameStep
    strength: float = 1.0
    white: float = 1.0

    @property
    def moves(self) -> bool:
        return self.step.moves

    def at(self, time_s: float) -> FramePass:
        return replace(self, step=self.step.at(time_s)) if self.moves else self


Pass = ColourPass | MaskedPass | FramePass


@dataclass(frozen=True, slots=True, kw_only=True)
class Pipeline:
    """Passes in the order of the work; without any the picture stays as it is."""

    passes: tuple[Pass, ...] = ()
    denoise: Denoise = field(default_factory=Denoise)  # before all passes

    @property
    def at_work(self) -> bool:
        return bool(self.passes) or self.denoise.at_work

    @property
    def moves(self) -> bool:
        return any(one.moves for one in self.passes)

    def at(self, time_s: float) -> Pipeline:
        """The pipeline held at a moment."""
        return replace(self, passes=tuple(one.at(time_s) for one in self.passes)) if self.moves else self

    @property
    def only_colour(self) -> ColourPass | None:
        """The one table that does everything, where one can."""
        if not self.passes:
            return ColourPass()
        first = self.passes[0]
        return first if len(self.passes) == 1 and isinstance(first, ColourPass) else None

    @property
    def left_out(self) -> tuple[str, ...]:
        """What a single table cannot hold, in words."""
        said = ["noise taken out"] if self.denoise.at_work else []
        for one in self.passes:
            if isinstance(one, MaskedPass):
                said.append(f"the region “{one.layer.label}”")
            elif isinstance(one, FramePass):
                said.append(one.step.label.lower())
        if any(one.moves for one in self.passes if isinstance(one, ColourPass)):
            said.append("what changes during the clip")
        return tuple(said)


def compile_grade(grade: Grade, space: HdrSpace | None = None) -> Pipeline:
    """Join neighbouring colour steps; give each layer with a region and each frame step a pass of its own.

    Bars as filmed are drawn over all of it, before what finishes the picture. With a `space` pictures are HLG
    between the passes, and the grade holds what is `carried` alone.
    """
    if space is not None:
        return _compiled_in(space, compile_grade(grade))
    passes: list[Pass] = []
    source, run = replace(grade.source.without_denoise, edges=Edges()), list[Layer]()
    edges = grade.source.edges

    def close() -> None:
        nonlocal source
        if run or source.changes_colour:
            passes.append(ColourPass(source=source, layers=tuple(run)))
        source = Source()
        run.clear()

    def keep_edges() -> None:
        nonlocal edges
        if edges.at_work and (passes or run or source.changes_colour):
            close()
            passes.append(FramePass(step=edges))
            edges = Edges()

    for layer in grade.layers:
        if not layer.at_work:
            continue
        if layer.scope is Scope.FINISH:
            keep_edges()
        if layer.region is not None:
            close()
            passes.append(MaskedPass(layer=layer))
            continue
        at_work = [step for step in layer.steps if step.at_work]
        for needs_frame, steps in groupby(at_work, lambda step: isinstance(step, FrameStep)):
            if not needs_frame:
                run.append(replace(layer, steps=tuple(steps)))
                continue
            close()
            passes += [FramePass(step=s, strength=layer.strength) for s in steps if isinstance(s, FrameStep)]
    keep_edges()
    close()
    return Pipeline(passes=tuple(passes), denoise=grade.source.denoise)


def _compiled_in(space: HdrSpace, pipeline: Pipeline) -> Pipeline:
    """Passes whose light goes on above white: codes come in by the first, and go out by the last."""
    passes = list(pipeline.passes)
    if not passes or not isinstance(passes[0], ColourPass):
        passes.insert(0, ColourPass())
    if len(passes) > 1 and space.goes != "hlg":
        passes.append(ColourPass())
    last = len(passes) - 1
    placed: list[Pass] = []
    for at, one in enumerate(passes):
        if isinstance(one, FramePass):
            placed.append(replace(one, white=HDR_WHITE))
            continue
        came = space.came if at == 0 else "hlg"
        goes = space.goes if at == last else "hlg"
        rendering = space.rendering if space.came == "hlg" else "display"
        placed.append(replace(one, space=HdrSpace(came=came, goes=goes, rendering=rendering)))
    return replace(pipeline, passes=tuple(placed))


# --- moments of tables -----------------------------------------------------------------------------


def _knots(source: Source, layers: tuple[Layer, ...]) -> tuple[float, ...]:
    """Times between which everything that moves is nearly straight and changes little."""
    moving = [
        (moments, step.params[name].even)
        for layer in layers
        if layer.at_work
        for step in layer.steps
        if step.on
        for name, moments in step.moving.items()
    ]
    tracks = [_even_track(source), _water_track(source)]
    times = {float(t) for track in tracks for t in track[:, 0]}
    spans = [(moments.times_s[0], moments.times_s[-1]) for moments, _ in moving]
    spans += [(track[0, 0], track[-1, 0]) for track in tracks[1:] if len(track)]
    for first, last in spans:
        count = int(np.clip((last - first) * SAMPLES_PER_S, 16, MOST_SAMPLES))
        times |= {float(t) for t in np.linspace(first, last, count)}
    if not times:
        return (0.0,)
    grid = np.array(sorted(times))
    columns = [
        np.interp(grid, track[:, 0], track[:, c]) / even
        for track, even in zip(tracks, (EVEN_STOPS, WATER_STOPS), strict=True)
        if len(track)
        for c in (1, 2, 3)
    ]
    columns += [np.array([moments.at(t) for t in grid]) / even for moments, even in moving]
    return _bends(grid, np.stack(columns, axis=1))


def _even_track(source: Source) -> Float:
    return np.array(source.even_out.track) if source.even_out.moves else np.zeros((0, 4))


def _water_track(source: Source) -> Float:
    """Seconds and gains of the water; its veil goes with them."""
    return np.array(source.restore.track)[:, :4] if source.restore.moves else np.zeros((0, 4))


def _bends(times: Float, values: Float) -> tuple[float, ...]:
    """Times between which values (n, k), in units of an even change, are nearly straight."""
    knots = [0]
    for at in range(1, len(times)):
        start = knots[-1]
        stretch = values[start : at + 1]
        share = ((times[start : at + 1] - times[start]) / (times[at] - times[start]))[:, None]
        straight = stretch[0] + share * (stretch[-1] - stretch[0])
        bent = np.abs(stretch - straight).max() > BENT
        if (bent or np.abs(stretch[-1] - stretch[0]).max() > CHANGE) and at - 1 > start:
            knots.append(at - 1)
    if knots[-1] != len(times) - 1:
        knots.append(len(times) - 1)
    return tuple(float(times[k]) for k in knots)

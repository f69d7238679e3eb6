"""The strain gauge: what a whole grade does to a file's codes, what breaks first, and what would spare it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer
from morphe.core.grade.moments import held
from morphe.core.grade.step import ColourStep, Step
from morphe.core.grade.steps import Casts, Contrast
from morphe.core.measure.banding import BANDS, HALF_STEP, LEVELS, step_lightness
from morphe.core.measure.file_strength import FileStrength
from morphe.core.pipeline.colour import through
from morphe.core.signal.arrays import Float
from morphe.core.signal.perception import encoded_to_lab

__all__ = ["Cure", "Strain", "strain_of"]

OCCUPIED = 0.01  # of the picture: smaller tones are not judged
COMFORTABLE, LIMIT = 0.6, 1.0
VISIBLE = 1.0  # of L*: a step, or a deviation of noise, that shows
BLOCKS_SHOW, BLOCK_SHARE = 1.15, 0.5  # blockiness from which blocks are there; what they add to a step
SEEN = 0.10  # of the picture in runs, from which banding of a tone is judged in full
NEAREST, LEAST_SHARE = 0.02, 0.1  # of a step's strength: how exactly a cure is found, and the least of one
FIXED = (
    "centre",
    "reach",
    "hue",
    "warmth",
    "contrast",
)  # ends of names of numbers that say where, not how much
TONES = ("blacks", "shadows", "middle", "lights", "whites")
HUES, MILD = 12, 0.08  # places on the circle, and the chroma there


@dataclass(frozen=True, slots=True, kw_only=True)
class Cure:
    """The smallest change that spares the file: a step of a layer at a share of what it does."""

    layer: str
    step: str
    share: float
    numbers: dict[str, float]  # the step's numbers at that share
    sentence: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Strain:
    """How far a file is bent: 1 is where it breaks.

    by_tone : strain of each band (BANDS,), 0 where the picture has nothing
    by_hue : colour steps of a chroma code around the circle (HUES,), as strain
    banding : expected index of the delivered picture; noise : deviation in L*
    """

    by_tone: tuple[float, ...]
    by_hue: tuple[float, ...]
    worst: float
    banding: float
    noise: float
    sentence: str
    cure: Cure | None = None
    bands: bool = False  # whether it is steps between tones that show, which grain would hide


def strain_of(file: FileStrength, grade: Grade, time_s: float = 0.0, *, with_cure: bool = True) -> Strain:
    """Judge a grade held at a moment; regions are not heeded. Looking for a cure takes some time."""
    at = grade.at(time_s)
    asked = [_greys(file.codes), _hue_ends(file.codes), np.repeat(LEVELS[:, None], 3, axis=1)]
    ends = np.cumsum([len(pixels) for pixels in asked])[:-1]
    greys, hues, delivered = np.split(_through(at, np.concatenate(asked)), ends)
    by_code = _apart(greys)
    by_tone = _by_tone(file, by_code)
    by_hue = _by_hue(hues)
    band = int(np.argmax(by_tone))
    hue = float(by_hue.max(initial=0.0))
    worst = max(float(by_tone[band]), hue)
    is_bent = bool(worst > LIMIT and by_tone[band] >= hue)
    cure = _cure(file, at, band, by_tone) if with_cure and is_bent else None
    noise = float((file.noise * by_code).max())
    return Strain(
        by_tone=tuple(round(float(v), 3) for v in by_tone), by_hue=tuple(round(float(v), 3) for v in by_hue),
        worst=worst, banding=_banding(file, delivered[:, 0], by_code), noise=noise,
        sentence=_sentence(file, worst, band, by_tone, hue, by_code), cure=cure,
        bands=is_bent and not _is_noise(file, band, by_tone, by_code),
    )  # fmt: skip


def _greys(codes: float) -> Float:
    """Greys half a code below and above every band (2 BANDS, 3)."""
    source = np.concatenate([LEVELS - 0.5 / codes, LEVELS + 0.5 / codes])
    return np.repeat(source[:, None], 3, axis=1)


def _apart(greys: Float) -> Float:
    """How far apart in L* the two of every band have come (BANDS,)."""
    lightness = encoded_to_lab(greys)[:, 0]
    return np.asarray(np.abs(lightness[BANDS:] - lightness[:BANDS]))


def _lightness_per_code(grade: Grade, codes: float) -> Float:
    """L* of one code of the source after the grade, by band (BANDS,)."""
    return _apart(_through(grade, _greys(codes)))


def _banding(file: FileStrength, delivered: Float, by_code: Float) -> float:
    """The index that the delivered picture will have: no step in it is smaller than one of its own codes.

    `delivered` is where every band's middle comes out (BANDS,).
    """
    if file.runs is None:
        return 0.0
    own_code = np.interp(np.clip(delivered, 0, 1), LEVELS, step_lightness(file.bit_depth))
    return float((file.runs.shares * np.maximum(file.runs.steps * by_code, own_code) / HALF_STEP).sum())


def _through(grade: Grade, pixels: Float) -> Float:
    layers = [layer for layer in grade.layers if layer.region is None]
    return through(grade.source, layers, pixels.astype(np.float32))


def _by_tone(file: FileStrength, by_code: Float) -> Float:
    """Steps that show in smooth parts, and noise that shows, whichever is more."""
    dithered = float(np.clip(1.5 - file.noise, 0, 1))  # noise hides the steps
    smooth = (
        1.0 if file.runs is None else np.clip(file.runs.shares / (SEEN * np.maximum(file.tones, 1e-6)), 0, 1)
    )
    steps = by_code / VISIBLE * dithered * smooth
    if file.blocks > BLOCKS_SHOW:
        steps = steps * (1 + BLOCK_SHARE * (file.blocks - 1))
    strain = np.maximum(steps, file.noise * by_code / VISIBLE)
    return np.where(file.tones >= OCCUPIED, strain, 0.0)


def _hue_ends(codes: float) -> Float:
    """Mildly coloured middles around the circle, half a chroma code less and more (2 HUES, 3)."""
    angle = np.arange(HUES) * 2 * np.pi / HUES
    chroma = np.stack([np.cos(angle), np.sin(angle)], axis=-1)
    return np.concatenate([_coloured(chroma * (MILD + s * 0.5 / codes)) for s in (-1, 1)])


def _by_hue(ends: Float) -> Float:
    """Colour steps of one chroma code (HUES,), as strain."""
    lab = encoded_to_lab(ends)[:, 1:]
    moved = np.hypot(*(lab[HUES:] - lab[:HUES]).T)
    return np.asarray(moved / (4.0 * VISIBLE))  # colour is seen in less detail than light


def _coloured(chroma: Float) -> Float:
    """Encoded colours of a middle luma with chroma (n, 2)."""
    blue, red = chroma[:, 0], chroma[:, 1]
    luma = 0.45
    return np.stack(
        [luma + 1.5748 * red, luma - 0.187324 * blue - 0.468124 * red, luma + 1.8556 * blue], axis=-1
    )


# --- what breaks, and the cure ---------------------------------------------------------------------


def _sentence(file: FileStrength, worst: float, band: int, by_tone: Float, hue: float, by_code: Float) -> str:
    bits = f"{file.bit_depth}-bit"
    if worst < COMFORTABLE:
        return f"{bits}, comfortable."
    if hue > by_tone[band]:
        what, where = "colour steps", "in strong colours"
    else:
        what = (
            "noise" if _is_noise(file, band, by_tone, by_code) else "blocks" if file.blocks > 1.5 else "steps"
        )
        where = f"in the {TONES[min(band * len(TONES) // BANDS, len(TONES) - 1)]}"
    if worst <= LIMIT:
        return f"{bits}, at its limit: {what} {where} come next."
    return f"{bits}, bent too far: {what} show {where}."


def _is_noise(file: FileStrength, band: int, by_tone: Float, by_code: Float) -> bool:
    """Whether it is noise that shows first, and not the steps between codes."""
    return bool(file.noise * by_code[band] / VISIBLE >= 0.99 * by_tone[band])


def _moving_steps(grade: Grade) -> Iterator[tuple[Layer, Step]]:
    """What a person could take back: steps of layers, not what reads the file."""
    for layer in grade.layers:
        if layer.at_work and layer.region is None:
            yield from ((layer, s) for s in layer.steps if s.at_work and isinstance(s, ColourStep))


def _less(step: Step, share: float) -> Step:
    """A step that does a share of what it did."""
    numbers: dict[str, Any] = {}
    for name, param in step.params.items():
        value = held(getattr(step, name), 0.0)
        numbers[name] = param.neutral + share * (value - param.neutral) if _scales(step, name) else value
    return replace(step, **numbers)


def _scales(step: Step, name: str) -> bool:
    """Whether less of a number is less of the step."""
    return not (isinstance(step, Contrast) and name in ("pivot", "hold")) and not name.endswith(FIXED)


def _cure(file: FileStrength, grade: Grade, band: int, by_tone: Float) -> Cure | None:
    """The step whose taking back helps most, at the largest share that spares the file."""
    best: tuple[float, Layer, Step] | None = None
    for layer, step in _moving_steps(grade):
        if not step.params or isinstance(step, Casts):
            continue
        without = _by_tone(file, _lightness_per_code(grade.with_step(_less(step, 0.0), layer.id), file.codes))
        won = float(by_tone[band] - without[band])
        if won > 0.02 and (best is None or won > best[0]):
            best = (won, layer, step)
    if best is None:
        return None
    _, layer, step = best
    low, high = 0.0, 1.0
    while high - low > NEAREST:
        middle = (low + high) / 2
        eased = grade.with_step(_less(step, middle), layer.id)
        fits = float(_by_tone(file, _lightness_per_code(eased, file.codes)).max()) <= LIMIT
        low, high = (middle, high) if fits else (low, middle)
    share = round(low, 2)
    if share < LEAST_SHARE:  # the file itself is as good as bent: taking this step out would hardly help
        return None
    said = f"{step.label} bends most: at {100 * share:.0f} % of it the file holds."
    numbers = {n: round(float(getattr(_less(step, share), n)), 3) for n in step.params}
    return Cure(layer=layer.id, step=step.key, share=share, numbers=numbers, sentence=said)

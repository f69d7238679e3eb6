"""Faults by which made-up footage is spoiled: each in a known amount, by the camera or by a hand."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from morphe.core.grade.convert import Convert
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import BlackPoint, Casts, Contrast, Saturation
from morphe.core.pipeline.reference import evaluate
from morphe.core.practice.scenes import DRY, MEADOW, PEOPLE, Shot
from morphe.core.registry import Registry
from morphe.core.signal.arrays import Encoded
from morphe.core.signal.perception import linear_to_oklab, oklab_to_linear
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.cameras import Exposure, film
from morphe.core.water.imaging import Dive, seen_under_water, water_of

__all__ = ["FAULTS", "Fault", "spoiled"]

Spoil = Callable[[Shot, float, np.random.Generator], Encoded]


@dataclass(frozen=True, slots=True, kw_only=True)
class Fault:
    """One thing that can be wrong with footage.

    spoil   : a shot and an amount (1 is plain to see, 0.25 takes a trained eye) to a picture
    where   : which scope shows it, and how
    scope   : that scope
    mended  : by which rungs
    scenes  : on which it shows
    grows   : whether a clip begins without it
    """

    key: str
    label: str
    spoil: Spoil
    where: str
    scope: str
    mended: tuple[str, ...]
    scenes: tuple[str, ...] = DRY
    grows: bool = False


FAULTS: Registry[Fault] = Registry("fault")


def _fault(
    key: str,
    label: str,
    where: str,
    scope: str,
    *mended: str,
    scenes: tuple[str, ...] = DRY,
    grows: bool = False,
) -> Callable[[Spoil], Spoil]:
    def file(spoil: Spoil) -> Spoil:
        fault = Fault(
            key=key, label=label, spoil=spoil, where=where, scope=scope, mended=mended, scenes=scenes,
            grows=grows,
        )  # fmt: skip
        FAULTS.register(key)(fault)
        return spoil

    return file


def spoiled(fault: str, shot: Shot, amount: float, generator: np.random.Generator) -> Encoded:
    """A shot with a fault in it: encoded (H, W, 3), 0..1."""
    return np.clip(FAULTS.get(fault).spoil(shot, amount, generator), 0, 1).astype(np.float32)


@_fault(
    "dark",
    "Too dark",
    "The waveform stands low as a whole; its bright end is far from white.",
    "luma",
    "exposure",
)
def _dark(shot: Shot, amount: float, generator: np.random.Generator) -> Encoded:
    return film(shot.light, Exposure(exposure_stops=-1.8 * amount), generator)


@_fault(
    "bright",
    "Too bright",
    "The waveform is pressed against the top: what lies there is gone.",
    "luma",
    "exposure",
)
def _bright(shot: Shot, amount: float, generator: np.random.Generator) -> Encoded:
    return film(shot.light, Exposure(exposure_stops=1.4 * amount), generator)


@_fault(
    "warm", "Too warm", "Greys lie off the middle of the vectorscope, towards orange.", "vector", "balance"
)
def _warm(shot: Shot, amount: float, generator: np.random.Generator) -> Encoded:
    return film(shot.light, Exposure(warm_mired=90 * amount), generator)


@_fault("cool", "Too cool", "Greys lie off the middle of the vectorscope, towards blue.", "vector", "balance")
def _cool(shot: Shot, amount: float, generator: np.random.Generator) -> Encoded:
    return film(shot.light, Exposure(warm_mired=-80 * amount), generator)


@_fault(
    "green",
    "Too green",
    "Greys lie off the middle of the vectorscope, across the line of light.",
    "vector",
    "balance",
)
def _green(shot: Shot, amount: float, generator: np.random.Generator) -> Encoded:
    return film(shot.light, Exposure(green_duv=0.016 * amount), generator)


@_fault(
    "shadows",
    "A cast in the shadows alone",
    "The channels part at the foot and meet at the top.",
    "parade",
    "casts",
)
def _shadows(shot: Shot, amount: float, generator: np.random.Generator) -> Encoded:
    return evaluate(Grade.of(Casts(dark_warmth=9 * amount)), shot.truth)


@_fault(
    "flat",
    "Filmed flat",
    "The waveform is pressed together in the middle; colours are small.",
    "luma",
    "convert",
)
def _flat(shot: Shot, amount: float, generator: np.random.Generator) -> Encoded:
    return _towards(shot, film(shot.light, Exposure(profile="flat-a"), generator), amount)


@_fault(
    "log",
    "Filmed log",
    "Nothing lies below a fifth or above two thirds; colours hardly leave the middle.",
    "luma",
    "convert",
)
def _log(shot: Shot, amount: float, generator: np.random.Generator) -> Encoded:
    return _towards(shot, film(shot.light, Exposure(profile="log-lifted"), generator), amount)


@_fault(
    "converted twice",
    "Converted, and was ordinary already",
    "Black is crushed and colours reach far out.",
    "luma",
    "convert",
)
def _twice(shot: Shot, amount: float, generator: np.random.Generator) -> Encoded:
    return _towards(shot, evaluate(Grade.of(Convert(profile="log-mild")), shot.truth), amount)


@_fault(
    "loud",
    "Too much colour",
    "Colours reach beyond the safe outline of the vectorscope.",
    "vector",
    "saturation",
)
def _loud(shot: Shot, amount: float, generator: np.random.Generator) -> Encoded:
    return evaluate(Grade.of(Saturation(amount=45 * amount)), shot.truth)


@_fault(
    "pale",
    "Too little colour",
    "Everything stays near the middle of the vectorscope.",
    "vector",
    "saturation",
)
def _pale(shot: Shot, amount: float, generator: np.random.Generator) -> Encoded:
    return evaluate(Grade.of(Saturation(amount=-45 * amount)), shot.truth)


@_fault(
    "crushed",
    "A style that crushed the dark",
    "The waveform lies on the floor: shadows have no steps.",
    "luma",
    "black",
)
def _crushed(shot: Shot, amount: float, generator: np.random.Generator) -> Encoded:
    return evaluate(Grade.of(BlackPoint(lower=14 * amount), Contrast(amount=25 * amount)), shot.truth)


@_fault(
    "veiled",
    "Black is lifted",
    "Nothing reaches the foot of the waveform; white is where it should be.",
    "luma",
    "black",
)
def _veiled(shot: Shot, amount: float, generator: np.random.Generator) -> Encoded:
    return evaluate(Grade.of(BlackPoint(lower=-12 * amount)), shot.truth)


@_fault(
    "skin",
    "Skin is off",
    "Skin leaves its line on the vectorscope; all else lies where it should.",
    "vector",
    "skin",
    scenes=tuple(PEOPLE),
)
def _skin(shot: Shot, amount: float, generator: np.random.Generator) -> Encoded:
    std, right = PROFILES.get("std-709"), shot.truth
    lab = linear_to_oklab(std.decode(right))
    turn = np.radians(26 * amount) * shot.skin  # towards green
    a, b = lab[..., 1].copy(), lab[..., 2].copy()
    lab[..., 1], lab[..., 2] = np.cos(turn) * a - np.sin(turn) * b, np.sin(turn) * a + np.cos(turn) * b
    return std.encode(np.maximum(oklab_to_linear(lab), 0)).astype(np.float32)


@_fault(
    "drift",
    "The light drifts",
    "Beginning and end of the clip stand apart on every scope.",
    "luma",
    "even_out",
    grows=True,
)
def _drift(shot: Shot, amount: float, generator: np.random.Generator) -> Encoded:
    return film(shot.light, Exposure(exposure_stops=-0.9 * amount, warm_mired=-55 * amount), generator)


@_fault(
    "strain",
    "Bent beyond its bits",
    "The histogram has teeth, and smooth places show steps.",
    "histogram",
    "denoise",
)
def _strain(shot: Shot, amount: float, generator: np.random.Generator) -> Encoded:
    levels = 44 - 28 * amount
    return (np.rint(shot.truth * levels) / levels).astype(np.float32)


@_fault(
    "water",
    "Filmed under water",
    "Red is gone: its channel lies low, and greys lean to blue and green.",
    "parade",
    "restore",
    scenes=(MEADOW,),
)
def _water(shot: Shot, amount: float, generator: np.random.Generator) -> Encoded:
    seen = seen_under_water(shot.light, shot.away, _DIVE)
    gain = np.quantile(shot.light.max(axis=-1), 0.99) / max(float(np.quantile(seen.max(axis=-1), 0.99)), 1e-4)
    return _towards(shot, film((seen * gain).astype(np.float32), Exposure(), generator), 0.4 + 0.6 * amount)


_DIVE = Dive(water=water_of("II"), depth_m=6.0)


def _towards(shot: Shot, other: Encoded, amount: float) -> Encoded:
    """Part of the way from the truth to another picture; 1 is there."""
    right = shot.truth
    mixed: Encoded = right + np.float32(min(amount, 1.0)) * (other - right)
    return mixed

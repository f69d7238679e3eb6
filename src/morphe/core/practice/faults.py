"""Faults by which made-up footage is spoiled: each in a known amount, by the camera or by a hand."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import BlackPoint, Casts, Contrast, Saturation
from morphe.core.pipeline.reference import evaluate
from morphe.core.registry import Registry
from morphe.core.signal.arrays import Encoded, Linear
from morphe.core.standins.cameras import Exposure, film, truth

__all__ = ["FAULTS", "Fault", "spoiled"]

Spoil = Callable[[Linear, float, np.random.Generator], Encoded]


@dataclass(frozen=True, slots=True, kw_only=True)
class Fault:
    """One thing that can be wrong with footage.

    spoil   : light of a scene and an amount (1 is plain to see, 0.25 takes a trained eye) to a picture
    where   : which scope shows it, and how
    mended  : by which rungs
    """

    key: str
    label: str
    spoil: Spoil
    where: str
    mended: tuple[str, ...]


FAULTS: Registry[Fault] = Registry("fault")


def _fault(key: str, label: str, where: str, *mended: str) -> Callable[[Spoil], Spoil]:
    def file(spoil: Spoil) -> Spoil:
        FAULTS.register(key)(Fault(key=key, label=label, spoil=spoil, where=where, mended=mended))
        return spoil

    return file


def spoiled(fault: str, light: Linear, amount: float, generator: np.random.Generator) -> Encoded:
    """A scene with a fault in it: encoded (H, W, 3), 0..1."""
    return np.clip(FAULTS.get(fault).spoil(light, amount, generator), 0, 1).astype(np.float32)


@_fault(
    "dark", "Too dark", "The waveform stands low as a whole; its bright end is far from white.", "exposure"
)
def _dark(light: Linear, amount: float, generator: np.random.Generator) -> Encoded:
    return film(light, Exposure(exposure_stops=-1.8 * amount), generator)


@_fault(
    "bright", "Too bright", "The waveform is pressed against the top: what lies there is gone.", "exposure"
)
def _bright(light: Linear, amount: float, generator: np.random.Generator) -> Encoded:
    return film(light, Exposure(exposure_stops=1.4 * amount), generator)


@_fault("warm", "Too warm", "Greys lie off the middle of the vectorscope, towards orange.", "balance")
def _warm(light: Linear, amount: float, generator: np.random.Generator) -> Encoded:
    return film(light, Exposure(warm_mired=90 * amount), generator)


@_fault("cool", "Too cool", "Greys lie off the middle of the vectorscope, towards blue.", "balance")
def _cool(light: Linear, amount: float, generator: np.random.Generator) -> Encoded:
    return film(light, Exposure(warm_mired=-80 * amount), generator)


@_fault(
    "green", "Too green", "Greys lie off the middle of the vectorscope, across the line of light.", "balance"
)
def _green(light: Linear, amount: float, generator: np.random.Generator) -> Encoded:
    return film(light, Exposure(green_duv=0.016 * amount), generator)


@_fault(
    "shadows", "A cast in the shadows alone", "The channels part at the foot and meet at the top.", "casts"
)
def _shadows(light: Linear, amount: float, generator: np.random.Generator) -> Encoded:
    return evaluate(Grade.of(Casts(dark_warmth=9 * amount)), truth(light))


@_fault(
    "flat", "Filmed flat", "The waveform is pressed together in the middle; colours are small.", "convert"
)
def _flat(light: Linear, amount: float, generator: np.random.Generator) -> Encoded:
    return _towards(light, film(light, Exposure(profile="flat-a"), generator), amount)


@_fault(
    "log",
    "Filmed log",
    "Nothing lies below a fifth or above two thirds; colours hardly leave the middle.",
    "convert",
)
def _log(light: Linear, amount: float, generator: np.random.Generator) -> Encoded:
    return _towards(light, film(light, Exposure(profile="log-lifted"), generator), amount)


@_fault(
    "converted twice",
    "Converted, and was ordinary already",
    "Black is crushed and colours reach far out.",
    "convert",
)
def _twice(light: Linear, amount: float, generator: np.random.Generator) -> Encoded:
    from morphe.core.grade.convert import Convert

    return _towards(light, evaluate(Grade.of(Convert(profile="log-mild")), truth(light)), amount)


@_fault("loud", "Too much colour", "Colours reach beyond the safe outline of the vectorscope.", "saturation")
def _loud(light: Linear, amount: float, generator: np.random.Generator) -> Encoded:
    return evaluate(Grade.of(Saturation(amount=45 * amount)), truth(light))


@_fault("pale", "Too little colour", "Everything stays near the middle of the vectorscope.", "saturation")
def _pale(light: Linear, amount: float, generator: np.random.Generator) -> Encoded:
    return evaluate(Grade.of(Saturation(amount=-45 * amount)), truth(light))


@_fault(
    "crushed",
    "A style that crushed the dark",
    "The waveform lies on the floor: shadows have no steps.",
    "black",
)
def _crushed(light: Linear, amount: float, generator: np.random.Generator) -> Encoded:
    return evaluate(Grade.of(BlackPoint(lower=14 * amount), Contrast(amount=25 * amount)), truth(light))


@_fault(
    "veiled",
    "Black is lifted",
    "Nothing reaches the foot of the waveform; white is where it should be.",
    "black",
)
def _veiled(light: Linear, amount: float, generator: np.random.Generator) -> Encoded:
    return evaluate(Grade.of(BlackPoint(lower=-12 * amount)), truth(light))


def _towards(light: Linear, other: Encoded, amount: float) -> Encoded:
    """Part of the way from the truth to another picture; 1 is there."""
    right = truth(light)
    return right + np.float32(min(amount, 1.0)) * (other - right)

"""All steps of the work, written out, and the orders in which they are done."""

from __future__ import annotations

from morphe.core.grade.step import ColourStep, FrameStep, Step
from morphe.core.grade.steps.balance import Balance
from morphe.core.grade.steps.bars import Bars, Crop
from morphe.core.grade.steps.black import BlackPoint
from morphe.core.grade.steps.casts import Casts
from morphe.core.grade.steps.cdl import Cdl
from morphe.core.grade.steps.contrast import Contrast
from morphe.core.grade.steps.curves import Curves
from morphe.core.grade.steps.density import Density
from morphe.core.grade.steps.edge_blur import EdgeBlur
from morphe.core.grade.steps.exposure import Exposure
from morphe.core.grade.steps.fade import Fade
from morphe.core.grade.steps.families import Families
from morphe.core.grade.steps.film import Film
from morphe.core.grade.steps.flare import Flare
from morphe.core.grade.steps.fringe import Fringe
from morphe.core.grade.steps.glow import Glow
from morphe.core.grade.steps.grain import Grain
from morphe.core.grade.steps.halation import Halation
from morphe.core.grade.steps.lights import HoldLights
from morphe.core.grade.steps.lut import Lut
from morphe.core.grade.steps.mid import MidLevel
from morphe.core.grade.steps.saturation import Saturation
from morphe.core.grade.steps.sharpen import Sharpen
from morphe.core.grade.steps.skin import SkinTurn
from morphe.core.grade.steps.soften import Soften
from morphe.core.grade.steps.tint import Tint
from morphe.core.grade.steps.title import Title
from morphe.core.grade.steps.turn import HueTurn
from morphe.core.grade.steps.vignette import Vignette
from morphe.core.grade.steps.white import WhitePoint
from morphe.core.registry import Registry

__all__ = [
    "ORDER",
    "SCHOOLS",
    "STEPS",
    "Balance",
    "Bars",
    "BlackPoint",
    "Casts",
    "Cdl",
    "ColourStep",
    "Contrast",
    "Crop",
    "Curves",
    "Density",
    "EdgeBlur",
    "Exposure",
    "Fade",
    "Families",
    "Film",
    "Flare",
    "FrameStep",
    "Fringe",
    "Glow",
    "Grain",
    "Halation",
    "HoldLights",
    "HueTurn",
    "Lut",
    "MidLevel",
    "Saturation",
    "Sharpen",
    "SkinTurn",
    "Soften",
    "Step",
    "Tint",
    "Title",
    "Vignette",
    "WhitePoint",
]

# The order of the work within a layer. Effects that see more than a pixel come last.
ORDER: tuple[type[Step], ...] = (
    Exposure, Balance, HoldLights, BlackPoint, WhitePoint, MidLevel, Contrast, Casts, Curves, Saturation,
    Families, SkinTurn, HueTurn, Density, Cdl, Lut, Film, Tint, Fade, Glow, Halation, Flare, Vignette,
    Soften, EdgeBlur, Fringe, Sharpen,
    Grain, Bars, Crop, Title,
)  # fmt: skip

STEPS: Registry[type[Step]] = Registry("step")
for _kind in ORDER:
    STEPS.register(_kind.key)(_kind)

_USUAL = tuple(kind.key for kind in ORDER)
_TONES = ("black", "white", "mid", "contrast")


def _first(*keys: str) -> tuple[str, ...]:
    return (*keys, *(k for k in _USUAL if k not in keys))


# A school is another order of the work: what is done first is seen more clearly by what follows.
SCHOOLS: dict[str, tuple[str, ...]] = {
    "usual": _USUAL,
    "white first": _first("balance", "exposure"),
    "colour first": _first("exposure", "saturation"),
    "by hand": _first("exposure", "balance", "lights", "curves"),
    "by eye": _USUAL,
}

"""All steps of the work, written out, and the orders in which they are done."""

from __future__ import annotations

from morphe.core.grade.step import ColourStep, FrameStep, Step
from morphe.core.grade.steps.balance import Balance
from morphe.core.grade.steps.black import BlackPoint
from morphe.core.grade.steps.contrast import Contrast
from morphe.core.grade.steps.exposure import Exposure
from morphe.core.grade.steps.lights import HoldLights
from morphe.core.grade.steps.mid import MidLevel
from morphe.core.grade.steps.saturation import Saturation
from morphe.core.grade.steps.sharpen import Sharpen
from morphe.core.grade.steps.vignette import Vignette
from morphe.core.grade.steps.white import WhitePoint
from morphe.core.registry import Registry

__all__ = [
    "ORDER",
    "SCHOOLS",
    "STEPS",
    "Balance",
    "BlackPoint",
    "ColourStep",
    "Contrast",
    "Exposure",
    "FrameStep",
    "HoldLights",
    "MidLevel",
    "Saturation",
    "Sharpen",
    "Step",
    "Vignette",
    "WhitePoint",
]

# The order of the work within a layer. Effects that see more than a pixel come last.
ORDER: tuple[type[Step], ...] = (
    Exposure, Balance, HoldLights, BlackPoint, WhitePoint, MidLevel, Contrast, Saturation, Vignette, Sharpen,
)  # fmt: skip

STEPS: Registry[type[Step]] = Registry("step")
for _kind in ORDER:
    STEPS.register(_kind.key)(_kind)

_USUAL = tuple(kind.key for kind in ORDER)
# A school is another order: some turn colour up first, to see a cast better.
SCHOOLS: dict[str, tuple[str, ...]] = {
    "usual": _USUAL,
    "colour first": ("exposure", "saturation", *(k for k in _USUAL if k not in ("exposure", "saturation"))),
    "levels first": ("exposure", "lights", "black", "white", "mid", "contrast",
                     *(k for k in _USUAL if k in ("balance", "saturation", "vignette", "sharpen"))),
}  # fmt: skip

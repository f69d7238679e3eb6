"""All rungs, written out in the order of the work."""

from __future__ import annotations

from morphe.core.advise.rung import Rule
from morphe.core.advise.rungs.balance import BALANCE
from morphe.core.advise.rungs.black import BLACK
from morphe.core.advise.rungs.casts import CASTS
from morphe.core.advise.rungs.contrast import CONTRAST
from morphe.core.advise.rungs.convert import CONVERT
from morphe.core.advise.rungs.curves import CURVES
from morphe.core.advise.rungs.denoise import DENOISE
from morphe.core.advise.rungs.even import EVEN
from morphe.core.advise.rungs.exposure import EXPOSURE
from morphe.core.advise.rungs.families import FAMILIES_RUNG
from morphe.core.advise.rungs.lights import LIGHTS
from morphe.core.advise.rungs.mid import MID
from morphe.core.advise.rungs.restore import RESTORE
from morphe.core.advise.rungs.saturation import SATURATION
from morphe.core.advise.rungs.sharpen import SHARPEN
from morphe.core.advise.rungs.skin import SKIN
from morphe.core.advise.rungs.vignette import VIGNETTE
from morphe.core.advise.rungs.white import WHITE

__all__ = ["RUNGS"]

RUNGS: dict[str, Rule] = {
    rule.key: rule
    for rule in (
        DENOISE, CONVERT, EVEN, RESTORE, EXPOSURE, BALANCE, LIGHTS, BLACK, WHITE, MID, CONTRAST, CASTS,
        CURVES, SATURATION, FAMILIES_RUNG, SKIN, VIGNETTE, SHARPEN,
    )
}  # fmt: skip

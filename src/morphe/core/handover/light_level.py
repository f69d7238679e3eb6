"""How bright the picture of a PQ file is, told beside it: light levels (CTA-861.3), and the display meant."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from morphe.core.footage.reader import frames_at
from morphe.core.grade.reel import Reel
from morphe.core.handover.delivery import Order
from morphe.core.handover.hdr import space_of
from morphe.core.pipeline.hdr_space import carried
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.arrays import highest
from morphe.core.signal.transfer import decode_pq

__all__ = ["LightLevel", "level_options", "light_level"]

MOMENTS, WIDE = 24, 480
# SMPTE ST 2086: primaries of BT.2020 and its white, 1000 to 0.005 cd/m2.
X265_DISPLAY = "G(8500,39850)B(6550,2300)R(35400,14600)WP(15635,16450)L(10000000,50)"
AV1_DISPLAY = "G(0.17,0.797)B(0.131,0.046)R(0.708,0.292)WP(0.3127,0.329)L(1000.0,0.005)"


@dataclass(frozen=True, slots=True, kw_only=True)
class LightLevel:
    """cd/m2 of the brightest pixel, and of the brightest frame in the mean."""

    pixel: int
    frame: int


def light_level(order: Order) -> LightLevel:
    """Measured in moments that lie evenly in the clip, as it goes out."""
    info, reel = order.info, Reel.of(order.grade)
    times = [(n + 0.5) / MOMENTS * info.duration_s for n in range(MOMENTS)]
    pixel = frame = 0.0
    for time_s, planes in frames_at(info, times):
        grade = reel.grades[reel.number_at(time_s)]
        code = evaluate(
            carried(grade), planes.encoded(width=WIDE), time_s=time_s, space=space_of(info, grade, "pq")
        )
        nits = decode_pq(np.maximum(highest(code), 0))
        pixel, frame = max(pixel, float(nits.max())), max(frame, float(nits.mean()))
    return LightLevel(pixel=round(pixel), frame=round(frame))


def level_options(codec: str, level: LightLevel) -> dict[str, str]:
    """What an encoder is told, by the name of its options."""
    levels = f"{level.pixel},{level.frame}"
    if codec == "libsvtav1":
        return {"svtav1-params": f"mastering-display={AV1_DISPLAY}:content-light={levels}"}
    return {"x265-params": f"hdr10=1:repeat-headers=1:master-display={X265_DISPLAY}:max-cll={levels}"}

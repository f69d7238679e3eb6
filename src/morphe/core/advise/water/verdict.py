"""Wet or dry, and what would take the water back: judged before light and tones are."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from morphe.core.advise.evidence import Evidence
from morphe.core.advise.seen import Seen
from morphe.core.advise.water.descent import descent
from morphe.core.advise.water.estimate import WaterEstimate, estimate_water
from morphe.core.advise.water.recoverable import Recoverable, noise_of_red, recoverable
from morphe.core.advise.water.wetness import ASK_FROM, SURE
from morphe.core.grade.convert import Convert
from morphe.core.grade.restore import Restore
from morphe.core.measure.water_quality import uciqe, uiqm
from morphe.core.water.hints import WaterHints, ceiling_of

__all__ = ["WaterVerdict", "judge_water"]

INDICES = (("UIQM", uiqm), ("UCIQE", uciqe))
MOST_RED, LEAST_RED = 100.0, 10.0


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterVerdict:
    """How likely a clip is wet, whether that is a person's word, and what would take the water back."""

    wet: float
    is_said: bool
    restore: Restore
    recoverable: Recoverable
    quality: tuple[tuple[str, float, float], ...] = ()  # indices before and after, as information

    @property
    def is_taken(self) -> bool:
        """Whether it is treated as wet."""
        return self.wet >= SURE

    @property
    def is_asked(self) -> bool:
        """Whether only the person can tell."""
        return not self.is_said and ASK_FROM <= self.wet < SURE

    def as_json(self) -> dict[str, object]:
        can = self.recoverable
        return {
            "wet": round(self.wet, 3), "taken": self.is_taken, "red_behind": round(can.behind, 2),
            "recoverable": round(can.share, 3), "by_tone": [round(share, 3) for share in can.by_tone],
        }  # fmt: skip


def judge_water(
    seen: Seen, evidence: Evidence, convert: Convert, wet: float, hints: WaterHints | None
) -> WaterVerdict:
    """Judge what the water did, of a clip seen through its conversion that is so likely wet."""
    bit_depth = evidence.info.bit_depth
    found = estimate_water(seen.light, hints)
    pixels = np.concatenate([f.reshape(-1, 3) for f in seen.light])
    noise = noise_of_red(convert, float(np.percentile(evidence.pixels[:, 0], 20)), bit_depth)
    gains, veil = np.array(found.gains), np.array(found.veil)
    can = recoverable(pixels, veil, gains, noise=noise, bit_depth=bit_depth)
    is_said = hints is not None and hints.wet is not None
    step = _step(found, can, noise, bit_depth)
    if hints is not None and hints.changes_depth and len(seen.light) > 1:
        step = replace(step, track=descent(seen.light, seen.times_s, hints))
    return WaterVerdict(
        wet=wet, is_said=is_said, restore=step, recoverable=can,
        quality=_quality(seen, step) if wet >= SURE else (),
    )  # fmt: skip


def _quality(seen: Seen, step: Restore) -> tuple[tuple[str, float, float], ...]:
    """What the usual indices say of the middle frame before and after."""
    at = len(seen.pictures) // 2
    before, after = seen.pictures[at], seen.then(step).pictures[at]
    return tuple((name, round(f(before), 2), round(f(after), 2)) for name, f in INDICES)


def _step(found: WaterEstimate, can: Recoverable, noise: float, bit_depth: int) -> Restore:
    ceiling = ceiling_of(bit_depth)
    red = MOST_RED if can.behind <= ceiling else max(MOST_RED * ceiling / can.behind, LEAST_RED)
    (r, g, b), (vr, vg, vb) = found.gains, found.veil
    return Restore(
        strength=100.0,
        red=float(np.floor(red)),
        background=round(100 * found.background, 1),
        track=((0.0, r, g, b, vr, vg, vb),),
        colour=(round(found.colour[0], 4), round(found.colour[1], 4)),
        spread=float(np.clip(found.spread, 0.05, 4)),
        vivid=float(np.clip(found.vivid, 0.2, 4)),
        noise=float(np.clip(noise, 0, 1)),
    )

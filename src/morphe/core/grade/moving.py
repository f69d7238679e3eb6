"""Tables for a grade that moves with the clip: baked where the light has changed, blended in between."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from morphe.core.grade.even_out import EvenOut
from morphe.core.grade.grade import Grade
from morphe.core.grade.kernel import PlaneLut, bake_planes
from morphe.core.signal.arrays import Codes, Float
from morphe.core.signal.ycbcr import Matrix, Range

__all__ = ["MovingLut"]

CHANGE_STOPS = 0.10  # between two baked tables; blending codes in between is far below one code
BENT_STOPS = 0.02  # the track may leave the straight line between them by this much
WEIGHTS = 64  # steps of the blend


class MovingLut:
    """Gives the table for each moment; two baked tables are kept at a time."""

    def __init__(
        self, grade: Grade, *, bit_depth: int, code_range: Range, matrix: Matrix, bits_out: int
    ) -> None:
        self.knots = _knots(
            np.concatenate([np.array(s.track) for s in grade.steps() if isinstance(s, EvenOut)])
        )

        @lru_cache(maxsize=2)
        def baked(knot: int) -> PlaneLut:
            return bake_planes(
                grade.at(float(self.knots[knot])), bit_depth=bit_depth, code_range=code_range, matrix=matrix,
                bits_out=bits_out, every_code=False,
            )  # fmt: skip

        @lru_cache(maxsize=2)
        def blended(knot: int, weight: int) -> PlaneLut:
            one = baked(knot)
            if weight == 0 or knot + 1 >= len(self.knots):
                return one
            two = baked(knot + 1)
            return PlaneLut(
                luma=_between(one.luma, two.luma, weight), chroma=_between(one.chroma, two.chroma, weight),
                bits_in=one.bits_in, bits_out=one.bits_out,
            )  # fmt: skip

        self._blended = blended

    def at(self, time_s: float) -> PlaneLut:
        """The table for a moment."""
        knot = int(np.clip(np.searchsorted(self.knots, time_s, side="right") - 1, 0, len(self.knots) - 1))
        if knot + 1 >= len(self.knots):
            return self._blended(knot, 0)
        share = (time_s - self.knots[knot]) / (self.knots[knot + 1] - self.knots[knot])
        return self._blended(knot, int(np.clip(round(share * WEIGHTS), 0, WEIGHTS)))


def _between(one: Codes, two: Codes, weight: int) -> Codes:
    mixed = one.astype(np.uint32) * (WEIGHTS - weight) + two.astype(np.uint32) * weight + WEIGHTS // 2
    return (mixed // WEIGHTS).astype(one.dtype)


def _knots(track: Float) -> Float:
    """Times between which the track (n, 4) is nearly straight and changes little."""
    knots = [0]
    for at in range(1, len(track)):
        stretch = track[knots[-1] : at + 1]
        share = ((stretch[:, 0] - stretch[0, 0]) / (stretch[-1, 0] - stretch[0, 0]))[:, None]
        straight = stretch[0, 1:] + share * (stretch[-1, 1:] - stretch[0, 1:])
        bent = np.abs(stretch[:, 1:] - straight).max() > BENT_STOPS
        if (bent or np.abs(stretch[-1, 1:] - stretch[0, 1:]).max() > CHANGE_STOPS) and at - 1 > knots[-1]:
            knots.append(at - 1)
    return np.asarray(track[[*knots, len(track) - 1] if knots[-1] != len(track) - 1 else knots, 0])

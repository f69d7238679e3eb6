"""What goes into one file: orders one after another, the cuts of each, and their names as chapters."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from morphe.core.footage.info import SignalInfo
from morphe.core.handover.delivery import Order
from morphe.core.handover.parts import Cut, cuts_of
from morphe.core.handover.rhythm import tick_at

__all__ = ["Film", "film_of", "frames_of"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Film:
    """Orders and, for each, its cuts with their times in the file; names where there are several orders.

    Several orders share one even rate, one size and one encoder. The file begins with its first frame.
    """

    orders: tuple[Order, ...]
    cuts: tuple[tuple[Cut, ...], ...]
    names: tuple[str, ...] = ()

    @property
    def is_joined(self) -> bool:
        return len(self.orders) > 1

    @property
    def is_one_stretch(self) -> bool:
        """Whether it runs through one clip without a cut."""
        return not self.is_joined and len(self.cuts[0]) == 1

    @property
    def frames(self) -> int:
        """How many there will be, as far as the clips tell."""
        return sum(
            frames_of(order, cut) for order, cuts in zip(self.orders, self.cuts, strict=True) for cut in cuts
        )

    def spans_s(self) -> list[tuple[float, float]]:
        """Where each order begins and ends in the file."""
        pairs = zip(self.orders, self.cuts, strict=True)
        return [(cuts[0].ends_in(o.info)[0], cuts[-1].ends_in(o.info)[1]) for o, cuts in pairs]


def film_of(orders: Sequence[Order], names: Sequence[str] = ()) -> Film:
    """Lay orders one behind another; each begins on a frame of the file.

    Raises
    ------
    OutputError
        If a part of one is none.
    """
    laid, at_s = [], 0.0
    for order in orders:
        cuts = cuts_of(order.delivery.parts, order.info, at_s)
        laid.append(cuts)
        fps, end_s = order.delivery.fps, cuts[-1].ends_in(order.info)[1]
        at_s = tick_at(end_s, fps) / float(fps) if fps else end_s
    return Film(orders=tuple(orders), cuts=tuple(laid), names=tuple(names))


def frames_of(order: Order, cut: Cut) -> int:
    """Frames of a cut, as far as the clip tells."""
    info, fps = order.info, order.delivery.fps
    begin, end = cut.ends_in(info)
    if fps is not None:
        return tick_at(end, fps) - tick_at(begin, fps)
    if math.isinf(cut.begin_s) and math.isinf(cut.end_s):
        return info.frames
    return _whole_frames(info, end) - _whole_frames(info, begin)


def _whole_frames(info: SignalInfo, time_s: float) -> int:
    return round(time_s * float(info.fps))

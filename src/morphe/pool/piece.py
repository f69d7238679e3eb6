"""A piece of work as plain values that travel: one segment of a render."""

from __future__ import annotations

import json
import math
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from morphe.core.footage.info import SignalInfo
from morphe.core.grade import recipe
from morphe.core.handover.delivery import Delivery, Order
from morphe.core.handover.parts import Cut
from morphe.core.handover.pump import Progress
from morphe.core.handover.segments import Segment, render_segment

__all__ = ["Piece"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Piece:
    """A segment of an order; its files lie in the shared folder."""

    order: Order
    segment: Segment

    def name(self, media: Path) -> str:
        """What it is called on the board: where it comes to lie."""
        return self.segment.out.relative_to(media).as_posix()

    def to_text(self, media: Path) -> str:
        """Plain values with paths within the shared folder."""
        info, cut = self.order.info, self.segment.cut
        values: dict[str, Any] = {
            "source": info.path.relative_to(media).as_posix(),
            "info": info.record(),
            "grade": recipe.to_json(self.order.grade),
            "delivery": self.order.delivery.as_json(),
            "cut": [_plain(cut.begin_s), _plain(cut.end_s), cut.shift_s],
            "frames": self.segment.frames,
            "alone": self.segment.alone,
            "out": self.name(media),
        }
        return json.dumps(values)

    @classmethod
    def from_text(cls, text: str, media: Path) -> Piece:
        values = json.loads(text)
        begin, end, shift = values["cut"]
        cut = Cut(
            begin_s=-math.inf if begin is None else begin,
            end_s=math.inf if end is None else end,
            shift_s=shift,
        )
        order = Order(
            info=SignalInfo.from_json(values["info"], media / values["source"]),
            grade=recipe.from_json(values["grade"]),
            delivery=Delivery.from_json(values["delivery"]),
        )
        segment = Segment(cut=cut, frames=values["frames"], alone=values["alone"], out=media / values["out"])
        return cls(order=order, segment=segment)

    def make(self, progress: Progress) -> int:
        """Render it; the number of its frames."""
        return render_segment(self.order, self.segment, progress)


def _far(seconds: float | None, where: float) -> float:
    return where if seconds is None else seconds


def _plain(seconds: float) -> float | None:
    return None if math.isinf(seconds) else seconds

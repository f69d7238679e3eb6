"""Pieces of work as plain values that travel: what is read, what is made of it, where that comes to lie."""

from __future__ import annotations

import json
import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Protocol

from morphe.core.advise.findings import look_within
from morphe.core.advise.outing.found import to_bytes
from morphe.core.footage.info import SignalInfo
from morphe.core.footage.proxy import make_proxy
from morphe.core.grade import recipe
from morphe.core.handover.delivery import Delivery, Order
from morphe.core.handover.light_level import LightLevel
from morphe.core.handover.output import whole_file
from morphe.core.handover.parts import Cut
from morphe.core.handover.pump import Cancelled, Progress
from morphe.core.handover.segments import Segment, render_segment

__all__ = ["LookPiece", "Piece", "ProxyPiece", "RenderPiece", "from_text", "name_of", "to_text"]


class Piece(Protocol):
    """Something to be made of a clip: a file at `out`, whole or not at all.

    frames : how much work it is, about
    """

    @property
    def out(self) -> Path: ...

    @property
    def frames(self) -> int: ...

    def values(self, media: Path) -> dict[str, Any]:
        """Plain values, with paths within the shared folder."""
        ...

    def make(self, progress: Progress) -> None:
        """Make the file.

        Raises
        ------
        MorpheError
            With one sentence for a person, if it cannot be made or was stopped.
        """
        ...


@dataclass(frozen=True, slots=True, kw_only=True)
class RenderPiece:
    """A segment of a delivery."""

    segment: Segment

    @property
    def out(self) -> Path:
        return self.segment.out

    @property
    def frames(self) -> int:
        return self.segment.frames

    def values(self, media: Path) -> dict[str, Any]:
        order, cut, level = self.segment.order, self.segment.cut, self.segment.level
        return {
            **_source(order.info, media),
            "grade": recipe.reel_to_json(order.grade),
            "delivery": order.delivery.as_json(),
            "cut": [_plain(cut.begin_s), _plain(cut.end_s), cut.shift_s],
            "level": level and [level.pixel, level.frame],
        }

    @classmethod
    def from_values(cls, values: Mapping[str, Any], media: Path) -> RenderPiece:
        begin, end, shift = values["cut"]
        cut = Cut(
            begin_s=-math.inf if begin is None else begin,
            end_s=math.inf if end is None else end,
            shift_s=shift,
        )
        order = Order(
            info=_info(values, media),
            grade=recipe.reel_from_json(values["grade"]),
            delivery=Delivery.from_json(values["delivery"]),
        )
        level = values["level"] and LightLevel(pixel=values["level"][0], frame=values["level"][1])
        return cls(segment=Segment(order=order, cut=cut, level=level, out=media / values["out"]))

    def make(self, progress: Progress) -> None:
        render_segment(self.segment, progress)


@dataclass(frozen=True, slots=True, kw_only=True)
class LookPiece:
    """What is seen of a clip: its findings, as bytes. It takes seconds and tells nothing on its way."""

    info: SignalInfo
    out: Path

    @property
    def frames(self) -> int:
        return 1

    def values(self, media: Path) -> dict[str, Any]:
        return _source(self.info, media)

    @classmethod
    def from_values(cls, values: Mapping[str, Any], media: Path) -> LookPiece:
        return cls(info=_info(values, media), out=media / values["out"])

    def make(self, progress: Progress) -> None:
        found = to_bytes(look_within(self.info))
        with whole_file(self.out) as part:
            part.write_bytes(found)


@dataclass(frozen=True, slots=True, kw_only=True)
class ProxyPiece:
    """A clip's small copy for playing; its colour is spread by `chroma_gain`."""

    info: SignalInfo
    chroma_gain: float
    out: Path

    @property
    def frames(self) -> int:
        return self.info.frames

    def values(self, media: Path) -> dict[str, Any]:
        return {**_source(self.info, media), "chroma_gain": self.chroma_gain}

    @classmethod
    def from_values(cls, values: Mapping[str, Any], media: Path) -> ProxyPiece:
        return cls(info=_info(values, media), chroma_gain=values["chroma_gain"], out=media / values["out"])

    def make(self, progress: Progress) -> None:
        with whole_file(self.out) as part:
            if not make_proxy(self.info, part, chroma_gain=self.chroma_gain, progress=progress):
                raise Cancelled("The preparing was stopped.")


MAKERS: dict[str, Callable[[Mapping[str, Any], Path], Piece]] = {
    "render": RenderPiece.from_values,
    "look": LookPiece.from_values,
    "proxy": ProxyPiece.from_values,
}
NAMES = {RenderPiece: "render", LookPiece: "look", ProxyPiece: "proxy"}


def name_of(piece: Piece, media: Path) -> str:
    """What a piece is called on the board: where its file comes to lie."""
    return piece.out.relative_to(media).as_posix()


def to_text(piece: Piece, media: Path) -> str:
    """A piece as it travels."""
    head = {"kind": NAMES[type(piece)], "out": name_of(piece, media), "frames": piece.frames}
    return json.dumps(head | piece.values(media))


def from_text(text: str, media: Path) -> Piece:
    """A piece as it arrived."""
    values = json.loads(text)
    return MAKERS[values["kind"]](values, media)


def _source(info: SignalInfo, media: Path) -> dict[str, Any]:
    return {"source": info.path.relative_to(media).as_posix(), "info": info.record()}


def _info(values: Mapping[str, Any], media: Path) -> SignalInfo:
    return SignalInfo.from_json(values["info"], media / values["source"])


def _plain(seconds: float) -> float | None:
    return None if math.isinf(seconds) else seconds

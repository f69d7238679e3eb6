"""One file of an outing: its clips in the order of filming, straight cuts, chapters with their names."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Any

from morphe.core.errors import OutputError
from morphe.core.footage.info import SignalInfo
from morphe.core.grade.grade import Grade
from morphe.core.grade.reel import Reel
from morphe.core.handover.delivery import Delivery, Order
from morphe.core.handover.film import Film, film_of
from morphe.core.handover.parts import Part
from morphe.core.handover.render import graded_for
from morphe.core.handover.rhythm import usual_rate

__all__ = ["Piece", "joined", "joined_delivery"]

MOST = 200  # pieces


@dataclass(frozen=True, slots=True, kw_only=True)
class Piece:
    """One clip of the file: what it is, how it is graded and the chapter's name."""

    info: SignalInfo
    grade: Grade | Reel
    title: str
    parts: tuple[Part, ...] = ()


def joined_delivery(pieces: Sequence[Piece], delivery: Delivery) -> Delivery:
    """A delivery with the one size, depth and rate that all pieces take: that of most of their length."""
    if not pieces or len(pieces) > MOST:
        raise OutputError(f"A joined file has 1 to {MOST} clips; tick some of them.")
    size = delivery.size or _commonest(pieces, lambda i: tuple(n // 2 * 2 for n in i.upright_size))
    fps = delivery.fps or usual_rate(_commonest(pieces, lambda i: Fraction(i.fps).limit_denominator(1001)))
    if delivery.preset.ratio and delivery.size is None:
        size = _of_shape(size, delivery.preset.ratio)
    bits = delivery.preset.bit_depth or max(delivery.preset.bits_for(p.info.bit_depth) for p in pieces)
    preset = replace(delivery.preset, bit_depth=bits, megabytes=0.0)
    return replace(delivery, preset=preset, size=size, fps=fps, parts=(), megabytes=0.0)


def _of_shape(size: tuple[int, int], ratio: float) -> tuple[int, int]:
    wide, tall = size
    return (round(tall * ratio / 2) * 2, tall) if wide / tall > ratio else (wide, round(wide / ratio / 2) * 2)


def _commonest(pieces: Sequence[Piece], of: Callable[[SignalInfo], Any]) -> Any:
    lengths: dict[Any, float] = {}
    for piece in pieces:
        key = of(piece.info)
        lengths[key] = lengths.get(key, 0.0) + piece.info.duration_s
    return max(lengths, key=lambda key: lengths[key])


def joined(pieces: Sequence[Piece], delivery: Delivery) -> Film:
    """Pieces as one film, for `render_film`.

    Raises
    ------
    OutputError
        If there is none, or there are too many.
    """
    wanted = joined_delivery(pieces, delivery)
    orders = []
    for piece in pieces:
        grade, own = graded_for(piece.grade, wanted), replace(wanted, parts=piece.parts)
        orders.append(Order(info=piece.info, grade=grade, delivery=own))
    return film_of(orders, [piece.title for piece in pieces])

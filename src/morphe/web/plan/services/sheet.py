"""A card on one page: what is printed and what is kept on the phone."""

from __future__ import annotations

from dataclasses import dataclass

from morphe.core.plan.answer import Answer
from morphe.core.plan.card import ShootCard
from morphe.web.plan.models import PlannedCamera

__all__ = ["Sheet", "sheet_of"]

LARGE = ("profile", "shutter", "iso", "filter", "white-balance", "frame-rate", "target")
EMPTY_LINES = 5


@dataclass(frozen=True, slots=True, kw_only=True)
class Sheet:
    """One camera's page."""

    planned: PlannedCamera
    card: ShootCard
    large: tuple[Answer, ...]
    small: tuple[Answer, ...]
    warnings: tuple[str, ...]
    lines: range


def sheet_of(planned: PlannedCamera, card: ShootCard) -> Sheet:
    """Sort a card's lines into those read at arm's length and the rest."""
    by_key = {a.key: a for a in card.answers}
    large = [by_key[k] for k in LARGE if k in by_key]
    eighth = next(k for k in ("aperture", "water", "steadying") if k in by_key)
    large.append(by_key[eighth])
    small = [a for a in card.answers if a not in large]
    return Sheet(
        planned=planned,
        card=card,
        large=tuple(large),
        small=tuple(small),
        warnings=tuple(a.warning for a in card.answers if a.warning),
        lines=range(EMPTY_LINES),
    )

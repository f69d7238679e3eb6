"""How much of a look a clip bears: what it moves here, what it clips, where skin goes."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer, Scope
from morphe.core.grade.step import Step
from morphe.core.measure.readings import luma_of
from morphe.core.measure.skin import skin_of_pixels
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.arrays import Encoded, Float, Mask
from morphe.core.signal.perception import linear_to_oklab
from morphe.core.signal.transfer import decode_bt1886

__all__ = ["STYLE", "Borne", "borne_strength", "style_layer"]

STYLE = "style"  # id of the layer
SHARES = (1.0, 0.85, 0.7, 0.6, 0.5, 0.4, 0.3, 0.2, 0.1, 0.05, 0.02)
MOST_MOVED = 6.0  # of Oklab times 100, on average: beyond, the look is what is seen and not the picture
MOST_LOST_PCT = 0.3
SKIN_DEG, SKIN_MORE_DEG = 6.0, 0.1  # skin stays so near its line, or as near as it was
FLOOR, CEILING, CODE = 0.002, 0.998, 1 / 219  # what lay within a code of an end was there already


@dataclass(frozen=True, slots=True, kw_only=True)
class Borne:
    """A proposed strength 0..1, and what it does there and at full."""

    strength: float
    moved: float
    sentence: str


@dataclass(frozen=True, slots=True, kw_only=True)
class _Effect:
    moved: float
    sunk_pct: float
    clipped_pct: float
    skin_deg: float
    is_strained: bool = False

    @property
    def is_within(self) -> bool:
        lost = self.sunk_pct + self.clipped_pct
        return (
            not self.is_strained
            and lost <= MOST_LOST_PCT
            and self.skin_deg <= SKIN_MORE_DEG
            and self.moved <= MOST_MOVED
        )


def style_layer(steps: Sequence[Step], strength: float, name: str = "") -> Layer:
    """The layer of a style."""
    return Layer(id=STYLE, scope=Scope.STYLE, name=name, steps=tuple(steps), strength=strength)


def borne_strength(
    pictures: Sequence[Encoded], steps: Sequence[Step], skin: Sequence[Mask] | None = None, *,
    strain: Callable[[Layer], float] | None = None,
) -> Borne:  # fmt: skip
    """The largest strength at which a look keeps what the correction won, on corrected pictures (H, W, 3).

    Parameters
    ----------
    strain : how far the file is bent with a style on, as a share of what it bears
    """
    masks = skin or [np.zeros(p.shape[:2], bool) for p in pictures]
    effects: dict[float, _Effect] = {}
    bearable = max(1.0, strain(style_layer((), 1.0))) if strain else 1.0
    for share in SHARES:
        bent = strain(style_layer(steps, share)) if strain else 0.0
        effects[share] = replace(_effect(pictures, steps, masks, share), is_strained=bent > bearable)
        if effects[share].is_within:
            break
    return Borne(
        strength=share, moved=effects[share].moved, sentence=_said(share, effects[share], effects[1.0])
    )


def _effect(
    pictures: Sequence[Encoded], steps: Sequence[Step], masks: Sequence[Mask], share: float
) -> _Effect:
    grade = Grade().with_layer(style_layer(steps, share))
    after = [evaluate(grade, p) for p in pictures]
    before, done = _flat(pictures), _flat(after)
    was, now = (luma_of(pixels) for pixels in (before, done))
    top_was, top_now = before.max(axis=1), done.max(axis=1)
    return _Effect(
        moved=float(np.linalg.norm(_lab(done) - _lab(before), axis=1).mean() * 100),
        sunk_pct=100 * float(((now <= FLOOR) & (was > FLOOR + CODE)).mean()),
        clipped_pct=100 * float(((top_now >= CEILING) & (top_was < CEILING - CODE)).mean()),
        skin_deg=_skin_moved(pictures, after, masks),
    )


def _flat(pictures: Sequence[Encoded]) -> Encoded:
    return np.concatenate([p.reshape(-1, 3) for p in pictures])


def _lab(pixels: Encoded) -> Float:
    return np.asarray(linear_to_oklab(decode_bt1886(np.clip(pixels, 0, 1))))


def _skin_moved(before: Sequence[Encoded], after: Sequence[Encoded], masks: Sequence[Mask]) -> float:
    """Degrees by which a style takes skin further off its line than it was, beyond what is natural."""
    if not any(mask.any() for mask in masks):
        return 0.0
    was, now = (
        skin_of_pixels(np.concatenate([p[m] for p, m in zip(pictures, masks, strict=True)]))
        for pictures in (before, after)
    )
    return max(abs(now.off_deg) - max(abs(was.off_deg), SKIN_DEG), 0.0)


def _said(share: float, here: _Effect, full: _Effect) -> str:
    said = (
        f"{100 * share:.0f} %: moves colours by {here.moved:.0f} on average, {_lost(here) or 'clips nothing'}"
    )
    if share == 1.0:
        return f"{said}."
    costs = [_lost(full)] if _lost(full) else []
    if full.skin_deg > SKIN_MORE_DEG:
        costs.append(f"skin goes {full.skin_deg:.1f}° beyond where it may lie")
    if full.is_strained:
        costs.append("the file shows bands")
    if full.moved > MOST_MOVED:
        costs.append(f"colours move by {full.moved:.0f}")
    return f"{said}; at full, {' and '.join(costs)}."


def _lost(effect: _Effect) -> str:
    words = ((effect.sunk_pct, "of the shadows sink"), (effect.clipped_pct, "of the lights clip"))
    return ", ".join(f"{pct:.1f} % {what}" for pct, what in words if pct > MOST_LOST_PCT / 2)

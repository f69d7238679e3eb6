"""Last fixes: what is outside once everything is done, each with a change in the layer that causes it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from morphe.core.advise.whole.skin import SkinWatch
from morphe.core.advise.whole.strain import Strain
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import CLIP, Layer, Scope
from morphe.core.grade.moments import held
from morphe.core.grade.steps import BlackPoint, Grain, HoldLights, Saturation, SkinTurn
from morphe.core.measure.readings import SAFE_HIGH, SAFE_LOW, luma_of
from morphe.core.measure.skin import SKIN_ZONE_DEG
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.arrays import Encoded, highest

__all__ = ["Fix", "last_fixes"]

LOST_PCT = 1.0  # of the picture, sunk to black or clipped to white by the grade
OUTSIDE_PCT = 1.0  # beyond the safe outline
FLOOR, CEILING = 0.002, 0.998
LEAST, MOST_BLACK = 0.5, 6.0  # percent
HIDES_BANDS = 1.2  # percent of grain: about a code of 8 bits in the middle, and more
LESS = (0.9, 0.8, 0.7, 0.6, 0.5, 0.4, 0.3, 0.2, 0.1)  # of a style's strength
WHAT = {
    "sunk": "shadows are crushed", "clipped": "lights are clipped",
    "outside": "colours leave the safe outline",
    "skin": "skin leaves its line", "strain": "the file shows bands",
}  # fmt: skip
CALM = (4.0, 20.0)  # percent of saturation taken back


@dataclass(frozen=True, slots=True, kw_only=True)
class Fix:
    """What is wrong at the end, what causes it, and the numbers of a step of a layer that mend it."""

    key: str
    sentence: str
    action: str
    layer: str
    step: str
    numbers: dict[str, float]
    strength: float | None = None  # of the layer, where that is what mends it


def last_fixes(
    pictures: Sequence[Encoded], times_s: Sequence[float], grade: Grade, *,
    skin: Callable[[Grade], SkinWatch | None] = lambda grade: None,
    strain: Callable[[Grade], Strain | None] = lambda grade: None,
) -> tuple[Fix, ...]:  # fmt: skip
    """Look at small judging frames (H, W, 3) as filmed through the whole grade; empty when all is within.

    What a style broke can be mended where it shows, or by less of the style: the largest share that keeps
    what the correction won is found.
    """

    def fixes(tried: Grade) -> tuple[Fix, ...]:
        return _fixes(pictures, times_s, tried, skin(tried), strain(tried))

    found, style = fixes(grade), grade.layer(Scope.STYLE)
    if not found or not style.at_work:
        return found
    before = {fix.key for fix in fixes(grade.with_layer(replace(style, strength=0.0)))}
    broken = [fix for fix in found if fix.key in WHAT and fix.key not in before]
    if not broken:
        return found
    for share in LESS:
        strength = round(style.strength * share, 2)
        if {f.key for f in fixes(grade.with_layer(replace(style, strength=strength)))} <= before:
            return (_less(style, broken, strength), *found)
    return found


def _less(style: Layer, broken: Sequence[Fix], strength: float) -> Fix:
    name = f"The style {style.name}" if style.name else "The style"
    lost = "; ".join(WHAT[fix.key] for fix in broken)
    return Fix(
        key="style", sentence=f"{name} breaks what the correction won: {lost}.",
        action=f"The style at {100 * strength:.0f} % keeps all within", layer=style.id, step="", numbers={},
        strength=strength,
    )  # fmt: skip


def _fixes(
    pictures: Sequence[Encoded], times_s: Sequence[float], grade: Grade, skin: SkinWatch | None,
    strain: Strain | None,
) -> tuple[Fix, ...]:  # fmt: skip
    raw = [evaluate(grade, p, time_s=t) for p, t in zip(pictures, times_s, strict=True)]
    done = [np.clip(p, 0, 1) for p in raw]
    found = [
        _sunk(pictures, times_s, grade, raw, done), _clipped(pictures, times_s, grade, raw, done),
        _outside(grade, raw, done), _skin(grade, skin), _strain(strain), _grain(grade, strain),
    ]  # fmt: skip
    return tuple(fix for fix in found if fix is not None)


def _graded(grade: Grade, picture: Encoded, time_s: float) -> Encoded:
    return np.clip(evaluate(grade, picture, time_s=time_s), 0, 1)


def _share(pictures: Sequence[Encoded], name: str) -> float:
    """The worst share of a frame, in percent."""
    tests = {
        "sunk": lambda p: highest(p) < FLOOR,
        "clipped": lambda p: highest(p) > CEILING,
    }
    return max(100 * float(np.mean(tests[name](p))) for p in pictures)


def _until(grade: Grade, scope: Scope) -> Grade:
    """What is done up to the layers of a scope, which belong to it."""
    order = list(Scope)
    kept = tuple(layer for layer in grade.layers if order.index(layer.scope) <= order.index(scope))
    return replace(grade, layers=kept or (Layer(id=CLIP),))


def _cause(pictures: Sequence[Encoded], times_s: Sequence[float], grade: Grade, name: str) -> Scope | None:
    """The scope whose layers first bring a share over its limit; None where the file itself is so."""
    before = [_graded(Grade(source=grade.source), p, t) for p, t in zip(pictures, times_s, strict=True)]
    if _share(before, name) > LOST_PCT:
        return None
    for scope in Scope:
        partly = _until(grade, scope)
        seen = [_graded(partly, p, t) for p, t in zip(pictures, times_s, strict=True)]
        if _share(seen, name) > LOST_PCT:
            return scope
    return None


def _by(scope: Scope) -> str:
    return f"by {scope.label.lower()}" if scope is not Scope.CLIP else "by this clip's correction"


def _sunk(
    pictures: Sequence[Encoded], times_s: Sequence[float], grade: Grade, raw: Sequence[Encoded],
    done: Sequence[Encoded],
) -> Fix | None:  # fmt: skip
    share = _share(done, "sunk")
    scope = _cause(pictures, times_s, grade, "sunk") if share > LOST_PCT else None
    if scope is None:
        return None
    depth = -100 * float(np.percentile(np.concatenate([luma_of(p).ravel() for p in raw]), LOST_PCT))
    now = held(_step(grade, BlackPoint).lower, 0.0)
    lift = float(np.clip(max(depth, LEAST) + LEAST, LEAST, MOST_BLACK))
    lower = BlackPoint.within("lower", round(now - lift, 1))
    return Fix(
        key="sunk", sentence=f"{share:.1f} % of the shadows are crushed {_by(scope)}.",
        action=f"Raise black in the clip by {lift:.1f} %", layer=CLIP, step=BlackPoint.key,
        numbers={"lower": lower},
    )  # fmt: skip


def _step(grade: Grade, kind: type[BlackPoint]) -> BlackPoint:
    found = grade.step(kind.key, CLIP)
    return found if isinstance(found, kind) else kind()


def _clipped(
    pictures: Sequence[Encoded], times_s: Sequence[float], grade: Grade, raw: Sequence[Encoded],
    done: Sequence[Encoded],
) -> Fix | None:  # fmt: skip
    share = _share(done, "clipped")
    scope = _cause(pictures, times_s, grade, "clipped") if share > LOST_PCT else None
    if scope is None:
        return None
    bright = float(np.percentile(np.concatenate([highest(p).ravel() for p in raw]), 99.9))
    found = grade.step(HoldLights.key, CLIP)
    now = held(found.stops, 0.0) if isinstance(found, HoldLights) else 0.0
    stops = HoldLights.within("stops", round(now + max(2.2 * float(np.log2(max(bright, 1.02))), 0.15), 2))
    return Fix(
        key="clipped", sentence=f"{share:.1f} % of the lights are clipped {_by(scope)}.",
        action=f"Roll in {stops - now:.1f} stops more in the clip", layer=CLIP, step=HoldLights.key,
        numbers={"stops": stops},
    )  # fmt: skip


def _outside(grade: Grade, raw: Sequence[Encoded], done: Sequence[Encoded]) -> Fix | None:
    share = max(100 * float(((p < SAFE_LOW) | (p > SAFE_HIGH)).any(axis=-1).mean()) for p in raw)
    lost = max(_share(done, "sunk"), _share(done, "clipped"))
    if share <= OUTSIDE_PCT or lost > LOST_PCT:  # what is lost at the ends is mended there
        return None
    found = grade.step(Saturation.key, CLIP)
    now = held(found.amount, 0.0) if isinstance(found, Saturation) else 0.0
    back = float(np.clip(round(3 + 2 * share), *CALM))
    return Fix(
        key="outside", sentence=f"{share:.1f} % of the picture lies beyond the safe outline.",
        action=f"Take {back:.0f} % of saturation back in the clip", layer=CLIP, step=Saturation.key,
        numbers={"amount": Saturation.within("amount", now - back)},
    )  # fmt: skip


def _skin(grade: Grade, skin: SkinWatch | None) -> Fix | None:
    if skin is None or abs(skin.off_deg) <= SKIN_ZONE_DEG:
        return None
    found = grade.step(SkinTurn.key, CLIP)
    now = held(found.turn, 0.0) if isinstance(found, SkinTurn) else 0.0
    centre = found.centre if isinstance(found, SkinTurn) and found.at_work else 123.0 + skin.off_deg
    turn = SkinTurn.within("turn", round(now - skin.off_deg, 1))
    said = skin.warning or f"Skin lies {abs(skin.off_deg):.0f}° off its line at the end."
    return Fix(
        key="skin", sentence=said, action="Turn skin onto its line in the clip", layer=CLIP,
        step=SkinTurn.key,
        numbers={"turn": turn, "centre": float(np.clip(round(centre, 1), 60, 180))},
    )  # fmt: skip


def _strain(strain: Strain | None) -> Fix | None:
    if strain is None or strain.cure is None:
        return None
    cure = strain.cure
    return Fix(
        key="strain", sentence=f"{strain.sentence} {cure.sentence}", action="Ease it for the file's sake",
        layer=cure.layer, step=cure.step, numbers=dict(cure.numbers),
    )  # fmt: skip


def _grain(grade: Grade, strain: Strain | None) -> Fix | None:
    """Bands are hidden by a little grain, which costs nothing of the grade."""
    on = any(isinstance(step, Grain) and step.at_work for _, step in grade.steps())
    if strain is None or not strain.bands or on:
        return None
    return Fix(
        key="grain", sentence="Or hide the steps: fine grain breaks up bands, and the file grows a little.",
        action=f"Lay {HIDES_BANDS:g} % of grain over it", layer=Scope.FINISH, step=Grain.key,
        numbers={"amount": HIDES_BANDS},
    )  # fmt: skip

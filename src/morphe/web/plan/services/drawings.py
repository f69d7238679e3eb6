"""Where things stand in the plan's drawings: in percent of the width, so that text keeps its size."""

from __future__ import annotations

import json
import math
from dataclasses import dataclass

from morphe.core.plan.card import Share, ShootCard
from morphe.core.plan.exposure import Range
from morphe.core.plan.reasons import aperture_words
from morphe.core.plan.wording import clock, shutter, stops
from morphe.core.water.hints import WaterHints
from morphe.web.plan.services.depth_drawing import DepthDrawing
from morphe.web.plan.services.depth_drawing import depth_drawing as drawn

__all__ = ["depth_drawing", "latitude_drawing", "stack_drawing", "storage_drawing", "sun_drawing"]


@dataclass(frozen=True, slots=True)
class Scale:
    """Values from `low` to `high` laid over 0 to 100 percent."""

    low: float
    high: float

    def at(self, value: float) -> float:
        share = (value - self.low) / (self.high - self.low)
        return round(100 * min(max(share, 0.0), 1.0), 2)

    def span(self, low: float, high: float) -> dict[str, float]:
        """A bar between two values."""
        start, end = self.at(min(low, high)), self.at(max(low, high))
        return {"x": start, "width": round(end - start, 2)}

    def ticks(self, step: float) -> list[dict[str, float | str]]:
        first = math.ceil(self.low / step) * step
        count = int((self.high - first) / step) + 1
        return [{"x": self.at(first + i * step), "label": f"{first + i * step:g}"} for i in range(count)]


def stack_drawing(card: ShootCard, pins: dict[str, float]) -> dict[str, object]:
    """The exposure stack: each part takes its stops off what the parts before it left."""
    plan, parts = card.plan, card.stack[1:-1]
    levels = [card.stack[0].stops]
    for share in parts:
        levels.append(levels[-1] - share.stops)
    scale = Scale(math.floor(min(*levels, -1)) - 1, math.ceil(max(levels)) + 1)
    rows = [
        {
            "share": share,
            "bar": scale.span(after, before),
            "start": scale.at(before),
            "end": scale.at(after),
            "gives": share.stops < 0,
            "pinned": _pin_name(share) in pins,
            **_options(share, plan.ability, fixed_aperture=plan.kit.has_fixed_aperture),
        }
        for share, before, after in zip(parts, levels, levels[1:], strict=False)
    ]
    return {
        "scene": card.stack[0],
        "scene_bar": scale.span(0, levels[0]),
        "rows": rows,
        "lands": card.stack[-1],
        "lands_at": scale.at(levels[-1]),
        "wanted_at": scale.at(plan.offset_stops),
        "wanted": stops(plan.offset_stops),
        "low": scale.low,
        "high": scale.high,
        "ticks": scale.ticks(2),
        "zero": scale.at(0),
        "is_good": plan.settings.is_good,
    }


def _pin_name(share: Share) -> str:
    return {"filter": "nd_stops", "shutter": "shutter_s"}.get(share.key, share.key)


def _options(share: Share, ability: Range, *, fixed_aperture: bool) -> dict[str, object]:
    """What a part can be dragged to: its values with their stops and words, for the browser to snap to."""
    if share.key == "filter":
        found = [
            (f.stops if f else 0, f.stops if f else 0, f.name if f else "no ND") for f in ability.filters
        ]
    elif share.key == "aperture" and not fixed_aperture:
        found = [(n, 2 * math.log2(n), aperture_words(n)) for n in ability.apertures]
    elif share.key == "shutter":
        found = [(t, -math.log2(t), shutter(t)) for t in ability.shutters_s]
    elif share.key == "iso":
        found = [(i, -math.log2(i / 100), f"{i:g}") for i in reversed(ability.isos)]
    else:
        return {"options": "", "index": 0, "last": 0}
    index = min(range(len(found)), key=lambda i: abs(found[i][1] - share.stops))
    return {"options": json.dumps(found) if len(found) > 1 else "", "index": index, "last": len(found) - 1}


def latitude_drawing(card: ShootCard) -> dict[str, object]:
    """What the profile holds, laid over what the scene has, in stops around the grey card."""
    holds, scene = card.holds, card.scene
    scale = Scale(-math.ceil(max(holds.below, scene.below)) - 1, math.ceil(max(holds.above, scene.above)) + 1)
    said = []
    if card.clips_stops > 0.05:
        said.append(f"the brightest {card.clips_stops:.1f} stops clip")
    if card.drowns_stops > 0.05:
        said.append(f"the darkest {card.drowns_stops:.1f} stops drown")
    words = " and ".join(said) or "everything fits"
    return {
        "holds": scale.span(-holds.below, holds.above),
        "scene": scale.span(-scene.below, scene.above),
        "clips": scale.span(holds.above, max(scene.above, holds.above)),
        "drowns": scale.span(-max(scene.below, holds.below), -holds.below),
        "grey": scale.at(0),
        "ticks": scale.ticks(2),
        "holds_words": f"{holds.below:.1f} below, {holds.above:.1f} above grey",
        "scene_words": f"{card.scene.span:.1f} stops",
        "sentence": f"{words[0].upper()}{words[1:]}.",
        "fits": not said,
    }


def sun_drawing(card: ShootCard) -> dict[str, object] | None:
    """The sun's height over the day with its windows; the curve lives in a box of 1000 by 100."""
    sun = card.sun
    if sun is None:
        return None
    start, end = sun.heights[0][0].timestamp(), sun.heights[-1][0].timestamp()
    time, height = Scale(start, end), Scale(-20, 90)
    points = [(10 * time.at(t.timestamp()), 100 - height.at(h)) for t, h in sun.heights]
    hour = start + card.plan.questions.hour * 3600
    return {
        "points": " ".join(f"{x:.0f},{y:.1f}" for x, y in points),
        "horizon": 100 - height.at(0),
        "hard": 100 - height.at(45),
        "windows": [
            {"key": w.key, "label": w.label, **time.span(w.start.timestamp(), w.end.timestamp()),
             "words": f"{w.label}, {w.start:%H:%M} to {w.end:%H:%M}"}
            for w in sun.windows
            if w.key in ("blue", "golden", "hard", "water")
        ],
        "hours": [{"x": time.at(start + h * 3600), "label": f"{h:02d}"} for h in range(3, 24, 3)],
        "now": time.at(hour),
        "now_label": clock(card.plan.questions.hour),
        "sentences": sun.sentences,
        "place": sun.place,
    }  # fmt: skip


def depth_drawing(card: ShootCard) -> DepthDrawing | None:
    """The depth card of a shot under water."""
    light, chosen = card.plan.scene.water, card.plan.water_filter
    if light is None:
        return None
    glass = chosen.filter.kind if chosen is not None and chosen.filter is not None else ""
    hints = WaterHints(
        depth_m=light.depth_m, distance_m=light.distance_m, water=light.water.key, lamp=light.has_lamp,
        filter=str(glass),
    )  # fmt: skip
    return drawn(hints, card.plan.recording.bit_depth)


def storage_drawing(card: ShootCard) -> dict[str, object]:
    """What the day needs against what is left."""
    room = card.plan.room
    scale = Scale(0, max(room.usable_gb, room.needed_gb, 0.1))
    return {
        "usable": scale.at(room.usable_gb),
        "needed": scale.at(room.needed_gb),
        "is_enough": room.is_enough,
        "words": f"{room.needed_gb:.1f} of {room.usable_gb:.0f} GB",
    }

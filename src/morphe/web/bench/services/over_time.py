"""The chart of light over time, as the page draws it: places in percent of the chart."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from morphe.core.grade.grade import Grade
from morphe.core.measure.drift import STOPS_PER_MIRED
from morphe.core.signal.primaries import LUMINANCE_709
from morphe.web.clips.models import Clip

__all__ = ["OverTime", "over_time"]

REACH_STOPS = 0.5  # of the chart to either side, at least
MOST_POINTS = 160
CORNER_STOPS = 0.12  # off a straight course: there the light turns
MOST_CHANGES = 8


@dataclass(frozen=True, slots=True, kw_only=True)
class OverTime:
    """Lines of exposure and warmth about the clip's middle, what is left of exposure, and the words."""

    exposure: str
    warmth: str
    left: str
    reach: float
    amount: float
    summary: str
    sentences: tuple[str, ...]
    wanders: bool
    changes: tuple[float, ...]  # seconds at which the light turns: where moments are worth setting


def _changes(times: np.ndarray, light: np.ndarray) -> tuple[float, ...]:
    """Ends and corners of the course of the light, as a line with few corners follows it (Ramer 1972)."""
    kept, parts = {0, len(times) - 1}, [(0, len(times) - 1)]
    while parts and len(kept) < MOST_CHANGES:
        first, last = parts.pop(0)
        if last - first < 2:
            continue
        share = (times[first:last] - times[first]) / (times[last] - times[first])
        line = light[first] + share[:, None] * (light[last] - light[first])
        off = np.abs(light[first:last] - line).max(axis=1)
        at = first + int(off.argmax())
        if off.max() > CORNER_STOPS:
            kept.add(at)
            parts += [(first, at), (at, last)]
    return tuple(round(float(times[n]), 2) for n in sorted(kept)) if len(kept) > 2 else ()


def over_time(clip: Clip, grade: Grade) -> OverTime | None:
    """The chart of a clip, or None while its light has not been followed."""
    if not clip.drift.get("track"):
        return None
    track = np.array(clip.drift["track"], float)
    track = track[:: max(1, len(track) // MOST_POINTS)]
    stops = np.log2(np.exp2(track[:, 1:]) @ LUMINANCE_709)
    warm = (track[:, 1] - track[:, 3]) / STOPS_PER_MIRED * 0.0125  # 80 mired reach as far as a stop
    amount = grade.even_out.amount if grade.even_out.at_work else 0.0
    reach = max(REACH_STOPS, float(np.abs(stops).max()), float(np.abs(warm).max()))
    across = 100 * (track[:, 0] - track[0, 0]) / max(track[-1, 0] - track[0, 0], 1e-6)

    def line(values: np.ndarray) -> str:
        return " ".join(f"{x:.2f},{50 - 46 * v / reach:.2f}" for x, v in zip(across, values, strict=True))

    return OverTime(
        exposure=line(stops), warmth=line(warm), left=line(stops * (1 - amount / 100)) if amount else "",
        summary=f"Wanders by {np.ptp(stops):.1f} stops and {clip.drift.get('mired', 0):.0f} mired.",
        reach=round(reach, 1), amount=amount, sentences=tuple(clip.drift.get("sentences", ())),
        wanders=bool(clip.drift.get("wanders")),
        changes=_changes(track[:, 0], np.stack([stops, warm], axis=1)),
    )  # fmt: skip

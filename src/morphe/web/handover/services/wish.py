"""What a form wishes of files that go out."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction

from morphe.core.errors import OutputError
from morphe.core.handover.delivery import Delivery
from morphe.core.handover.presets import Preset
from morphe.core.handover.rhythm import usual_rate
from morphe.core.handover.sound import Heard
from morphe.core.handover.stills import STILLS
from morphe.web.clips.models import Clip
from morphe.web.handover.services.names import PATTERN
from morphe.web.library.services.presets import preset_named

__all__ = ["MODES", "Wish", "common_shape", "wish_of"]

LEAST_MB, MOST_MB = 0.5, 4000.0
MODES = {
    "each": "Each clip a file",
    "apart": "Each good part a file",
    "joined": "One joined file, with chapters",
    "wipe": "Before and after, with a moving edge",
    "still": "A still of each clip",
    "link": "A page to send, with stills before and after",
    "report": "A report of the outing (PDF)",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Wish:
    """As what clips are delivered, and how many files they become."""

    delivery: Delivery = field(default_factory=Delivery)
    mode: str = "each"
    pattern: str = PATTERN
    still: str = "png"

    @property
    def preset(self) -> Preset:
        return self.delivery.preset


def wish_of(posted: Mapping[str, str], clips: Sequence[Clip] = ()) -> Wish:
    """What a form wishes of some clips.

    Raises
    ------
    MorpheError
        If there is no such preset, sound, kind or rate, or the size cannot be kept.
    """
    preset = preset_named(posted.get("preset") or "web")
    sound, mode = posted.get("sound") or Heard.KEPT, posted.get("mode") or "each"
    still = posted.get("still") or "png"
    if sound not in list(Heard):
        raise OutputError("Sound is kept, left out or levelled; choose one of these.")
    if mode not in MODES or still not in STILLS:
        raise OutputError("That is nothing that can be handed over; choose from the list.")
    megabytes = _megabytes(posted.get("megabytes") or str(preset.megabytes)) if preset.megabytes else 0.0
    size, fps = common_shape(clips) if posted.get("shape") == "outing" else (None, None)
    if preset.ratio:
        size = None
    delivery = Delivery(
        preset=preset, megabytes=megabytes, sound=Heard(sound), size=size, fps=fps, wipe=mode == "wipe"
    )
    return Wish(delivery=delivery, mode=mode, still=still, pattern=(posted.get("pattern") or PATTERN)[:120])


def _megabytes(text: str) -> float:
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        value = math.nan
    if not LEAST_MB <= value <= MOST_MB:
        raise OutputError(f"A size that can be kept lies between {LEAST_MB:g} and {MOST_MB:g} MB.")
    return value


def common_shape(clips: Sequence[Clip]) -> tuple[tuple[int, int] | None, Fraction | None]:
    """The size and the rate that most of some clips' time has."""
    sizes: dict[tuple[int, int], float] = {}
    rates: dict[Fraction, float] = {}
    for clip in clips:
        info = clip.signal
        size = (info.upright_size[0] // 2 * 2, info.upright_size[1] // 2 * 2)
        rate = Fraction(info.fps).limit_denominator(1001)
        sizes[size] = sizes.get(size, 0) + info.duration_s
        rates[rate] = rates.get(rate, 0) + info.duration_s
    if not sizes:
        return None, None
    return max(sizes, key=lambda s: sizes[s]), usual_rate(max(rates, key=lambda r: rates[r]))

"""A delivery: as what a clip goes out, which of it, with what sound, and in whose shape and rate."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

from morphe.core.errors import OutputError
from morphe.core.footage.info import SignalInfo
from morphe.core.grade.grade import Grade
from morphe.core.grade.reel import Reel
from morphe.core.handover.parts import Part, parts_from_json
from morphe.core.handover.presets import PRESETS, Preset, preset_from_json
from morphe.core.handover.sound import Heard

__all__ = ["Delivery", "Order"]

LARGEST_SIDE, SMALLEST_SIDE, FASTEST = 8192, 16, 240


@dataclass(frozen=True, slots=True, kw_only=True)
class Delivery:
    """What is wanted of one file.

    megabytes : a size that is kept; 0 leaves that to the preset
    parts     : what alone is delivered, with straight cuts; none for the whole clip
    size      : (width, height) into which the picture is laid, with bars where its shape differs; or None
    fps       : frames a second, even; None keeps the clip's own times
    wipe      : whether the clip as filmed is shown beside, behind an edge that moves
    """

    preset: Preset = field(default_factory=lambda: PRESETS.get("web"))
    megabytes: float = 0.0
    sound: Heard = Heard.KEPT
    parts: tuple[Part, ...] = ()
    size: tuple[int, int] | None = None
    fps: Fraction | None = None
    wipe: bool = False

    def __post_init__(self) -> None:
        if self.fps is not None and not 1 <= self.fps <= FASTEST:
            raise OutputError(f"Frames a second lie between 1 and {FASTEST}.")
        if self.size is not None and any(n % 2 or not SMALLEST_SIDE <= n <= LARGEST_SIDE for n in self.size):
            raise OutputError(f"Sides are even and lie between {SMALLEST_SIDE} and {LARGEST_SIDE} pixels.")

    @classmethod
    def of(cls, preset: str, **more: Any) -> Delivery:
        """A delivery by a built-in preset's key."""
        return cls(preset=PRESETS.get(preset), **more)

    @property
    def limit_megabytes(self) -> float:
        return self.megabytes or self.preset.megabytes

    def as_json(self) -> dict[str, Any]:
        """Plain values, for `from_json`."""
        return {
            "preset": self.preset.as_json(),
            "megabytes": self.megabytes,
            "sound": str(self.sound),
            "parts": [[p.begin_s, p.end_s] for p in self.parts],
            "size": self.size and list(self.size),
            "fps": self.fps and str(self.fps),
            "wipe": self.wipe,
        }

    @classmethod
    def from_json(cls, data: Mapping[str, Any]) -> Delivery:
        size, fps = data.get("size"), data.get("fps")
        return cls(
            preset=preset_from_json(data.get("preset", "web")),
            megabytes=float(data.get("megabytes") or 0),
            sound=Heard(data.get("sound") or Heard.KEPT),
            parts=parts_from_json(data.get("parts") or ()),
            size=(int(size[0]), int(size[1])) if size else None,
            fps=Fraction(fps) if fps else None,
            wipe=bool(data.get("wipe")),
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Order:
    """A clip, its grade, or those of its shots, and as what it goes out."""

    info: SignalInfo
    grade: Grade | Reel
    delivery: Delivery

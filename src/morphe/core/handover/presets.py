"""Presets: how a delivered clip is encoded."""

from __future__ import annotations

from dataclasses import dataclass, field

from morphe.core.registry import Registry

__all__ = ["PRESETS", "Preset"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Preset:
    """Encoder, its options and the bit depth; None keeps the depth of the source (8 or 10)."""

    key: str
    label: str
    about: str
    codec: str
    options: dict[str, str] = field(hash=False)
    bit_depth: int | None = None
    bits_per_pixel: float  # measured on the demo clips; for the estimate of size only

    def bits_for(self, source_bits: int) -> int:
        return self.bit_depth or (8 if source_bits == 8 else 10)


PRESETS: Registry[Preset] = Registry("preset")
PRESETS.register("web")(
    Preset(
        key="web",
        label="Web",
        about="H.264, good for upload and for sending on",
        codec="libx264",
        options={"preset": "veryfast", "crf": "18"},
        bits_per_pixel=0.10,
    )
)
PRESETS.register("fine")(
    Preset(
        key="fine",
        label="Fine",
        about="H.264 with little loss, for further editing; about three times larger",
        codec="libx264",
        options={"preset": "fast", "crf": "13"},
        bits_per_pixel=0.30,
    )
)

"""Presets: as what a delivered clip is encoded, in which shape, and how large it may be."""

from __future__ import annotations

from dataclasses import dataclass, field

from morphe.core.registry import Registry

__all__ = ["PRESETS", "Preset"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Preset:
    """Encoder, its options and what is delivered.

    A bit depth of None keeps that of the source (8 or 10). `ratio` (width to height) crops the picture, 0
    leaves its shape; `megabytes` is a size that is kept, by two passes and a smaller picture where need be.
    """

    key: str
    label: str
    about: str
    codec: str
    options: dict[str, str] = field(hash=False)
    bit_depth: int | None = None
    chroma: str = "4:2:0"
    tag: str = ""  # of the codec in the container, where players ask for one of several
    ratio: float = 0.0
    megabytes: float = 0.0
    bits_per_pixel: float  # measured on the demo clips; for the estimate of size only
    effort: float = 1.0  # of Web's time, measured likewise; for the estimate until this machine knows better

    def bits_for(self, source_bits: int) -> int:
        return self.bit_depth or (8 if source_bits == 8 else 10)

    @property
    def advice(self) -> str:
        """What to try if a device refuses the file."""
        return ADVICE.get(self.codec if self.chroma == "4:2:0" else self.chroma, "")


ADVICE = {
    "libx265": "A device that refuses it plays Web.",
    "libsvtav1": "Devices from before about 2021 may refuse it, or play it slowly; they play Web.",
    "4:2:2": "An editor that refuses it takes Fine, or a proxy made from it.",
}
SILENT = {"x265-params": "log-level=error"}
QUICK = {"preset": "veryfast", "crf": "18"}
PRESETS: Registry[Preset] = Registry("preset")
for _preset in (
    Preset(
        key="web", label="Web", about="H.264, good for upload and for sending on",
        codec="libx264", options=QUICK, bits_per_pixel=0.10,
    ),
    Preset(
        key="web-hevc", label="Web, HEVC", about="Smaller at the same look; slower to make",
        codec="libx265", options={"preset": "fast", "crf": "20", **SILENT}, tag="hvc1",
        bits_per_pixel=0.06, effort=3.6,
    ),
    Preset(
        key="web-av1", label="Web, AV1", about="The smallest at the same look; for new devices",
        codec="libsvtav1", options={"preset": "8", "crf": "28"}, bits_per_pixel=0.045, effort=1.2,
    ),
    Preset(
        key="upright", label="Upright", about="9 : 16, H.264; cropped as the Bench has it, or in the middle",
        codec="libx264", options=QUICK, ratio=9 / 16, bits_per_pixel=0.10, effort=0.8,
    ),
    Preset(
        key="square", label="Square", about="1 : 1, H.264, cropped likewise",
        codec="libx264", options=QUICK, ratio=1.0, bits_per_pixel=0.10, effort=0.85,
    ),
    Preset(
        key="small", label="Small", about="A size that is kept, for messages: 16 MB, or what you say",
        codec="libx264", options={"preset": "fast"}, bit_depth=8, megabytes=16.0,
        bits_per_pixel=0.10, effort=2.2,
    ),
    Preset(
        key="fine", label="Fine", about="H.264 with little loss; about three times larger",
        codec="libx264", options={"preset": "fast", "crf": "13"}, bits_per_pixel=0.30, effort=2.4,
    ),
    Preset(
        key="editing", label="For editing", about="Every frame by itself, 10-bit 4:2:2: large, light to cut",
        codec="libx264", options={"preset": "fast", "crf": "12", "g": "1"}, bit_depth=10, chroma="4:2:2",
        bits_per_pixel=0.6, effort=1.9,
    ),
    Preset(
        key="archive", label="Archive", about="HEVC 10-bit with hardly any loss, to be kept",
        codec="libx265", options={"preset": "fast", "crf": "12", **SILENT}, bit_depth=10, tag="hvc1",
        bits_per_pixel=0.2, effort=5.6,
    ),
):  # fmt: skip
    PRESETS.register(_preset.key)(_preset)

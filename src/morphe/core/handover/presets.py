"""Presets: as what a delivered clip is encoded, in which shape, and how large it may be."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass, field
from typing import Any

from morphe.core.errors import OutputError
from morphe.core.registry import Registry
from morphe.core.signal.ycbcr import Matrix

__all__ = ["CODECS", "PRESETS", "Marks", "Preset", "own_preset", "preset_from_json"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Marks:
    """How a file says what its codes mean: numbers of ITU-T H.273, narrow range."""

    matrix: Matrix = Matrix.BT709
    matrix_number: int = 1
    primaries: int = 1
    transfer: int = 1


ORDINARY = Marks()
HDR = {
    "hlg": Marks(matrix=Matrix.BT2020, matrix_number=9, primaries=9, transfer=18),
    "pq": Marks(matrix=Matrix.BT2020, matrix_number=9, primaries=9, transfer=16),
}


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
    hdr: str = ""  # "hlg" or "pq" of BT.2100, from clips that were filmed in HDR
    bits_per_pixel: float  # measured on the demo clips; for the estimate of size only
    effort: float = 1.0  # of Web's time, measured likewise; for the estimate until this machine knows better

    def bits_for(self, source_bits: int) -> int:
        return self.bit_depth or (8 if source_bits == 8 else 10)

    @property
    def marks(self) -> Marks:
        return HDR.get(self.hdr, ORDINARY)

    @property
    def every_frame(self) -> bool:
        """Whether each frame stands by itself."""
        return self.options.get("g") == "1"

    def as_json(self) -> str | dict[str, Any]:
        """Its key where it is built in, else all its values."""
        return self.key if self.key in PRESETS and PRESETS.get(self.key) == self else asdict(self)

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
        key="web", label="Web", about="H.264 of 8 bits, plays everywhere",
        codec="libx264", options=QUICK, bit_depth=8, bits_per_pixel=0.10,
    ),
    Preset(
        key="web-hevc", label="Web, HEVC", about="Smaller, 10-bit where filmed so; slower to make",
        codec="libx265", options={"preset": "fast", "crf": "20", **SILENT}, tag="hvc1",
        bits_per_pixel=0.06, effort=3.6,
    ),
    Preset(
        key="web-av1", label="Web, AV1", about="The smallest at the same look; for new devices",
        codec="libsvtav1", options={"preset": "8", "crf": "28"}, bits_per_pixel=0.045, effort=1.2,
    ),
    Preset(
        key="web-hdr", label="HDR, HLG", about="HEVC, 10-bit; of clips that were filmed in HDR",
        codec="libx265", options={"preset": "fast", "crf": "18", **SILENT}, bit_depth=10, tag="hvc1",
        hdr="hlg", bits_per_pixel=0.08, effort=4.0,
    ),
    Preset(
        key="hdr-pq", label="HDR, PQ", about="HEVC, 10-bit, with its light levels; of clips filmed in HDR",
        codec="libx265", options={"preset": "fast", "crf": "18", **SILENT}, bit_depth=10, tag="hvc1",
        hdr="pq", bits_per_pixel=0.08, effort=4.0,
    ),
    Preset(
        key="hdr-av1", label="HDR, HLG, AV1", about="Smaller; for new devices",
        codec="libsvtav1", options={"preset": "8", "crf": "26"}, bit_depth=10,
        hdr="hlg", bits_per_pixel=0.06, effort=1.4,
    ),
    Preset(
        key="hdr-pq-av1", label="HDR, PQ, AV1", about="Smaller, with its light levels; for new devices",
        codec="libsvtav1", options={"preset": "8", "crf": "26"}, bit_depth=10,
        hdr="pq", bits_per_pixel=0.06, effort=1.4,
    ),
    Preset(
        key="upright", label="Upright", about="9 : 16, H.264; cropped as the Bench has it, or in the middle",
        codec="libx264", options=QUICK, bit_depth=8, ratio=9 / 16, bits_per_pixel=0.10, effort=0.8,
    ),
    Preset(
        key="square", label="Square", about="1 : 1, H.264, cropped likewise",
        codec="libx264", options=QUICK, bit_depth=8, ratio=1.0, bits_per_pixel=0.10, effort=0.85,
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


# --- a person's own --------------------------------------------------------------------------------

CODECS = {"libx264": "H.264", "libx265": "HEVC", "libsvtav1": "AV1"}
USUAL = {  # of Web and its kin: speed, quality, bits a pixel at that quality, effort
    "libx264": ("fast", 18, 0.12, 1.6),
    "libx265": ("fast", 20, 0.06, 3.6),
    "libsvtav1": ("8", 28, 0.045, 1.2),
}
FINEST, COARSEST = -12, 16  # of quality, against the usual
HALVES = 6.0  # so much quality less is half the size
EDGES = (64, 1)  # of a shape: width to height lies between 1 : 64 and 64 : 1


def own_preset(key: str, label: str, values: Mapping[str, Any]) -> Preset:
    """A preset of a person's own, of plain values.

    codec      : one of `CODECS`
    coarser    : by how much it is coarser than usual, -12..16; six are half the size
    bit_depth  : 8, 10, or none for that of the source
    chroma     : "4:2:0", or "4:2:2" in H.264
    every_frame: whether each frame stands by itself, light to cut
    ratio      : width to height, 0 for the clip's own
    megabytes  : a size that is kept, by H.264; 0 for none

    Raises
    ------
    OutputError
        If a value is none of these, or two do not go together.
    """
    codec, chroma = str(values.get("codec") or "libx264"), str(values.get("chroma") or "4:2:0")
    depth, ratio = int(values.get("bit_depth") or 0) or None, float(values.get("ratio") or 0)
    coarser, megabytes = int(values.get("coarser") or 0), float(values.get("megabytes") or 0)
    if not label.strip():
        raise OutputError("A preset needs a name; type one.")
    if codec not in CODECS or chroma not in ("4:2:0", "4:2:2") or depth not in (None, 8, 10):
        raise OutputError("A preset is H.264, HEVC or AV1, 4:2:0 or 4:2:2, of 8 or 10 bits; choose of these.")
    if codec != "libx264" and (chroma != "4:2:0" or megabytes):
        raise OutputError("4:2:2 and a size that is kept are made as H.264; choose it, or leave them off.")
    if not FINEST <= coarser <= COARSEST or not 0 <= megabytes <= 4000 or not 0 <= ratio <= EDGES[0]:
        raise OutputError(f"Quality lies between {FINEST} and {COARSEST}, a size between 0 and 4000 MB.")
    speed, quality, bits, effort = USUAL[codec]
    options = {"preset": speed, "crf": str(quality + coarser), **(SILENT if codec == "libx265" else {})}
    if values.get("every_frame"):
        options["g"] = "1"
        bits *= 3
    depth = 8 if megabytes else depth
    about = [CODECS[codec], f"{depth}-bit" if depth else "", chroma if chroma != "4:2:0" else ""]
    about += [
        "every frame by itself" if "g" in options else "",
        f"at most {megabytes:g} MB" if megabytes else "",
    ]
    return Preset(
        key=key, label=label.strip()[:40], about=", ".join(a for a in about if a), codec=codec,
        options=options, bit_depth=depth, chroma=chroma, ratio=ratio,
        tag="hvc1" if codec == "libx265" else "",
        megabytes=megabytes, bits_per_pixel=bits * 2 ** (-coarser / HALVES), effort=effort,
    )  # fmt: skip


def preset_from_json(data: str | Mapping[str, Any]) -> Preset:
    """What `Preset.as_json` gave."""
    if isinstance(data, str):
        return PRESETS.get(data)
    hdr = data.get("hdr", "")  # earlier it was yes or no, and HLG
    return Preset(**{**data, "hdr": hdr if isinstance(hdr, str) else "hlg" if hdr else ""})

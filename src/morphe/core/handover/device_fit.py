"""Where a file plays: what the usual devices decode, said before anything is rendered."""

from __future__ import annotations

from dataclasses import dataclass

from morphe.core.handover.presets import Preset

__all__ = ["Fit", "device_fit"]

UHD_RATE = 3840 * 2160 * 60  # pixels a second


@dataclass(frozen=True, slots=True, kw_only=True)
class Fit:
    """A kind of device: whether it plays the file, and if not or hardly, why."""

    device: str
    plays: bool
    why: str = ""


def device_fit(preset: Preset, bits: int, size: tuple[int, int], fps: float) -> tuple[Fit, ...]:
    """Kinds of devices and what they make of a file of that depth, size and rate.

    Phones and televisions decode by hardware: H.264 in 8-bit 4:2:0, HEVC in 8 and 10 bits, AV1 if they are
    from about 2021 on.
    """
    rate = size[0] * size[1] * fps
    deep = preset.codec == "libx264" and (bits > 8 or preset.chroma != "4:2:0")
    said = {"phones": "", "televisions": "", "browsers": "", "editing": ""}
    if deep:
        what = "4:2:2" if preset.chroma != "4:2:0" else "10-bit H.264"
        why = f"they hardly decode {what}; HEVC does, or 8 bits"
        said |= {"phones": why, "televisions": why, "browsers": f"some show {what} not at all"}
    if preset.codec == "libx265":
        said["browsers"] = "some leave HEVC to the device, and refuse it where that has none"
    if preset.codec == "libsvtav1":
        said |= {"phones": "from about 2021 on", "televisions": "from about 2021 on",
                 "editing": "slow to cut; take For editing"}  # fmt: skip
    if preset.hdr:
        otherwise = "somewhat pale" if preset.hdr == "hlg" else "grey"
        said["televisions"] = f"in HDR where they know {preset.hdr.upper()}, else {otherwise}"
        said["phones"] = said["televisions"]
    if rate > UHD_RATE * 1.01:
        said |= {d: f"{size[0]} × {size[1]} at {fps:g} is more than most decode" for d in said if not said[d]}
    if preset.every_frame:
        for device in ("phones", "televisions"):
            said[device] = said[device] or "large, and meant for cutting"
    refused = {d for d, why in said.items() if why.startswith(("they hardly", "slow"))}
    return tuple(Fit(device=d, plays=d not in refused, why=why) for d, why in said.items())

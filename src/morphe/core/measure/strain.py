"""How far footage can be bent before it breaks: codes, noise, bits and blocks, in stops and saturation.

ΔL* per source code and noise in L* through the whole chain; one unit of either is the limit (our default).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from morphe.core.footage.info import SignalInfo
from morphe.core.measure.readings import luma_of
from morphe.core.signal.arrays import Encoded, Float, Plane
from morphe.core.signal.perception import xyz_to_lab
from morphe.core.signal.profiles import Profile
from morphe.core.signal.transfer import decode_bt1886, encode_bt709

__all__ = ["Headroom", "blockiness", "headroom", "lightness_per_code"]

BANDS = 24
OCCUPIED = 0.02  # share of pixels from which a band of luma counts
SHADOW_CODE = 0.5  # of the converted picture: bands darker than this are shadows
PUSHES = np.arange(0, 3.01, 0.25)
EFFICIENT = {"hevc": 1.7, "av1": 2.0}  # bits of H.264 that one of their bits is worth
FRAGILE, ORDINARY, GOOD = 0.10, 0.25, 0.6
FLOOR_CODES = 0.05
EDGE_CODES = 24.0  # steps of things in the picture weigh no more than this
# Noise gain of saturation on independent channels (rms), by its factor.
SATURATION, NOISE_GAIN = (1.0, 1.3, 1.6, 2.0), (1.0, 1.22, 1.46, 1.80)
CHROMA_LIMIT = 1.6  # lightness steps of a chroma code


@dataclass(frozen=True, slots=True, kw_only=True)
class Headroom:
    """What a clip can take: `stops` of lift and `saturation` in percent before its shadows break, and why."""

    stops: float
    saturation: float
    codes_per_stop: float  # two stops below grey
    bits_per_pixel: float
    noise_codes: float
    blockiness: float
    sentence: str

    def as_json(self) -> dict[str, object]:
        return {
            name: (round(v, 3) if isinstance(v := getattr(self, name), float) else v)
            for name in self.__slots__
        }


def headroom(
    info: SignalInfo, frames: Sequence[Encoded], profile: Profile, *, noise: float, blocks: float
) -> Headroom:
    """Judge a clip.

    Parameters
    ----------
    frames : judging frames (H, W, 3) at measuring size, encoded
    profile : what it was filmed in
    noise, blocks : noise of luma in codes, and how much the coder's grid shows, at full size
    """
    codes = 219.0 * 2 ** (info.bit_depth - 8)
    bpp = info.bitrate / max(info.width * info.height * float(info.fps), 1) * EFFICIENT.get(info.codec, 1.0)
    levels = _occupied(frames)
    stops = _most(lambda push: _strain(profile, levels, 2.0**push, codes, noise))
    saturation = _most_saturation(profile, levels, codes, noise)
    if blocks > 1.5 or bpp < FRAGILE:
        stops, saturation = 0.5 * stops, 0.5 * saturation
    grey = 0.18 * np.exp2(np.array([-2.5, -1.5]))
    per_stop = float(np.diff(profile.encode(grey))[0]) * codes
    found = {"stops": stops, "saturation": saturation, "codes_per_stop": per_stop, "bits_per_pixel": bpp,
             "noise_codes": noise, "blockiness": blocks}  # fmt: skip
    return Headroom(
        **found, sentence=_sentence(info, profile, noise / (codes / 219), blocks, bpp, stops, saturation)
    )


def _occupied(frames: Sequence[Encoded]) -> Float:
    """Middles of the bands of luma that hold enough pixels, as fractions."""
    luma = np.concatenate([luma_of(f).ravel() for f in frames])
    count, edges = np.histogram(luma, BANDS, (0.0, 1.0))
    middles = (edges[:-1] + edges[1:]) / 2
    return middles[count >= OCCUPIED * luma.size]


def lightness_per_code(profile: Profile, levels: Float, gain: float, codes: float) -> tuple[Float, Float]:
    """(converted level, ΔL* of one source code there) after conversion and a gain in light."""
    half = 0.5 / codes

    def shown(level: Float) -> Float:
        return np.clip(encode_bt709(gain * profile.decode(level)), 0, 1)

    def lightness(code: Float) -> Float:
        light = decode_bt1886(code)
        return xyz_to_lab(np.repeat(light[..., None], 3, axis=-1) * np.array([0.9505, 1.0, 1.089]))[..., 0]

    return shown(levels), lightness(shown(levels + half)) - lightness(shown(levels - half))


def _strain(profile: Profile, levels: Float, gain: float, codes: float, noise: float) -> float:
    """Worst of banding and noise over the shadows, 1 = limit."""
    level, per_code = lightness_per_code(profile, levels, gain, codes)
    dark = level < SHADOW_CODE
    if not dark.any():
        return 0.0
    dithered = float(np.clip(1.5 - noise, 0, 1))  # noise hides the steps
    return float(per_code[dark].max() * max(dithered, noise))


def _most(strain: Callable[[float], float]) -> float:
    """The largest push within the limit."""
    within = [float(p) for p in PUSHES if strain(float(p)) <= 1.0]
    return max(within, default=0.0)


def _most_saturation(profile: Profile, levels: Float, codes: float, noise: float) -> float:
    """Percent of saturation whose noise and chroma steps stay within the limit."""
    _, per_code = lightness_per_code(profile, levels, 1.0, codes)
    worst = float(per_code.max(initial=0.0))
    for percent in range(100, 0, -10):
        factor = 1 + percent / 100
        gain = float(np.interp(factor, SATURATION, NOISE_GAIN))
        if worst * factor <= CHROMA_LIMIT and worst * noise * gain <= 1.2:
            return float(percent)
    return 0.0


def _sentence(info: SignalInfo, profile: Profile, noise: float, blocks: float, bpp: float, stops: float,
              saturation: float) -> str:  # fmt: skip
    parts = [f"{info.bit_depth}-bit", profile.label[0].lower() + profile.label[1:]]
    parts += ["noisy" if noise > 1.2 else "some noise"] if noise > 0.6 else []
    parts += ["blocks show"] if blocks > 1.5 else []
    parts += ["few bits"] if bpp < FRAGILE else []
    lift = (
        "no lift"
        if stops < 0.25
        else "more than three stops"
        if stops >= PUSHES[-1]
        else f"about {stops:g} stops"
    )
    lift = lift.replace("about 1 stops", "about one stop").replace("about 0.5 stops", "about half a stop")
    colour = "no more saturation" if saturation < 10 else f"{saturation:.0f} % saturation"
    return f"{', '.join(parts)}: {lift} and {colour} before shadows break."


def blockiness(luma: Plane) -> float:
    """How much the grid of 8 pixels stands out of a plane of codes: 1 not at all, above 2 strongly."""
    plane = np.asarray(luma, np.float32)
    return max(_phase_ratio(np.abs(np.diff(plane, axis=1))), _phase_ratio(np.abs(np.diff(plane, axis=0)).T))


def _phase_ratio(steps: Plane) -> float:
    columns = np.minimum(steps, EDGE_CODES).mean(axis=0)
    if columns.size < 32:
        return 1.0
    phases = np.array([columns[p::8].mean() for p in range(8)])
    top = int(np.argmax(phases))
    others = float(np.median(np.delete(phases, top)))
    return float(phases[top]) / max(others, FLOOR_CODES)

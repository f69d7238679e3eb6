"""Noise taken out before anything else: over a pixel's neighbours, and lightly over time."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import cv2
import numpy as np

from morphe.core.bands import over_rows
from morphe.core.errors import ColourError
from morphe.core.grade.param import Param
from morphe.core.grade.step import Frame, FrameStep, InHdr
from morphe.core.signal.arrays import Plane

__all__ = ["Denoise"]

LUMA_CODES, CHROMA_CODES = 219.0, 224.0  # of 8 bits
RADIUS = 2  # pixels to each side that are joined, as the kernel has it
BLUR = 0.65  # pixels: by so much the picture is softened before likeness is judged
REACH, COLOUR_REACH = 2.2, 4.0  # deviations of noise: pixels that differ by more are not joined
STILL, MOST_STILL = 1.2, 5.0 / LUMA_CODES  # deviations, and signal: what differs more over time has moved
CALM = 0.85  # pixels: softening before movement is judged
MOST_NOISE = 40.0


def _share(label: str, high: float = 100.0, natural: tuple[float, float] = (20, 80)) -> Param:
    return Param(
        low=0, high=high, unit="%", label=label, up="taken out", down="", nudge=5, may_move=False,
        natural=natural,
    )  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Denoise(FrameStep):
    """Join pixels with neighbours that differ by no more than noise does, and with what lay there before.

    `luma`, `colour` and `over_time` are shares of what is found; `noise` is its deviation in codes of 8 bits,
    measured in pictures of `height` rows: in smaller ones it is less, as pixels are averaged there.
    """

    key: ClassVar[str] = "denoise"
    label: ClassVar[str] = "Noise"
    in_hdr: ClassVar[InHdr] = InHdr.AS_IS
    params: ClassVar[dict[str, Param]] = {
        "luma": _share("Noise of light"),
        "colour": _share("Noise of colour", natural=(20, 100)),
        "over_time": _share("Over time", 80, (0, 70)),
        "noise": Param(
            low=0, high=MOST_NOISE, unit="codes", label="Noise there is", up="noise", down="", nudge=0.1,
            may_move=False,
        ),
    }  # fmt: skip
    shader: ClassVar[str] = "        return source(at);\n"  # while playing, noise stays: a proxy has little

    luma: float = 0.0
    colour: float = 0.0
    over_time: float = 0.0
    noise: float = 0.0
    height: int = 0

    def __post_init__(self) -> None:
        FrameStep.__post_init__(self)
        if not 0 <= self.height <= 20_000:
            raise ColourError("Noise: the height of the picture is a number of rows.")

    @property
    def is_neutral(self) -> bool:
        return self.noise <= 0 or not (self.luma or self.colour or self.over_time)

    def deviation(self, rows: int) -> float:
        """Deviation of the noise in the signal of pictures of so many rows."""
        scale = min(1.0, rows / self.height) if self.height else 1.0
        return self.noise * scale / LUMA_CODES

    def apply(self, frame: Frame, seed: int = 0) -> Frame:
        sigma = self.deviation(frame.height)
        luma, chroma = frame.luma, frame.chroma
        if self.luma:
            luma = _mixed(luma, _joined(luma, REACH * sigma), self.luma)
        if self.colour:
            planes = [np.ascontiguousarray(chroma[..., c]) for c in (0, 1)]
            done = [_mixed(p, _joined(p, COLOUR_REACH * sigma), self.colour) for p in planes]
            chroma = np.stack(done, axis=-1)
        return Frame(luma=luma, chroma=chroma)

    def with_past(self, frame: Frame, past: Frame) -> Frame:
        """A frame mixed with the one before it, where neither has moved; both were cleaned by `apply`."""
        limit = min(STILL * self.deviation(frame.height), MOST_STILL)
        if not self.over_time or frame.luma.shape != past.luma.shape or limit <= 0:
            return frame
        still = _stillness(frame.luma, past.luma, limit) * np.float32(self.over_time / 100)
        luma = frame.luma + still * (past.luma - frame.luma)
        small = cv2.resize(still, frame.chroma.shape[1::-1], interpolation=cv2.INTER_AREA)
        now, before = (
            [np.ascontiguousarray(f.chroma[..., c]) for c in (0, 1)] for f in (frame, past)
        )  # fmt: skip
        alike = [_stillness(one, other, 2 * limit) for one, other in zip(now, before, strict=True)]
        share = (small * alike[0] * alike[1])[..., None]
        return Frame(luma=luma, chroma=frame.chroma + share * (past.chroma - frame.chroma))

    def uniforms(self) -> dict[str, float]:
        return {}


def _mixed(plane: Plane, cleaned: Plane, percent: float) -> Plane:
    return np.asarray(plane + np.float32(percent / 100) * (cleaned - plane), np.float32)


def _joined(plane: Plane, reach: float) -> Plane:
    """Each pixel as the mean of those about it that are alike, judged on a softened picture."""
    from morphe.core.grade.kernels import joined_rows  # compiled: late, as few grades take noise out

    guide = cv2.GaussianBlur(plane, (3, 3), BLUR, borderType=cv2.BORDER_REPLICATE)
    wide, guided = (_widened(p) for p in (plane, guide))
    out = np.empty_like(plane)
    limit = np.float32(max(reach, 1e-6))
    over_rows(len(plane), lambda a, b: joined_rows(a, b, wide, guided, limit, out))
    return out


def _widened(plane: Plane) -> Plane:
    return cv2.copyMakeBorder(plane, RADIUS, RADIUS, RADIUS, RADIUS, cv2.BORDER_REFLECT_101)


def _stillness(now: Plane, past: Plane, limit: float) -> Plane:
    """1 where two planes are alike, 0 where they differ by more than a limit."""
    away = cv2.GaussianBlur(now - past, (3, 3), CALM)
    alike = np.maximum(1 - np.float32(1 / limit**2) * away * away, 0)
    return np.asarray(alike * alike, np.float32)

"""Title: a line or two of words in a shipped typeface, inside safe margins, for some seconds."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import Path
from typing import ClassVar, Self

import cv2
import numpy as np

from morphe.core.errors import ColourError
from morphe.core.grade.letters import FACES, drawn_words, missing_letters
from morphe.core.grade.moments import Number, held
from morphe.core.grade.param import Param
from morphe.core.grade.step import Frame, FrameStep, InHdr
from morphe.core.grade.steps.bars import kept_window, place_param, ratio_param
from morphe.core.signal.arrays import Plane

__all__ = ["MANNERS", "MOST_LETTERS", "SPOTS", "Title"]

NEXT, MONO = (FACES / f"atkinson-hyperlegible-{name}-latin-wght-normal.woff2" for name in ("next", "mono"))
# Manner: label, face, weight, how dark the band behind it is.
MANNERS: dict[str, tuple[str, Path, int, float]] = {
    "quiet": ("Quiet", NEXT, 400, 0.0),
    "strong": ("Strong", NEXT, 700, 0.0),
    "letters": ("Even letters", MONO, 400, 0.0),
    "band": ("On a band", NEXT, 500, 0.55),
}
# Spot: label, share of the free way from the left, share from the top.
SPOTS: dict[str, tuple[str, float, float]] = {
    "left": ("Low, left", 0.0, 1.0), "low": ("Low, middle", 0.5, 1.0), "middle": ("Middle", 0.5, 0.5),
    "high": ("High, left", 0.0, 0.0),
}  # fmt: skip
MOST_LETTERS = 120
FADE_S = 0.4
PADDING = 0.35  # of the size of letters, round the words
WHITE = 0.92  # of the signal: as bright as lit paper, and no light of its own
DRAWN_PX = 128  # height of letters in the picture that a browser draws with


@dataclass(frozen=True, slots=True, kw_only=True)
class Title(FrameStep):
    """Words `size` thousandths of the height tall, from `start` to `end` seconds, fading in and out.

    Words too long for the safe width are drawn smaller.
    """

    key: ClassVar[str] = "title"
    label: ClassVar[str] = "Title"
    in_hdr: ClassVar[InHdr] = InHdr.AS_IS
    params: ClassVar[dict[str, Param]] = {
        "size": Param(low=20, high=160, neutral=60, unit="‰ of height", label="Size", up="larger",
                      down="smaller", may_move=False, natural=(35, 110)),
        "margin": Param(low=0, high=40, neutral=8, unit="% of height", label="From the edge", up="further in",
                        down="nearer", may_move=False, natural=(5, 40)),
        "start": Param(low=0, high=600, unit="s", label="Comes at", up="later", down="earlier", nudge=0.1,
                       may_move=False),
        "end": Param(low=0, high=600, neutral=4, unit="s", label="Goes at", up="later", down="earlier",
                     nudge=0.1, may_move=False),
        "ratio": ratio_param(), "place": place_param(),
    }  # fmt: skip
    shader: ClassVar[str] = """
        float aspect = pixel.y / pixel.x, to = place / 200.0 + 0.5;
        vec2 kept = ratio > aspect ? vec2(1.0, aspect / ratio) : vec2(ratio / aspect, 1.0);
        if (ratio == 0.0) kept = vec2(1.0);
        vec2 square = vec2(aspect, 1.0), box = vec2(wide, tall), room = kept * square - 2.0 * margin;
        box *= min(1.0, min(room.x / box.x, room.y / box.y));
        vec2 here = (at - (1.0 - kept) * to) * square - margin - (room - box) * vec2(across, drop);
        vec2 inside = here / box;
        vec3 below = source(at);
        bool out_of_it = any(lessThan(inside, vec2(0.0))) || any(greaterThan(inside, vec2(1.0)));
        if (seen <= 0.0 || out_of_it) return below;
        return mix(below * (1.0 - band * seen), vec3(0.92), seen * texture(plane, inside).r);
    """

    text: str = ""
    manner: str = "quiet"
    spot: str = "left"
    size: float = 60.0
    margin: float = 8.0
    start: float = 0.0
    end: float = 4.0
    ratio: float = 0.0  # of the picture that the title stands in, as bars or a crop leave it
    place: Number = 0.0
    seen: float = 1.0  # how far it has faded in, once it is held at a moment

    def __post_init__(self) -> None:
        FrameStep.__post_init__(self)
        if not isinstance(self.text, str) or len(self.text) > MOST_LETTERS or self.text.count("\n") > 1:
            raise ColourError(f"A title has at most two lines and {MOST_LETTERS} letters; shorten it.")
        if self.manner not in MANNERS or self.spot not in SPOTS:
            raise ColourError(f"A title is {', '.join(MANNERS)}; its place is {', '.join(SPOTS)}.")

    @property
    def is_neutral(self) -> bool:
        return not self.text.strip() or self.end <= self.start

    @property
    def moves(self) -> bool:
        return self.at_work

    @property
    def summary(self) -> str:
        return f"“{self.text.splitlines()[0]}”" if self.at_work else ""

    @property
    def unseen(self) -> str:
        """Letters that no typeface here has: each would be an empty box."""
        return missing_letters(self.text)

    def at(self, time_s: float) -> Self:
        since, left = time_s - self.start, self.end - time_s
        seen = float(np.clip(min(since, left) / FADE_S + 1e-6, 0, 1))
        return replace(self, seen=seen, place=held(self.place, time_s))

    def uniforms(self) -> dict[str, float]:
        words = self.plane()
        _, across, drop = SPOTS[self.spot]
        tall = self.size / 1000 * words.shape[0] / DRAWN_PX
        return {
            "seen": self.seen, "tall": tall, "wide": tall * words.shape[1] / words.shape[0],
            "across": across, "drop": drop, "margin": self.margin / 100,
            "ratio": self.ratio, "place": held(self.place, 0.0), "band": MANNERS[self.manner][3],
        }  # fmt: skip

    def plane(self) -> Plane:
        """How white the words are, in their own box."""
        return _words(self.text.strip(), self.manner, DRAWN_PX)

    def apply(self, frame: Frame, seed: int = 0) -> Frame:
        if not self.seen:
            return frame
        left, top, words = self._placed(frame.width, frame.height)
        rows, columns = slice(top, top + words.shape[0]), slice(left, left + words.shape[1])
        share, band = np.zeros_like(frame.luma), np.ones_like(frame.luma)
        share[rows, columns] = np.float32(self.seen) * words
        band[rows, columns] = 1 - MANNERS[self.manner][3] * self.seen
        kept = band * (1 - share)
        of_chroma = cv2.resize(kept, frame.chroma.shape[1::-1], interpolation=cv2.INTER_AREA)[..., None]
        luma = frame.luma * kept + np.float32(WHITE) * share
        return Frame(luma=luma, chroma=frame.chroma * of_chroma)

    def _placed(self, width: int, height: int) -> tuple[int, int, Plane]:
        """Left and top of the words' box inside a frame, and the words at their size."""
        _, across, drop = SPOTS[self.spot]
        margin = self.margin / 100 * height
        first_x, first_y, right, bottom = kept_window(width, height, self.ratio, held(self.place, 0.0))
        room_x, room_y = max(right - first_x - 2 * margin, 4), max(bottom - first_y - 2 * margin, 4)
        tall, wide = (n * self.size / 1000 * height / DRAWN_PX for n in self.plane().shape)
        fits = min(1.0, room_x / wide, room_y / tall)
        words = _words(self.text.strip(), self.manner, fits * self.size / 1000 * height)
        words = words[: bottom - first_y, : right - first_x]
        left = round(first_x + margin + (room_x - words.shape[1]) * across)
        top = round(first_y + margin + (room_y - words.shape[0]) * drop)
        return max(left, first_x), max(top, first_y), words


@lru_cache(maxsize=8)
def _words(text: str, manner: str, size: float) -> Plane:
    """Words in letters of `size` pixels, with their padding, as shares of white (h, w)."""
    _, face, weight, _ = MANNERS[manner]
    return drawn_words(text, face, weight, size, PADDING * size)

"""Frames painted for a file: graded at the clip's size, cropped, laid into the shape that goes out."""

from __future__ import annotations

import queue
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import av
import cv2
import numpy as np

from morphe.core.footage.info import SignalInfo
from morphe.core.footage.planes import planes_from_frame
from morphe.core.grade.grade import Grade
from morphe.core.grade.reel import Reel
from morphe.core.grade.steps.bars import Window
from morphe.core.handover.delivery import Order
from morphe.core.handover.hdr import hdr_pipeline
from morphe.core.handover.wipe import wiped
from morphe.core.pipeline.passes import compile_grade
from morphe.core.pipeline.planes import Grader, to_420
from morphe.core.pipeline.tables import CodesIn
from morphe.core.signal.arrays import Codes

__all__ = ["Painter", "Shape", "delivered_size", "shape_of"]

BLACK, GREY = 16, 128  # codes of 8 bits


def delivered_size(info: SignalInfo, grade: Grade) -> tuple[int, int]:
    """Width and height of the picture as graded: even, and cropped where the grade says so."""
    width, height = (n // 2 * 2 for n in info.upright_size)
    if grade.crop is None:
        return width, height
    left, top, right, bottom = grade.crop.window(width, height)
    return right - left, bottom - top


@dataclass(frozen=True, slots=True, kw_only=True)
class Shape:
    """The size of the file, and the window in it that the picture fills."""

    size: tuple[int, int]
    window: Window

    @property
    def has_bars(self) -> bool:
        return self.window != (0, 0, *self.size)


def shape_of(picture: tuple[int, int], size: tuple[int, int] | None) -> Shape:
    """Where a picture lies in a file of that size: as large as it goes, in the middle, on even pixels."""
    wide, tall = size or picture
    scale = min(wide / picture[0], tall / picture[1])
    width, height = (min(round(n * scale / 2) * 2, m) for n, m in zip(picture, (wide, tall), strict=True))
    left, top = ((m - n) // 4 * 2 for n, m in ((width, wide), (height, tall)))
    return Shape(size=(wide, tall), window=(left, top, left + width, top + height))


class Painter:
    """Paints decoded frames into new ones of the file's shape and depth."""

    def __init__(self, order: Order, size: tuple[int, int] | None = None) -> None:
        info = order.info
        self.info, self.reel = info, Reel.of(order.grade)
        self.preset = order.delivery.preset
        self.bits = self.preset.bits_for(info.bit_depth)
        pictures = [delivered_size(info, grade) for grade in self.reel.grades]
        self.shape = shape_of(pictures[0], size or order.delivery.size)
        self._shapes = [shape_of(picture, self.shape.size) for picture in pictures]
        self._pictures = pictures
        name = self.preset.chroma.replace(":", "")
        self.pixel_format = f"yuv{name}p" if self.bits == 8 else f"yuv{name}p10le"
        self.wipe = order.delivery.wipe
        self._graders: dict[tuple[int, bool], Grader] = {}
        self._spare: queue.SimpleQueue[Any] = queue.SimpleQueue()  # frames that were encoded

    @property
    def untouched(self) -> bool:
        """Whether decoded frames may be handed to the encoder as they are."""
        info = self.info
        return (
            not self.reel.at_work
            and not self.preset.hdr
            and not self.wipe
            and info.is_ordinary
            and info.rotation == 0
            and info.chroma == self.preset.chroma == "4:2:0"
            and self.shape.size == self._pictures[0] == (info.width, info.height)
            and info.bit_depth == self.bits
        )

    def paint(self, frame: Any, time_s: float, number: int) -> Any:
        """A new frame; `number` is what steps with chance in them draw from."""
        shot = self.reel.number_at(time_s)
        grader, crop = self._graded_by(shot, filmed=False), self.reel.grades[shot].crop
        planes = to_420(planes_from_frame(frame, self.info), bits=min(self.info.bit_depth, 10))
        out = self._empty()
        target = _writable_planes(out, 8 if self.bits == 8 else 16)
        direct = crop is None and not self.wipe and self.preset.chroma == "4:2:0"
        if direct and self.shape.size == self._pictures[shot]:
            grader.grade(planes, time_s, target, frame=number)
            return out
        made = tuple(np.empty(p.shape, target[0].dtype) for p in planes)
        grader.grade(planes, time_s, (made[0], made[1], made[2]), frame=number)
        if self.wipe:
            filmed = tuple(np.empty_like(p) for p in made)
            self._graded_by(shot, filmed=True).grade(planes, time_s, (filmed[0], filmed[1], filmed[2]))
            wiped(made, filmed, time_s, self.bits)
        if crop is not None:
            made = _cut(made, crop.at(time_s).window(planes[0].shape[1], planes[0].shape[0]))
        _laid(made, target, self._shapes[shot], self.bits)
        return out

    def take_back(self, frame: Any) -> None:
        """A frame that has been encoded, to be filled again."""
        self._spare.put(frame)

    def _graded_by(self, shot: int, *, filmed: bool) -> Grader:
        """What grades the frames of a shot, or brings them over as filmed."""
        if (shot, filmed) not in self._graders:
            if not any(number == shot for number, _ in self._graders):
                self._graders.clear()  # a file runs forwards: tables of a shot that is over only take room
            info = self.info
            codes = CodesIn(
                bit_depth=min(info.bit_depth, 10), range=info.effective_range, matrix=info.effective_matrix
            )
            grade = Grade() if filmed else self.reel.grades[shot]
            hdr = self.preset.hdr
            pipeline = hdr_pipeline(grade, info, hdr) if hdr else compile_grade(grade)
            self._graders[shot, filmed] = Grader(pipeline, codes, self.bits, self.preset.marks.matrix)
        return self._graders[shot, filmed]

    def _empty(self) -> Any:
        try:
            frame = self._spare.get_nowait()
        except queue.Empty:
            return av.VideoFrame(*self.shape.size, self.pixel_format)
        frame.make_writable()  # gives it memory of its own again, should the encoder still hold it
        return frame


def _cut(planes: Sequence[Codes], window: Window) -> tuple[Codes, ...]:
    """A window of planes, luma first."""
    left, top, right, bottom = window
    by = (1, 2, 2)
    return tuple(
        plane[top // n : bottom // n, left // n : right // n] for plane, n in zip(planes, by, strict=True)
    )


def _laid(planes: Sequence[Codes], out: Sequence[Codes], shape: Shape, bits: int) -> None:
    """Write planes to others of another size: smaller by the mean of what they cover, larger in between."""
    left, top, right, bottom = shape.window
    for number, (plane, whole) in enumerate(zip(planes, out, strict=True)):
        if shape.has_bars:
            whole[:] = (GREY if number else BLACK) << (bits - 8)
        across, down = shape.size[0] // whole.shape[1], shape.size[1] // whole.shape[0]
        target = whole[top // down : bottom // down, left // across : right // across]
        if plane.shape == target.shape:
            target[:] = plane
        else:
            way = cv2.INTER_AREA if plane.shape[0] > target.shape[0] else cv2.INTER_LINEAR
            target[:] = cv2.resize(np.ascontiguousarray(plane), target.shape[::-1], interpolation=way)


def _writable_planes(frame: Any, bits: int) -> tuple[Codes, Codes, Codes]:
    """Views (h, w) of a new frame's planes."""
    dtype = np.uint8 if bits == 8 else np.uint16
    views = []
    for number, plane in enumerate(frame.planes):
        rows = np.frombuffer(plane, dtype).reshape(plane.height, -1)
        views.append(rows[:, : frame.width if number == 0 else frame.width // 2])
    return views[0], views[1], views[2]

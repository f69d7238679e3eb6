"""The live picture: a judging frame under the grade of the moment, with scopes and marks."""

from __future__ import annotations

import base64
import time
from dataclasses import asdict, astuple, dataclass, replace
from functools import lru_cache
from typing import Any

import numpy as np

from morphe.core.advise.rungs import RUNGS
from morphe.core.advise.seen import Seen
from morphe.core.advise.whole.strain import strain_of
from morphe.core.errors import ColourError
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Scope
from morphe.core.grade.steps import Bars, Crop, Curves, SkinTurn, Tint
from morphe.core.grade.steps.curves import CHANNELS, bent
from morphe.core.handover.hdr import hdr_on_this_screen, why_not_hdr
from morphe.core.measure.picture_area import PictureArea
from morphe.core.pipeline.hdr_space import left_out
from morphe.core.pipeline.reference import evaluate
from morphe.core.pipeline.screen import graded_still
from morphe.core.screen.pictures import jpeg
from morphe.core.screen.scopes import light_up, scope_pictures
from morphe.core.screen.still import frame_state, pixel_reading, shown
from morphe.core.signal.arrays import Encoded, Mask
from morphe.web.bench.services.aside import aside_of
from morphe.web.bench.services.palette import palette_json
from morphe.web.bench.services.skin import skin_of_frame, skin_watch
from morphe.web.clips.models import Clip, JudgingFrame
from morphe.web.clips.services.grades.aims import aims_of
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.reading.counted import counted_small, counted_under
from morphe.web.clips.services.reading.kept import strength_of
from morphe.web.clips.services.reading.storage import load_picture, written

__all__ = [
    "Measured",
    "before_jpeg",
    "choice_jpeg",
    "frame_of",
    "frame_states",
    "ghost_scopes",
    "grain_jpeg",
    "hurt_most",
    "light_up_png",
    "probe_at",
    "still_json",
]
HALF = 0.5  # of a region's strength: there its edge is
STRIP = 30  # colours of the tone strip
STATE_STEP = 4  # a sixteenth of the pixels tells
HURTS = 0.3  # of a reading's unit: further out of its zone than before


def frame_of(clip: Clip, number: int) -> JudgingFrame:
    """A judging frame by its number."""
    frame = clip.frames.filter(number=number).first()
    if frame is None:
        raise ColourError("There is no such judging frame; reload the page.")
    return frame


@dataclass(frozen=True, slots=True, kw_only=True)
class Measured:
    """The part of the picture that scopes and marks are read from: a region's inside, or all but it."""

    layer: str
    outside: bool
    box: tuple[float, ...] = ()  # left, top, right, bottom of a marked area, 0..1

    @classmethod
    def of(cls, asked: object) -> Measured | None:
        """From what a page posts; None for the whole picture."""
        if isinstance(asked, dict) and isinstance(asked.get("box"), list):
            box = tuple(float(v) for v in asked["box"])
            if len(box) != 4 or not all(0 <= v <= 1 for v in box):
                raise ColourError("Mark an area inside the picture.")
            return cls(layer="", outside=False, box=box)
        if not isinstance(asked, dict) or asked.get("side") not in ("inside", "outside"):
            return None
        return cls(layer=str(asked.get("layer", "")), outside=asked["side"] == "outside")

    def part(self, grade: Grade, time_s: float, picture: Encoded) -> Mask | None:
        """The pixels (H, W) that are meant; None where the region is gone, or leaves nothing to measure."""
        if self.box:
            return _inside(self.box, picture)
        region = grade.layer(self.layer).region if grade.has_layer(self.layer) else None
        if region is None:
            return None
        height, width = picture.shape[:2]
        mask = replace(region.at(time_s), inverse=self.outside).mask(width, height) >= HALF
        return mask if mask.any() else None


def _kept(grade: Grade, picture: Encoded) -> Mask | None:
    """The pixels (H, W) that bars or a crop leave; None without any."""
    height, width = picture.shape[:2]
    mask = np.ones((height, width), bool)
    for _, step in grade.steps():
        if isinstance(step, (Bars, Crop)) and step.at_work:
            left, top, right, bottom = step.window(width, height)
            mask[:top], mask[bottom:], mask[:, :left], mask[:, right:] = False, False, False, False
    return None if mask.all() else mask


def _and(one: Mask | None, other: Mask | None) -> Mask | None:
    """Pixels of both; of the first alone where that leaves nothing."""
    if one is None or other is None:
        return other if one is None else one
    both = one & other
    return both if both.any() else one


def _left_out_words(area: PictureArea, grade: Grade) -> str:
    """What gauges and proposals go without; empty where it is nothing."""
    said = [*area.names, *(f"“{layer.label}”" for layer in grade.layers if layer.left_out)]
    return f"Left out: {', '.join(said)}." if said else ""


def _hdr_words(grade: Grade) -> str:
    """That the picture is of HDR, and what of the grade is not in it."""
    behind = left_out(grade)
    without = f", without {', '.join(behind)}, which HDR leaves out" if behind else ""
    return f"As an HDR display shows it, rolled off for this screen{without}."


def _inside(box: tuple[float, ...], picture: Encoded) -> Mask:
    height, width = picture.shape[:2]
    left, top, right, bottom = box
    mask = np.zeros((height, width), bool)
    rows, columns = (slice(int(a * n), max(int(b * n), int(a * n) + 2)) for a, b, n in (
        (top, bottom, height), (left, right, width)))  # fmt: skip
    mask[rows, columns] = True
    return mask


@lru_cache(maxsize=4)  # the one that is dragged, and those of other devices
def _graded_picture(path: str, mark: int, grade: Grade, time_s: float) -> Encoded:
    return graded_still(load_picture(path), grade, time_s)


def _graded(clip: Clip, frame: JudgingFrame, grade: Grade, *, hdr: bool) -> Encoded:
    """A frame under a grade, as it goes out or as HDR shows it."""
    if not hdr:
        path = frame.picture.path
        return _graded_picture(path, written(path), grade, frame.time_s)
    if reason := why_not_hdr(clip.signal, grade):
        raise ColourError(reason)
    return hdr_on_this_screen(load_picture(frame.picture.path), grade, clip.signal, frame.time_s)


def still_json(
    clip: Clip, number: int, grade: Grade, *, with_before: bool = False, measured: Measured | None = None,
    with_palette: bool = False, curve: str = "", hdr: bool = False,
) -> dict[str, Any]:  # fmt: skip
    """Grade a judging frame and give picture, scopes, marks and where regions lie; asked for, scopes as
    filmed. Scopes and marks may be those of a part of the picture; all may be of what HDR shows."""
    started = time.perf_counter()
    frame = frame_of(clip, number)
    picture = load_picture(frame.picture.path)
    counted = counted_under(clip, grade)
    part = _and(
        measured.part(grade, frame.time_s, picture) if measured is not None else _kept(grade, picture),
        counted.mask(picture.shape[1], picture.shape[0], frame.time_s),
    )
    graded = _graded(clip, frame, grade, hdr=hdr)
    seen = shown(graded, part, aims=aims_of(clip), skin=skin_of_frame(clip, frame))
    before = scope_pictures(picture, part).as_json() if with_before else None
    places = {x.id: astuple(x.region.place(frame.time_s)) for x in grade.layers if x.region is not None}
    return {
        "before": before,
        "regions": places,
        "numbers": _moving(grade, frame.time_s),
        "time_s": frame.time_s,
        "picture": "data:image/jpeg;base64," + base64.b64encode(seen.jpeg).decode(),
        "scopes": seen.scopes.as_json(),
        "marks": {key: asdict(mark) for key, mark in seen.marks.items()},
        "skin": skin_watch(clip, frame, grade),
        "strain": asdict(strain_of(strength_of(clip), grade, frame.time_s, with_cure=False)),
        "curve": _way(grade, curve) if curve else None,
        "palette": palette_json(picture, graded, grade, frame.time_s) if with_palette else None,
        "strip": _strip(grade),
        "left_out": f"{_hdr_words(grade) if hdr else ''} {_left_out_words(counted.area, grade)}".strip(),
        "aside": aside_of(clip, graded),
        "ms": round(1000 * (time.perf_counter() - started), 1),
    }


def _strip(grade: Grade) -> list[str]:
    """A ramp from black to white under the tints of the style alone, as colours."""
    tint = grade.layer(Scope.STYLE).step(Tint.key)
    ramp = np.linspace(0, 1, STRIP, dtype=np.float32)[:, None].repeat(3, axis=1)
    codes = np.rint(np.clip(evaluate(Grade.of(tint), ramp), 0, 1) * 255).astype(int)
    return ["#{:02x}{:02x}{:02x}".format(*code) for code in codes]


def _way(grade: Grade, channel: str) -> dict[str, Any]:
    """How a curve runs between its points, in percent."""
    step = grade.step(Curves.key)
    if channel not in CHANNELS or not isinstance(step, Curves):
        raise ColourError("There is no such curve; reload the page.")
    levels = np.linspace(-0.07, 1.09, 117)
    out = bent(getattr(step, channel), levels)
    return {"channel": channel, "levels": [[round(100 * a, 1), round(100 * float(b), 2)] for a, b in
                                           zip(levels, out, strict=True)]}  # fmt: skip


def _moving(grade: Grade, time_s: float) -> dict[str, dict[str, dict[str, float]]]:
    """Numbers that move as they are at a moment: by layer, step and name."""
    found: dict[str, dict[str, dict[str, float]]] = {}
    for layer_id, step in grade.steps():
        for name, moments in step.moving.items():
            found.setdefault(layer_id, {}).setdefault(step.key, {})[name] = round(moments.at(time_s), 3)
    return found


def frame_states(clip: Clip, grade: Grade, key: str = "") -> list[dict[str, Any]]:
    """What the grade does to each judging frame, in a word, and how the reading of a rung stands there."""
    states = []
    for frame in clip.frames.all():
        graded = _sampled(frame, grade)
        states.append(
            {"number": frame.number, "state": frame_state(graded), "reading": _reading(clip, graded, key)}
        )
    return states


def _sampled(frame: JudgingFrame, grade: Grade) -> Encoded:
    sample = counted_small(frame.clip, frame, grade, STATE_STEP)
    return graded_still(sample, grade.uncovered, frame.time_s)


def _reading(clip: Clip, graded: Encoded, key: str) -> dict[str, Any] | None:
    """A rung's reading of a graded frame, and how far it lies outside its zone."""
    rule = RUNGS.get(key)
    if rule is None or rule.read is None or key == SkinTurn.key:  # skin is watched by itself
        return None
    reading = rule.read(Seen(pictures=(graded,), aims=aims_of(clip)))
    if reading.value is None:
        return None
    return {
        "value": round(reading.value, 1), "unit": reading.zone.unit, "inside": reading.is_inside,
        "outside": round(abs(reading.zone.outside(reading.value)), 2),
    }  # fmt: skip


def hurt_most(clip: Clip, grade: Grade, key: str) -> dict[str, Any] | None:
    """The frame that a rung's proposal would bring further out of its zone, and by how much; None if none."""
    judged = next((rung for rung in clip.rungs if rung["step"] == key and rung["action"]), None)
    if judged is None:
        return None
    after = grade.with_step(recipe.step_from_json(judged["proposal"]), RUNGS[key].layer)
    worst: dict[str, Any] | None = None
    for frame in clip.frames.all():
        pair = [_reading(clip, _sampled(frame, g), key) for g in (grade, after)]
        if pair[0] is None or pair[1] is None:
            continue
        by = pair[1]["outside"] - pair[0]["outside"]
        if by > HURTS and (worst is None or by > worst["by"]):
            worst = {
                "number": frame.number,
                "time_s": frame.time_s,
                "by": round(by, 1),
                "unit": pair[1]["unit"],
            }
    return worst


def choice_jpeg(clip: Clip, key: str, *, taken: bool) -> bytes:
    """The middle frame under the grade of now, or under it with a rung's proposal taken."""
    frame, judged = clip.poster, next((rung for rung in clip.rungs if rung["step"] == key), None)
    if frame is None or judged is None:
        raise ColourError("There is nothing to choose here; reload the page.")
    grade = grade_of(clip)
    if taken:
        grade = grade.with_step(recipe.step_from_json(judged["proposal"]), RUNGS[key].layer)
    small = np.ascontiguousarray(load_picture(frame.picture.path)[::2, ::2])
    return jpeg(graded_still(small, grade, frame.time_s))


def ghost_scopes(clip: Clip, frame: JudgingFrame) -> dict[str, Any]:
    """The scopes of a frame under its clip's grade of now."""
    return scope_pictures(_graded(clip, frame, grade_of(clip), hdr=False)).as_json()


def before_jpeg(frame: JudgingFrame) -> bytes:
    """The judging frame as filmed."""
    return jpeg(load_picture(frame.picture.path))


def grain_jpeg(clip: Clip, number: int, grade: Grade) -> bytes:
    """A part of the frame at full size: with its noise at the left, cleaned at the right."""
    frame = frame_of(clip, number)
    if not frame.grain:
        raise ColourError("This clip was read by an older Morphe; bring it in again to see it at full size.")
    part = load_picture(frame.grain.path)
    colour = replace(grade, layers=tuple(x for x in grade.layers if x.region is None))
    at_full_size = replace(colour.source.denoise, height=0)
    cleaned = graded_still(
        part, replace(colour, source=replace(colour.source, denoise=at_full_size)), frame.time_s
    )
    plain = graded_still(part, replace(colour, source=colour.source.without_denoise), frame.time_s)
    middle = part.shape[1] // 2
    both = np.concatenate([plain[:, :middle], cleaned[:, middle:]], axis=1)
    both[:, middle - 1 : middle + 1] = 1.0
    return jpeg(both)


def probe_at(
    clip: Clip, number: int, grade: Grade, x: float, y: float, *, hdr: bool = False
) -> dict[str, float]:
    """Read the graded picture under the pointer."""
    return pixel_reading(_graded(clip, frame_of(clip, number), grade, hdr=hdr), x, y)


def light_up_png(
    clip: Clip, number: int, grade: Grade, scope: str, region: tuple[float, float, float, float],
    *, hdr: bool = False,
) -> bytes:  # fmt: skip
    """Light the pixels that a scope shows inside a region."""
    return light_up(_graded(clip, frame_of(clip, number), grade, hdr=hdr), scope, region)

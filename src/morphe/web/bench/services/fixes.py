"""Last fixes of a clip, and taking one: the change goes back to the layer that causes what is wrong."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from morphe.core.advise.whole.last_fixes import Fix, last_fixes
from morphe.core.advise.whole.skin import SkinWatch, watch_skin
from morphe.core.advise.whole.strain import strain_of
from morphe.core.errors import ColourError
from morphe.core.grade.grade import Grade
from morphe.web.bench.services.skin import skin_pixels
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades import versions
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.reading.kept import strength_of
from morphe.web.clips.services.reading.storage import small_picture

__all__ = ["fixes_of", "take_fix"]

STEP = 8  # every so many pixels tell


def fixes_of(clip: Clip, grade: Grade) -> tuple[Fix, ...]:
    """What is outside once everything is done; nothing is looked for while nothing is done."""
    frames = list(clip.frames.all())
    if not frames or not grade.at_work:
        return ()
    pictures = [np.asarray(small_picture(f.picture.path, STEP)) for f in frames]
    times = [f.time_s for f in frames]
    seen = next(((f, p) for f in frames if (p := skin_pixels(clip, f)) is not None), None)
    file, middle = strength_of(clip), times[len(times) // 2]

    def skin(tried: Grade) -> SkinWatch | None:
        return watch_skin(seen[1], tried, seen[0].time_s) if seen else None

    return last_fixes(
        pictures, times, grade.uncovered, skin=skin, strain=lambda tried: strain_of(file, tried, middle)
    )


def take_fix(clip: Clip, key: str) -> None:
    """Take one of the fixes that are offered now."""
    grade = grade_of(clip)
    fix = next((f for f in fixes_of(clip, grade) if f.key == key), None)
    if fix is None:
        raise ColourError("That is within by now; nothing needs to be mended there.")
    change = f"Last fix: {fix.action[:1].lower()}{fix.action[1:]}"
    if fix.strength is not None:
        layer = replace(grade.layer(fix.layer), strength=fix.strength)
        versions.keep(clip, grade.with_layer(layer), change)
        return
    numbers: dict[str, Any] = fix.numbers
    step = replace(grade.step(fix.step, fix.layer), on=True, **numbers)
    versions.keep(clip, grade.with_step(step, fix.layer), change)

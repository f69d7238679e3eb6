"""Matching a clip to a pinned reference: found by the worker, looked at, taken in part or whole."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from morphe.core.advise.evidence import reduced
from morphe.core.advise.seen import Seen, seen_through
from morphe.core.errors import MorpheError
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Scope
from morphe.core.match.match import MATCH, match
from morphe.core.pipeline.screen import graded_still
from morphe.core.reading.reference import skin_masks
from morphe.core.screen.pictures import jpeg
from morphe.core.screen.scopes import scope_pictures
from morphe.core.signal.arrays import Encoded
from morphe.web.clips.models import Clip, JudgingFrame
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.grades.versions import keep
from morphe.web.clips.services.reading.counted import counted_under
from morphe.web.clips.services.reading.storage import load_picture, small_picture
from morphe.web.jobs.services.ask import ask
from morphe.web.jobs.services.run import Run
from morphe.web.match.models import Matching, PinnedFrame
from morphe.web.match.services.pins import pictures_of
from morphe.web.shell.numbers import decimal

__all__ = [
    "begin",
    "grade_with",
    "overlay_jpeg",
    "shares_of",
    "small_jpeg",
    "still_jpeg",
    "take_off",
    "use_match",
    "work",
]

STRIP_STEP = 4  # of the pixels across a judging frame, for a strip of clips
SCOPE_INKS = np.array([[1.0, 0.62, 0.2], [0.35, 0.8, 1.0]], np.float32)  # the reference's, the clip's


def begin(pin: PinnedFrame, clips: Sequence[Clip]) -> int:
    """Have clips matched to a reference; how many."""
    for clip in clips:
        matching, _ = Matching.objects.get_or_create(clip=clip, pin=pin)
        matching.found, matching.shares, matching.used = {}, {}, False
        matching.job = ask("match", matching.pk)
        matching.save()
    return len(clips)


def work(run: Run) -> None:
    """The worker's part."""
    matching = Matching.objects.select_related("pin").get(pk=run.subject)
    clip = Clip.everything.with_grades().get(pk=matching.clip_id)
    base, frames = _beneath(clip), list(clip.frames.all())
    counted = counted_under(clip, base)
    seen = Seen(
        pictures=tuple(reduced(counted.picture(load_picture(f.picture.path), f.time_s)) for f in frames),
        times_s=tuple(f.time_s for f in frames),
    )
    pictures = seen_through(seen, base.uncovered).pictures
    found = match(pictures, pictures_of(matching.pin), skin_masks(pictures))
    was_converted = base.source != grade_of(clip).source
    Matching.objects.filter(pk=matching.pk).update(
        found=found.record(), source=recipe.to_json(Grade(source=base.source)) if was_converted else {}
    )


def _beneath(clip: Clip) -> Grade:
    """The clip's grade under a match: its own correction without style, its conversion where it has none."""
    grade = grade_of(clip)
    if grade.has_layer(MATCH):
        grade = grade.without_layer(MATCH)
    above = (Scope.STYLE, Scope.FINISH)
    grade = replace(grade, layers=tuple(x for x in grade.layers if x.scope not in above))
    if not grade.at_work and clip.proposal:
        grade = replace(grade, source=recipe.from_json(clip.proposal).source)
    return grade


def shares_of(posted: Mapping[str, str]) -> dict[str, float]:
    """How much of each stage is wished, 0..1, from a form's percents."""
    found = {}
    for key, value in posted.items():
        if key.startswith("share-"):
            try:
                found[key.removeprefix("share-")] = min(max(decimal(value) / 100, 0.0), 1.0)
            except ValueError:
                raise MorpheError("How much of a stage is taken is a number from 0 to 100.") from None
    return found


def grade_with(matching: Matching, shares: Mapping[str, float]) -> Grade:
    """The clip's grade with so much of the match."""
    found = matching.match
    if found is None:
        raise MorpheError("This clip is not matched yet; wait a moment.")
    grade = grade_of(matching.clip)
    if matching.source:
        grade = replace(grade, source=recipe.from_json(matching.source).source)
    if grade.has_layer(MATCH):
        grade = grade.without_layer(MATCH)
    layer = found.layer(f"Match to {matching.pin.name}"[:60], shares)
    return grade.with_layer(layer) if layer.steps else grade


def use_match(matching: Matching, shares: Mapping[str, float]) -> None:
    """Put the match on the clip, on a layer of its own beneath style and finish."""
    grade = grade_with(matching, shares)
    keep(matching.clip, grade, f"Matched to {matching.pin.name}")
    Matching.objects.filter(clip=matching.clip).update(used=False)
    Matching.objects.filter(pk=matching.pk).update(used=True, shares=dict(shares))


def take_off(clip: Clip) -> None:
    """Take a match off a clip."""
    grade = grade_of(clip)
    if grade.has_layer(MATCH):
        keep(clip, grade.without_layer(MATCH), "Match taken off")
    Matching.objects.filter(clip=clip).update(used=False)


def still_jpeg(frame: JudgingFrame, grade: Grade) -> bytes:
    """A judging frame under a grade."""
    return jpeg(_still(frame, grade))


def small_jpeg(frame: JudgingFrame, grade: Grade) -> bytes:
    """The same for a strip; what needs neighbours is left out."""
    colour = replace(grade, layers=tuple(x for x in grade.layers if x.region is None))
    return jpeg(graded_still(small_picture(frame.picture.path, STRIP_STEP), colour, frame.time_s))


def _still(frame: JudgingFrame, grade: Grade) -> Encoded:
    return graded_still(load_picture(frame.picture.path), grade, frame.time_s)


def overlay_jpeg(pin: PinnedFrame, frame: JudgingFrame, grade: Grade) -> bytes:
    """Waveform and vectorscope of reference and clip laid over each other."""
    pictures = pictures_of(pin)
    both = [scope_pictures(pictures[0]), scope_pictures(reduced(_still(frame, grade)))]
    luma, vector = (
        np.clip(sum(_inked(getattr(s, name), ink) for s, ink in zip(both, SCOPE_INKS, strict=True)), 0, 1)
        for name in ("luma", "vector")
    )
    tall = max(luma.shape[0], vector.shape[0])
    gap = np.zeros((tall, 12, 3), np.float32)
    return jpeg(np.concatenate([_padded(luma, tall), gap, _padded(vector, tall)], axis=1).astype(np.float32))


def _inked(trace: np.ndarray, ink: np.ndarray) -> Encoded:
    return np.asarray(trace[..., None].astype(np.float32) / 255 * ink, np.float32)


def _padded(picture: Encoded, tall: int) -> Encoded:
    above = (tall - picture.shape[0]) // 2
    return np.pad(picture, ((above, tall - picture.shape[0] - above), (0, 0), (0, 0)))

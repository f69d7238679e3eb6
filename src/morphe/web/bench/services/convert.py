"""The choices of the first rung: filmed as what, how HDR arrives, the wide space, a curve by hand."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from morphe.core.advise.profile.verdict import ASK_BELOW
from morphe.core.errors import ColourError
from morphe.core.grade import recipe
from morphe.core.grade.convert import FAMILY_OF, HAND, Convert
from morphe.core.grade.even_out import EvenOut
from morphe.core.grade.grade import Grade
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.own_profile import judged_profile
from morphe.core.signal.profiles import PROFILES, Kind
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades import versions
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.questions.profile import answers_of
from morphe.web.clips.services.questions.question import Answer
from morphe.web.clips.services.reading.judged import choose_profile
from morphe.web.library.models import KeptProfile
from morphe.web.library.services.profiles import keep_own

__all__ = [
    "ConvertChoices",
    "choices_of",
    "draw_by_hand",
    "even_out",
    "keep_curve",
    "render_as",
    "take_profile",
]

JUDGED = (("auto", "Let Morphe judge"), ("flat", "Flat, curve judged"), ("log", "Log, curve judged"))
# Codes of the camera, in percent, at which a curve by hand is set.
HAND_CODES = (2.0, 15.0, 30.0, 50.0, 70.0, 95.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class ConvertChoices:
    """What the rung offers for a clip."""

    profiles: tuple[tuple[str, str], ...]
    own: tuple[tuple[str, str], ...]
    chosen: str
    is_hlg: bool
    rendering: str
    is_wide: bool
    may_be_wide: bool
    by_hand: tuple[tuple[float, float], ...]
    is_by_hand: bool
    is_judged: bool
    rivals: tuple[Answer, ...]  # other ways in which it may have been filmed


def _convert(grade: Grade) -> Convert:
    return grade.convert


def choices_of(clip: Clip) -> ConvertChoices:
    """Everything the first rung can be set to."""
    step = _convert(grade_of(clip))
    kind = clip.profile.get("kind")
    return ConvertChoices(
        profiles=(
            *JUDGED,
            *((p.key, p.label) for p in PROFILES.values()),
        ),
        own=tuple((k.key, k.name) for k in KeptProfile.objects.all()),
        chosen=clip.profile_choice,
        is_hlg=kind == "hlg" and step.profile == "hlg",
        rendering=step.rendering,
        is_wide=step.wide,
        may_be_wide=kind in ("log", "flat") and step.at_work,
        by_hand=_by_hand(step),
        is_by_hand=step.profile == HAND,
        is_judged=step.judged_curve is not None,
        rivals=_rivals(clip),
    )


def _rivals(clip: Clip) -> tuple[Answer, ...]:
    """Other kinds that come into question, while the picture leaves it open and nobody has said it."""
    if clip.profile_choice != "auto" or clip.profile.get("confidence", 1.0) >= ASK_BELOW:
        return ()
    taken = Kind(clip.profile["kind"]).word
    return tuple(answer for answer in answers_of(clip) if answer.label != taken)


def _by_hand(step: Convert) -> tuple[tuple[float, float], ...]:
    """(code, level) in percent where the curve by hand is set: its own, or those of the conversion of now."""
    if step.profile == HAND and step.points:
        return tuple((round(100 * x, 1), round(100 * y, 1)) for x, y in step.points)
    greys = np.repeat(np.array(HAND_CODES, np.float32)[:, None] / 100, 3, axis=1).astype(np.float32)
    levels = 100 * evaluate(Grade.of(step), greys)[:, 1]
    return tuple(
        (code, round(float(np.clip(v, -5, 108)), 1)) for code, v in zip(HAND_CODES, levels, strict=True)
    )


def take_profile(clip: Clip, key: str) -> None:
    """Take the person's word on the profile."""
    choose_profile(clip, key)
    proposal = recipe.from_json(clip.proposal)
    grade = grade_of(clip).with_step(proposal.convert)
    versions.keep(clip, grade, f"Profile taken as {clip.profile.get('label') or clip.profile['name']}")


def keep_curve(clip: Clip, name: str) -> None:
    """Keep the curve judged from a clip as a profile, and take it and those like it as filmed so."""
    step = _convert(grade_of(clip))
    curve = step.judged_curve
    if curve is None:
        raise ColourError("This clip is not converted by a curve that was judged from it.")
    own = judged_profile(name, FAMILY_OF[step.profile], curve, step.chroma)
    take_profile(clip, keep_own(own, f"judged from {clip.title}").key)


def render_as(clip: Clip, posted: Mapping[str, str]) -> None:
    """Choose how HLG arrives, and whether light stays wide until delivery."""
    grade = grade_of(clip)
    step = _convert(grade)
    step = replace(step, rendering=posted.get("rendering", step.rendering), wide=posted.get("wide") == "yes")
    how = (
        "wide until delivery"
        if step.wide
        else f"{step.rendering} light"
        if step.profile == "hlg"
        else "ordinary"
    )
    versions.keep(clip, grade.with_step(step), f"Converted as {how}")


def draw_by_hand(clip: Clip, codes: list[str], levels: list[str]) -> None:
    """Convert by a curve through points in percent."""
    try:
        points = tuple(
            (float(x.replace(",", ".")) / 100, float(y.replace(",", ".")) / 100)
            for x, y in zip(codes, levels, strict=True)
        )
    except ValueError as error:
        raise ColourError("A level of the curve is no number; type percent.") from error
    grade = grade_of(clip)
    step = Convert(profile=HAND, name="By hand", points=points)
    versions.keep(clip, grade.with_step(step), "Curve by hand")


def even_out(clip: Clip, amount: str) -> None:
    """Undo a share of the wander of light; 0 lets it be."""
    track = clip.drift.get("track", [])
    if not track:
        raise ColourError("The light of this clip has not been followed yet; wait a moment.")
    try:
        share = float(amount.replace(",", "."))
    except ValueError as error:
        raise ColourError(f"“{amount[:20]}” is no percentage.") from error
    grade = grade_of(clip)
    if share <= 0:
        versions.keep(clip, grade.without_step("even"), "Light over time left as filmed")
        return
    points = tuple((float(t), float(r), float(g), float(b)) for t, r, g, b in track)
    step = EvenOut(amount=share, ceiling=float(clip.drift.get("ceiling", 1.0)), track=points)
    versions.keep(clip, grade.with_step(step), f"Light over time evened out by {share:.0f} %")

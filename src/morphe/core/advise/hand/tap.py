"""A place in the picture and what a person says it is: white, black, grey, skin, green, or its colour."""

from __future__ import annotations

from dataclasses import replace
from enum import StrEnum

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import CLIP, Layer
from morphe.core.grade.moments import held
from morphe.core.grade.step import Step
from morphe.core.grade.steps import STEPS, Balance, BlackPoint, Contrast, Families, SkinTurn, WhitePoint
from morphe.core.grade.steps.families import EDIT, Edit
from morphe.core.measure.readings import luma_of, oklab_of
from morphe.core.measure.skin import skin_of_pixels
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.arrays import Encoded
from morphe.core.signal.hues import family_of
from morphe.core.signal.light import light_shift
from morphe.core.signal.profiles import PROFILES
from morphe.core.signal.skin_colour import SKIN_LINE

__all__ = ["Meaning", "answer_tap", "balance_from_tap", "before_step", "contrast_between"]

PATCH = 9  # px a side, at measuring size
CLIPPED, DARK = 0.97, 0.08
MAX_SPREAD = 0.35
BRIGHTEST, DARKEST = 92.0, 2.5  # percent: where the brightest and what should be black are put
FAINTEST, MIXED = 0.025, 0.05  # Oklab chroma of a colour at least, and how far a patch may spread
SAME_TONE, MORE, HELD = 3.0, 20.0, 100.0  # percent: apart at least, of contrast more, of colour held
GREEN_HUE, REACH, PICKED = 132.0, 34.0, 22.0  # degrees of Oklab hue
NO_SKIN_DEG, NO_SKIN_CHROMA = 45.0, 0.012
DOUBTFUL_MIRED, DOUBTFUL_DUV = 150.0, 0.03


class Meaning(StrEnum):
    """What a person says of a place in the picture."""

    NEUTRAL = "neutral"
    WHITE = "white"
    BLACK = "black"
    SKIN = "skin"
    GREEN = "green"
    COLOUR = "colour"

    @property
    def label(self) -> str:
        return {
            "neutral": "White or grey", "white": "The brightest", "black": "Should be black", "skin": "Skin",
            "green": "Should be green", "colour": "A colour to change",
        }[self.value]  # fmt: skip

    @property
    def asks(self) -> str:
        """What is asked for while it is chosen."""
        return {
            "neutral": "Tap something that is white or grey.",
            "white": "Tap the brightest thing that should keep its tone.",
            "black": "Tap something that should be black.",
            "skin": "Tap skin: a forehead or a cheek.",
            "green": "Tap leaves or grass that should be green.",
            "colour": "Tap the colour to change.",
        }[self.value]


def answer_tap(encoded: Encoded, grade: Grade, x: float, y: float, meaning: Meaning) -> tuple[Step, str]:
    """The step that makes a place what a person says it is, and a sentence about what was measured.

    Parameters
    ----------
    encoded : (H, W, 3), the frame as the camera wrote it
    grade : the grade so far; what comes before the step is applied to the patch
    x, y : the patch's centre as shares of width and height

    Raises
    ------
    ColourError
        If the patch is clipped, uneven, or cannot be what it is said to be.
    """
    answers = {
        Meaning.WHITE: _white, Meaning.BLACK: _black, Meaning.GREEN: _green, Meaning.COLOUR: _colour,
        Meaning.SKIN: _skin,
    }  # fmt: skip
    if meaning is Meaning.NEUTRAL:
        return balance_from_tap(encoded, grade, x, y)
    return answers[meaning](_patch(encoded, x, y), grade)


def contrast_between(
    encoded: Encoded, grade: Grade, one: tuple[float, float], other: tuple[float, float]
) -> tuple[Contrast, str]:
    """Contrast about the middle of two tones that a person picks, the colour it adds taken back.

    Raises
    ------
    ColourError
        If the tones are the same.
    """
    before = before_step(grade, Contrast.key)
    tones = sorted(
        100 * float(np.median(luma_of(evaluate(before, _patch(encoded, *at))))) for at in (one, other)
    )
    if tones[1] - tones[0] < SAME_TONE:
        raise ColourError("These two are as good as one tone; pick a darker and a lighter one.")
    pivot = Contrast.within("pivot", round(sum(tones) / 2, 1))
    now = grade.step(Contrast.key)
    amount = held(now.amount, 0.0) if isinstance(now, Contrast) else 0.0
    step = Contrast(amount=Contrast.within("amount", amount + MORE), pivot=pivot, hold=HELD)
    after = [100 * float(evaluate(Grade.of(step), np.full((1, 3), t / 100, np.float32))[0, 1]) for t in tones]
    said = (
        f"They lay {tones[1] - tones[0]:.0f} % apart, now {after[1] - after[0]:.0f} %; "
        "the colour that this adds is taken back."
    )
    return step, said


def _patch(encoded: Encoded, x: float, y: float) -> Encoded:
    """The pixels (n, 3) about a place."""
    height, width = encoded.shape[:2]
    half = max(PATCH * width // 960, PATCH) // 2
    cx, cy = int(np.clip(x, 0, 1) * (width - 1)), int(np.clip(y, 0, 1) * (height - 1))
    return encoded[max(cy - half, 0) : cy + half + 1, max(cx - half, 0) : cx + half + 1].reshape(-1, 3)


def _white(patch: Encoded, grade: Grade) -> tuple[Step, str]:
    if float(np.median(patch.max(axis=1))) > CLIPPED:
        raise ColourError("That patch is clipped; tap something bright that still has tone.")
    luma = 100 * float(np.median(luma_of(evaluate(before_step(grade, WhitePoint.key), patch))))
    if luma < 45:
        raise ColourError(f"That lies at {luma:.0f} %: too dark to be the brightest; tap something lighter.")
    raise_by = WhitePoint.within("raise_by", round(100 * (1 - luma / BRIGHTEST), 1))
    return WhitePoint(raise_by=raise_by), f"It lay at {luma:.0f} %; it is put at {BRIGHTEST:.0f} %."


def _black(patch: Encoded, grade: Grade) -> tuple[Step, str]:
    luma = 100 * float(np.median(luma_of(evaluate(before_step(grade, BlackPoint.key), patch))))
    if luma > 40:
        raise ColourError(f"That lies at {luma:.0f} %: too bright for black; tap something darker.")
    lower = BlackPoint.within("lower", round((luma - DARKEST) / (1 - DARKEST / 100), 1))
    return BlackPoint(lower=lower), f"It lay at {luma:.1f} %; it is put at {DARKEST:g} %."


def _hue(patch: Encoded, grade: Grade) -> float:
    """Hue of a patch before families are edited, in degrees."""
    lab = oklab_of(evaluate(before_step(grade, Families.key), patch))
    middle = np.median(lab, axis=0)
    if np.hypot(middle[1], middle[2]) < FAINTEST:
        raise ColourError("That is as good as grey; tap something that has a colour.")
    if np.abs(lab[:, 1:] - middle[1:]).mean(axis=0).max() > MIXED:
        raise ColourError("That patch holds several colours; tap a plain part.")
    return float(np.degrees(np.arctan2(middle[2], middle[1])) % 360)


def _edited(grade: Grade, edit: Edit) -> Families:
    step = grade.step(Families.key)
    return (step if isinstance(step, Families) else Families()).with_edit(edit)


def _green(patch: Encoded, grade: Grade) -> tuple[Step, str]:
    hue = _hue(patch, grade)
    away = (GREEN_HUE - hue + 180) % 360 - 180
    if abs(away) > 75:
        raise ColourError(
            f"That is {family_of(hue).label.lower()}, too far from any green; tap leaves or grass."
        )
    limit = EDIT["hue"].high
    turn = float(np.clip(away, -limit, limit))
    edit = Edit(round(hue, 1), REACH, REACH, hue=round(turn, 1))
    return _edited(
        grade, edit
    ), f"It lay {abs(away):.0f}° from leaf green; its hue is turned {abs(turn):.0f}°."


def _colour(patch: Encoded, grade: Grade) -> tuple[Step, str]:
    hue = _hue(patch, grade)
    family = family_of(hue)
    said = f"{family.label} at {hue:.0f}°: change it below; nothing else moves."
    return _edited(grade, Edit(round(hue, 1), PICKED, PICKED)), said


def _skin(patch: Encoded, grade: Grade) -> tuple[Step, str]:
    skin = skin_of_pixels(evaluate(before_step(grade, SkinTurn.key), patch))
    if abs(skin.off_deg) > NO_SKIN_DEG or skin.chroma < NO_SKIN_CHROMA:
        raise ColourError("No skin has that colour under any usual light; tap a forehead or a cheek.")
    if abs(skin.off_deg) > SkinTurn.params["turn"].high:
        raise ColourError(f"Skin there lies {abs(skin.off_deg):.0f}° off its line: balance the light first.")
    turn = round(-skin.off_deg, 1)
    step = SkinTurn(turn=turn, centre=round(SKIN_LINE + skin.off_deg, 1))
    side = "yellow" if skin.off_deg > 0 else "red"
    return (
        step,
        f"Skin lay {abs(skin.off_deg):.0f}° to the {side}, at {skin.luma:.0f} %; it lies on its line now.",
    )


def balance_from_tap(encoded: Encoded, grade: Grade, x: float, y: float) -> tuple[Balance, str]:
    """Find the balance that makes a patch neutral, and a sentence about it.

    Parameters
    ----------
    encoded : (H, W, 3), the frame as the camera wrote it
    grade : the grade so far; what comes before the balance is applied to the patch
    x, y : the patch's centre as shares of width and height

    Raises
    ------
    ColourError
        If the patch is clipped, too dark or too uneven to be a reference.
    """
    patch = _patch(encoded, x, y)
    _refuse_unfit(patch)
    linear = PROFILES.get("std-709").decode(evaluate(before_step(grade, Balance.key), patch))
    rgb = np.median(linear, axis=0)
    if rgb.min() <= 0:
        raise ColourError("A channel is empty there; tap something lighter that is white or grey.")
    spread = float((np.subtract(*np.percentile(linear, [75, 25], axis=0)) / rgb).max())
    if spread > MAX_SPREAD:
        raise ColourError("That patch is uneven; tap a plain white or grey area.")
    mired, duv = light_shift(rgb)
    step = Balance(
        warmth=round(Balance.within("warmth", mired), 1),
        tint=round(Balance.within("tint", 1000 * duv), 1),
    )
    side = "warm" if mired > 0 else "cool"
    sentence = f"The patch was {abs(mired):.0f} mired {side}, tint {1000 * duv:+.0f}; it is neutral now."
    if abs(mired) > DOUBTFUL_MIRED or abs(duv) > DOUBTFUL_DUV:
        sentence = (
            f"The patch was {abs(mired):.0f} mired {side}: it is probably not grey. Undo if it looks wrong."
        )
    return step, sentence


def _refuse_unfit(patch: Encoded) -> None:
    if float(np.median(patch.max(axis=1))) > CLIPPED:
        raise ColourError("That patch is clipped; tap something white that still has tone.")
    if float(np.median(luma_of(patch))) < DARK:
        raise ColourError("That patch is too dark to judge; tap something lighter.")


def before_step(grade: Grade, key: str) -> Grade:
    """All that comes before a step of the clip; regions are not heeded."""
    layers: list[Layer] = []
    for layer in grade.layers:
        if layer.id != CLIP:
            layers.append(layer)
            continue
        keys = [step.key for step in layer.with_step(STEPS.get(key)()).steps]
        early = keys[: keys.index(key)]
        layers.append(replace(layer, steps=tuple(s for s in layer.steps if s.key in early)))
        break
    return replace(grade, layers=tuple(layer for layer in layers if layer.region is None))

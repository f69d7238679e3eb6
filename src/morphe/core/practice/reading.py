"""Reading scopes: one question on a picture and its scopes; how the picture was made says what is right."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np

from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Casts
from morphe.core.pipeline.reference import evaluate
from morphe.core.practice.difficulty import apart
from morphe.core.practice.exercise import Area, Exercise, subject
from morphe.core.practice.scenes import PEOPLE, STEP_S, Shot, chosen_shot
from morphe.core.signal.arrays import Encoded, Linear, Mask, Plane
from morphe.core.signal.ycbcr import LUMA_WEIGHTS, Matrix
from morphe.core.standins.cameras import Exposure, film, truth

__all__ = ["CLIPS", "LEANS"]

PATH = "Reading scopes"
CAST = (8.0, 3.5)  # percent of chroma, plain and subtle
LEANS = {  # what is moved: numbers of `Casts`, and what it is called
    "Warm in the shadows": ("dark_warmth", 1), "Cool in the shadows": ("dark_warmth", -1),
    "Warm in the lights": ("bright_warmth", 1), "Cool in the lights": ("bright_warmth", -1),
    "Green in the shadows": ("dark_green", 1), "Green in the lights": ("bright_green", 1),
}  # fmt: skip
CLIPS = ("Nothing", "The whites", "The blacks", "The red channel alone")
SHARE = 0.02  # of pixels at an end, from which something is clipped
TOP, FOOT = Area(left=0, right=1, low=98, high=101), Area(left=0, right=1, low=-1, high=2)
PICTURES = ("The first", "The second", "The third")
TONE_EDGE = 0.33  # of luma: below lie shadows, as far above lie lights
ENOUGH, TRIES = 0.06, 8  # of a picture in the tones that are asked about; scenes that are tried for that
WIDE = (0.05, 0.95)
ALIKE, MOST_LIT = 0.02, 0.4  # of luma: so near to the top counts as the top; share of a picture that may


def luma_of(picture: Encoded) -> Plane:
    """Luma (H, W) of an encoded picture."""
    plane: Plane = picture @ np.asarray(LUMA_WEIGHTS[Matrix.BT709], np.float32)
    return plane


def area_of(picture: Encoded, part: Mask) -> Area:
    """Where a part (H, W) of a picture lies on its waveform."""
    luma, columns = luma_of(picture)[part], np.nonzero(part)[1] / part.shape[1]
    low, high = np.quantile(luma, WIDE)
    left, right = np.quantile(columns, WIDE)
    return Area(left=float(left), right=float(right), low=100 * float(low), high=100 * float(high))


@subject("belongs", "Which picture is it", "A waveform, and three pictures that it could be of.", PATH)
def _belongs(seed: int, level: float) -> Exercise:
    generator = np.random.default_rng((seed, 5))
    shot = chosen_shot(generator)
    by = 1.2 - 0.7 * level  # stops
    order = generator.permutation([-by, 0.0, by])
    right = int(generator.integers(0, 3))
    shown = tuple(
        film(shot.light, Exposure(exposure_stops=float(s)), np.random.default_rng(seed)) for s in order
    )
    return Exercise(
        subject="belongs", seed=seed, level=level, question="Which picture does this waveform belong to?",
        pictures=shown, captions=PICTURES, scopes=("luma",), scope_of=right, choices=PICTURES,
        as_pictures=True, right=right, truth=shot.truth,
        because="Its ends lie where that picture has its darkest and its brightest tones.",
        distance=min(apart(shown[right], other) for n, other in enumerate(shown) if n != right),
    )  # fmt: skip


@subject("face", "The face on the waveform", "Tap where a face stands on the scope.", PATH)
def _face(seed: int, level: float) -> Exercise:
    generator = np.random.default_rng((seed, 6))
    shot = chosen_shot(generator, tuple(PEOPLE))
    stops = float(generator.uniform(-1, 1)) * (0.3 + 0.9 * level)
    shown = film(shot.light, Exposure(exposure_stops=stops), generator)
    area = area_of(shown, shot.face)
    return Exercise(
        subject="face", seed=seed, level=level,
        question="Where on the waveform is the face? Tap it there.", pictures=(shown,), captions=("",),
        scopes=("luma",), taps="waveform", lit=shot.face, area=area, truth=shot.truth,
        because=(
            f"Left to right the waveform is the picture; the face stands at {area.low:.0f} to "
            f"{area.high:.0f} % of luma."
        ),
        distance=(area.high - area.low) / 4,
    )  # fmt: skip


@subject("highest", "What stands highest", "The top of a waveform, found in the picture.", PATH)
def _highest(seed: int, level: float) -> Exercise:
    generator = np.random.default_rng((seed, 7))
    seen = Exposure(exposure_stops=-0.3 - 0.5 * level, noise=0.0)
    for _ in range(TRIES):  # where grains of the whole ground stand at the top, there is nothing to find
        shot = chosen_shot(generator)
        shown = film(shot.light, seen, generator)
        luma = luma_of(shown)
        lit = np.asarray(luma >= np.quantile(luma, 0.998) - ALIKE)
        wide = np.asarray(cv2.dilate(lit.astype(np.uint8), np.ones((9, 9), np.uint8)) > 0)
        if wide.mean() < MOST_LIT:
            break
    return Exercise(
        subject="highest", seed=seed, level=level,
        question="What stands at the top of the waveform? Tap it in the picture.", pictures=(shown,),
        captions=("",), scopes=("luma",), taps="picture", lit=wide, area=area_of(shown, lit),
        truth=shot.truth, because="The brightest of the picture stands highest, in its own columns.",
        distance=2 + 8 * float(1 - wide.mean()),
    )  # fmt: skip


@subject("clipped", "What is clipped", "A line at an end of the scope, and of which channels.", PATH)
def _clipped(seed: int, level: float) -> Exercise:
    generator = np.random.default_rng((seed, 4))
    shot = chosen_shot(generator)
    right = int(generator.integers(0, len(CLIPS)))
    share = SHARE * (3 - 1.6 * level)
    shown = _with_clipping(shot.light, right, share)
    at_end: Mask = np.asarray((shown >= 0.999).any(axis=-1) | (shown <= 0.001).all(axis=-1))
    return Exercise(
        subject="clipped", seed=seed, level=level, question="What is clipped here?", pictures=(shown,),
        captions=("",), scopes=("parade", "luma"), choices=CLIPS, right=right, truth=shot.truth,
        lit=at_end if at_end.any() else None, area=(None, TOP, FOOT, None)[right],
        because=(
            "No line lies flat at an end.", "All three channels end in a line at the top.",
            "All three channels end in a line at the foot.", "Red alone ends in a line at the top.",
        )[right],
        distance=2 + 100 * share if right else 6.0,
    )  # fmt: skip


def _with_clipping(light: Linear, which: int, share: float) -> Encoded:
    """A scene with what a choice of `CLIPS` names, and nothing else, at an end."""
    calm = 0.1 + 0.75 * truth(light)  # nothing at either end
    if which == 0:
        return calm.astype(np.float32)
    luma = calm.mean(axis=-1)
    if which == 2:
        return np.clip(calm - np.quantile(calm.max(axis=-1), share), 0, 1).astype(np.float32)
    gain = 1 / np.quantile(calm.min(axis=-1) if which == 1 else calm[..., 0], 1 - share)
    if which == 1:
        return np.clip(calm * gain, 0, 1).astype(np.float32)
    out = calm * np.minimum(0.9 / max(float(luma.max()), 0.9), 1)
    out[..., 0] = calm[..., 0] * gain
    out[..., 1:] = np.minimum(out[..., 1:], 0.95)
    return np.clip(out, 0, 1).astype(np.float32)


@subject("leans", "Which channel leans", "A cast, and in which tones it lies.", PATH)
def _leans(seed: int, level: float) -> Exercise:
    generator = np.random.default_rng((seed, 3))
    names = [str(n) for n in generator.permutation(list(LEANS))[:4]]
    right = int(generator.integers(0, len(names)))
    number, sign = LEANS[names[right]]
    is_dark = number.startswith("dark")
    shot = _shot_with(generator, is_dark=is_dark)
    cast = Grade.of(replace(Casts(), **{number: sign * (CAST[0] + (CAST[1] - CAST[0]) * level)}))  # type: ignore[arg-type]
    plain = shot.truth
    shown = np.clip(evaluate(cast, plain), 0, 1)
    luma = luma_of(plain)
    return Exercise(
        subject="leans", seed=seed, level=level, question="Which way does it lean, and in which tones?",
        pictures=(shown,), captions=("",), scopes=("parade", "vector"), choices=tuple(names), right=right,
        truth=plain, lit=luma < TONE_EDGE if is_dark else luma > 1 - TONE_EDGE,
        area=Area(left=0, right=1, low=0 if is_dark else 67, high=33 if is_dark else 100),
        because=f"The channels part at the {'foot' if is_dark else 'top'} of the scope, and nowhere else.",
        distance=apart(shown, plain),
    )  # fmt: skip


def _shot_with(generator: np.random.Generator, *, is_dark: bool) -> Shot:
    """A shot that has shadows, or lights."""
    for _ in range(TRIES):
        shot = chosen_shot(generator)
        luma = luma_of(shot.truth)
        part = luma < TONE_EDGE if is_dark else luma > 1 - TONE_EDGE
        if part.mean() > ENOUGH:
            break
    return shot


def later_shot(shot: Shot, generator: np.random.Generator) -> Shot:
    """The same scene a little later, as another clip of it."""
    return shot.later(STEP_S * int(generator.integers(1, 5)))


@subject("matches", "Which one sits beside it", "One clip to stand beside another in a cut.", "Matching")
def _matches(seed: int, level: float) -> Exercise:
    generator = np.random.default_rng((seed, 8))
    shot = chosen_shot(generator)
    other = later_shot(shot, generator)
    mired, stops = 60 - 38 * level, 0.9 - 0.55 * level
    ways = [(0.0, 0.0), (float(generator.choice([-1, 1])) * mired, 0.0),
            (0.0, float(generator.choice([-1, 1])) * stops)]  # fmt: skip
    order = [int(n) for n in generator.permutation(3)]
    shown = [film(shot.light, Exposure(), generator)]
    for n in order:
        warm, bright = ways[n]
        shown.append(film(other.light, Exposure(warm_mired=warm, exposure_stops=bright), generator))
    right = order.index(0)
    return Exercise(
        subject="matches", seed=seed, level=level,
        question="Which of the three sits beside the reference in a cut?", pictures=tuple(shown),
        captions=("Reference", *PICTURES), scopes=("parade", "vector"), scope_of=0, choices=PICTURES,
        as_pictures=True, right=right, truth=other.truth,
        because="The others are warmer, cooler, brighter or darker than the reference as a whole.",
        distance=min(apart(shown[1 + right], p) for n, p in enumerate(shown[1:]) if n != right),
    )  # fmt: skip

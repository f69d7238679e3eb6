"""Reading scopes: one question on a picture and a scope; how the picture was made says what is right."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Casts
from morphe.core.pipeline.reference import evaluate
from morphe.core.practice.scenes import chosen_scene, light_of, picture_of
from morphe.core.signal.arrays import Encoded
from morphe.core.standins.cameras import Exposure, film, truth

__all__ = ["KINDS", "Reading", "reading"]

CAST = (8.0, 3.5)  # percent of chroma, plain and subtle
LEANS = {  # what is moved: numbers of `Casts`, and what it is called
    "Warm in the shadows": ("dark_warmth", 1), "Cool in the shadows": ("dark_warmth", -1),
    "Warm in the lights": ("bright_warmth", 1), "Cool in the lights": ("bright_warmth", -1),
    "Green in the shadows": ("dark_green", 1), "Green in the lights": ("bright_green", 1),
}  # fmt: skip
CLIPS = ("Nothing", "The whites", "The blacks", "The red channel alone")
PICTURES = ("The first", "The second", "The third")
SHARE = 0.02  # of pixels at an end, from which something is clipped


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """One question: which scope is shown, what it asks, and which of the choices is right.

    make : the pictures by which it is answered, encoded (H, W, 3); the first belongs to the scope, unless
           the question is which one does
    truth : the scene as it was
    """

    kind: str
    seed: int
    scope: str
    question: str
    choices: tuple[str, ...]
    right: int
    because: str
    make: Callable[[], tuple[Encoded, ...]]
    truth: Callable[[], Encoded]

    def is_right(self, answer: int) -> bool:
        return answer == self.right


def _leans(seed: int, level: float) -> Reading:
    generator = np.random.default_rng((seed, 3))
    scene, time_s = chosen_scene(generator)
    names = [str(n) for n in generator.permutation(list(LEANS))[:4]]
    right = int(generator.integers(0, len(names)))
    number, sign = LEANS[names[right]]
    by = sign * (CAST[0] + (CAST[1] - CAST[0]) * level)
    cast = Grade.of(replace(Casts(), **{number: by}))  # type: ignore[arg-type]
    where = "foot" if number.startswith("dark") else "top"
    return Reading(
        kind="leans", seed=seed, scope="channels", question="Which way does it lean, and in which tones?",
        choices=tuple(names), right=right,
        because=f"At the {where} of the scope the channels part; elsewhere they go together.",
        make=lambda: (np.clip(evaluate(cast, picture_of(scene, time_s)), 0, 1),),
        truth=lambda: picture_of(scene, time_s),
    )  # fmt: skip


def _clipped(seed: int, level: float) -> Reading:
    generator = np.random.default_rng((seed, 4))
    scene, time_s = chosen_scene(generator)
    right = int(generator.integers(0, len(CLIPS)))
    return Reading(
        kind="clipped", seed=seed, scope="channels", question="What is clipped here?", choices=CLIPS,
        right=right,
        because=(
            "No line lies flat at an end.", "All three channels end in a line at the top.",
            "All three channels end in a line at the foot.", "Red alone ends in a line at the top.",
        )[right],
        make=lambda: (_with_clipping(light_of(scene, time_s), right),),
        truth=lambda: picture_of(scene, time_s),
    )  # fmt: skip


def _with_clipping(light: Encoded, which: int) -> Encoded:
    """A scene with what a choice of `CLIPS` names, and nothing else, at an end."""
    calm = 0.1 + 0.75 * truth(light)  # nothing at either end
    if which == 0:
        return calm.astype(np.float32)
    luma = calm.mean(axis=-1)
    if which == 2:
        return np.clip(calm - np.quantile(calm.max(axis=-1), 3 * SHARE), 0, 1).astype(np.float32)
    gain = 1 / np.quantile(calm.min(axis=-1) if which == 1 else calm[..., 0], 1 - 3 * SHARE)
    if which == 1:
        return np.clip(calm * gain, 0, 1).astype(np.float32)
    out = calm * np.minimum(0.9 / max(float(luma.max()), 0.9), 1)
    out[..., 0] = calm[..., 0] * gain
    out[..., 1:] = np.minimum(out[..., 1:], 0.95)
    return np.clip(out, 0, 1).astype(np.float32)


def _belongs(seed: int, level: float) -> Reading:
    generator = np.random.default_rng((seed, 5))
    scene, time_s = chosen_scene(generator)
    apart = 1.2 - 0.7 * level  # stops
    order = generator.permutation([-apart, 0.0, apart])
    right = int(generator.integers(0, 3))
    return Reading(
        kind="belongs", seed=seed, scope="luma", question="Which picture does this waveform belong to?",
        choices=PICTURES, right=right,
        because="Its ends lie where that picture has its darkest and brightest tones.",
        make=lambda: tuple(
            film(light_of(scene, time_s), Exposure(exposure_stops=float(s)), np.random.default_rng(seed))
            for s in order
        ),
        truth=lambda: picture_of(scene, time_s),
    )  # fmt: skip


KINDS = {"leans": _leans, "clipped": _clipped, "belongs": _belongs}


def reading(kind: str, seed: int, level: float) -> Reading:
    """The question of a kind and a seed; `level` 0..1 goes from plain to subtle."""
    return KINDS[kind](seed, min(max(level, 0.0), 1.0))

"""Blind comparisons: the next pair of a sense, its answer, and the threshold that comes of them."""

from __future__ import annotations

import base64
import secrets
from dataclasses import asdict, dataclass
from datetime import timedelta
from typing import Any

from django.utils import timezone

from morphe.core.errors import ColourError, UnknownName
from morphe.core.practice.eyes import SENSES, Pair, Sense, pair
from morphe.core.practice.staircase import Staircase
from morphe.core.screen.pictures import jpeg
from morphe.web.practice.models import Attempt, Walk, Wish
from morphe.web.practice.services.record import answered

__all__ = [
    "Seen",
    "answer",
    "begin_anew",
    "own_tolerance",
    "pair_of",
    "sense_of",
    "staircase_of",
    "thresholds",
    "tired",
    "walk_of",
]

TIRED_ANSWERS, TIRED_S = 80, 1500  # comparisons within so many seconds after which eyes tell less
SCATTER = 0.75  # of the natural logarithm of a walk's turns: more is not one threshold


@dataclass(frozen=True, slots=True, kw_only=True)
class Seen:
    """A pair as it is shown."""

    left: str  # JPEG in base64
    right: str


def sense_of(key: str) -> Sense:
    """The sense of a key.

    Raises
    ------
    UnknownName
        If there is none.
    """
    if key not in SENSES:
        raise UnknownName(f"There is no comparison called {key[:20]!r}; choose from the list.")
    return SENSES[key]


def walk_of(key: str) -> Walk:
    """A sense's walk as it stands; begun if there is none."""
    walk, _ = Walk.objects.get_or_create(sense=sense_of(key).key, defaults={"seed": secrets.randbelow(2**31)})
    return walk


def staircase_of(walk: Walk) -> Staircase:
    if not walk.state:
        return SENSES[walk.sense].staircase()
    kept: dict[str, Any] = {k: tuple(v) if isinstance(v, list) else v for k, v in walk.state.items()}
    return Staircase(**kept)


def _pair(walk: Walk) -> Pair:
    return pair(walk.sense, walk.seed, staircase_of(walk).level)


def pair_of(walk: Walk) -> Seen:
    """The pictures of the next comparison."""
    left, right = (base64.b64encode(jpeg(p)).decode() for p in _pair(walk).pictures())
    return Seen(left=left, right=right)


def answer(walk: Walk, place: int, seed: int) -> bool | None:
    """Take an answer; None if the pair was answered already (a second click, an old page).

    Raises
    ------
    ColourError
        If it is neither the left nor the right one.
    """
    if place not in (0, 1):
        raise ColourError("Choose the left or the right picture.")
    if seed != walk.seed or walk.ended:
        return None
    is_right = _pair(walk).right == place
    stair = staircase_of(walk).after(is_right)
    walk.state, walk.seed = asdict(stair), secrets.randbelow(2**31)
    Attempt.objects.create(subject=f"eye-{walk.sense}", seed=seed, level=stair.level, right=is_right)
    if stair.is_done:
        walk.ended, walk.threshold = timezone.now(), stair.threshold or stair.level
        answered(f"eyes-{walk.sense}", seed, 0.0, right=not _scatters(stair))
    walk.save()
    return is_right


def begin_anew(walk: Walk) -> None:
    """Another walk; the threshold of the last one stays until this one ends."""
    walk.state, walk.ended, walk.seed = {}, None, secrets.randbelow(2**31)
    walk.save()


def _scatters(stair: Staircase) -> bool:
    late = stair.turns[4:]
    return len(late) > 3 and max(late) - min(late) > 2 * SCATTER


def tired(walk: Walk) -> str:
    """A word where eyes seem tired, by how much was compared or how answers scatter."""
    lately = timezone.now() - timedelta(seconds=TIRED_S)
    if Attempt.objects.filter(subject__startswith="eye-", answered__gte=lately).count() >= TIRED_ANSWERS:
        return "You have compared for a while; eyes tire. Look into the distance for some minutes."
    if _scatters(staircase_of(walk)):
        return "Your answers scatter more than one threshold does: tired eyes, or light on the screen?"
    return ""


def thresholds() -> dict[str, float]:
    """The smallest differences that are told, by sense."""
    return {w.sense: w.threshold for w in Walk.objects.exclude(threshold=None) if w.threshold}


def own_tolerance() -> tuple[float, float] | None:
    """Stops and mired from which clips stand apart for this person, where that is wished and known."""
    if not Wish.objects.filter(own_thresholds=True).exists():
        return None
    found = thresholds()
    if "exposure" not in found or "warmth" not in found:
        return None
    return found["exposure"], found["warmth"]

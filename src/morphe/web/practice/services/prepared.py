"""Exercises made ahead by the worker, so that the next one is there at once."""

from __future__ import annotations

import base64
import json
import secrets
from functools import lru_cache
from typing import Any

import cv2
import numpy as np
from django.core.files.base import ContentFile
from django.utils import timezone

from morphe.core.errors import ColourError
from morphe.core.measure.scopes import safe_outline
from morphe.core.practice.difficulty import chance_wrong
from morphe.core.practice.exercise import Area, Exercise
from morphe.core.practice.subjects import ORDER, SUBJECTS
from morphe.core.screen.pictures import jpeg
from morphe.core.screen.scopes import scope_pictures
from morphe.core.signal.arrays import Mask
from morphe.web.jobs.services.ask import ask
from morphe.web.jobs.services.run import Run
from morphe.web.practice.models import Prepared
from morphe.web.practice.services.record import answered, level_of

__all__ = ["KIND", "answer", "ask_ahead", "shown", "take", "work"]

KIND = "practice"
AHEAD = 2  # exercises of a subject that wait
NEAR = 0.25  # of the level: one that was made for another by more is not taken
REACH = (0.04, 5.0)  # of a finger: share of the width, percent of the height
LIT = (46, 196, 255)  # of what answers, blue, green, red


def ask_ahead(keys: tuple[str, ...] = ORDER) -> None:
    """Have exercises made of which there are too few."""
    for key in keys:
        if _waiting(key).count() < AHEAD:
            ask(KIND, ORDER.index(key))


def work(run: Run) -> None:
    """Make exercises of one subject until enough wait."""
    key = ORDER[run.subject]
    while _waiting(key).count() < AHEAD:
        run.check()
        make(key)


def make(key: str) -> Prepared:
    """Make one exercise at the person's level and keep it."""
    seed, level = secrets.randbelow(2**31), level_of(key)
    content = json.dumps(_content(SUBJECTS.get(key).make(seed, level)))
    made = Prepared(subject=key, seed=seed, level=level)
    made.content.save(f"{key}-{seed}.json", ContentFile(content.encode()), save=True)
    return made


def take(key: str) -> Prepared:
    """The next exercise of a subject: one that waits, else one that is made now."""
    level = level_of(key)
    one = _waiting(key).filter(level__gte=level - NEAR, level__lte=level + NEAR).first() or make(key)
    for old in Prepared.objects.filter(subject=key).exclude(pk=one.pk).exclude(taken=None):
        _forget(old)
    for other in _waiting(key).exclude(pk=one.pk).exclude(level__gte=level - NEAR, level__lte=level + NEAR):
        _forget(other)
    one.taken = timezone.now()
    one.save(update_fields=["taken"])
    ask_ahead((key,))
    return one


def _waiting(key: str):  # type: ignore[no-untyped-def]
    return Prepared.objects.filter(subject=key, taken=None)


def _forget(one: Prepared) -> None:
    one.content.delete(save=False)
    one.delete()


@lru_cache(maxsize=4)
def _read(path: str) -> dict[str, Any]:
    with open(path, encoding="utf-8") as file:
        found: dict[str, Any] = json.load(file)
    return found


def content_of(one: Prepared) -> dict[str, Any]:
    """All that was kept of an exercise, the answer with it."""
    return _read(one.content.path)


def shown(one: Prepared) -> dict[str, Any]:
    """What may be shown before it is answered."""
    content = content_of(one)
    return {k: content[k] for k in ("question", "pictures", "captions", "choices", "as_pictures", "taps",
                                    "scopes", "scope_of", "drawn", "outline", "hardness")}  # fmt: skip


def answer(
    one: Prepared, *, choice: int | None = None, at: tuple[float, float] | None = None
) -> dict[str, Any]:
    """Judge an answer, keep it once, and give what there is to see afterwards.

    Parameters
    ----------
    choice : number of one of the choices
    at     : where it was tapped: on a waveform the share across and percent, in a picture shares of both

    Raises
    ------
    ColourError
        If there is no such answer.
    """
    content = content_of(one)
    right = _tapped(content, at) if content["taps"] else _chosen(content, choice)
    if not one.answered:
        one.answered = True
        one.save(update_fields=["answered"])
        answered(one.subject, one.seed, one.level, right=right)
    return {
        "is_right": right, "chosen": choice, "because": content["because"], "truth": content["truth"],
        "right": content["right"], "choices": content["choices"], "as_pictures": content["as_pictures"],
        "proof": {"lit": content["lit"], "area": content["area"], "scope_of": content["scope_of"],
                  "right": content["right"], "chosen": choice},
    }  # fmt: skip


def _chosen(content: dict[str, Any], choice: int | None) -> bool:
    if choice is None or not 0 <= choice < len(content["choices"]):
        raise ColourError("Choose one of the answers.")
    return bool(choice == content["right"])


def _tapped(content: dict[str, Any], at: tuple[float, float] | None) -> bool:
    if at is None or not all(-20 <= v <= 130 for v in at):
        raise ColourError("Tap a place, or move the mark with the arrow keys and press Enter.")
    if content["taps"] == "waveform":
        return Area(**content["area"]).holds(*at, reach=REACH)
    lit = cv2.imdecode(np.frombuffer(base64.b64decode(content["lit"]), np.uint8), cv2.IMREAD_UNCHANGED)
    if lit is None:
        raise ColourError("This exercise is no longer whole; begin another one.")
    height, width = lit.shape[:2]
    x, y = (min(int(v * n), n - 1) for v, n in zip(at, (width, height), strict=True))
    return bool(x >= 0 and y >= 0 and lit[y, x, 3])


def _content(exercise: Exercise) -> dict[str, Any]:
    area = exercise.area
    return {
        "question": exercise.question,
        "pictures": [_text(jpeg(p)) for p in exercise.pictures],
        "captions": list(exercise.captions),
        "choices": list(exercise.choices),
        "as_pictures": exercise.as_pictures,
        "right": exercise.right,
        "taps": exercise.taps,
        "scopes": list(exercise.scopes),
        "scope_of": exercise.scope_of,
        "drawn": scope_pictures(exercise.pictures[exercise.scope_of]).as_json(),
        "outline": safe_outline(),
        "because": exercise.because,
        "truth": _text(jpeg(exercise.truth)),
        "lit": None if exercise.lit is None else _text(_lit_png(exercise.lit)),
        "area": area and {"left": area.left, "right": area.right, "low": area.low, "high": area.high},
        "hardness": _hardness(exercise),
    }


def _hardness(exercise: Exercise) -> str:
    wrong = chance_wrong(exercise.distance, len(exercise.choices) or 4)
    return "plain" if wrong < 0.15 else "usual" if wrong < 0.4 else "subtle"


def _text(data: bytes) -> str:
    return base64.b64encode(data).decode()


def _lit_png(lit: Mask) -> bytes:
    """A picture that covers what answers, and nothing else."""
    cover = np.zeros((*lit.shape, 4), np.uint8)
    cover[lit] = (*LIT, 110)
    edge = lit & ~(cv2.erode(lit.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0)
    cover[edge] = (*LIT, 255)
    return bytes(cv2.imencode(".png", cover)[1])

"""What there is to practise, on short paths: each builds on the one before."""

from __future__ import annotations

from dataclasses import dataclass

from django.urls import reverse

from morphe.core.errors import UnknownName
from morphe.core.practice.eyes import SENSES
from morphe.core.practice.mending import KINDS
from morphe.core.practice.subjects import ORDER, SUBJECTS

__all__ = ["CAMERA", "OWN", "PATHS", "TOPICS", "Topic", "topic"]

CAMERA, OWN = "camera", "mend-own"
EYES = "eyes-"
MENDED = {
    "mend-light": "On the Bench, by eye and scopes: nothing is proposed there.",
    "mend-colour": "Warmth and green, until the number is small.",
    "mend-both": "Filmed flat, and off in both.",
}
NAMES = {"exposure": "Brightness", "warmth": "Warmth", "tint": "Green and magenta", "saturation": "Colour"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Topic:
    """One subject on a path, and where it is practised."""

    key: str
    label: str
    about: str
    path: str
    url_name: str
    argument: str = ""

    @property
    def url(self) -> str:
        return reverse(self.url_name, args=[self.argument] if self.argument else [])


def _topics() -> dict[str, Topic]:
    subjects = [SUBJECTS.get(key) for key in ORDER]
    found = [
        Topic(key=s.key, label=s.label, about=s.about, path=s.path, url_name="practice-take", argument=s.key)
        for s in subjects
        if s.path != "Matching"
    ]
    found += [
        Topic(key=key, label=label, about=MENDED[key], path="Mending", url_name="practice-mend", argument=key)
        for key, label in KINDS.items()
    ]  # fmt: skip
    found.append(
        Topic(key=OWN, label="A clip of your own", about="One that you corrected, spoiled and to be mended.",
              path="Mending", url_name="practice-mend", argument=OWN)
    )  # fmt: skip
    found += [
        Topic(key=EYES + key, label=NAMES[key], about=f"{s.question} By how little can you tell?",
              path="Eyes", url_name="practice-eyes", argument=key)
        for key, s in SENSES.items()
    ]  # fmt: skip
    found.append(
        Topic(key=CAMERA, label="Camera decisions", url_name="practice-camera", path="Camera and cut",
              about="Profile, shutter, filter, balance: and the clip that comes of them.")
    )  # fmt: skip
    found += [
        Topic(key=s.key, label=s.label, about=s.about, path="Camera and cut", url_name="practice-take",
              argument=s.key)
        for s in subjects
        if s.path == "Matching"
    ]  # fmt: skip
    return {t.key: t for t in found}


TOPICS = _topics()
PATHS = tuple(dict.fromkeys(t.path for t in TOPICS.values()))


def topic(key: str) -> Topic:
    """The topic of a key.

    Raises
    ------
    UnknownName
        If there is none.
    """
    if key not in TOPICS:
        raise UnknownName(f"There is nothing to practise called {key[:30]!r}; choose from the list.")
    return TOPICS[key]

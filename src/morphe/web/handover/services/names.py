"""Names of files that go out, by a pattern of words in braces."""

from __future__ import annotations

import re

from morphe.core.errors import OutputError
from morphe.core.handover.parts import Part
from morphe.web.clips.models import Clip
from morphe.web.shell.files import plain_name

__all__ = ["PATTERN", "WORDS", "file_name"]

WORDS = ("clip", "outing", "date", "camera", "preset", "part", "number")
PATTERN = "{clip}-{preset}"


def file_name(
    pattern: str, clip: Clip, *, preset: str, number: int, part: tuple[int, Part] | None = None
) -> str:
    """The name by a pattern, without ending; parts that share a clip are told apart by their number.

    Raises
    ------
    OutputError
        If the pattern has a word in braces that means nothing.
    """
    unknown = set(re.findall(r"{(.*?)}", pattern)) - set(WORDS)
    if unknown or "{" in re.sub(r"{\w*}", "", pattern):
        known = ", ".join(f"{{{word}}}" for word in WORDS)
        raise OutputError(f"A name is made of {known} and what you type; take the rest out of its braces.")
    values = {
        "clip": clip.title.rsplit(".", 1)[0],
        "outing": clip.outing.name,
        "date": (clip.filmed_at.date() if clip.filmed_at else clip.outing.date).isoformat(),
        "camera": clip.camera.name if clip.camera else "",
        "preset": preset,
        "part": f"{part[0]}" if part else "",
        "number": f"{number:03d}",
    }
    name = pattern
    for word, value in values.items():
        name = name.replace(f"{{{word}}}", value)
    if part and "{part}" not in pattern:
        name = f"{name}-{part[0]}"
    return plain_name(name) or plain_name(values["clip"])

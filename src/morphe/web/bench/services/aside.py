"""What other places have to say beside a clip on the Bench: they file a word here."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from morphe.core.signal.arrays import Encoded
from morphe.web.clips.models import Clip

__all__ = ["ASIDES", "aside_of"]

ASIDES: list[Callable[[Clip, Encoded], dict[str, Any]]] = []


def aside_of(clip: Clip, graded: Encoded) -> dict[str, Any]:
    """All that is said of a graded still."""
    return {key: value for say in ASIDES for key, value in say(clip, graded).items()}

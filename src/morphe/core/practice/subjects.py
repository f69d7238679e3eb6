"""All subjects of practice, in the order in which they build on each other."""

from __future__ import annotations

import morphe.core.practice.naming
import morphe.core.practice.reading  # noqa: F401  # both file theirs as they are loaded
from morphe.core.practice.exercise import SUBJECTS

__all__ = ["ORDER", "SUBJECTS"]

ORDER = (
    "belongs", "highest", "face", "clipped", "leans", "name-light", "name-colour", "name-clip", "matches",
)  # fmt: skip

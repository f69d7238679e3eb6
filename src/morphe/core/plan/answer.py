"""One line of the shoot card: what to set, why, and what would come second."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

__all__ = ["Answer"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Answer:
    """A setting in words with its reason and its runner-up; `numbers` holds the same for programs."""

    key: str
    label: str
    value: str
    reason: str
    runner_up: str = ""
    warning: str = ""
    numbers: Mapping[str, Any] = field(default_factory=dict)

    def as_json(self) -> dict[str, Any]:
        return {
            "key": self.key,
            "label": self.label,
            "value": self.value,
            "reason": self.reason,
            "runner_up": self.runner_up or None,
            "warning": self.warning or None,
            **self.numbers,
        }

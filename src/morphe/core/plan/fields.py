"""Reading plain values that come from a form, a file or a command line, with sentences for what is wrong."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from typing import Any

from morphe.core.errors import PlanError

__all__ = ["choice", "flag", "items", "number", "optional_number", "text"]

MAX_TEXT = 120
MAX_ITEMS = 60


def _blank(value: Any) -> bool:
    return value is None or (isinstance(value, str) and not value.strip())


def number(
    data: Mapping[str, Any], key: str, label: str, low: float, high: float, default: float | None = None
) -> float:
    """Read a number between `low` and `high`; a missing one takes `default`, if there is one."""
    value = data.get(key)
    if _blank(value):
        if default is None:
            raise PlanError(f"{label} is missing; give a number from {low:g} to {high:g}.")
        return default
    try:
        found = float(str(value).strip().replace(",", "."))
    except ValueError as error:
        raise PlanError(f"{label} must be a number, not “{str(value)[:40]}”.") from error
    if isinstance(value, bool) or not math.isfinite(found) or not low <= found <= high:
        raise PlanError(f"{label} must lie between {low:g} and {high:g}, not {str(value)[:40]}.")
    return found


def optional_number(data: Mapping[str, Any], key: str, label: str, low: float, high: float) -> float | None:
    """Read a number that may be left out."""
    return None if _blank(data.get(key)) else number(data, key, label, low, high)


def choice(
    data: Mapping[str, Any], key: str, label: str, known: Iterable[str], default: str | None = None
) -> str:
    """Read one of the known words."""
    value = data.get(key)
    if _blank(value) and default is not None:
        return default
    known = list(known)
    if str(value) not in known:
        raise PlanError(f"{label} must be one of {', '.join(known)}, not “{str(value or '')[:40]}”.")
    return str(value)


def flag(data: Mapping[str, Any], key: str, default: bool = False) -> bool:
    """Read yes or no."""
    value = data.get(key)
    if _blank(value):
        return default
    return str(value).strip().lower() in ("1", "true", "yes", "on")


def text(data: Mapping[str, Any], key: str, label: str, default: str | None = None) -> str:
    """Read a short text."""
    value = data.get(key)
    if _blank(value):
        if default is None:
            raise PlanError(f"{label} is missing; fill it in.")
        return default
    found = " ".join(str(value).split())
    if len(found) > MAX_TEXT:
        raise PlanError(f"{label} is too long; keep it within {MAX_TEXT} characters.")
    return found


def items(data: Mapping[str, Any], key: str, label: str) -> list[Any]:
    """Read a list that may be left out."""
    found = data.get(key)
    if found is None:
        return []
    if not isinstance(found, (list, tuple)) or len(found) > MAX_ITEMS:
        raise PlanError(f"{label} must be a list of at most {MAX_ITEMS} entries.")
    return list(found)

"""The recipe file: a Grade as JSON with a schema version, readable by people and by later versions."""

from __future__ import annotations

import json
from dataclasses import fields
from typing import Any

from morphe.core.errors import ColourError, RecipeError, UnknownName
from morphe.core.grade.grade import Grade, Layer
from morphe.core.grade.steps import STEPS, Step

__all__ = ["SCHEMA", "from_json", "from_text", "step_from_json", "step_to_json", "to_json", "to_text"]

SCHEMA = 3  # 2: HLG says how it is rendered; 3: HDR without tags says by which matrix it was read
FORMAT = "morphe-recipe"
MAX_BYTES = 1_000_000


def to_json(grade: Grade) -> dict[str, Any]:
    """Give the grade as plain values."""
    return {
        "format": FORMAT,
        "schema": SCHEMA,
        "layers": [
            {
                "name": layer.name,
                "on": layer.on,
                "strength": layer.strength,
                "steps": [step_to_json(step) for step in layer.steps],
            }
            for layer in grade.layers
        ],
    }


def step_to_json(step: Step) -> dict[str, Any]:
    """Give one step as plain values under its key."""
    values = {f.name: getattr(step, f.name) for f in fields(step)}
    return {"step": step.key, **{name: _plain(value) for name, value in values.items()}}


def _plain(value: Any) -> Any:
    """Tuples as lists."""
    return [_plain(v) for v in value] if isinstance(value, tuple) else value


def from_json(data: Any) -> Grade:
    """Read a grade from plain values; older schemas are brought forward.

    Raises
    ------
    RecipeError
        With what is wrong, if the data is foreign, broken or from a newer version.
    """
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise RecipeError("This is not a Morphe recipe; choose a recipe file that Morphe has written.")
    if not isinstance(data.get("schema"), int) or data["schema"] < 1:
        raise RecipeError("The recipe does not say which version it is; save it again from Morphe.")
    if data["schema"] > SCHEMA:
        raise RecipeError(
            f"The recipe is of version {data['schema']}, this Morphe reads up to {SCHEMA}: update Morphe."
        )
    try:
        return Grade(layers=tuple(_layer(item, data["schema"]) for item in data["layers"]))
    except (ColourError, UnknownName) as error:
        raise RecipeError(f"The recipe cannot be used: {error}") from error
    except (KeyError, TypeError, AttributeError, ValueError) as error:
        raise RecipeError("The recipe is damaged: a layer or step is incomplete; save it again.") from error


def _layer(item: dict[str, Any], schema: int) -> Layer:
    return Layer(
        name=str(item["name"]),
        on=bool(item.get("on", True)),
        strength=float(item.get("strength", 1.0)),
        steps=tuple(step_from_json(_brought_forward(step, schema)) for step in item["steps"]),
    )


def step_from_json(item: dict[str, Any]) -> Step:
    """Read one step; unknown keys and values outside their limits are refused."""
    values = dict(item)
    kind = STEPS.get(values.pop("step"))
    known = {f.name for f in fields(kind)}
    if unknown := sorted(set(values) - known):
        raise ColourError(f"{kind.label} has no {', '.join(unknown)}.")
    return kind(**{name: _frozen(value) for name, value in values.items()})


def _frozen(value: Any) -> Any:
    """Lists of numbers as tuples."""
    if isinstance(value, list):
        return tuple(_frozen(v) if isinstance(v, list) else float(v) for v in value)
    return value


def _brought_forward(item: dict[str, Any], schema: int) -> dict[str, Any]:
    """A step as an older version meant it."""
    if schema < 2 and item.get("profile") == "hlg":
        return {**item, "rendering": "scene"}
    return item


def to_text(grade: Grade) -> str:
    """Give the recipe as indented JSON with a final newline."""
    return json.dumps(to_json(grade), indent=2) + "\n"


def from_text(text: str) -> Grade:
    """Read a recipe file's text."""
    if len(text) > MAX_BYTES:
        raise RecipeError("The file is far too long for a recipe; choose a recipe that Morphe has written.")
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise RecipeError(
            "The recipe is not readable JSON; choose a recipe that Morphe has written."
        ) from error
    return from_json(data)

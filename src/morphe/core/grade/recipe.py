"""The recipe file: a Grade as JSON with a schema version, readable by people and by later versions.

Versions: 2 says how HLG is rendered; 3 by which matrix HDR without tags was read; 4 keeps the source apart
from layers, which have ids, scopes, regions, and numbers that move; 5 takes water back in the source; 6 knows
noise,
families, curves, skin and casts by tone; 7 tints, density and fade; 8 what lens, film and delivery add, a
turn of the whole, soft ends, LUTs and a film-like print; 9 ASC decision lists; 10 the shots of a file,
the bars that it came with, parts of the picture by which nothing is judged.
"""

from __future__ import annotations

import json
from dataclasses import fields
from typing import Any

from morphe.core.errors import ColourError, RecipeError, UnknownName
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import CLIP, Layer, Scope
from morphe.core.grade.moments import Moments
from morphe.core.grade.reel import Reel
from morphe.core.grade.region import SHAPES, Region
from morphe.core.grade.source import OF_THE_SOURCE, Source
from morphe.core.grade.step import Step
from morphe.core.grade.steps import STEPS

__all__ = [
    "MAX_BYTES",
    "SCHEMA",
    "from_json",
    "from_text",
    "layer_from_json",
    "layer_to_json",
    "reel_from_json",
    "reel_from_text",
    "reel_to_json",
    "step_from_json",
    "step_to_json",
    "to_json",
    "to_text",
]

SCHEMA = 10
LAYERED = 4  # from this version on a source stands apart from layers
FORMAT = "morphe-recipe"
MAX_BYTES = 4_000_000  # of a grade or a file of grades, wherever it comes from


# --- writing ---------------------------------------------------------------------------------------


def to_json(grade: Grade) -> dict[str, Any]:
    """Give the grade as plain values."""
    return {
        "format": FORMAT,
        "schema": SCHEMA,
        "source": [step_to_json(step) for step in grade.source if step != type(step)()],
        "layers": [layer_to_json(layer) for layer in grade.layers],
    }


def layer_to_json(layer: Layer) -> dict[str, Any]:
    """Give a layer as plain values."""
    plain: dict[str, Any] = {
        "id": layer.id,
        "scope": str(layer.scope),
        "name": layer.name,
        "on": layer.on,
        "strength": layer.strength,
        "steps": [step_to_json(step) for step in layer.steps],
    }
    if layer.region is not None:
        plain["region"] = _region_to_json(layer.region)
    return {**plain, "left_out": True} if layer.left_out else plain


def _region_to_json(region: Region) -> dict[str, Any]:
    shape = {f.name: _plain(getattr(region.shape, f.name)) for f in fields(region.shape)}  # type: ignore[arg-type]
    return {
        "shape": {"kind": region.shape.kind, **shape},
        "feather": region.feather,
        "inverse": region.inverse,
        "moments": _plain(region.moments),
    }


def step_to_json(step: Step) -> dict[str, Any]:
    """Give one step as plain values under its key."""
    values = {f.name: getattr(step, f.name) for f in fields(step)}
    return {"step": step.key, **{name: _plain(value) for name, value in values.items()}}


def _plain(value: Any) -> Any:
    """Tuples as lists, numbers that move as their moments."""
    if isinstance(value, Moments):
        return {"moments": _plain(value.points)}
    return [_plain(v) for v in value] if isinstance(value, tuple) else value


def to_text(grade: Grade | Reel) -> str:
    """Give the recipe as indented JSON with a final newline."""
    return json.dumps(reel_to_json(grade), indent=2) + "\n"


def reel_to_json(grade: Grade | Reel) -> dict[str, Any]:
    """Give the grades of a file's shots as plain values; of one alone, that grade."""
    reel = Reel.of(grade)
    if len(reel.grades) == 1:
        return to_json(reel.first)
    ends = (*reel.ends_s, None)
    shots = [{"to_s": end, **to_json(one)} for end, one in zip(ends, reel.grades, strict=True)]
    return {"format": FORMAT, "schema": SCHEMA, "shots": shots}


# --- reading ---------------------------------------------------------------------------------------


def from_text(text: str) -> Grade:
    """Read a recipe file's text."""
    return from_json(_read(text))


def reel_from_text(text: str) -> Reel:
    """Read a recipe file's text, of one grade or of several shots."""
    return reel_from_json(_read(text))


def _read(text: str) -> Any:
    if len(text) > MAX_BYTES:
        raise RecipeError("The file is far too long for a recipe; choose a recipe that Morphe has written.")
    try:
        return json.loads(text)
    except (ValueError, RecursionError) as error:
        raise RecipeError(
            "The recipe is not readable JSON; choose a recipe that Morphe has written."
        ) from error


def reel_from_json(data: Any) -> Reel:
    """Read the grades of a file's shots from plain values; one grade is a reel of one.

    Raises
    ------
    RecipeError
        As `from_json` does.
    """
    if not isinstance(data, dict) or "shots" not in data:
        return Reel.of(from_json(data))
    shots = data["shots"]
    if not isinstance(shots, list) or not all(isinstance(shot, dict) for shot in shots):
        raise RecipeError("The recipe is damaged: its shots are no list; save it again.")
    try:
        ends = tuple(float(shot["to_s"]) for shot in shots[:-1])
        return Reel(grades=tuple(from_json(shot) for shot in shots), ends_s=ends)
    except (ColourError, KeyError, TypeError, ValueError) as error:
        if isinstance(error, RecipeError):
            raise
        raise RecipeError("The recipe is damaged: its shots do not follow; save it again.") from error


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
    if "shots" in data:
        raise RecipeError("This recipe has a grade for each shot of one file: apply it to that file alone.")
    try:
        return _grade(data if data["schema"] >= LAYERED else _brought_forward(data, data["schema"]))
    except (ColourError, UnknownName) as error:
        raise RecipeError(f"The recipe cannot be used: {error}") from error
    except (KeyError, TypeError, AttributeError, ValueError) as error:
        raise RecipeError("The recipe is damaged: a layer or step is incomplete; save it again.") from error


def _grade(data: dict[str, Any]) -> Grade:
    source = Source()
    for item in data["source"]:
        source = source.with_step(step_from_json(item))
    layers = tuple(layer_from_json(item) for item in data["layers"])
    if not any(layer.id == CLIP for layer in layers):
        layers = (*layers, Layer(id=CLIP))
    return Grade(source=source, layers=layers)


def layer_from_json(item: dict[str, Any]) -> Layer:
    """Read a layer."""
    region = item.get("region")
    return Layer(
        id=str(item["id"]),
        scope=Scope(item["scope"]),
        name=str(item.get("name", "")),
        on=bool(item.get("on", True)),
        strength=float(item.get("strength", 1.0)),
        steps=tuple(step_from_json(step) for step in item["steps"]),
        region=_region(region) if region else None,
        left_out=bool(item.get("left_out", False)),
    )


def _region(item: dict[str, Any]) -> Region:
    shape = dict(item["shape"])
    kind = SHAPES.get(str(shape.pop("kind")))
    if kind is None:
        raise ColourError(f"A region is one of: {', '.join(SHAPES)}.")
    return Region(
        shape=kind(**{name: _frozen(value) for name, value in shape.items()}),
        feather=float(item["feather"]),
        inverse=bool(item["inverse"]),
        moments=_frozen(item["moments"]),
    )


def step_from_json(item: dict[str, Any]) -> Step:
    """Read one step; unknown keys and values outside their limits are refused."""
    values = dict(item)
    key = values.pop("step")
    kind = OF_THE_SOURCE.get(key) or STEPS.get(key)
    known = {f.name for f in fields(kind)}
    if unknown := sorted(set(values) - known):
        raise ColourError(f"{kind.label} has no {', '.join(unknown)}.")
    return kind(**{name: _frozen(value) for name, value in values.items()})


def _frozen(value: Any) -> Any:
    """Lists of numbers as tuples, moments as numbers that move."""
    if isinstance(value, dict):
        return Moments(_frozen(value["moments"]))
    if isinstance(value, list):
        return tuple(_frozen(v) if isinstance(v, list) else float(v) for v in value)
    return value


# --- older versions --------------------------------------------------------------------------------


def _brought_forward(data: dict[str, Any], schema: int) -> dict[str, Any]:
    """What versions 1 to 3 meant: steps of the source stood among the others on a layer.

    A layer's strength then bent the conversion too; it never was meant to, and no longer does.
    """
    source: list[dict[str, Any]] = []
    layers = []
    for number, old in enumerate(data["layers"]):
        steps = [_meant(step, schema) for step in old["steps"]]
        of_source = [step for step in steps if step["step"] in OF_THE_SOURCE]
        known = {step["step"] for step in source}
        source += [
            {**step, "on": bool(step.get("on", True)) and bool(old.get("on", True))}
            for step in of_source
            if step["step"] not in known
        ]
        layers.append(
            {
                **old,
                "id": CLIP if number == 0 else f"clip-{number + 1}",
                "scope": Scope.CLIP,
                "name": "" if number == 0 else str(old["name"]),
                "steps": [step for step in steps if step not in of_source],
            }
        )
    return {"source": source, "layers": layers}


def _meant(item: dict[str, Any], schema: int) -> dict[str, Any]:
    """A step as an older version meant it."""
    if schema < 2 and item.get("profile") == "hlg":
        return {**item, "rendering": "scene"}
    return item

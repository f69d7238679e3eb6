"""What can be refused at once: paths that are not there, outputs that cannot be."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from pathlib import Path

from morphe.core.errors import OutputError, RecipeError
from morphe.core.footage.there import check_there
from morphe.core.handover.output import check_output

__all__ = ["check_outputs", "check_paths"]


def check_paths(args: argparse.Namespace) -> None:
    """Refuse a clip or recipe that is not there, and outputs that cannot be written, before work is
    prepared."""
    clip: Path | None = getattr(args, "clip", None)
    if clip is None:
        return
    check_there(clip)
    recipe = getattr(args, "recipe", None)
    if recipe is not None and args.command == "render" and not recipe.is_file():
        raise RecipeError(f"There is no readable recipe at {recipe}; check the path.")
    if args.command == "match":
        check_there(args.to)
    inputs = [clip, *(getattr(args, name, None) for name in ("to", "dive_log"))]
    outputs = [getattr(args, name, None) for name in ("out", "cube")]
    (inputs if args.command == "render" else outputs).append(recipe)
    check_outputs(inputs, outputs)


def check_outputs(inputs: Sequence[Path | None], wanted: Sequence[Path | None]) -> None:
    """Refuse outputs that are an input, each other, or cannot be written."""
    outputs = [p for p in wanted if p is not None]
    if len({p.resolve() for p in outputs}) < len(outputs):
        raise OutputError("Two outputs have the same name; give each its own.")
    for path in outputs:
        check_output(path, *inputs)

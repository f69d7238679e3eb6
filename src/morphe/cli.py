"""The command line: `morphe probe | measure | correct | render | plan`, thin over core."""

from __future__ import annotations

import argparse
import json
import os
import sys
import time
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any, NoReturn

from morphe.cli_plan import add_plan_options, plan, plan_lines
from morphe.core.advise.findings import Findings, look
from morphe.core.errors import MorpheError, OutputError, RecipeError
from morphe.core.footage.judging import judging_frames
from morphe.core.footage.planes import MEASURE_WIDTH
from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frame_at
from morphe.core.grade import recipe as recipes
from morphe.core.grade.grade import Grade
from morphe.core.handover.output import check_output, write_text
from morphe.core.handover.presets import PRESETS
from morphe.core.handover.render import Rendered, render
from morphe.core.handover.report import read_clip, readings_after
from morphe.core.interchange.cube import cube_of, cube_text
from morphe.core.measure.readings import measure

__all__ = ["main"]

MENDABLE = 2
LATER = ("match",)


class _Parser(argparse.ArgumentParser):
    """Argument errors in one line, like every other error here."""

    def error(self, message: str) -> NoReturn:
        print(f"morphe: {message}; see `{self.prog} --help`.", file=sys.stderr)
        raise SystemExit(MENDABLE)


def _arguments() -> argparse.ArgumentParser:
    parser = _Parser(prog="morphe", description="Measure, correct and deliver clips.")
    commands = parser.add_subparsers(dest="command", required=True, parser_class=_Parser)

    def command(name: str, about: str, clip: bool = True) -> argparse.ArgumentParser:
        sub = commands.add_parser(name, help=about, description=about)
        if clip:
            sub.add_argument("clip", type=Path)
        sub.add_argument("--json", action="store_true", help="print one JSON object and nothing else")
        return sub

    command("probe", "say what a clip is")
    levels = command("measure", "read a clip's levels, cast and saturation")
    levels.add_argument("--at", type=float, metavar="SECONDS", help="one frame instead of the judging frames")
    fix = command("correct", "measure a clip and apply all proposals")
    fix.add_argument("--profile", default="auto", metavar="NAME|auto")
    fix.add_argument("--water", default="off", choices=("auto", "off"))
    fix.add_argument("--out", type=Path)
    fix.add_argument("--cube", type=Path)
    fix.add_argument("--recipe", type=Path)
    make = command("render", "apply a recipe to a clip")
    make.add_argument("--recipe", type=Path, required=True)
    make.add_argument("--out", type=Path, required=True)
    make.add_argument("--cube", type=Path)
    make.add_argument("--preset", default="web", metavar=f"{{{','.join(PRESETS)}}}")
    add_plan_options(command("plan", "make a shoot card for one camera", clip=False))
    for name in LATER:
        commands.add_parser(name, help="arrives with a later version", add_help=False)
    return parser


def _probe(args: argparse.Namespace) -> dict[str, Any]:
    report = read_clip(args.clip)
    return {**report.info.as_json(), "profile": report.advice.profile.as_json()}


def _measure(args: argparse.Namespace) -> dict[str, Any]:
    info = probe(args.clip)
    if args.at is None:
        frames = judging_frames(info)
        small, times = [f.encoded for f in frames], [f.time_s for f in frames]
        full = [f.planes.encoded() for f in frames]
    else:
        planes = frame_at(info, args.at)
        small, full, times = [planes.encoded(width=MEASURE_WIDTH)], [planes.encoded()], [args.at]
    return measure(small, full, times_s=times).as_json()


def _progress() -> Callable[[int, int], bool]:
    if not sys.stderr.isatty():
        return lambda done, total: True

    def show(done: int, total: int) -> bool:
        print(f"\r{done} of {total} frames", end="" if done < total else "\n", file=sys.stderr, flush=True)
        return True

    return show


def _check_outputs(args: argparse.Namespace, *others: Path | None) -> None:
    outputs = [p for p in others if p is not None]
    if len({p.resolve() for p in outputs}) < len(outputs):
        raise OutputError("Two outputs have the same name; give each its own.")
    for path in outputs:
        check_output(path, args.clip)


def _write_sidecars(findings: Findings, grade: Grade, args: argparse.Namespace, recipe: Path | None) -> None:
    if args.cube:
        lut = cube_of(grade, outside_nominal=findings.outside_nominal)
        write_text(args.cube, cube_text(lut, title=args.clip.stem))
    if recipe:
        write_text(recipe, recipes.to_text(grade))


def _correct(args: argparse.Namespace) -> dict[str, Any]:
    if args.water != "off":
        raise MorpheError("Under-water correction is not part of this version yet; use --water off.")
    started = time.monotonic()
    probe(args.clip)
    _check_outputs(args, args.out, args.cube, args.recipe)
    report = read_clip(args.clip, profile=args.profile, over_time=True)
    findings, advice = report.findings, report.advice
    grade = advice.grade
    done: Rendered | None = None
    if args.out:
        done = render(findings.info, grade, args.out, progress=_progress())
    _write_sidecars(findings, grade, args, args.recipe)
    return {
        "profile": advice.profile.as_json(),
        "steps": [rung.as_json() for rung in advice.rungs],
        "lost": list(advice.lost),
        "before": findings.before.as_json(),
        "after": readings_after(findings, grade).as_json(),
        "out": str(args.out) if args.out else None,
        "cube": str(args.cube) if args.cube else None,
        "recipe": str(args.recipe) if args.recipe else None,
        "frames": done.frames if done else findings.info.frames,
        "dropped": done.dropped if done else None,
        "seconds": round(time.monotonic() - started, 3),
    }


def _read_recipe(path: Path) -> Grade:
    try:
        return recipes.from_text(path.read_text(encoding="utf-8"))
    except OSError as error:
        raise RecipeError(f"There is no readable recipe at {path}; check the path.") from error
    except UnicodeDecodeError as error:
        raise RecipeError(f"{path.name} is not a recipe; choose a file that Morphe has written.") from error


def _render(args: argparse.Namespace) -> dict[str, Any]:
    grade = _read_recipe(args.recipe)
    PRESETS.get(args.preset)
    info = probe(args.clip)
    _check_outputs(args, args.out, args.cube)
    done = render(info, grade, args.out, preset=args.preset, progress=_progress())
    if args.cube:
        _write_sidecars(look(args.clip), grade, args, None)
    return {
        "out": str(done.out),
        "cube": str(args.cube) if args.cube else None,
        "frames": done.frames,
        "dropped": done.dropped,
        "seconds": round(done.seconds, 3),
        "fps": round(done.fps, 2),
    }


def _later(args: argparse.Namespace) -> dict[str, Any]:
    raise MorpheError(f"`morphe {args.command}` is not part of this version yet; update Morphe when it is.")


def _lines(value: Any, indent: int = 0) -> list[str]:
    """The JSON object as readable lines."""
    pad = "  " * indent
    lines = []
    for key, item in value.items():
        if isinstance(item, dict):
            lines += [f"{pad}{key}:", *_lines(item, indent + 1)]
        elif isinstance(item, list) and item and isinstance(item[0], dict):
            lines.append(f"{pad}{key}:")
            for entry in item:
                lines += [
                    f"{pad}  - " + ", ".join(f"{k} {v}" for k, v in entry.items() if v not in (None, ""))
                ]
        else:
            shown = "; ".join(map(str, item)) if isinstance(item, list) else item
            lines.append(f"{pad}{key}: {'none' if shown in (None, '') else shown}")
    return lines


def main(argv: Sequence[str] | None = None) -> int:
    """Run one command; 0 when done, 2 with one sentence when the person can mend it."""
    words = list(sys.argv[1:] if argv is None else argv)
    # What is not there yet is refused whatever is asked of it.
    args = _arguments().parse_args(words[:1] if words[:1] and words[0] in LATER else words)
    commands = {"probe": _probe, "measure": _measure, "correct": _correct, "render": _render, "plan": plan}
    try:
        result = commands.get(args.command, _later)(args)
    except MorpheError as error:
        print(f"morphe: {error}", file=sys.stderr)
        return MENDABLE
    except OSError as error:
        print(f"morphe: {error.strerror or error}; check the file and try again.", file=sys.stderr)
        return MENDABLE
    except MemoryError:
        print("morphe: this clip needs more memory than there is; export it smaller.", file=sys.stderr)
        return MENDABLE
    except KeyboardInterrupt:
        print("morphe: stopped; nothing was left behind.", file=sys.stderr)
        return 130
    in_lines = plan_lines if args.command == "plan" else _lines
    _say(json.dumps(result) if args.json else "\n".join(in_lines(result)))
    return 0


def _say(text: str) -> None:
    try:
        print(text, flush=True)
    except BrokenPipeError:  # whoever read along has heard enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


if __name__ == "__main__":
    sys.exit(main())

"""The command line, thin over core: `morphe probe`, `measure`, `correct`, `render` and the others below."""

from __future__ import annotations

import argparse
import json
import os
import sys
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any, NoReturn

from morphe.cli.plan_options import add_plan_options
from morphe.cli.refusals import check_paths
from morphe.core.errors import MorpheError
from morphe.core.handover.presets import PRESETS

__all__ = ["main", "run"]

MENDABLE = 2


class _Parser(argparse.ArgumentParser):
    """Argument errors in one line, like every other error here."""

    def error(self, message: str) -> NoReturn:
        print(f"morphe: {message}; see `{self.prog} --help`.", file=sys.stderr)
        raise SystemExit(MENDABLE)


class _Version(argparse.Action):
    def __call__(self, parser: argparse.ArgumentParser, *rest: object) -> NoReturn:
        from importlib.metadata import version

        print(f"morphe {version('morphe')}")
        raise SystemExit(0)


def _arguments() -> argparse.ArgumentParser:
    parser = _Parser(prog="morphe", description="Measure, correct and deliver clips.")
    parser.add_argument("--version", action=_Version, nargs=0, help="say which version this is")
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
    fix.add_argument("--profile", default="auto", metavar="NAME|KIND|auto")
    fix.add_argument("--shots", default="auto", choices=("auto", "off"), help="each shot by itself")
    fix.add_argument("--water", default="auto", choices=("auto", "on", "off"), help="filmed under water")
    fix.add_argument("--depth", type=float, metavar="METRES", help="of the subject under water")
    fix.add_argument("--dive-log", type=Path, metavar="CSV", help="seconds of the clip and depths")
    fix.add_argument("--distance", type=float, metavar="METRES", help="from the subject to the lens")
    fix.add_argument("--out", type=Path)
    fix.add_argument("--cube", type=Path)
    fix.add_argument("--recipe", type=Path)
    make = command("render", "apply a recipe to a clip")
    make.add_argument("--recipe", type=Path, required=True)
    make.add_argument("--out", type=Path, required=True)
    make.add_argument("--cube", type=Path)
    make.add_argument("--preset", default="web", metavar=f"{{{','.join(PRESETS)}}}")
    near = command("match", "bring a clip to the look of another clip or a still")
    near.add_argument("--to", type=Path, required=True, metavar="REFERENCE", help="a clip or a picture")
    near.add_argument("--out", type=Path, required=True)
    near.add_argument("--recipe", type=Path)
    many = command("batch", "correct every clip of a folder and hand it back", clip=False)
    many.add_argument("folder", type=Path)
    many.add_argument("--out", type=Path, metavar="FOLDER", help="where it goes; handed-back in that folder")
    many.add_argument("--profile", default="auto", metavar="NAME|KIND|auto")
    many.add_argument("--preset", default="web", metavar=f"{{{','.join(PRESETS)}}}")
    many.add_argument("--no-film", action="store_true", help="only .cube, recipe and report")
    work = command("worker", "render pieces for a Morphe on another machine", clip=False)
    work.add_argument("--threads", type=int, default=1, help="pieces at a time")
    add_plan_options(command("plan", "make a shoot card for one camera", clip=False))
    return parser


def _done(args: argparse.Namespace) -> tuple[dict[str, Any], Callable[[Any], list[str]]]:
    """Carry a command out; what it needs is imported late, so that refusals and help come at once."""
    check_paths(args)
    if args.command == "worker":
        from morphe.cli.worker import worker

        return worker(args), _lines
    if args.command == "plan":
        from morphe.cli.plan import plan, plan_lines

        return plan(args), plan_lines
    from morphe.cli.commands import COMMANDS

    return COMMANDS[args.command](args), _lines


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
    args = _arguments().parse_args(words)
    try:
        result, lines = _done(args)
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
    _say(json.dumps(result) if args.json else "\n".join(lines(result)))
    return 0


def _say(text: str) -> None:
    try:
        print(text, flush=True)
    except BrokenPipeError:  # whoever read along has heard enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


def run() -> None:
    """The command: `main`, and an end at once; to take down what was compiled needs a third of a second."""
    code = main()
    sys.stdout.flush()
    sys.stderr.flush()
    os._exit(code)

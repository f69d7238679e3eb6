"""What the commands do, thin over core. Each imports what it needs, so that a quick one stays quick."""

from __future__ import annotations

import argparse
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from morphe.core.errors import MorpheError, RecipeError

if TYPE_CHECKING:
    from morphe.core.grade.grade import Grade
    from morphe.core.water.hints import Depths, WaterHints

__all__ = ["COMMANDS"]


def _probe(args: argparse.Namespace) -> dict[str, Any]:
    from morphe.core.advise.evidence import evidence_of_pictures
    from morphe.core.advise.profile_guess import guess_profile
    from morphe.core.footage.judging import glance
    from morphe.core.footage.probe import probe

    info = probe(args.clip)
    verdict = guess_profile(evidence_of_pictures(info, glance(info)))
    return {**info.as_json(), "profile": verdict.as_json()}


def _measure(args: argparse.Namespace) -> dict[str, Any]:
    from morphe.core.footage.judging import judging_frames
    from morphe.core.footage.planes import MEASURE_WIDTH
    from morphe.core.footage.probe import probe
    from morphe.core.footage.reader import frame_at
    from morphe.core.measure.readings import measure

    info = probe(args.clip)
    if args.at is None:
        frames = judging_frames(info)
        small, times = [f.encoded for f in frames], [f.time_s for f in frames]
        full = [f.planes.encoded() for f in frames if f.planes]
    else:
        planes = frame_at(info, args.at)
        small, full, times = [planes.encoded(width=MEASURE_WIDTH)], [planes.encoded()], [args.at]
    return measure(small, full, times_s=times).as_json()


def _correct(args: argparse.Namespace) -> dict[str, Any]:
    if args.water == "off" and (args.depth, args.distance, args.dive_log) != (None, None, None):
        raise MorpheError("A depth or distance says that the clip is wet; leave --water off away.")
    from morphe.core.grade.recipe import to_text
    from morphe.core.handover.output import write_text
    from morphe.core.handover.render import Rendered, render
    from morphe.core.handover.report import read_clip, readings_after

    started = time.monotonic()
    report = read_clip(args.clip, profile=args.profile, over_time=True, water=_water(args))
    findings, advice = report.findings, report.advice
    grade = advice.grade
    done: Rendered | None = None
    if args.out:
        done = render(findings.info, grade, args.out, progress=_progress())
    if args.cube:
        _write_cube(grade, args.cube, args.clip, outside_nominal=findings.outside_nominal)
    if args.recipe:
        write_text(args.recipe, to_text(grade))
    return {
        "profile": advice.profile.as_json(),
        "water": advice.water.as_json() if advice.water else None,
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


def _water(args: argparse.Namespace) -> WaterHints:
    """What was said of the water; a depth or a distance under water says that there is some."""
    from morphe.core.water.hints import WaterHints

    depths = _depths(args)
    told = args.depth is not None or args.distance is not None or bool(depths)
    wet = {"on": True, "off": False}.get(args.water, True if told else None)
    return WaterHints(wet=wet, depth_m=args.depth, distance_m=args.distance, depths=depths)


def _depths(args: argparse.Namespace) -> Depths:
    """Depths over the clip, from a dive log."""
    if args.dive_log is None:
        return ()
    from morphe.core.footage.probe import probe
    from morphe.core.interchange.dive_log import read_dive_log

    try:
        text = args.dive_log.read_text(encoding="utf-8", errors="replace")
    except OSError as error:
        raise MorpheError(f"There is no readable dive log at {args.dive_log}; check the path.") from error
    return read_dive_log(text, args.dive_log.name, duration_s=probe(args.clip).duration_s)


def _render(args: argparse.Namespace) -> dict[str, Any]:
    from morphe.core.footage.probe import probe
    from morphe.core.handover.delivery import Delivery
    from morphe.core.handover.render import render

    grade = _read_recipe(args.recipe)
    wanted = Delivery.of(args.preset)
    info = probe(args.clip)
    done = render(info, grade, args.out, wanted, progress=_progress())
    if args.cube:
        from morphe.core.advise.findings import look

        _write_cube(grade, args.cube, args.clip, outside_nominal=look(args.clip).outside_nominal)
    return {
        "out": str(done.out),
        "cube": str(args.cube) if args.cube else None,
        "frames": done.frames,
        "dropped": done.dropped,
        "seconds": round(done.seconds, 3),
        "fps": round(done.fps, 2),
    }


def _match(args: argparse.Namespace) -> dict[str, Any]:
    from morphe.core.grade.recipe import to_text
    from morphe.core.handover.matching import match_clip
    from morphe.core.handover.output import write_text
    from morphe.core.handover.render import render

    started = time.monotonic()
    findings, matched = match_clip(args.clip, args.to)
    done = render(findings.info, matched.grade, args.out, progress=_progress())
    if args.recipe:
        write_text(args.recipe, to_text(matched.grade))
    return {
        **matched.as_json(),
        "out": str(args.out),
        "recipe": str(args.recipe) if args.recipe else None,
        "frames": done.frames,
        "dropped": done.dropped,
        "seconds": round(time.monotonic() - started, 3),
    }


def _read_recipe(path: Path) -> Grade:
    from morphe.core.grade.recipe import from_text

    try:
        return from_text(path.read_text(encoding="utf-8"))
    except OSError as error:
        raise RecipeError(f"There is no readable recipe at {path}; check the path.") from error
    except UnicodeDecodeError as error:
        raise RecipeError(f"{path.name} is not a recipe; choose a file that Morphe has written.") from error


def _write_cube(grade: Grade, path: Path, clip: Path, *, outside_nominal: bool) -> None:
    from morphe.core.handover.output import write_text
    from morphe.core.interchange.cube import cube_of, cube_text

    write_text(path, cube_text(cube_of(grade, outside_nominal=outside_nominal), title=clip.stem))


def _batch(args: argparse.Namespace) -> dict[str, Any]:
    """Hand every clip of a folder back; each that cannot be used says why, and the rest goes on."""
    from morphe.core.handover.delivery import Delivery
    from morphe.core.handover.hand_back import Rules, hand_back_all

    rules = Rules(profile=args.profile, film=not args.no_film, delivery=Delivery.of(args.preset))
    done = list(hand_back_all(args.folder, rules, args.out, _progress()))
    failed = sum(bool(one.problem) for one in done)
    return {"clips": [one.as_json() for one in done], "done": len(done) - failed, "failed": failed}


def _progress() -> Callable[[int, int], bool]:
    if not sys.stderr.isatty():
        return lambda done, total: True

    def show(done: int, total: int) -> bool:
        print(f"\r{done} of {total} frames", end="" if done < total else "\n", file=sys.stderr, flush=True)
        return True

    return show


COMMANDS: dict[str, Callable[[argparse.Namespace], dict[str, Any]]] = {
    "probe": _probe,
    "measure": _measure,
    "correct": _correct,
    "render": _render,
    "match": _match,
    "batch": _batch,
}

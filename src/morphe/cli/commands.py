"""What the commands do, thin over core. Each imports what it needs, so that a quick one stays quick."""

from __future__ import annotations

import argparse
import sys
import time
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from morphe.core.errors import MorpheError, RecipeError

if TYPE_CHECKING:
    from morphe.core.grade.grade import Grade
    from morphe.core.grade.reel import Reel
    from morphe.core.reading.clip import Report
    from morphe.core.water.hints import Depths, WaterHints

__all__ = ["COMMANDS"]


def _probe(args: argparse.Namespace) -> dict[str, Any]:
    from morphe.core.advise.counted import Counted
    from morphe.core.advise.evidence import evidence_of_pictures
    from morphe.core.advise.profile.verdict import guess_profile
    from morphe.core.footage.judging import glance
    from morphe.core.footage.probe import probe
    from morphe.core.measure.picture_area import area_of

    info = probe(args.clip)
    pictures = glance(info)
    counted = Counted(area=area_of(pictures))
    verdict = guess_profile(evidence_of_pictures(info, [counted.picture(p) for p in pictures]))
    return {**info.as_json(), "profile": verdict.as_json()}


def _measure(args: argparse.Namespace) -> dict[str, Any]:
    from morphe.core.advise.findings import readings_as_filmed
    from morphe.core.footage.probe import probe

    return readings_as_filmed(probe(args.clip), args.at).as_json()


def _correct(args: argparse.Namespace) -> dict[str, Any]:
    if args.water == "off" and (args.depth, args.distance, args.dive_log) != (None, None, None):
        raise MorpheError("A depth or distance says that the clip is wet; leave --water off away.")
    from morphe.core.grade.recipe import to_text
    from morphe.core.handover.output import write_text
    from morphe.core.handover.render import Rendered, render
    from morphe.core.reading.clip import read_clip, read_shots, reel_of

    started = time.monotonic()
    water = _water(args)
    reports: tuple[Report, ...] = (
        read_shots(args.clip, profile=args.profile, water=water)
        if args.shots == "auto"
        else (read_clip(args.clip, profile=args.profile, over_time=True, water=water),)
    )
    reel, info = reel_of(reports), reports[0].info
    done: Rendered | None = None
    if args.out:
        done = render(info, reel, args.out, progress=_progress())
    cubes = _write_cubes(reports, args.cube, args.clip) if args.cube else []
    if args.recipe:
        write_text(args.recipe, to_text(reel))
    first, *others = (_said(report) for report in reports)
    shots = [{**_stretch(r), **_said(r)} for r in reports] if others else None
    return {
        **first,
        **({"shots": shots} if shots else {}),
        "out": str(args.out) if args.out else None,
        "cube": (str(cubes[0]) if len(cubes) == 1 else [str(c) for c in cubes]) if cubes else None,
        "recipe": str(args.recipe) if args.recipe else None,
        "frames": done.frames if done else info.frames,
        "dropped": done.dropped if done else None,
        "seconds": round(time.monotonic() - started, 3),
    }


def _said(report: Report) -> dict[str, Any]:
    """What was found in a clip, or a shot, and what is done about it."""
    from morphe.core.reading.clip import readings_after

    findings, advice = report.findings, report.advice
    return {
        "profile": advice.profile.as_json(),
        "water": advice.water.as_json() if advice.water else None,
        "steps": [rung.as_json() for rung in advice.rungs],
        "lost": list(advice.lost),
        "before": findings.before.as_json(),
        "after": readings_after(findings, advice.grade).as_json(),
    }


def _stretch(report: Report) -> dict[str, Any]:
    shot = report.info.worked_on
    return {"from_s": round(shot.begin_s, 4), "to_s": round(shot.end_s, 4)}


def _write_cubes(reports: Sequence[Report], path: Path, clip: Path) -> list[Path]:
    """A table a shot."""
    from morphe.core.interchange.cube import numbered

    paths = numbered(path, len(reports))
    for one, report in zip(paths, reports, strict=True):
        _write_cube(report.advice.grade, one, clip, outside_nominal=report.findings.outside_nominal)
    return paths


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

    reel = _read_recipe(args.recipe)
    wanted = Delivery.of(args.preset)
    info = probe(args.clip)
    done = render(info, reel, args.out, wanted, progress=_progress())
    if args.cube:
        from morphe.core.advise.findings import look
        from morphe.core.interchange.cube import numbered

        outside = look(args.clip).outside_nominal
        for path, grade in zip(numbered(args.cube, len(reel.grades)), reel.grades, strict=True):
            _write_cube(grade, path, args.clip, outside_nominal=outside)
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
    from morphe.core.handover.output import write_text
    from morphe.core.handover.render import render
    from morphe.core.reading.reference import match_clip

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


def _read_recipe(path: Path) -> Reel:
    from morphe.core.grade.recipe import reel_from_text

    try:
        return reel_from_text(path.read_text(encoding="utf-8"))
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

"""A clip taken as it lies there: read, corrected by rules and handed back for those who edit elsewhere."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from zlib import crc32

from morphe.core.advise.whole.strain import strain_of
from morphe.core.errors import MorpheError, OutputError
from morphe.core.footage.there import ENDINGS
from morphe.core.grade.recipe import to_text
from morphe.core.handover.delivery import Delivery, Order
from morphe.core.handover.output import check_output, shortened, write_text
from morphe.core.handover.output_check import check_output_file
from morphe.core.handover.pump import Progress
from morphe.core.handover.render import graded_for, render
from morphe.core.interchange.cube import cube_of, cube_text, numbered
from morphe.core.reading.clip import Report, read_shots, reel_of

__all__ = ["BACK", "HandedBack", "Rules", "clips_in", "hand_back", "hand_back_all"]

LONGEST_STEM = 225  # bytes of a name, before numbers and endings
BACK = "handed-back"  # the folder, beside the clips, into which everything goes


@dataclass(frozen=True, slots=True, kw_only=True)
class Rules:
    """How clips are treated.

    profile : as of `morphe correct`: a name, a kind, or auto
    film    : whether the corrected clip itself goes back, by `delivery`, beside .cube, recipe and report
    """

    profile: str = "auto"
    film: bool = True
    delivery: Delivery = field(default_factory=Delivery)


@dataclass(frozen=True, slots=True, kw_only=True)
class HandedBack:
    """What became of one clip; a sentence where nothing did."""

    clip: Path
    cube: Path | None = None
    recipe: Path | None = None
    report: Path | None = None
    out: Path | None = None
    problem: str = ""

    def as_json(self) -> dict[str, Any]:
        files = {name: getattr(self, name) for name in ("clip", "cube", "recipe", "report", "out")}
        return {**{name: str(p) if p else None for name, p in files.items()}, "problem": self.problem or None}


def clips_in(folder: Path) -> list[Path]:
    """The clips of a folder, by name.

    Raises
    ------
    OutputError
        If there is no such folder, or it cannot be read.
    """
    try:
        found = [p for p in folder.iterdir() if p.suffix.lower() in ENDINGS and not p.name.startswith(".")]
    except OSError as error:
        raise OutputError(f"There is no readable folder {folder}; check the path.") from error
    return sorted(p for p in found if p.is_file())


def hand_back(
    clip: Path, folder: Path, rules: Rules, progress: Progress = lambda done, total: True
) -> HandedBack:
    """Read and correct one clip, and write into `folder` what goes back; never over a clip beside it.

    Raises
    ------
    MorpheError
        If the clip cannot be used or the folder cannot be written.
    """
    reports = read_shots(clip, profile=rules.profile)
    report, reel = reports[0], reel_of(reports)
    name = _fitting(clip.name)
    cube, recipe, told = (folder / f"{name}{e}" for e in (".cube", ".recipe.json", ".report.txt"))
    cubes = numbered(cube, len(reports))
    for path, one in zip(cubes, reports, strict=True):
        lut = cube_of(one.advice.grade, outside_nominal=one.findings.outside_nominal)
        write_text(path, cube_text(lut, title=clip.stem))
    write_text(recipe, to_text(reel))
    lines, out = _lines(clip, reports), None
    if rules.film:
        out = _film_name(clip, folder)
        done = render(report.info, reel, out, rules.delivery, progress=progress)
        order = Order(info=report.info, grade=graded_for(reel, rules.delivery), delivery=rules.delivery)
        times, strength = [f.time_s for f in report.findings.frames], report.findings.strength
        if strength is not None:
            checked = check_output_file(out, order, done.frames, strength, times)
            lines += ["", "The file, looked over:"]
            lines += [f"  {v.label}: {v.sentence}" for v in checked.verdicts]
    write_text(told, "\n".join(lines) + "\n")
    return HandedBack(clip=clip, cube=cubes[0], recipe=recipe, report=told, out=out)


def _film_name(clip: Path, folder: Path) -> Path:
    """Where a corrected clip goes: by its stem, with its ending too where another clip's would be the same.

    Raises
    ------
    OutputError
        If a clip bears that name.
    """
    beside = clips_in(clip.parent)
    stems = [other.stem.casefold() for other in beside]
    stem = clip.name if stems.count(clip.stem.casefold()) > 1 else clip.stem
    out = folder / f"{_fitting(stem)}.corrected.mp4"
    check_output(out, *beside)
    return out


def _fitting(name: str) -> str:
    """A name with room for numbers and endings; two that begin alike stay two."""
    if len(name.encode()) <= LONGEST_STEM:
        return name
    mark = f"-{crc32(name.encode()):08x}"
    return shortened(name, LONGEST_STEM - len(mark)) + mark


def _lines(clip: Path, reports: Sequence[Report]) -> list[str]:
    """What was found and done, in sentences, shot by shot."""
    info = reports[0].info
    size = f"{info.width} × {info.height}, {float(info.fps):g} a second, {info.bit_depth}-bit {info.codec}"
    lines = [clip.name, f"  {size}, {info.duration_s:.1f} s"]
    for number, report in enumerate(reports, 1):
        if len(reports) > 1:
            shot = report.info.worked_on
            lines += ["", f"Shot {number} of {len(reports)}, {shot.begin_s:.2f} to {shot.end_s:.2f} s"]
        lines += _judged(report)
    return lines


def _judged(report: Report) -> list[str]:
    advice = report.advice
    lines = ["", f"Profile: {advice.profile.label}"]
    lines += [f"  {line}" for line in advice.profile.evidence]
    lines += ["", "What was done, and why:"]
    for rung in advice.rungs:
        lines.append(f"  {rung.step.label}{': ' + rung.action if rung.applied and rung.action else ''}")
        lines.append(f"    {rung.measured} {rung.reason}")
    lines += [f"  Cannot be brought back: {lost}" for lost in advice.lost]
    if report.findings.strength is None:
        return lines
    strain = strain_of(report.findings.strength, advice.grade, with_cure=False)
    return [*lines, "", f"How far the file is bent: {strain.sentence}"]


def hand_back_all(
    folder: Path, rules: Rules, back: Path | None = None, progress: Progress = lambda done, total: True
) -> Iterator[HandedBack]:
    """Hand back every clip of a folder; one that cannot be used does not end the others.

    Raises
    ------
    OutputError
        If there is no such folder, no clip in it, or nothing can be written.
    """
    clips = clips_in(folder)
    if not clips:
        raise OutputError(f"There is no clip in {folder}; clips end in {', '.join(ENDINGS)}.")
    target = back or folder / BACK
    try:
        target.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise OutputError(f"{target} cannot be written to; choose another folder.") from error
    for clip in clips:
        try:
            yield hand_back(clip, target, rules, progress)
        except MorpheError as error:
            yield HandedBack(clip=clip, problem=str(error))

"""`morphe plan`: a shoot card for one camera from answers given as options."""

from __future__ import annotations

import argparse
import json
from datetime import date
from pathlib import Path
from typing import Any

from morphe.cli.plan_options import ASKED
from morphe.core.errors import OutputError, PlanError
from morphe.core.handover.output import check_output, write_text
from morphe.core.plan.calendar_file import calendar_text
from morphe.core.plan.card import ShootCard, shoot_card
from morphe.core.plan.exposure import Pins
from morphe.core.plan.kit import Kit
from morphe.core.plan.questions import MEASURED, SKY, Questions
from morphe.core.plan.shots import SHOTS
from morphe.core.standins.kits import KITS

__all__ = ["plan", "plan_lines"]

MAX_KIT_BYTES = 1_000_000


def plan(args: argparse.Namespace) -> dict[str, Any]:
    """Make the card, write the calendar if asked for, and give the card as plain values."""
    questions = _questions(args)
    kit = _kit(args.camera) if args.camera else _suiting(questions)
    companions = [_kit(name) for name in args.companions]
    card = shoot_card(questions, kit, companions=companions, pins=_pins(args))
    if args.ics:
        _write_calendar(card, args.ics, Path(args.camera) if args.camera else None)
    return {**card.as_json(), "questions": questions.as_json(), "ics": str(args.ics) if args.ics else None}


def plan_lines(card: dict[str, Any]) -> list[str]:
    """The card as a person reads it."""
    lines = [f"{card['camera']}, {card['shot']}", card["light"]["sentence"]]
    lines += [f"! {problem}" for problem in card["problems"]]
    for answer in card["answers"]:
        lines += ["", f"{answer['label']}: {answer['value']}", f"  {answer['reason']}"]
        lines += [f"  Second: {answer['runner_up']}"] if answer["runner_up"] else []
        lines += [f"  ! {answer['warning']}"] if answer["warning"] else []
        lines += [f"  {sentence}" for sentence in answer.get("sensitivity", ())]
    stack = "  ".join(f"{s['label']} {s['value']} ({s['stops']:+.1f})" for s in card["stack"])
    lines += ["", f"Stops: {stack}"]
    lines += card["sun"]["sentences"] if card["sun"] else []
    lines += ["", "Before each take:", *(f"  {item}" for item in card["checklist"])]
    lines += ["", "Mind:", *(f"  {sentence}" for sentence in card["cautions"])]
    return lines + ([f"Calendar: {card['ics']}"] if card["ics"] else [])


def _questions(args: argparse.Namespace) -> Questions:
    answers = {q: getattr(args, q) for _, q, _ in ASKED if getattr(args, q) is not None}
    if args.light is not None:
        answers.update(_light(args.light))
    elif args.place or args.sun_deg or "sky" in answers:
        answers["light"] = SKY
    if args.day or args.place:
        answers["day"] = args.day or date.today().isoformat()
    if args.hour is not None:
        answers["hour"] = _hour(args.hour)
    return Questions.from_json(answers)


def _light(word: str) -> dict[str, Any]:
    try:
        return {"light": MEASURED, "measured_ev": float(word)}
    except ValueError:
        return {"light": word}


def _hour(word: str) -> float:
    hours, _, minutes = word.partition(":")
    try:
        return float(hours) + (int(minutes) / 60 if minutes else 0)
    except ValueError as error:
        raise PlanError(f"“{word[:20]}” is no time of day; write it as 10:30.") from error


def _kit(name: str) -> Kit:
    """A made-up camera by its name, or the person's own from a file."""
    if name.lower() in KITS:
        return KITS.get(name.lower())
    path = Path(name)
    if path.suffix.lower() != ".json":
        return KITS.get(name.lower())
    try:
        if path.stat().st_size > MAX_KIT_BYTES:
            raise PlanError(f"{path.name} is far too long for a camera; save one from the Library.")
        return Kit.from_json(json.loads(path.read_text(encoding="utf-8")))
    except OSError as error:
        raise PlanError(f"There is no readable camera at {path}; check the path.") from error
    except (ValueError, RecursionError) as error:
        if isinstance(error, PlanError):
            raise
        raise PlanError(f"{path.name} is not readable JSON; save a camera from the Library.") from error


def _suiting(questions: Questions) -> Kit:
    shot = SHOTS.get(questions.shot)
    depth = questions.depth_m or shot.depth_m
    wants = {"flight": "drone", "ride": "action"}.get(shot.key)
    kits = KITS.values()
    fits = [k for k in kits if k.depth_limit_m >= depth and (wants is None or k.kind == wants)]
    grounded = [k for k in fits if shot.key == "flight" or k.kind != "drone"]
    return (grounded or fits or kits)[-1]


def _number(word: str | None, option: str) -> float | None:
    if word is None:
        return None
    top, _, bottom = word.partition("/")
    try:
        value = float(top) / float(bottom) if bottom else float(top)
    except (ValueError, ZeroDivisionError) as error:
        raise PlanError(f"{option} wants a number, not “{word[:20]}”.") from error
    if not 0 <= value < 1e6 or (value == 0 and option != "--pin-nd"):
        raise PlanError(f"{option} wants a number above 0, not {word[:20]}.")
    return value


def _pins(args: argparse.Namespace) -> Pins:
    return Pins(
        nd_stops=_number(args.pin_nd, "--pin-nd"),
        aperture=_number(args.pin_aperture, "--pin-aperture"),
        iso=_number(args.pin_iso, "--pin-iso"),
        shutter_s=_number(args.pin_shutter, "--pin-shutter"),
    )


def _write_calendar(card: ShootCard, path: Path, source: Path | None) -> None:
    if card.sun is None:
        raise OutputError("A calendar of the sun needs a place; give --place and --day.")
    check_output(path, source)
    write_text(path, calendar_text(card.sun))

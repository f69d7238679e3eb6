"""The shoot card: one camera's settings with reasons, what they do to the scene, and what to mind."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from morphe.core.plan.answer import Answer
from morphe.core.plan.cautions import Caution, cautions_for
from morphe.core.plan.exposure import Pins
from morphe.core.plan.handling import handling_lines
from morphe.core.plan.kit import Kit, KitKind
from morphe.core.plan.latitude import Latitude, scene_span, usable
from morphe.core.plan.questions import Questions
from morphe.core.plan.reasons import aperture_words, exposure_lines, filter_words, profile_line
from morphe.core.plan.solution import Solution, solve_shoot
from morphe.core.plan.sun import SunDay, sun_day
from morphe.core.plan.wording import clock, minutes, shutter, stops

__all__ = ["Share", "ShootCard", "shoot_card"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Share:
    """One part of the exposure stack: how many stops it keeps out (negative: lets in)."""

    key: str
    label: str
    value: str
    stops: float

    def as_json(self) -> dict[str, Any]:
        return {"key": self.key, "label": self.label, "value": self.value, "stops": round(self.stops, 3)}


@dataclass(frozen=True, slots=True, kw_only=True)
class ShootCard:
    """Everything a person takes along for one camera."""

    plan: Solution
    answers: tuple[Answer, ...]
    problems: tuple[str, ...]
    stack: tuple[Share, ...]
    holds: Latitude  # what the profile keeps around the grey card, at these settings
    scene: Latitude  # what the scene has, around where its grey card lands
    sun: SunDay | None
    cautions: tuple[Caution, ...]
    checklist: tuple[str, ...]

    def answer(self, key: str) -> Answer:
        """The line of a key."""
        return next(a for a in self.answers if a.key == key)

    @property
    def clips_stops(self) -> float:
        """Stops of the scene beyond the profile's clip."""
        return max(0.0, self.scene.above - self.holds.above)

    @property
    def drowns_stops(self) -> float:
        """Stops of the scene below what codes and noise leave."""
        return max(0.0, self.scene.below - self.holds.below)

    def settings_json(self) -> dict[str, Any]:
        """The planned settings as numbers, to be set against what was filmed."""
        plan, settings = self.plan, self.plan.settings
        return {
            "profile": plan.best.profile.key,
            "shutter_s": settings.shutter_s,
            "iso": settings.iso,
            "nd_stops": settings.nd_stops,
            "aperture": settings.aperture,
            "kelvin": self.answer("white-balance").numbers["kelvin"],
            "fps": plan.fps,
            "bit_depth": plan.recording.bit_depth,
            "offset_stops": round(plan.offset_stops, 4),
            "lesson_stops": plan.questions.lesson_stops,
            "error_stops": round(settings.error_stops, 4),
        }

    def as_json(self) -> dict[str, Any]:
        """The card as plain values, as the command line prints it."""
        plan = self.plan
        return {
            "camera": plan.kit.name,
            "shot": plan.scene.shot.key,
            "light": {
                "ev": round(plan.scene.ev, 2),
                "sentence": plan.scene.light_sentence,
                "contrast_stops": plan.scene.contrast_stops,
                "sun_deg": None if plan.scene.sun_deg is None else round(plan.scene.sun_deg, 2),
            },
            "settings": self.settings_json(),
            "answers": [a.as_json() for a in self.answers],
            "problems": list(self.problems),
            "stack": [s.as_json() for s in self.stack],
            "latitude": {
                "holds_above": round(self.holds.above, 2), "holds_below": round(self.holds.below, 2),
                "scene_above": round(self.scene.above, 2), "scene_below": round(self.scene.below, 2),
                "clips_stops": round(self.clips_stops, 2), "drowns_stops": round(self.drowns_stops, 2),
            },
            "sun": _sun_json(self.sun),
            "cautions": [c.sentence for c in self.cautions],
            "checklist": list(self.checklist),
        }  # fmt: skip


def _sun_json(sun: SunDay | None) -> dict[str, Any] | None:
    if sun is None:
        return None
    return {
        "place": sun.place.name,
        "zone": sun.place.zone,
        "day": sun.day.isoformat(),
        "noon": sun.noon.isoformat(timespec="minutes"),
        "noon_deg": round(sun.noon_deg, 2),
        "windows": [
            {"key": w.key, "label": w.label, "start": w.start.isoformat(timespec="minutes"),
             "end": w.end.isoformat(timespec="minutes")}
            for w in sun.windows
        ],
        "sentences": list(sun.sentences),
    }  # fmt: skip


def shoot_card(
    questions: Questions, kit: Kit, *, companions: Sequence[Kit] = (), pins: Pins | None = None
) -> ShootCard:
    """Answer every question of a shoot for one camera.

    Parameters
    ----------
    questions : the person's answers; everything left out has a default.
    kit : the camera.
    companions : the other cameras of the day.
    pins : settings the person holds fast; the others are solved around them.
    """
    plan = solve_shoot(questions, kit, companions=companions, pins=pins)
    answers = (profile_line(plan), *exposure_lines(plan), *handling_lines(plan))
    scene = scene_span(plan.scene.contrast_stops)
    lands = plan.offset_stops + plan.settings.error_stops
    return ShootCard(
        plan=plan,
        answers=answers,
        problems=tuple(_problems(plan)),
        stack=tuple(_stack(plan)),
        holds=usable(plan.best.profile.key, plan.recording.bit_depth, plan.iso_stops),
        scene=Latitude(above=scene.above + lands, below=scene.below - lands),
        sun=_sun(plan),
        cautions=cautions_for(plan.scene.shot.key, kit.kind),
        checklist=tuple(_checklist(plan, answers)),
    )


def _sun(plan: Solution) -> SunDay | None:
    questions = plan.questions
    if questions.place is None or questions.day is None:
        return None
    water = plan.scene.water
    return sun_day(
        questions.place,
        questions.day,
        water=water.water if water else None,
        depth_m=water.depth_m if water else 0.0,
    )


def _problems(plan: Solution) -> list[str]:
    """What this camera is not made for; said first, since no setting mends it."""
    kit, water, said = plan.kit, plan.scene.water, []
    if plan.scene.shot.key == "flight" and kit.kind is not KitKind.DRONE:
        said.append(f"{kit.name} does not fly; choose a drone or another kind of shot.")
    if water and kit.depth_limit_m < water.depth_m:
        limit = f"is rated to {kit.depth_limit_m:g} m" if kit.depth_limit_m else "must be kept dry"
        said.append(
            f"{kit.name} {limit}; take a camera or a housing that its maker rates for {water.depth_m:g} m."
        )
    return said


def _stack(plan: Solution) -> list[Share]:
    """Scene light and what each part keeps out, down to where the grey card lands."""
    settings = plan.settings
    shares = [Share(key="scene", label="Scene light", value=f"EV {plan.scene.ev:.1f}", stops=plan.scene.ev)]
    if plan.glass_stops:
        glass = [
            plan.lens.name if plan.lens.cost_stops else "",
            plan.cover.name if plan.cover and plan.cover.cost_stops else "",
        ]
        if plan.water_filter and plan.water_filter.filter:
            glass.append(plan.water_filter.filter.name)
        shares.append(
            Share(key="glass", label="Glass", value=", ".join(filter(None, glass)), stops=plan.glass_stops)
        )
    shares += [
        Share(key="filter", label="Filter", value=filter_words(settings), stops=settings.nd_stops),
        Share(key="aperture", label="Aperture", value=aperture_words(settings.aperture),
              stops=2 * math.log2(settings.aperture)),
        Share(key="shutter", label="Shutter", value=shutter(settings.shutter_s),
              stops=-math.log2(settings.shutter_s)),
        Share(key="iso", label="ISO", value=f"{settings.iso:g}", stops=-math.log2(settings.iso / 100)),
    ]  # fmt: skip
    lands = plan.offset_stops + settings.error_stops
    word = (
        "on the meter" if abs(lands) < 0.1 else f"{stops(round(lands, 1))} {'over' if lands > 0 else 'under'}"
    )
    shares.append(Share(key="lands", label="Grey card", value=word, stops=lands))
    return shares


def _checklist(plan: Solution, answers: Sequence[Answer]) -> list[str]:
    """What to look at before each take, in the order in which a camera is picked up."""
    settings = plan.settings
    white = next(a for a in answers if a.key == "white-balance").value
    filters = [settings.nd.name] if settings.nd else []
    if plan.water_filter and plan.water_filter.filter:
        filters.append(plan.water_filter.filter.name)
    found = [
        f"{plan.kit.name}: {plan.best.profile.label}, {plan.fps:g} fps, {plan.recording.bit_depth}-bit",
        f"{' and '.join(filters)} on, glass clean" if filters else "No filter on, glass clean",
        f"Shutter {shutter(settings.shutter_s)}, ISO {settings.iso:g}, both locked",
        f"White balance {white}",
        f"Battery and card: about {minutes(plan.room.fits_minutes)} fit",
        "Something white or grey in the first seconds",
        "Slate number said or shown",
    ]
    if plan.scene.is_mains:
        found.insert(4, "Ten seconds under these lamps: look for bands")
    if plan.questions.hour and plan.questions.place and plan.questions.day and not plan.scene.is_mains:
        found.insert(4, f"Light as planned for {clock(plan.questions.hour)}? Else measure again")
    return found

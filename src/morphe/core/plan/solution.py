"""The plan for one camera as numbers: scene, profile, recording, target and settings solved together."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from morphe.core.plan.exposure import Pins, Range, Settings, range_of, solve
from morphe.core.plan.kit import Cover, Kit, LensMode, Recording, School
from morphe.core.plan.light import ev100
from morphe.core.plan.profile_choice import Circumstances, Verdict, choose, kinds_of, matching_rate
from morphe.core.plan.questions import Questions
from morphe.core.plan.scene import Scene, scene_of
from morphe.core.plan.shutter import AngleChoice, choose_angle, time_of
from morphe.core.plan.steady import Ranked, rank
from morphe.core.plan.storage import Room, room
from morphe.core.plan.target import Target, aim
from morphe.core.plan.under_water import WaterFilter, choose_filter
from morphe.core.signal.profiles import HDR

__all__ = ["Solution", "solve_shoot"]

NARROW_DEG = 60.0  # wider than this, faces near the edge are stretched


@dataclass(frozen=True, slots=True, kw_only=True)
class Solution:
    """Everything decided for one camera and one scene."""

    kit: Kit
    questions: Questions
    scene: Scene
    verdicts: tuple[Verdict, ...]  # profiles, best first
    about: Circumstances
    project_fps: float
    lens: LensMode
    cover: Cover | None
    water_filter: WaterFilter | None
    glass_stops: float  # light that lens mode, cover and colour filter take
    steadying: tuple[Ranked, ...]
    angle: AngleChoice
    surplus_stops: float  # light beyond what the wanted shutter takes at base ISO
    target: Target
    ability: Range
    pins: Pins
    settings: Settings
    room: Room

    @property
    def best(self) -> Verdict:
        return self.verdicts[0]

    @property
    def recording(self) -> Recording:
        return self.best.recording

    @property
    def fps(self) -> float:
        return self.recording.fps

    @property
    def wanted_shutter_s(self) -> float:
        return time_of(self.angle.angle_deg, self.fps)

    @property
    def offset_stops(self) -> float:
        """How much brighter than the meter the scene is exposed on purpose."""
        return self.target.offset_stops + self.questions.lesson_stops

    @property
    def needed_ev(self) -> float:
        return self.scene.ev - self.glass_stops - self.offset_stops

    @property
    def flicker_hz(self) -> float | None:
        return self.questions.mains_hz if self.scene.is_mains else None

    @property
    def iso_stops(self) -> float:
        return math.log2(self.settings.iso / self.kit.iso_base)

    def aim(self, school: School) -> Target:
        """The target that a school would give."""
        return aim(
            school,
            self.best.profile,
            kind=self.kit.kind,
            bit_depth=self.recording.bit_depth,
            contrast_stops=self.scene.contrast_stops,
            scene_ev=self.scene.ev,
            surplus_stops=self.surplus_stops,
        )

    def resolve(self, *, shutter_s: float | None = None, pins: Pins | None = None) -> Settings:
        """Solve the same scene again with another shutter or with something held fast."""
        return solve(
            self.ability,
            needed_ev=self.needed_ev,
            shutter_s=shutter_s or self.wanted_shutter_s,
            pins=pins or Pins(),
        )


def solve_shoot(
    questions: Questions, kit: Kit, *, companions: Sequence[Kit] = (), pins: Pins | None = None
) -> Solution:
    """Plan one camera for one scene.

    Parameters
    ----------
    questions : the person's answers.
    kit : the camera; nothing it cannot do is proposed.
    companions : the other cameras of the day, for a profile they share.
    pins : settings the person holds fast.
    """
    scene = scene_of(questions, kit)
    project_fps = 30.0 if questions.mains_hz == 60 else 25.0
    fps = matching_rate(kit.recordings, project_fps * questions.slow)[0].fps
    lens, cover = _lens(kit, scene), _cover(kit, scene)
    water_filter = choose_filter(kit, scene.water) if scene.water else None
    glass = lens.cost_stops + (cover.cost_stops if cover else 0)
    glass += water_filter.filter.stops if water_filter and water_filter.filter else 0
    ability = range_of(kit, fps=fps, flicker_hz=questions.mains_hz if scene.is_mains else None)
    start = _start_aperture(ability)
    surplus = scene.ev - glass - ev100(start, time_of(180, fps), kit.iso_base)
    about = _circumstances(questions, kit, scene, companions, fps=fps, surplus=surplus)
    verdicts = tuple(choose(kit, about))
    steadying = tuple(rank(kit, scene, grading_hours=questions.grading_hours))
    angle = choose_angle(
        steadying[0].way,
        is_dim=scene.is_dim,
        is_fast=scene.motion.widths_per_s >= 0.9,
        surplus_stops=surplus,
    )
    best, left = verdicts[0], surplus - math.log2(180 / angle.angle_deg)
    target = aim(
        questions.school or kit.school,
        best.profile,
        kind=kit.kind,
        bit_depth=best.recording.bit_depth,
        contrast_stops=scene.contrast_stops,
        scene_ev=scene.ev,
        surplus_stops=left,
    )
    settings = solve(
        ability,
        needed_ev=scene.ev - glass - target.offset_stops - questions.lesson_stops,
        shutter_s=time_of(angle.angle_deg, fps),
        pins=pins,
    )
    return Solution(
        kit=kit, questions=questions, scene=scene, verdicts=verdicts, about=about, project_fps=project_fps,
        lens=lens, cover=cover, water_filter=water_filter, glass_stops=glass, steadying=steadying,
        angle=angle, surplus_stops=left, target=target, ability=ability, pins=pins or Pins(),
        settings=settings, room=_room(best.recording, questions, kit),
    )  # fmt: skip


def _start_aperture(ability: Range) -> float:
    wanted = ability.apertures[0] * math.sqrt(2)
    return min(ability.apertures, key=lambda n: abs(math.log2(n / wanted)))


def _lens(kit: Kit, scene: Scene) -> LensMode:
    """Wide to show the way, narrow for a face; in dim light the one that passes most light."""
    modes = kit.lens_modes
    if scene.is_dim and scene.shot.lens == "wide":
        return min(modes, key=lambda m: (m.cost_stops, -m.width_deg))
    if scene.shot.lens == "narrow":
        return min(modes, key=lambda m: abs(math.log2(m.width_deg / NARROW_DEG)))
    return max(modes, key=lambda m: m.width_deg)


def _cover(kit: Kit, scene: Scene) -> Cover | None:
    """The first glass is the usual one; in dim light the clearest."""
    if not kit.covers:
        return None
    return min(kit.covers, key=lambda c: c.cost_stops) if scene.is_dim else kit.covers[0]


def _room(recording: Recording, questions: Questions, kit: Kit) -> Room:
    card = max(kit.cards, key=lambda c: c.gb) if kit.cards else None
    return room(recording, card, wanted_minutes=questions.minutes, left_gb=questions.storage_left_gb)


def _circumstances(
    questions: Questions, kit: Kit, scene: Scene, companions: Sequence[Kit], *, fps: float, surplus: float
) -> Circumstances:
    ceiling = math.log2(kit.iso_ceiling / kit.iso_base)
    opened = 0.0 if kit.has_fixed_aperture else 1.0
    some = kit.recordings[0]
    day = [kit, *companions]
    shared = frozenset.intersection(*(frozenset(k.profiles) for k in day)) if companions else frozenset()
    return Circumstances(
        contrast_stops=scene.contrast_stops,
        iso_stops=min(max(0.0, -surplus - opened), ceiling),
        grading_hours=questions.grading_hours,
        delivery=questions.delivery,
        device=questions.device,
        skin=scene.skin,
        is_under_water=scene.water is not None,
        fps=fps,
        wanted_minutes=questions.minutes,
        usable_gb=_room(some, questions, kit).usable_gb,
        shared=shared,
        all_hdr=all(kinds_of(k.profiles).intersection(HDR) for k in day),
    )

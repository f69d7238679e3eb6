"""Which way of steadying the picture suits the shot, ranked."""

from __future__ import annotations

from dataclasses import dataclass

from morphe.core.plan.kit import Kit, Steadying
from morphe.core.plan.scene import Scene

__all__ = ["Ranked", "rank"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Ranked:
    """One way of steadying with its points and reason."""

    way: Steadying
    points: float
    reason: str


def rank(kit: Kit, scene: Scene, *, grading_hours: float) -> list[Ranked]:
    """Rank what the camera has for this shot, best first; steady hands are always among them."""
    ways = dict.fromkeys((*kit.steadying, Steadying.GRIP))
    judged = [_judge(way, scene, grading_hours) for way in ways]
    return sorted((r for r in judged if r is not None), key=lambda r: -r.points)


def _judge(way: Steadying, scene: Scene, grading_hours: float) -> Ranked | None:
    under_water = scene.shot.is_under_water
    if way is Steadying.TRIPOD:
        if scene.shot.moves:
            return None
        return Ranked(way=way, points=5, reason="Nothing moves but the subject.")
    if way is Steadying.GIMBAL:
        if under_water:
            return None
        return Ranked(
            way=way,
            points=4.5,
            reason="Steadies before the picture is taken, so dim light and natural blur are no trouble.",
        )
    if way is Steadying.MOTION_DATA:
        points = 3.5 if grading_hours >= 0.5 else 1.4
        return Ranked(
            way=way,
            points=points,
            reason="Steady it later, before grading: rendering drops the recorded motion data.",
        )
    if way is Steadying.IN_CAMERA:
        if under_water:
            return Ranked(
                way=way, points=0.5, reason="Works poorly under water, where floating specks mislead it."
            )
        if scene.is_dim:
            return Ranked(
                way=way,
                points=2,
                reason="In dim light it smears unless the shutter is faster, which costs ISO.",
            )
        return Ranked(way=way, points=3.8, reason="Works well in bright light and needs nothing afterwards.")
    points = 2.5 if under_water else 1.5
    return Ranked(way=way, points=points, reason="Two hands on a grip or tray, elbows in, slow moves.")

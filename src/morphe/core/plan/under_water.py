"""Filter or lamp, and how much red the file can still give back."""

from __future__ import annotations

from dataclasses import dataclass

from morphe.core.plan.kit import Filter, FilterKind, Kit
from morphe.core.plan.wording import stops
from morphe.core.water.daylight import DepthLight

__all__ = ["RECOVERABLE_STOPS", "WaterFilter", "choose_filter", "red_verdict"]

RECOVERABLE_STOPS = {8: 3.0, 10: 5.0}  # red behind green that a file of this depth can be given back
SHALLOW_M, FROM_M, NEAR_M, DEEP_M = 2.0, 5.0, 3.0, 18.0


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterFilter:
    """The colour filter to put on, or None, with the reason and what comes second."""

    filter: Filter | None
    reason: str
    runner_up: str


def choose_filter(kit: Kit, light: DepthLight) -> WaterFilter:
    """Choose a colour filter for natural light under water."""
    kind = FilterKind.MAGENTA if light.water.is_green else FilterKind.RED
    owned = kit.filter_of(kind)
    name = f"{kind} filter"
    if light.has_lamp:
        return WaterFilter(
            filter=None,
            reason=f"A lamp brings its own red; a {name} would turn the subject {kind}.",
            runner_up=f"Lamp off and a {name} for wide views with no near subject.",
        )
    if light.depth_m < NEAR_M:
        return WaterFilter(
            filter=None,
            reason=f"So near the surface there is red enough; a {name} would leave a {kind} cast.",
            runner_up=f"A {name} from about {FROM_M:g} m.",
        )
    if light.depth_m > DEEP_M:
        return WaterFilter(
            filter=None,
            reason="There is no red left for a filter to balance, and it would cost light.",
            runner_up="A lamp, close to the subject.",
        )
    if light.depth_m < FROM_M:
        return WaterFilter(
            filter=None,
            reason=f"From {NEAR_M:g} to {FROM_M:g} m a {name} may help or leave a cast; without it more "
            "light is left.",
            runner_up=f"{owned.name}, if the clips stay below {NEAR_M:g} m." if owned else f"A {name}.",
        )
    if owned is None:
        return WaterFilter(
            filter=None,
            reason=f"A {name} would help here, and you own none.",
            runner_up="Go closer and bring a lamp; correct the rest later.",
        )
    return WaterFilter(
        filter=owned,
        reason=f"It levels the channels before the file is written, for {stops(owned.stops)} of light.",
        runner_up="A lamp for subjects within two metres, then without the filter.",
    )


def red_verdict(light: DepthLight, bit_depth: int) -> str:
    """Say whether red can be brought back from a file of this bit depth."""
    behind, limit = light.red_behind_stops, RECOVERABLE_STOPS[min(bit_depth, 10)]
    if behind <= 0.5:
        return "Red keeps up with green."
    if behind <= 0.8 * limit:
        word = "it can be brought back"
    elif behind <= 1.2 * limit:
        word = "it comes back in part, with noise"
    else:
        word = "it cannot be brought back"
    return f"Red is {stops(behind)} behind green; {bit_depth}-bit gives back about {limit:g}: {word}."

"""What a rung is: a rule with its reading and instrument, and what it says of a clip."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from enum import StrEnum

from morphe.core.advise.profile.verdict import ProfileVerdict
from morphe.core.advise.seen import Seen
from morphe.core.advise.water.verdict import WaterVerdict
from morphe.core.grade.edges import Edges
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import CLIP, Layer
from morphe.core.grade.step import Step
from morphe.core.measure.drift import Drift
from morphe.core.measure.zone import Reading, Zone

__all__ = ["Advice", "Case", "Instrument", "Noise", "Rule", "Rung", "State", "content", "proposal", "taste"]


class State(StrEnum):
    """What a rung has to say."""

    GOOD = "good"  # inside its zone: nothing to do
    PROPOSED = "proposed"  # outside its zone, and this is what would mend it
    OFFERED = "offered"  # could be taken, a matter of taste
    OPEN = "open"  # outside its zone, and Morphe cannot tell what would mend it: the person looks


@dataclass(frozen=True, slots=True, kw_only=True)
class Rung:
    """One step's reading, wanted zone, verdict and proposal."""

    step: Step
    state: State
    reading: float | str | None
    wanted: tuple[float, float] | str | None
    value: float | str | None
    unit: str
    measured: str  # the sentence about the picture
    reason: str  # why this is proposed, or why nothing is
    action: str = ""  # the proposal as a button says it

    @property
    def key(self) -> str:
        return self.step.key

    @property
    def applied(self) -> bool:
        """Whether "accept all" takes it."""
        return self.state is State.PROPOSED

    def as_json(self) -> dict[str, object]:
        return {
            "step": self.key,
            "reading": round(self.reading, 3) if isinstance(self.reading, float) else self.reading,
            "wanted": list(self.wanted) if isinstance(self.wanted, tuple) else self.wanted,
            "value": round(self.value, 3) if isinstance(self.value, float) else self.value,
            "unit": self.unit,
            "reason": self.reason,
            "applied": self.applied,
        }


@dataclass(frozen=True, slots=True, kw_only=True)
class Noise:
    """Noise of a clip's luma: its deviation in codes of 8 bits, in pictures of `height` rows."""

    codes: float
    height: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Case:
    """What a rule goes by: the clip through the work so far, its profile, and its light over time."""

    seen: Seen
    grade: Grade
    verdict: ProfileVerdict
    drift: Drift | None = None
    ceiling: float = 1.0  # the brightest light that the camera keeps
    lamps: float = 1.0  # share of the warmth of lamps that is to be taken out
    water: WaterVerdict | None = None  # once the clip has been seen through its conversion
    noise: Noise | None = None
    follows_depth: bool = False  # what takes the water back moves with a depth that changes

    @property
    def is_wet(self) -> bool:
        """Whether light and balance are set by what gives back what the water took."""
        return self.water is not None and self.water.is_taken


@dataclass(frozen=True, slots=True, kw_only=True)
class Instrument:
    """The scope that decides a rung, magnified to the part that matters, and how dragging moves the number.

    `window` is (low, high) in percent for levels, or (0, half-width of the plane) for the vectorscope; `mark`
    is the one of the reading's marks that is dragged. `levels` is the grey (0..1) whose movement the number
    names, `per_percent` overrides it where a change of level says nothing.
    """

    scope: str  # luma, histogram, vector or skin
    window: tuple[float, float]
    hint: str
    drags: str = ""
    mark: int = 0
    level: float = 0.5
    probe: float = 0.0  # a change of the number by which the movement of the level is measured
    per_percent: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Rule:
    """One rung of the ladder: the step it sets, how it reads a picture, how it judges one."""

    step: type[Step]
    instrument: Instrument
    judge: Callable[[Case], Rung]
    read: Callable[[Seen], Reading] | None = None
    layer: str = "clip"  # id of the layer that the rung works on; "source" for what belongs to the file

    @property
    def key(self) -> str:
        return self.step.key


def content(
    rule_step: Step, reading: Reading, measured: str, reason: str, *, unit: str, state: State = State.GOOD
) -> Rung:
    """A rung that proposes nothing."""
    return Rung(
        step=rule_step, state=state, reading=reading.value, wanted=_ends(reading.zone),
        value=0.0, unit=unit, measured=measured, reason=reason,
    )  # fmt: skip


def proposal(
    step: Step, reading: Reading, measured: str, reason: str, *, value: float, unit: str, action: str,
    state: State = State.PROPOSED,
) -> Rung:  # fmt: skip
    """A rung that proposes, or offers, a step."""
    return Rung(
        step=step, state=state, reading=reading.value, wanted=_ends(reading.zone),
        value=value, unit=unit, measured=measured, reason=reason,
        action=action,
    )  # fmt: skip


def taste(
    step: type[Step], zone: Zone, *, measured: str, reason: str, hint: str, layer: str = "finish"
) -> Rule:
    """The rule of an effect that nothing measured calls for: it is there for who likes it."""
    nothing = Reading(value=None, zone=zone)
    return Rule(
        step=step,
        instrument=Instrument(scope="luma", window=(-7, 109), hint=hint),
        judge=lambda case: content(step(), nothing, measured, reason, unit=zone.unit),
        layer=layer,
    )


def _ends(zone: Zone) -> tuple[float, float]:
    return zone.low, zone.high


@dataclass(frozen=True, slots=True, kw_only=True)
class Advice:
    """All rungs of a clip with the profile they rest on."""

    profile: ProfileVerdict
    rungs: tuple[Rung, ...]
    lost: tuple[str, ...] = field(default=())
    drift: Drift | None = None
    shared: tuple[Layer, ...] = ()  # of outing and light, through which was judged
    water: WaterVerdict | None = None
    edges: Edges = field(default_factory=Edges)  # bars of the file, which stay

    @property
    def grade(self) -> Grade:
        """The grade that "accept all" gives."""
        grade = Grade(layers=(*self.shared, Layer(id=CLIP)))
        for rung in self.rungs:
            grade = grade.with_step(rung.step) if rung.applied else grade
        return grade.with_step(self.edges)

    def rung(self, key: str) -> Rung:
        return next(r for r in self.rungs if r.key == key)

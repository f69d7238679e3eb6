"""A take checked on the spot: what is right with it, and what to change if it is filmed again."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

import numpy as np

from morphe.core.advise.evidence import evidence_of_pictures
from morphe.core.advise.findings import light_as_filmed
from morphe.core.advise.judge import judge
from morphe.core.advise.profile.verdict import guess_profile
from morphe.core.advise.rung import Advice, Noise
from morphe.core.footage.series import Samples
from morphe.core.footage.stretch import Stretch
from morphe.core.measure.drift import drift_through, flicker_of, follow
from morphe.core.measure.focus import edge_width_of
from morphe.core.measure.readings import luma_of
from morphe.core.measure.shake import shake_of
from morphe.core.plan.slate import Check, Recorded, check_against_plan
from morphe.core.plan.take_seen import TakeSeen
from morphe.core.plan.wording import kelvin, stops
from morphe.core.signal.arrays import Encoded, highest, lowest
from morphe.core.signal.profiles import PROFILES

__all__ = ["Finding", "State", "TakeCheck", "check_take"]

# From where a thing is worth minding, and from where it is worth filming again.
STOPS = (0.4, 1.0)
LOST_PCT = (0.5, 3.0)  # of the picture, white or black without detail
MIRED = (30.0, 70.0)
EDGE_PX = (3.6, 4.8)  # of the sharpest edges, in a picture 1280 wide
SHAKE_PCT = (0.3, 0.8)  # of the picture's width
NOISE_CODES = (2.5, 5.0)  # of 8 bits
FLICKER_STOPS = (0.02, 0.08)
WANDER_STOPS = (0.3, 0.8)
SURE = 0.75  # confidence from which the picture's profile counts as known
GAMMA = 2.4  # of a display: light from codes, well enough for what flickers
CLIPPED, CRUSHED = 0.985, 0.003


class State(StrEnum):
    """How one thing of a take stands."""

    GOOD = "good"
    MIND = "mind"  # can be mended later, at a cost
    AGAIN = "again"  # worth filming again
    UNKNOWN = "unknown"


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """One thing looked at: what was measured in a sentence, and what to change."""

    key: str
    label: str
    state: State
    sentence: str
    change: str = ""


SAFE = "Only if it is still safe: set it once you have landed, stopped or come ashore."


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeCheck:
    """All findings of a take, in the order in which a person looks."""

    findings: tuple[Finding, ...]

    @property
    def keep(self) -> bool:
        return all(f.state is not State.AGAIN for f in self.findings)

    @property
    def verdict(self) -> str:
        """Keep, or film again and change this."""
        changes = [f.change for f in self.findings if f.state is State.AGAIN and f.change]
        if not self.keep:
            return "Film again: " + "; ".join(changes) + f". {SAFE}"
        minded = [f.label.lower() for f in self.findings if f.state is State.MIND]
        return f"Keep. Mind {_listed(minded)}." if minded else "Keep."

    def as_json(self) -> dict[str, Any]:
        rows = [
            {
                "key": f.key,
                "label": f.label,
                "state": str(f.state),
                "sentence": f.sentence,
                "change": f.change,
            }
            for f in self.findings
        ]
        return {"keep": self.keep, "verdict": self.verdict, "findings": rows}


def check_take(
    seen: TakeSeen, *, planned: Mapping[str, Any] | None = None, note: Recorded | None = None,
    mains_hz: float = 50.0,
) -> TakeCheck:  # fmt: skip
    """Judge a take, against its shoot card's settings (`ShootCard.settings_json`) if there is one."""
    evidence = evidence_of_pictures(seen.info, seen.pictures, seen.times_s, faces=seen.faces)
    guess = guess_profile(evidence)
    known = seen.is_still or (planned is not None and guess.confidence < SURE)
    as_filmed = "std-709" if seen.is_still else planned["profile"] if known and planned else "auto"
    advice = judge(
        evidence, profile=as_filmed, noise=Noise(codes=seen.noise_codes, height=seen.info.upright_size[1])
    )
    light = light_as_filmed(evidence, advice)
    as_planned = planned is not None and (known or guess.kind == PROFILES.get(planned["profile"]).kind)
    offset = float(planned["offset_stops"]) if planned and as_planned else 0.0
    findings = [
        _exposure(advice, offset),
        _clipping(seen.pictures),
        _balance(light.warmth, advice.water is not None, planned or {}),
        _focus(seen.pictures),
        _noise(seen.noise_codes),
    ]
    if seen.stretch is not None:
        findings[4:4] = [_shake(seen.stretch)]
        findings += [_flicker(seen.stretch, mains_hz), _held(seen.stretch, advice)]
        if planned:
            findings += _as_planned(seen, planned, note, str(guess.kind), guess.confidence >= SURE)
    return TakeCheck(findings=tuple(findings))


def _state(size: float, limits: tuple[float, float]) -> State:
    mind, again = limits
    return State.AGAIN if size > again else State.MIND if size > mind else State.GOOD


def _listed(words: Sequence[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


def _found(label: str, state: State, sentence: str, change: str, *, good: str) -> Finding:
    """A finding with a sentence for when all is well, and another with what to change for when it is not."""
    is_good = state is State.GOOD
    return Finding(
        key=label.lower().replace(" ", "-"), label=label, state=state, sentence=good if is_good else sentence,
        change="" if is_good else change,
    )  # fmt: skip


def _exposure(advice: Advice, offset: float) -> Finding:
    """How far the picture is over what was planned: stops that a curve is exposed by on purpose are none."""
    needed = advice.profile.stops if advice.profile.stops is not None else advice.rung("exposure").value
    over = -float(needed or 0.0) - offset
    way, mend, far = ("bright", "darker", stops(over)) if over > 0 else ("dark", "brighter", stops(over))
    sentence = f"{far[:1].upper()}{far[1:]} too {way}."
    return _found(
        "Exposure", _state(abs(over), STOPS), sentence, f"expose {far} {mend}", good="Exposure is right."
    )


def _clipping(pictures: Sequence[Encoded]) -> Finding:
    pixels = np.concatenate([p.reshape(-1, 3) for p in pictures])
    white = 100 * float((lowest(pixels) >= CLIPPED).mean())
    black = 100 * float((highest(pixels) <= CRUSHED).mean())
    ends = ((white, "white"), (black, "black"))
    lost = [f"{share:.1f} % {end}" for share, end in ends if share > LOST_PCT[0]]
    hold = "hold the lights: expose darker, or turn away from them"
    change = hold if white >= black else "give the shadows light"
    return _found(
        "Clipping", _state(max(white, black), LOST_PCT),
        f"{_listed(lost)} without detail." if lost else "", change, good="Nothing that matters is clipped.",
    )  # fmt: skip


def _balance(warmth: float, is_wet: bool, planned: Mapping[str, Any]) -> Finding:
    if is_wet:
        return _found("Balance", State.GOOD, "", "", good="Under water: colour is brought back on the Bench.")
    way, mend = ("warm", "cooler") if warmth > 0 else ("cool", "warmer")
    change = f"set the white balance {mend}"
    if planned.get("kelvin"):
        change += f", to about {kelvin(round(1e6 / (1e6 / planned['kelvin'] + warmth), -2))}"
    sentence = f"{abs(warmth):.0f} mired too {way}."
    return _found("Balance", _state(abs(warmth), MIRED), sentence, change, good="White is white.")


def _focus(pictures: Sequence[Encoded]) -> Finding:
    widths = [w for w in (edge_width_of(luma_of(p)) for p in pictures) if w is not None]
    if not widths:
        return _found("Focus", State.UNKNOWN, "There are no edges here to tell focus by.", "", good="")
    width = float(np.median(widths))
    return _found(
        "Focus", _state(width, EDGE_PX), f"Even the sharpest edges are {width:.0f} pixels wide.",
        "focus by hand on the subject, clean the lens, or shorten the shutter",
        good="Sharp where it is sharpest.",
    )  # fmt: skip


def _shake(stretch: Stretch) -> Finding:
    shake = shake_of(stretch.pictures, stretch.times_s)
    sentence = f"It trembles by {shake:.1f} % of the picture's width."
    change = "brace the camera, switch its steadying on, or use a stand"
    return _found("Shake", _state(shake, SHAKE_PCT), sentence, change, good="Held steady.")


def _noise(codes: float) -> Finding:
    return _found(
        "Noise", _state(codes, NOISE_CODES), f"Noise of {codes:.1f} codes of 8 bits.",
        "lower ISO: give it more light, a longer shutter or a weaker filter", good="Little noise.",
    )  # fmt: skip


def _flicker(stretch: Stretch, mains_hz: float) -> Finding:
    light = [float((np.maximum(luma_of(p), 0) ** GAMMA).mean()) for p in stretch.pictures]
    amount, hertz = flicker_of(list(stretch.times_s), light)
    sentence = f"It flickers by {amount:.2f} stops, {hertz:.1f} times a second."
    change = f"set the shutter to 1/{mains_hz:.0f} or 1/{2 * mains_hz:.0f} s"
    return _found("Flicker", _state(amount, FLICKER_STOPS), sentence, change, good="No flicker.")


def _held(stretch: Stretch, advice: Advice) -> Finding:
    """Whether exposure stood still; automatics that move are seen in three seconds."""
    every = slice(None, None, max(len(stretch.times_s) // 18, 1))
    samples = Samples(
        times_s=stretch.times_s[every], pictures=stretch.pictures[every], frame_times_s=stretch.times_s,
        frame_luma=np.array([luma_of(p).mean() for p in stretch.pictures]),
    )  # fmt: skip
    moved = drift_through(follow(samples), advice.profile.convert.apply, np.inf).range_stops
    length = float(np.ptp(stretch.times_s))
    sentence = f"Exposure moved by {moved:.1f} stops in {length:.0f} s."
    change = "lock exposure and white balance"
    return _found("Automatics", _state(moved, WANDER_STOPS), sentence, change, good="Exposure stood still.")


def _without_label(check: Check) -> str:
    """A check's sentence without the label that stands beside it."""
    said = check.sentence.removeprefix(f"{check.label}: ")
    return said[:1].upper() + said[1:]


def _as_planned(
    seen: TakeSeen, planned: Mapping[str, Any], note: Recorded | None, kind: str, is_sure: bool
) -> list[Finding]:
    """What the file shows of the plan; what only a slate could tell is said where one did."""
    info = seen.info
    file = {"fps": float(info.fps), "bit_depth": info.bit_depth, "width": info.width, "height": info.height,
            "kind": kind, "kind_is_sure": is_sure}  # fmt: skip
    checks = check_against_plan(planned, slate=note, tags=Recorded(), file=file)
    profile = PROFILES.get(planned["profile"])
    changes = {"Profile": f"set the profile to {profile.label}", "Frame rate": f"set {planned['fps']:g} fps"}
    told = [c for c in checks if c.agrees is not None]
    off = [c for c in told if not c.agrees]
    if not off:
        said = f"As planned: {_listed([c.label.lower() for c in told])}."
        return [_found("Plan", State.GOOD, "", "", good=said)]
    return [
        _found(
            c.label, State.AGAIN if c.label == "Profile" else State.MIND, _without_label(c),
            changes.get(c.label, f"set {c.label.lower()} to {c.planned}"), good="",
        )
        for c in off
    ]  # fmt: skip

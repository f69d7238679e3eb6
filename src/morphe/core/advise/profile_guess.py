"""Which profile a clip was filmed in: from its tags where they say it, else from its picture."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from morphe.core.advise.evidence import Evidence
from morphe.core.advise.explain import Explained, explain
from morphe.core.advise.filmed_as import FilmedAs, Hints, filmed_as_curve
from morphe.core.errors import UnknownName
from morphe.core.grade.steps import Convert
from morphe.core.measure.readings import oklab_of
from morphe.core.signal.primaries import Primaries
from morphe.core.signal.profiles import PROFILES, Kind

__all__ = ["ProfileVerdict", "guess_profile"]

SURE, DOUBTED = 0.98, 0.55
GLARE = {"hlg": 0.87, "pq": 0.66}  # about a stop and a quarter above reference white (75 and 58 %)
GLARING_SHARE = 0.15
MUTED = 0.03


@dataclass(frozen=True, slots=True, kw_only=True)
class ProfileVerdict:
    """The profile taken, how sure, and why; `stops` is the exposure that goes with it, if it was judged."""

    name: str
    label: str
    kind: Kind
    confidence: float
    evidence: tuple[str, ...]
    convert: Convert
    stops: float | None = None

    def as_json(self) -> dict[str, object]:
        return {
            "name": self.name,
            "kind": str(self.kind),
            "confidence": round(self.confidence, 3),
            "evidence": list(self.evidence),
        }


def guess_profile(
    evidence: Evidence, *, chosen: str | FilmedAs = "auto", hints: Hints | None = None
) -> ProfileVerdict:
    """Decide the profile of a clip; `chosen` is the person's word, a profile key or "auto".

    Raises
    ------
    UnknownName
        If `chosen` is no known profile.
    """
    if isinstance(chosen, FilmedAs):
        return _said(chosen, evidence)
    if chosen not in ("auto", ""):
        if chosen not in PROFILES:
            raise UnknownName(f"There is no profile {chosen!r}; known are: auto, {', '.join(PROFILES)}.")
        return _said(filmed_as_curve(chosen), evidence)
    tagged = {"hlg": "hlg", "pq": "pq"}.get(evidence.info.transfer)
    return _tagged(tagged, evidence) if tagged else _from_picture(evidence, hints)


def _tagged(key: str, evidence: Evidence) -> ProfileVerdict:
    """HDR by its tag; doubted where much of the picture would be far brighter than reference white."""
    profile = PROFILES.get(key)
    glaring = float((evidence.pixels.max(axis=1) > GLARE[key]).mean())
    said = [f"the file is tagged {key.upper()}"]
    if glaring > GLARING_SHARE:
        said.append(
            f"but {glaring:.0%} of the picture would be far brighter than white: it may be tagged wrongly"
        )
    return ProfileVerdict(
        name=key,
        label=profile.label,
        kind=profile.kind,
        confidence=SURE if glaring <= GLARING_SHARE else DOUBTED,
        evidence=tuple(said),
        convert=Convert(profile=key),
    )


def _said(chosen: FilmedAs, evidence: Evidence) -> ProfileVerdict:
    stops = None
    if chosen.profile and chosen.kind in (Kind.STANDARD, Kind.FLAT, Kind.LOG):
        stops = explain(evidence.pixels, filmed_as=chosen).best.stops
    convert = _neutral_if_standard("std-709", evidence) if chosen.key == "std-709" else chosen.convert
    return ProfileVerdict(
        name=chosen.key,
        label=chosen.label,
        kind=chosen.kind,
        confidence=1.0,
        evidence=("you said so",),
        convert=convert,
        stops=stops,
    )


def _neutral_if_standard(name: str, evidence: Evidence) -> Convert:
    """Ordinary video needs no conversion, unless its primaries are wider than BT.709."""
    primaries = evidence.info.effective_primaries
    if name == "std-709" and primaries in (Primaries.BT2020, Primaries.P3_D65):
        return Convert(profile=name, primaries=str(primaries))
    return Convert(profile=name)


def _from_picture(evidence: Evidence, hints: Hints | None) -> ProfileVerdict:
    found = explain(evidence.pixels, hints=hints)
    best = found.best
    name = best.convert.profile
    said = list(_sentences(evidence, found))
    said += [sentence for key, sentence in (hints.named if hints else ()) if key == name]
    if hints and hints.camera and name in hints.has:
        said.append(f"{hints.camera} has this profile")
    return ProfileVerdict(
        name=name,
        label="the fitted curve" if name == "fitted" else PROFILES.get(name).label,
        kind=best.kind,
        confidence=found.kinds[best.kind],
        evidence=tuple(said),
        convert=_neutral_if_standard(name, evidence) if name == "std-709" else best.convert,
        stops=best.stops,
    )


def _sentences(evidence: Evidence, found: Explained) -> tuple[str, ...]:
    best = found.best
    pixels = evidence.pixels
    dark = float(np.percentile(pixels.min(axis=1), 0.2) * 100)
    bright = float(np.percentile(pixels.max(axis=1), 99.7) * 100)
    lab = oklab_of(pixels)
    chroma = float(np.median(np.hypot(lab[:, 1], lab[:, 2])))
    ends = f"almost no pixel below {dark:.0f} %, almost none above {bright:.0f} %"
    colour = "muted colours" if chroma < MUTED else "full colours"
    looks = {
        Kind.STANDARD: "looks like ordinary video",
        Kind.FLAT: "looks like a flat profile",
        Kind.LOG: "looks like log",
    }[best.kind]
    said = [f"{ends}, {colour}: {looks}"]
    rivals = sorted(((p, k) for k, p in found.kinds.items() if k is not best.kind), reverse=True)
    if rivals[0][0] > 0.2:
        said.append(f"could also be {rivals[0][1]} ({rivals[0][0]:.0%})")
    if evidence.info.transfer != "unspecified" and best.kind in (Kind.FLAT, Kind.LOG):
        said.append(f"the tag says {evidence.info.transfer}, which cameras also write for log")
    return tuple(said)

"""Which profile a clip was filmed in: from its tags where they say it, else from its picture."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from morphe.core.advise.evidence import Evidence
from morphe.core.advise.profile.explain import (
    Explained,
    Explanation,
    explain,
    exposure_under,
    kind_of,
    kinds_of,
)
from morphe.core.advise.profile.filmed_as import FilmedAs, Hints, filmed_as_curve
from morphe.core.advise.profile.landing import Judged
from morphe.core.advise.profile.naturalness import median_chroma
from morphe.core.advise.profile.prior import prior_of
from morphe.core.advise.water.wetness import kinds_under_water
from morphe.core.errors import UnknownName
from morphe.core.footage.info import SignalInfo
from morphe.core.grade.convert import FAMILY_OF, Convert
from morphe.core.signal.arrays import highest, lowest
from morphe.core.signal.families import FAMILIES
from morphe.core.signal.primaries import Primaries
from morphe.core.signal.profiles import HDR, PROFILES, Kind
from morphe.core.signal.ycbcr import Matrix

__all__ = ["ASK_BELOW", "CURVE_JUDGED", "ProfileVerdict", "guess_profile"]

ASK_BELOW = 0.98  # confidence
# At most, where nothing but the picture would have footage converted: a picture never proves a curve.
BY_PICTURE_ALONE = 0.97

BORNE_OUT = 0.8  # probability from which a tag of HDR is not called into question, or is overruled
RIVAL = 0.05  # a kind less likely than this is not named
GLARE = {"hlg": 0.87, "pq": 0.66}  # about a stop and a quarter above reference white (75 and 58 %)
GLARING_SHARE = 0.15
MUTED = 0.03
LEAST_WET = 0.3  # of HDR under water, by the picture: its tag says the rest
CURVE_JUDGED, MARKS = "its curve is judged", ("black", "grey", "white")
LOOKS = {
    Kind.STANDARD: "ordinary video",
    Kind.FLAT: "a flat profile",
    Kind.LOG: "log",
    Kind.HLG: "HLG",
    Kind.PQ: "PQ",
}


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
    likelihoods: Mapping[str, float] = field(default_factory=dict)  # of all profiles, by the picture alone
    kinds: Mapping[Kind, float] = field(default_factory=dict)  # probabilities, where the picture was judged
    curves: Mapping[Kind, Judged] = field(default_factory=dict, compare=False)  # by this clip alone

    def as_json(self) -> dict[str, object]:
        return {
            "name": self.name,
            "kind": str(self.kind),
            "confidence": round(self.confidence, 3),
            "evidence": list(self.evidence),
        }


def guess_profile(
    evidence: Evidence, *, chosen: str | FilmedAs = "auto", hints: Hints | None = None, wet: bool = False
) -> ProfileVerdict:
    """Decide the profile of a clip; `chosen` is the person's word: a profile's key, a kind, or "auto".

    Under water (`wet`) haze lifts black and mutes colours, as flat and log do: other signs decide then.

    Raises
    ------
    UnknownName
        If `chosen` is no known profile.
    """
    if isinstance(chosen, FilmedAs):
        return _said(chosen, evidence)
    if chosen in ("auto", ""):
        return _under_water(evidence, hints) if wet else _judged(evidence, hints)
    if chosen in PROFILES:
        return _said(filmed_as_curve(chosen), evidence)
    if chosen in tuple(Kind):
        return _said_kind(Kind(chosen), evidence, hints)
    known = ", ".join(dict.fromkeys(["auto", *Kind, *PROFILES]))
    raise UnknownName(f"There is no profile {chosen!r}; known are: {known}.")


def _said(chosen: FilmedAs, evidence: Evidence) -> ProfileVerdict:
    stops = None
    if chosen.profile and chosen.kind in (Kind.STANDARD, Kind.FLAT, Kind.LOG):
        stops = exposure_under(evidence.pixels, chosen.profile, chosen.convert)
    return ProfileVerdict(
        name=chosen.key,
        label=chosen.label,
        kind=chosen.kind,
        confidence=1.0,
        evidence=("you said so",),
        convert=_fitted_to_the_file(chosen.convert, chosen.kind, evidence.info),
        stops=stops,
    )


def _said_kind(kind: Kind, evidence: Evidence, hints: Hints | None) -> ProfileVerdict:
    """A kind by the person's word; which of its curves it was is judged by the picture."""
    prior = prior_of(evidence.info, hints)
    owned = {*hints.has, *dict(hints.named)} if hints else set()
    of_kind = [k for k in (*PROFILES, *FAMILY_OF) if kind_of(k) is kind and _comes_into_question(k, owned)]
    usual = {k: prior[k] for k in of_kind if prior.get(k)}  # by the file, unless that rules the kind out
    found = explain(evidence, usual or dict.fromkeys(of_kind, 1.0), hints.curves if hints else None)
    name = found.best.convert.profile
    return ProfileVerdict(
        name=name,
        label=_label(name),
        kind=kind,
        confidence=1.0,
        evidence=(f"you said {kind.word}", *_curve_words(name, found, hints)),
        convert=_fitted_to_the_file(found.best.convert, kind, evidence.info),
        stops=found.best.stops,
        curves=found.alone,
    )


def _comes_into_question(key: str, owned: set[str]) -> bool:
    """Whether a curve may be the clip's if only its kind is known: a built-in one if the camera has it."""
    return key in FAMILY_OF or key in owned or PROFILES.get(key).kind not in FAMILIES


def _curve_words(name: str, found: Explained, hints: Hints | None) -> tuple[str, ...]:
    """Which curve of its kind it was, and how sure that is."""
    if name not in FAMILY_OF:
        return (f"of its curves, {_label(name)} fits best",)
    judged = found.curves[FAMILY_OF[name]]
    (landing, _), spread = judged.best, judged.spread
    marks = (landing.black, landing.grey, landing.white)
    said = [f"{n} at {100 * m:.0f} ± {100 * s:.0f} %" for n, m, s in zip(MARKS, marks, spread, strict=True)]
    count = len(hints.curves.get(FAMILY_OF[name], ())) if hints else 0
    others = f" and {count} other{'s' if count > 1 else ''} of its camera and folder" if count else ""
    return (f"{CURVE_JUDGED} from the clip{others}: {', '.join(said)}",)


def _label(name: str) -> str:
    return (
        f"{FAMILY_OF[name].word}, its curve judged from the clip"
        if name in FAMILY_OF
        else PROFILES.get(name).label
    )


def _fitted_to_the_file(convert: Convert, kind: Kind, info: SignalInfo) -> Convert:
    """A conversion that heeds the file's primaries and matrix, as far as its tags are to be trusted."""
    if convert.profile == "std-709" and info.transfer not in GLARE:
        primaries = info.effective_primaries
        wider = primaries in (Primaries.BT2020, Primaries.P3_D65)
        return replace(convert, primaries=str(primaries)) if wider else convert
    hdr, read_by = kind in HDR, info.effective_matrix
    tags_are_wrong = kind != info.transfer and (hdr or info.transfer in GLARE)
    if tags_are_wrong and hdr != (read_by is Matrix.BT2020):  # BT.2100 knows no other for HDR
        return replace(convert, read_by=str(read_by))
    return convert


def _judged(evidence: Evidence, hints: Hints | None) -> ProfileVerdict:
    found = explain(evidence, prior_of(evidence.info, hints), hints.curves if hints else None)
    best, kinds = _unless_tagged(evidence.info, found), found.kinds
    name = best.convert.profile
    said = [*_by_the_tag(evidence, best.kind, kinds), *_by_the_picture(evidence, best.kind, found)]
    said += _curve_words(name, found, hints) if name in FAMILY_OF else ()
    if hints:
        said += _by_hints(hints, name)
    return ProfileVerdict(
        name=name,
        label=_label(name),
        kind=best.kind,
        confidence=min(
            kinds[best.kind],
            _alone(evidence.info, found, hints)[best.kind],
            1.0 if _is_borne_out(best.kind, evidence.info, hints) else BY_PICTURE_ALONE,
        ),
        evidence=tuple(said),
        convert=_fitted_to_the_file(best.convert, best.kind, evidence.info),
        stops=None if best.kind in HDR else best.stops,
        likelihoods=found.likelihoods,
        kinds=kinds,
        curves=found.alone,
    )


def _under_water(evidence: Evidence, hints: Hints | None) -> ProfileVerdict:
    """The kind by what underwater footage of each kind looks like, by the file and by what is known."""
    prior = prior_of(evidence.info, hints)
    by_file = dict.fromkeys(Kind, 0.0)
    for key, weight in prior.items():
        by_file[kind_of(key)] += weight
    seen = kinds_under_water(evidence)
    mass = {kind: by_file[kind] * seen.get(kind, LEAST_WET if kind in HDR else 0.0) for kind in Kind}
    total = sum(mass.values())
    kinds = {kind: m / total for kind, m in mass.items()} if total else {**by_file}
    kind = max(kinds, key=kinds.__getitem__)
    found = _said_kind(kind, evidence, hints)
    sure = min(kinds[kind], 1.0 if _is_borne_out(kind, evidence.info, hints) else BY_PICTURE_ALONE)
    said = f"looks like {LOOKS[kind]} under water"
    return replace(found, confidence=sure, evidence=(said, *found.evidence[1:]), stops=None, kinds=kinds)


def _is_borne_out(kind: Kind, info: SignalInfo, hints: Hints | None) -> bool:
    """Whether more than the picture speaks for a kind: it is the usual one, tagged, said or planned."""
    named = {PROFILES.get(key).kind for key, _ in hints.named if key in PROFILES} if hints else set()
    return kind is Kind.STANDARD or kind == info.transfer or kind in named


def _alone(info: SignalInfo, found: Explained, hints: Hints | None) -> Mapping[Kind, float]:
    """Probabilities without other clips: they may change an answer, but not make it surer."""
    if hints is None or not hints.others or hints.named:
        return found.kinds
    return kinds_of(found.likelihoods, prior_of(info, replace(hints, others=())))


def _unless_tagged(info: SignalInfo, found: Explained) -> Explanation:
    """A tag of HDR on ten bits stands, unless the picture is rather surely something else."""
    if info.transfer not in GLARE or info.bit_depth == 8 or found.kinds[found.best.kind] >= BORNE_OUT:
        return found.best
    return Explanation(convert=Convert(profile=info.transfer), kind=Kind(info.transfer), stops=0.0)


def _by_hints(hints: Hints, name: str) -> Iterator[str]:
    yield from (sentence for key, sentence in hints.named if key == name)
    if hints.camera and name in hints.has:
        yield f"{hints.camera} has this profile"
    if (count := len(hints.others)) and not hints.named:
        clips = "one other clip" if count == 1 else f"{count} other clips"
        yield f"weighed together with {clips} of this camera and folder"


def _by_the_tag(evidence: Evidence, kind: Kind, kinds: Mapping[Kind, float]) -> Iterator[str]:
    """What a tag of HDR says, and whether the picture bears it out."""
    tag = evidence.info.transfer
    if tag not in GLARE:
        return
    yield f"the file is tagged {tag.upper()}"
    glaring = float((highest(evidence.pixels) > GLARE[tag]).mean())
    if kind == tag and kinds[kind] >= BORNE_OUT:
        return
    if evidence.info.bit_depth == 8:
        yield "but has 8 bits, which HDR hardly ever has: it may be tagged wrongly"
    elif glaring > GLARING_SHARE:
        yield f"but {glaring:.0%} of it would be far brighter than white: it may be tagged wrongly"
    else:
        yield "but the picture does not quite bear that out: it may be tagged wrongly"


def _by_the_picture(evidence: Evidence, kind: Kind, found: Explained) -> Iterator[str]:
    tag, pixels, kinds = evidence.info.transfer, evidence.pixels, found.kinds
    if kind != tag:
        dark = float(np.percentile(lowest(pixels), 0.2) * 100)
        bright = float(np.percentile(highest(pixels), 99.7) * 100)
        colours = "muted colours" if median_chroma(pixels) < MUTED else "full colours"
        ends = f"almost no pixel below {dark:.0f} %, almost none above {bright:.0f} %"
        yield f"{ends}, {colours}: looks like {LOOKS[kind]}"
        more = "" if found.alike is kind else "more "
        yield f"its tones and colours are spread {more}as in {LOOKS[found.alike]}"
    rivals = sorted((k for k in kinds if k is not kind and kinds[k] > RIVAL), key=lambda k: -kinds[k])
    if rivals:
        yield f"could also be {' or '.join(f'{k.word} ({kinds[k]:.0%})' for k in rivals)}"
    if tag not in ("unspecified", *GLARE) and kind is not Kind.STANDARD:
        yield f"the tag says {tag}, which cameras also write for {kind.word}"

"""Which profile made this picture, and how far off was its exposure: explanations weighed by Bayes' rule.

Every candidate profile is inverted; the explanation gains by dark codes that sit at the candidate's own
black, loses by codes its camera could not have written, and is weighed by how natural the resulting
picture would be at any exposure, and by how much the codes resemble what was learned of the profile.
Curves that nobody named are candidates too: those of each family that may be the clip's, as `landing` has
them. Taken is not the likeliest explanation but the one whose picture lies nearest to those of all the
others, each counted by its probability: where two profiles cannot be told apart, the harm of a wrong guess
is small.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from morphe.core.advise.evidence import Evidence
from morphe.core.advise.profile.landing import Judged, landing_of
from morphe.core.advise.profile.metering import Metered, metered
from morphe.core.advise.profile.naturalness import (
    CLIPPED,
    bright_likelihood,
    chroma_likelihood,
    clipped_likelihood,
    median_chroma,
    tone_likelihood,
    tone_percentiles,
)
from morphe.core.advise.profile.pooled_curve import pooled
from morphe.core.advise.profile.resemblance import resemblance, traits_of
from morphe.core.grade.convert import FAMILY_OF, Convert, fitted
from morphe.core.measure.readings import oklab_of
from morphe.core.signal.arrays import Encoded, Float, highest, lowest
from morphe.core.signal.families import FAMILIES
from morphe.core.signal.profiles import HDR, PROFILES, Kind, Profile
from morphe.core.signal.transfer import encode_bt709

__all__ = ["Explained", "Explanation", "explain", "exposure_under", "kind_of", "kinds_of"]

EXPOSURES = np.arange(-2.5, 4.01, 0.125)
SAMPLE = 800  # pixels by which pictures are compared
HYPOTHESES = 48  # likeliest pairs of profile and exposure that are compared
LEAVE_ALONE = 2.0  # spoiling good footage weighs this much more than leaving a fault
FAR_LESS = 2.0  # times: a kind this much less likely than another is not named
# A picture says less of its profile than the sum of all that is read off it: each part counts with a power.
TRUST, TRUST_IN_RESEMBLANCE = 0.25, 1.0
RATHER_SURE = 0.6  # to read ordinary tones as HDR spoils them most
# How much naturalness says beside metering: of the areas that clipped it knows much, of a night little.
OF_BRIGHT, OF_DARK = 1.0, 0.25
TINY = 1e-200
NEVER = -1.0  # stops over: flat and log footage keeps its lights, whatever its exposure


@dataclass(frozen=True, slots=True, kw_only=True)
class Explanation:
    """One way the picture may have come about. `stops` is the exposure to add after conversion."""

    convert: Convert
    kind: Kind
    stops: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Explained:
    """The explanation taken, the probabilities of all kinds, and how well each profile explains the picture.

    `likelihoods` are relative to the best of them, before any prior: other clips of the camera use them.
    They count as much as a picture is to be trusted. `alike` is the kind whose codes are spread most alike,
    `curves` holds the likeliest curve of every family, with its spread, and `alone` the same without others.
    """

    best: Explanation
    kinds: dict[Kind, float]
    likelihoods: dict[str, float]
    alike: Kind
    curves: Mapping[Kind, Judged]
    alone: Mapping[Kind, Judged]


@dataclass(frozen=True, slots=True, kw_only=True)
class _Candidate:
    convert: Convert
    kind: Kind
    prior: float
    black: float  # percent
    top: float  # percent at the brightest light kept
    metered: bool = False  # its curve holds the exposure already


def _of_profile(profile: Profile, convert: Convert, prior: float) -> _Candidate:
    black, top = (float(profile.encode(np.array(x))) * 100 for x in (0.0, profile.clip))
    return _Candidate(
        convert=convert,
        kind=profile.kind,
        prior=prior,
        black=black,
        top=110.0 if profile.kind is Kind.STANDARD else top,
    )


def _candidates(prior: Mapping[str, float], curves: Mapping[Kind, Judged]) -> list[_Candidate]:
    """The profiles of a prior; a family's weight is shared by the curves that may be the clip's."""
    found = []
    for key, weight in prior.items():
        if key not in FAMILY_OF:
            found.append(_of_profile(PROFILES.get(key), Convert(profile=key), weight))
            continue
        for landing, colour, share in curves[FAMILY_OF[key]].points():
            convert = fitted(FAMILY_OF[key], landing, colour)
            found.append(
                _Candidate(
                    convert=convert, kind=FAMILY_OF[key], prior=share * weight,
                    black=100 * landing.black, top=110.0,
                    metered=True,
                )
            )  # fmt: skip
    return found


def _dark_evidence(dark: float, candidate: _Candidate) -> float:
    """Scenes with a true black put it on the candidate's black; the others lie anywhere above it.

    How far above is counted as an ordinary picture would show it: curves differ in how they spread shadows.
    """
    above = dark - candidate.black
    if above > 0:
        level = np.full((1, 3), dark / 100, np.float32)
        above = 100 * float(encode_bt709(_light(candidate, level))[0, 1])
    spike = 0.45 / 0.9 * np.exp(-0.5 * ((above - 0.4) / 0.9) ** 2)
    broad = 0.55 / 8.0 * np.exp(-0.5 * (above / (8.0 if above > 0 else 1.2)) ** 2)
    return float(np.log(spike + broad + 1e-30))


def _exposure_prior() -> Float:
    """Most clips are metered well; the rest err by about a stop."""
    metered = 0.45 / 0.2 * np.exp(-0.5 * (EXPOSURES / 0.2) ** 2)
    off = 0.55 / 0.9 * np.exp(-0.5 * (EXPOSURES / 0.9) ** 2)
    return np.log(metered + off)


def explain(
    evidence: Evidence, prior: Mapping[str, float], others: Mapping[Kind, Sequence[Judged]] | None = None
) -> Explained:
    """Weigh all profiles of a prior, at every exposure, for the pictures of a clip.

    `others` are curves judged from clips that were filmed alike.
    """
    pixels = evidence.pixels
    traits = traits_of(pixels, evidence.info.effective_matrix)
    alone = {kind: landing_of(traits, kind) for kind in FAMILIES}
    curves = {kind: pooled(own, (others or {}).get(kind, ()), kind) for kind, own in alone.items()}
    candidates = _candidates(prior, curves)
    view = _view(pixels, metered(traits))
    resembled = resemblance(traits)
    weight, likelihoods = _tempered(candidates, _weights(candidates, view), prior, resembled)
    kinds = kinds_of(likelihoods, prior)
    return Explained(
        best=_least_harm(candidates, _of_likely_kinds(candidates, weight, kinds), view.sample),
        kinds=kinds,
        likelihoods=likelihoods,
        alike=kind_of(max(resembled, key=resembled.__getitem__)),
        curves=curves,
        alone=alone,
    )


def _tempered(
    candidates: Sequence[_Candidate],
    weight: Float,
    prior: Mapping[str, float],
    resembled: Mapping[str, float],
) -> tuple[Float, dict[str, float]]:
    """Weights and likelihoods of profiles as far as they are trusted; within a profile nothing changes."""
    keys = [c.convert.profile for c in candidates]
    masses = dict.fromkeys(keys, 0.0)
    for key, mass in zip(keys, weight.sum(axis=1), strict=True):
        masses[key] += float(mass)
    plain = {key: max(mass / prior[key], TINY) for key, mass in masses.items()}
    trusted = {k: value**TRUST * resembled[k] ** TRUST_IN_RESEMBLANCE for k, value in plain.items()}
    best = max(trusted.values())
    likelihoods = {key: float(value / best) for key, value in trusted.items()}
    gain = np.array([likelihoods[key] / plain[key] for key in keys])
    return np.asarray(weight * gain[:, None]), likelihoods


def kinds_of(likelihoods: Mapping[str, float], prior: Mapping[str, float]) -> dict[Kind, float]:
    """Probabilities of all kinds, from how well each profile explains a picture and its prior."""
    kinds = dict.fromkeys(Kind, 0.0)
    for key, likelihood in likelihoods.items():
        kinds[kind_of(key)] += likelihood * prior[key]
    total = sum(kinds.values())
    return {kind: mass / total for kind, mass in kinds.items()}


def kind_of(key: str) -> Kind:
    """The kind of a profile, or of a family of curves, by its key."""
    return FAMILY_OF[key] if key in FAMILY_OF else PROFILES.get(key).kind


def _of_likely_kinds(candidates: Sequence[_Candidate], weight: Float, kinds: Mapping[Kind, float]) -> Float:
    """Weights of the explanations that may be taken: those of kinds not far less likely than another."""
    least = max(kinds.values()) / FAR_LESS
    allowed = np.array([kinds[c.kind] >= (RATHER_SURE if c.kind in HDR else least) for c in candidates])
    return np.asarray(weight * allowed[:, None])


def exposure_under(pixels: Encoded, profile: Profile, convert: Convert) -> float:
    """Stops to add after conversion to encoded pixels (n, 3) whose profile is known."""
    candidates = [_of_profile(profile, convert, 1.0)]
    view = _view(pixels, metered(traits_of(pixels)))
    return _least_harm(candidates, _weights(candidates, view), view.sample).stops


def _view(pixels: Encoded, exposure: Metered) -> _View:
    return _View(
        exposure=exposure,
        tones=tone_percentiles(pixels),
        dark=float(np.percentile(lowest(pixels), 0.2) * 100),
        bright=float(np.percentile(highest(pixels), 99.7)),
        clipped=float((highest(pixels) >= CLIPPED).mean()),
        sample=pixels[:: max(1, len(pixels) // SAMPLE)],
    )


def _weights(candidates: Sequence[_Candidate], view: _View) -> Float:
    """Probabilities of all candidates and exposures (candidates, exposures)."""
    scores = np.stack([_score(c, view) for c in candidates])
    weight = np.exp(scores - scores.max())
    return np.asarray(weight / weight.sum())


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _View:
    """What is read off a clip once: luma percentiles and bright end (0..1), darkest level in percent,
    share of pixels with a clipped channel."""

    tones: Float
    dark: float
    bright: float
    clipped: float
    sample: Encoded
    exposure: Metered  # if it were ordinary


def _light(candidate: _Candidate, encoded: Float) -> Float:
    """Scene light of encoded pixels (n, 3) under a candidate."""
    if candidate.convert.is_neutral:
        return PROFILES.get("std-709").decode(encoded)
    return candidate.convert.apply(encoded)


_METERED = np.where(np.abs(EXPOSURES) < 1e-6, 0.0, -np.inf)


def _score(candidate: _Candidate, view: _View) -> Float:
    """Log of prior times likelihood for every exposure."""
    levels = np.append(view.tones, view.bright).astype(np.float32)
    light = _light(candidate, np.repeat(levels[:, None], 3, axis=1))[:, 1]
    shown = 100 * encode_bt709(np.exp2(EXPOSURES)[:, None] * light)
    finished = np.clip(encode_bt709(_light(candidate, view.sample)), 0, 1)
    impossible = -0.5 * (max(100 * view.bright - candidate.top - 1, 0) / 1.5) ** 2
    is_standard = candidate.kind is Kind.STANDARD
    # What clipped in an ordinary picture was at least as bright as it looks: only the area counts.
    bright = np.maximum(shown[:, -1], 99.8) if is_standard and view.bright >= CLIPPED else shown[:, -1]
    score = np.asarray(
        tone_likelihood(shown[:, :-1], view.tones < CLIPPED)
        + bright_likelihood(bright)
        + clipped_likelihood(view.clipped, -EXPOSURES if is_standard else np.full(1, NEVER))
        + chroma_likelihood(median_chroma(finished))
        + (_METERED if candidate.metered else _exposure_prior())
        + _dark_evidence(view.dark, candidate)
        + impossible
        + np.log(candidate.prior)
    )
    if not candidate.convert.is_neutral:
        return score
    return _as_metered(score, view.exposure)


def _as_metered(score: Float, exposure: Metered) -> Float:
    """The same total over all exposures, shared out as metering has it."""
    share = OF_BRIGHT if exposure.stops > 0 else OF_DARK
    by_metering = exposure.log_likelihood(-EXPOSURES) + share * score
    return np.asarray(_total(score) + by_metering - _total(by_metering))


def _total(score: Float) -> float:
    return float(score.max() + np.log(np.exp(score - score.max()).sum()))


def _least_harm(candidates: list[_Candidate], weight: Float, sample: Encoded) -> Explanation:
    """The explanation whose picture differs least from the others', weighed by their probabilities."""
    likeliest = np.argsort(weight, axis=None)[::-1][:HYPOTHESES]
    pairs = [divmod(int(i), weight.shape[1]) for i in likeliest]
    pictures = []
    for number, step in pairs:
        light = _light(candidates[number], sample[::2]) * np.float32(2.0 ** EXPOSURES[step])
        pictures.append(oklab_of(encode_bt709(light)))
    shown = np.stack(pictures)  # (hypotheses, pixels, 3)
    spared = [
        LEAVE_ALONE if candidates[n].convert.is_neutral and abs(EXPOSURES[at]) < 0.3 else 1.0
        for n, at in pairs
    ]
    share = weight.ravel()[likeliest] * spared
    harm = [(share * np.sqrt(((shown - one) ** 2).sum(axis=-1)).mean(axis=-1)).sum() for one in shown]
    number, step = pairs[int(np.argmin(harm))]
    best = candidates[number]
    return Explanation(convert=best.convert, kind=best.kind, stops=float(EXPOSURES[step]))

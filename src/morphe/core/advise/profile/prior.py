"""How likely every profile is before the picture is looked at: by the file, the camera, and what was said."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from morphe.core.advise.profile.filmed_as import Hints
from morphe.core.footage.info import SignalInfo
from morphe.core.signal.primaries import Primaries
from morphe.core.signal.profiles import HDR

__all__ = ["FITTED", "FITTED_FLAT", "Weights", "prior_of"]

Weights = Mapping[str, float]  # of profiles, by their keys

FITTED, FITTED_FLAT = "fitted", "fitted-flat"  # logs and flat gammas that nobody named
# Share of clips of each kind, by bits, where the file says nothing or names BT.709, as files of all kinds
# do. Ten bits are mostly chosen for what is going to be stretched.
MUTED = {
    "flat-a": 0.02,
    "log-mild": 0.02,
    "log-lifted": 0.02,
    "log-wide": 0.02,
    FITTED: 0.16,
    FITTED_FLAT: 0.14,
}
USUAL = {8: {"std-709": 0.75} | MUTED, 10: {"std-709": 0.30} | MUTED}
# HDR that lost its tags; eight bits hardly ever hold any.
LOST_TAGS = {8: {"hlg": 0.004, "pq": 0.001}, 10: {"hlg": 0.04, "pq": 0.015}}
UNSAID = 5.0  # times likelier where no curve is tagged at all
WRONG_TAG = {8: 0.6, 10: 0.1}  # share of files tagged HLG or PQ that are something else
WIDE = (*HDR, "log-wide")
RARE = {"vivid-a": 0.10}  # considered only where the camera is known to have it
NOT_OF_THE_CAMERA = 0.02  # a profile that a known camera does not list, or not in these bits
FILMS_HDR = 3.0  # times likelier where the camera is known to film HDR
# A profile that a person named after filming, and one that was planned. A word can also be meant for other
# clips: it is noticed where the picture speaks clearly against it.
SAID, PLANNED = 800.0, 80.0
BETWEEN = 0.1  # curves between the known ones, where one of those is named
# Clips of one camera and folder: how often one was filmed as the others, and how alike their pictures are.
TOGETHER, ALIKE = 0.9, 0.6


def prior_of(info: SignalInfo, hints: Hints | None = None) -> dict[str, float]:
    """Weights of the profiles that come into question for a clip; a word on it outweighs other clips."""
    prior = _by_the_file(info)
    if hints is None:
        return prior
    prior |= {key: weight for key, weight in RARE.items() if key in {*hints.has, *dict(hints.named)}}
    for key in prior:
        prior[key] *= _by_the_camera(key, info, hints) * _by_name(key, hints)
    return prior if hints.named else _with_others(prior, hints.others)


def _by_the_camera(key: str, info: SignalInfo, hints: Hints) -> float:
    """How much likelier a profile is by what the camera has; cameras film HDR in ten bits."""
    if not hints.has or key in dict(hints.named):
        return 1.0
    if key not in hints.has or (key in HDR and info.bit_depth == 8):
        return NOT_OF_THE_CAMERA
    return FILMS_HDR if key in HDR else 1.0


def _by_name(key: str, hints: Hints) -> float:
    """How much likelier a profile is by what was said and planned."""
    said = SAID if any(named == key for named, _ in hints.said) else 1.0
    planned = PLANNED if any(named == key for named, _ in hints.planned) else 1.0
    between = BETWEEN if key in (FITTED, FITTED_FLAT) and hints.named else 1.0
    return said * planned if said * planned > 1 else between


def _by_the_file(info: SignalInfo) -> dict[str, float]:
    bits = 8 if info.bit_depth == 8 else 10
    prior = USUAL[bits] | LOST_TAGS[bits]
    if info.is_hdr:
        wrong = WRONG_TAG[bits]
        return {key: wrong * weight for key, weight in prior.items()} | {info.transfer: 1 - wrong}
    if info.transfer == "unspecified":
        for key in WIDE if info.primaries is Primaries.BT2020 else HDR:
            prior[key] *= UNSAID
    return prior


def _with_others(prior: Weights, others: Sequence[Weights]) -> dict[str, float]:
    """Weigh in how well every profile explains the other clips of the same camera and folder.

    Their pictures are alike, so that n of them say as much as n / (1 + ALIKE (n - 1)) independent ones.
    """
    if not others:
        return dict(prior)
    keys = list(prior)
    own = np.array([prior[k] for k in keys]) / sum(prior.values())
    told = np.zeros(len(keys))
    for other in others:
        explained = np.array([other.get(k, 0.0) for k in keys])
        told += np.log(TOGETHER * explained / max(float(own @ explained), 1e-12) + 1 - TOGETHER)
    told /= 1 + ALIKE * (len(others) - 1)
    shared = np.exp(told - told.max())
    weighed = own * (TOGETHER * shared / float(own @ shared) + 1 - TOGETHER)
    return dict(zip(keys, weighed.tolist(), strict=True))

"""Whether a LUT and a clip go together: what it expects against what it would be given."""

from __future__ import annotations

from dataclasses import dataclass

from morphe.core.grade.convert import Convert
from morphe.core.grade.step import Step
from morphe.core.grade.steps import Film, Lut
from morphe.core.grade.steps.lut import FILM_LOG, LOG, ORDINARY
from morphe.core.signal.camera_log import CameraLog
from morphe.core.signal.profiles import PROFILES, Kind

__all__ = ["Pairing", "paired"]

A_LOG = "log-lifted"  # what a corrected picture is brought to for a LUT whose own log nobody named


@dataclass(frozen=True, slots=True, kw_only=True)
class Pairing:
    """`steps` put the LUT on rightly. Where that needs something else first, `refusal` says why it is refused
    as it is, and `offer` what would be done."""

    steps: tuple[Step, ...]
    refusal: str = ""
    offer: str = ""


def paired(name: str, digest: str, role: str, *, filmed: Kind, convert: Convert) -> Pairing:
    """Put a LUT of a role on a clip that was filmed in a kind and is converted by `convert`."""
    if role == FILM_LOG:
        return Pairing(steps=(Film(amount=100, table=digest, name=name),))
    if role == ORDINARY:
        step = Lut(table=digest, name=name, role=ORDINARY)
        if filmed is Kind.STANDARD or convert.at_work:
            return Pairing(steps=(step,))
        return Pairing(
            steps=(step,),
            refusal=f"“{name}” expects ordinary video, and this clip is {filmed.word} as it was filmed.",
            offer="Take the profile first",
        )
    step = _through_log(name, digest, convert)
    if filmed is Kind.LOG:
        return Pairing(steps=(step,))
    return Pairing(
        steps=(step,),
        refusal=f"“{name}” expects log, and this clip was filmed {filmed.word}: "
        "its shadows would be crushed and its lights burnt.",
        offer="Bring the picture to log for it",
    )


def _through_log(name: str, digest: str, convert: Convert) -> Lut:
    """The LUT behind the log that the clip was filmed in, or a general one."""
    curve = convert.judged_curve
    if isinstance(curve, CameraLog):
        return Lut(table=digest, name=name, role=LOG, numbers=curve.numbers)
    if convert.profile == "own" and convert.curve is not None:
        return Lut(table=digest, name=name, role=LOG, numbers=convert.curve)
    known = convert.profile in PROFILES and PROFILES.get(convert.profile).kind is Kind.LOG
    return Lut(table=digest, name=name, role=LOG, curve=convert.profile if known else A_LOG)

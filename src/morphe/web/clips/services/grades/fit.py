"""A correction passed on: what of it is, how it would fit another clip, and the trim that fits it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from morphe.core.advise.outing.settle import Member, fitted, graded, stand_under, trimmed
from morphe.core.errors import MediaError
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import CLIP, Layer, Scope
from morphe.core.measure.light import LightOfClip, apart, nearness, reason_apart
from morphe.core.measure.stand import Apart
from morphe.core.signal.perception import delta_e_2000, encoded_to_lab
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.grades.versions import with_proposals
from morphe.web.clips.services.wall.stands import member_of

__all__ = ["GOOD", "Fit", "Given", "fit_on", "given_by", "trim_words"]

GOOD, TRIMMED = 3.0, 7.0  # CIEDE2000 up to which a correction fits, or fits more or less


@dataclass(frozen=True, slots=True, kw_only=True)
class Given:
    """A correction to pass on; `apart` is how it differs from what its own clip was advised.

    Without that (a recipe from a file) it is taken as it is.
    """

    grade: Grade
    name: str
    apart: Apart | None = None
    with_regions: bool = False

    def as_json(self) -> dict[str, Any]:
        return {
            "grade": recipe.to_json(self.grade), "name": self.name, "with_regions": self.with_regions,
            "apart": self.apart and [self.apart.stops, self.apart.mired],
        }  # fmt: skip

    @classmethod
    def from_json(cls, data: dict[str, Any]) -> Given:
        apart = data["apart"]
        return cls(
            grade=recipe.from_json(data["grade"]), name=data["name"], with_regions=data["with_regions"],
            apart=Apart(stops=apart[0], mired=apart[1]) if apart else None,
        )  # fmt: skip

    @property
    def regions(self) -> int:
        return sum(layer.region is not None for layer in self.grade.layers)

    def on(self, clip: Clip) -> Grade:
        """The grade that a clip would have: its own source and shared layers, all else from here."""
        own = with_proposals(clip, over_own=False)
        theirs = [layer for layer in own.layers if layer.scope.is_shared]
        layers = [layer for layer in self.grade.layers if self.with_regions or layer.region is None]
        passed = [_as_own(layer) for layer in layers if layer.at_work and layer not in theirs]
        rest = [layer for layer in passed if layer.id != CLIP]
        mine = next((layer for layer in passed if layer.id == CLIP), Layer(id=CLIP))
        below = [layer for layer in rest if layer.scope is Scope.CLIP and layer.region is None]
        above = [layer for layer in rest if layer not in below]
        return replace(own, layers=(*theirs, *below, mine, *above))


def _as_own(layer: Layer) -> Layer:
    """A layer as another clip has it: what was shared there is its own here."""
    if not layer.scope.is_shared:
        return layer
    return replace(layer, id=f"from-{layer.id}"[:40], scope=Scope.CLIP, name=layer.name or layer.label)


def given_by(clip: Clip, *, with_regions: bool = False) -> Given:
    """A clip's correction to pass on; where nothing was decided for it, what was advised."""
    advised = with_proposals(clip)
    grade = grade_of(clip) if clip.is_corrected else advised
    member = member_of(clip, grade)
    apart = stand_under(member).apart_from(stand_under(member, advised)) if member.pictures else Apart()
    return Given(grade=grade, name=clip.title, apart=apart, with_regions=with_regions)


@dataclass(frozen=True, slots=True, kw_only=True)
class Fit:
    """How a correction would fit a clip: the trim, what would be left, and both in words."""

    clip: Clip
    trim: Apart
    residual: float  # mean CIEDE2000 from the clip's own proposal, made brighter and warmer like the other
    verdict: str
    sentence: str
    grade: Grade

    @property
    def fits(self) -> bool:
        return self.residual < TRIMMED


def fit_on(given: Given, clip: Clip, source: Clip | None = None) -> Fit:
    """Predict what a correction does to a clip, trimmed to the clip's own readings.

    It is wanted as far from what the clip itself is advised as it was from what its own clip was advised.

    Raises
    ------
    MediaError
        If the clip has not been read.
    """
    if not clip.light:
        raise MediaError("A clip has not been read yet; wait until it is ready.")
    advised, passed = with_proposals(clip), given.on(clip)
    member = member_of(clip, advised)
    apart = given.apart or Apart()
    trim = fitted(member, passed, stand_under(member).moved(apart)) if given.apart else Apart()
    grade = trimmed(passed, trim)
    residual = _left_over(member, grade, trimmed(advised, apart))
    verdict = "fits" if residual < GOOD else "fits more or less" if residual < TRIMMED else "does not fit"
    return Fit(
        clip=clip, trim=trim, residual=residual, verdict=verdict, grade=grade,
        sentence=f"{given.name} {verdict} {clip.title}: trimmed by {trim_words(trim)}, "
        f"about {residual:.1f} ΔE would be left{_why(source, clip)}.",
    )  # fmt: skip


def trim_words(trim: Apart) -> str:
    """A trim as a person says it, with its signs."""
    said = []
    if trim.stops:
        said.append(f"{trim.stops:+.2f} stop".replace("-", "−"))
    if trim.mired:
        said.append(f"{abs(trim.mired):.0f} mired {'warmer' if trim.mired > 0 else 'cooler'}")
    return ", ".join(said) or "nothing"


def _why(source: Clip | None, clip: Clip) -> str:
    if source is None or not source.light:
        return ""
    one, two = LightOfClip.from_json(source.light), LightOfClip.from_json(clip.light)
    distance = apart(one, two)
    if distance < 0.5:
        return "; both lie in the same light"
    return f"; it is {reason_apart(one, two)} ({nearness(distance)})"


def _left_over(member: Member, grade: Grade, wanted: Grade) -> float:
    pairs = zip(graded(member, grade), graded(member, wanted), strict=True)
    found = [float(delta_e_2000(encoded_to_lab(one), encoded_to_lab(other)).mean()) for one, other in pairs]
    return float(np.median(found)) if found else 0.0

"""What is known of a clip's profile before its picture is looked at: a person's word, the camera, a plan."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from morphe.core.advise.profile.landing import Judged
from morphe.core.grade.convert import Convert, convert_of
from morphe.core.signal.own_profile import OwnProfile
from morphe.core.signal.profiles import PROFILES, Kind, Profile

__all__ = ["KINDS_SAID", "FilmedAs", "Hints", "filmed_as_curve", "filmed_as_own", "filmed_as_table"]

# A person's word where they know the kind, but not which curve: the picture tells that.
KINDS_SAID = {str(Kind.FLAT): Kind.FLAT, str(Kind.LOG): Kind.LOG}


@dataclass(frozen=True, slots=True, kw_only=True)
class FilmedAs:
    """A person's word: how to convert, what kind of picture it is, and its curve if there is one."""

    key: str
    label: str
    kind: Kind
    convert: Convert
    profile: Profile | None = None


def filmed_as_own(key: str, own: OwnProfile) -> FilmedAs:
    """Filmed in one of the person's own profiles."""
    return FilmedAs(key=key, label=own.name, kind=own.kind, convert=convert_of(own), profile=own.profile)


def filmed_as_table(key: str, name: str, digest: str, kind: Kind) -> FilmedAs:
    """Converted by the person's own LUT."""
    return FilmedAs(key=key, label=name, kind=kind, convert=Convert(profile="table", name=name, table=digest))


def filmed_as_curve(key: str) -> FilmedAs:
    """Filmed in a built-in profile; an unknown one is answered with those that are known."""
    profile = PROFILES.get(key)
    return FilmedAs(
        key=key, label=profile.label, kind=profile.kind, convert=Convert(profile=key), profile=profile
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Hints:
    """What makes some profiles likelier: the camera's own, those somebody named, and what other clips say.

    `said` and `planned` pair a profile key with the sentence that names it: a person's word on the clip or
    its like ("the slate says log"), or a plan made before. `others` holds, for every other clip of the same
    camera and folder, how well each profile explains it (its likelihoods); `curves` those that were judged
    from them, by the kind they were taken for.
    """

    camera: str = ""
    has: tuple[str, ...] = ()
    curves: Mapping[Kind, tuple[Judged, ...]] = field(default_factory=dict)
    said: tuple[tuple[str, str], ...] = ()
    planned: tuple[tuple[str, str], ...] = ()
    others: tuple[Mapping[str, float], ...] = ()

    @property
    def named(self) -> tuple[tuple[str, str], ...]:
        """All profiles that somebody named, each with the sentence that does."""
        return self.said + self.planned

"""What a clip was filmed in: the person's choice, what was said before, and what plan and slate say."""

from __future__ import annotations

from collections.abc import Callable

from morphe.core.advise.profile.explain import kind_of
from morphe.core.advise.profile.filmed_as import KINDS_SAID, FilmedAs, Hints
from morphe.core.errors import UnknownName
from morphe.core.grade.convert import FAMILY_OF
from morphe.core.plan.slate import parse_note
from morphe.core.signal.profiles import PROFILES, Kind
from morphe.web.clips.models import Clip
from morphe.web.clips.services.questions.said import PROFILE, remembered
from morphe.web.clips.services.questions.together import others_of
from morphe.web.clips.services.reading.shared_curves import curves_of_others

__all__ = ["OWN", "OWN_PROFILES", "chosen_profile", "hints_for"]

OWN = "own-"
OWN_PROFILES: list[
    Callable[[str], FilmedAs | None]
] = []  # where profiles of the person's own are found, by key
OF_KIND = {
    word: tuple(key for key in (*PROFILES, *FAMILY_OF) if kind_of(key) is kind)
    for word, kind in KINDS_SAID.items()
}


def chosen_profile(key: str) -> str | FilmedAs:
    """What stands behind a choice: "auto", a built-in key, or one of the person's own.

    Raises
    ------
    UnknownName
        If the person's own profile has been removed.
    """
    if not key.startswith(OWN):
        return key
    for find in OWN_PROFILES:
        if (found := find(key)) is not None:
            return found
    raise UnknownName("This profile is no longer in the Library; choose another.")


def hints_for(clip: Clip) -> Hints:
    """What makes some profiles likelier for a clip, with who says so."""
    kit = clip.camera.described if clip.camera else None
    has = tuple(kit.profiles) if kit else ()
    said: list[tuple[str, str]] = []
    before = remembered(clip, PROFILE)
    if before is not None:
        meant = OF_KIND.get(before.key, (before.key,) if before.key in PROFILES else ())
        said += [(key, f"you said {before.label} of this camera's clips before") for key in meant]
    kind = parse_note(clip.take.note).kind if clip.take else None
    said += [(k, f"the slate says {Kind(kind).word}") for k in has if kind and PROFILES.get(k).kind == kind]
    settings = (clip.planned.settings or {}) if clip.planned else {}
    key = str(settings.get("profile", ""))
    # A file of other bits than planned was filmed otherwise in more than those.
    as_planned = key in PROFILES and not kind and settings.get("bit_depth") == clip.info.get("bit_depth")
    planned = ((key, f"{PROFILES.get(key).label} was planned"),) if as_planned else ()
    return Hints(
        camera=str(clip.camera or ""), has=has, said=tuple(said), planned=planned, others=others_of(clip),
        curves=curves_of_others(clip),
    )  # fmt: skip

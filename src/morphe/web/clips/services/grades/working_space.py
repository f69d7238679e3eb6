"""The space an outing is worked in: ordinary or wide, chosen by the person or by what was filmed."""

from __future__ import annotations

from dataclasses import dataclass

from morphe.core.signal.primaries import Primaries
from morphe.core.signal.profiles import HDR, PROFILES
from morphe.web.jobs.services.ask import ask
from morphe.web.outings.models import Outing

__all__ = ["SPACES", "Space", "choose_space", "is_wide", "space_of"]

SPACES = {"auto": "As Morphe advises", "bt709": "Ordinary (BT.709)", "wide": "Wide (BT.2020) until delivery"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Space:
    """The space taken, and why."""

    key: str
    label: str
    reason: str
    hdr: str = ""  # what mixing, or not, means for HDR clips


def space_of(outing: Outing) -> Space:
    """What an outing's clips are worked in, with the reason."""
    profiles = [p for p in outing.clips.ready().values_list("profile", flat=True) if p]
    kinds = {p["kind"] for p in profiles}
    wide = [_is_wide_profile(p.get("name", "")) for p in profiles]
    hdr = _hdr_rule(kinds)
    if outing.working_space in ("bt709", "wide"):
        return Space(
            key=outing.working_space, label=SPACES[outing.working_space], reason="You chose it.", hdr=hdr
        )
    if wide and all(wide):
        why = "Every clip has wide primaries: bright colours are rolled in before they are narrowed."
        return Space(key="wide", label=SPACES["wide"], reason=why, hdr=hdr)
    reason = (
        "Some clips have ordinary primaries: one space for all makes them sit together."
        if any(wide)
        else "The clips have ordinary primaries."
    )
    return Space(key="bt709", label=SPACES["bt709"], reason=reason, hdr=hdr)


def is_wide(outing: Outing) -> bool:
    """Whether conversions keep wide primaries until delivery."""
    return space_of(outing).key == "wide"


def choose_space(outing: Outing, key: str) -> None:
    """Keep the person's choice; clips that wait for a decision are judged anew in the new space."""
    outing.working_space = key
    outing.save(update_fields=["working_space"])
    for clip_id in outing.clips.undecided().values_list("pk", flat=True):
        ask("judge", clip_id)


def _is_wide_profile(name: str) -> bool:
    return name in PROFILES and PROFILES.get(name).primaries is Primaries.BT2020


def _hdr_rule(kinds: set[str]) -> str:
    hdr = kinds.intersection(HDR)
    if not hdr:
        return ""
    if kinds == hdr:
        return "All clips are HDR: the HDR presets keep them so, the others make ordinary video of them."
    return (
        "HDR and other clips are mixed: HDR is brought to ordinary video first, then all are matched there."
    )

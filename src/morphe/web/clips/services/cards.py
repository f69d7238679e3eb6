"""What a clip's card says."""

from __future__ import annotations

from dataclasses import dataclass

from morphe.core.signal.profiles import Kind
from morphe.web.clips.models import Clip, JudgingFrame
from morphe.web.clips.services.storage import sized_for_web

__all__ = ["Card", "card_of"]

SURE, UNSURE = 0.75, 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class Card:
    """One clip in the list."""

    clip: Clip
    poster: JudgingFrame | None
    facts: tuple[str, ...]
    profile: str
    profile_doubt: str
    evidence: str
    differs: tuple[str, ...]
    agrees: tuple[str, ...]
    unknown: tuple[str, ...]
    word: str
    icon: str


def _stage(clip: Clip) -> tuple[str, str]:
    if clip.state == Clip.State.FAILED:
        return "Cannot be used", "exclamation-octagon"
    if clip.is_busy:
        return "Being read", "hourglass-split"
    if any(h.is_done for h in clip.hand_overs.all()):
        return "Handed over", "box-arrow-up-right"
    if clip.is_corrected:
        return "Corrected", "check-circle-fill"
    return ("Good as it is", "check-circle") if clip.is_decided else ("Proposals wait", "arrow-right-circle")


def card_of(clip: Clip) -> Card:
    """Prepare a clip for its card."""
    info, profile = clip.info, clip.profile
    facts: list[str] = []
    if info:
        turned = info["rotation"] in (90, 270)
        width, height = (info["height"], info["width"]) if turned else (info["width"], info["height"])
        rate = f"{info['fps']:g} fps{' variable' if info['variable_rate'] else ''}"
        facts += [f"{width}×{height}", rate, f"{info['bit_depth']}-bit", f"{info['duration_s']:.1f} s"]
    confidence = profile.get("confidence", 0)
    doubt = "" if confidence >= SURE else ("not sure" if confidence < UNSURE else "likely")
    word, icon = _stage(clip)

    def checked(agrees: bool | None) -> tuple[str, ...]:
        return tuple(c["sentence"] for c in clip.checks if c["agrees"] is agrees)

    return Card(
        clip=clip,
        poster=clip.poster,
        facts=(*facts, sized_for_web(clip.size_bytes)),
        profile=Kind(profile["kind"]).word if profile else "",
        profile_doubt=doubt,
        evidence="; ".join(profile.get("evidence", [])),
        differs=checked(False),
        agrees=checked(True),
        unknown=checked(None),
        word=word,
        icon=icon,
    )

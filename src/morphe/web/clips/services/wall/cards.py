"""What a clip's card says."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from itertools import groupby

from morphe.core.advise.profile.verdict import ASK_BELOW
from morphe.core.advise.rungs import RUNGS
from morphe.core.measure.stand import TOGETHER_MIRED, TOGETHER_STOPS
from morphe.core.signal.profiles import Kind
from morphe.web.clips.models import Clip, JudgingFrame, LightGroup
from morphe.web.clips.services.grades.grade import under
from morphe.web.clips.services.reading.storage import sized_for_web
from morphe.web.clips.services.wall.stands import apart_of

__all__ = ["Card", "LightOfCards", "card_of", "lights_of"]

MOST_COLUMNS = 4
UNSURE = 0.6
ODD = 2.0  # times what is just seen, from where a clip is the odd one out


@dataclass(frozen=True, slots=True, kw_only=True)
class Card:
    """One clip in the list."""

    clip: Clip
    poster: JudgingFrame | None
    facts: tuple[str, ...]
    profile: str
    profile_doubt: str
    evidence: str
    note: str
    note_icon: str
    strong: tuple[str, ...]
    plain: tuple[str, ...]
    quiet: tuple[str, ...]
    word: str
    icon: str
    under: str  # by which grade the corrected picture is drawn
    verdict: str
    verdict_icon: str
    apart: str  # what sets it apart from its light
    is_odd: bool
    shots: int  # of the file, where it has several


def _verdict(clip: Clip) -> tuple[str, str]:
    """What is to be said of a clip as corrected, in a few words, and its icon."""
    found = clip.stand.get("verdict") if clip.stand.get("under") == under(clip) else None
    if found is None:
        return "Being looked at", "hourglass-split"
    if not clip.is_decided:
        return (
            f"{clip.proposals} proposal{'s wait' if clip.proposals != 1 else ' waits'}",
            "arrow-right-circle",
        )
    if found != "fits":
        return found.capitalize(), "exclamation-triangle"
    looks = [RUNGS[key].step.label.lower() for key, state in clip.states.items() if state == "open"]
    return (f"Look at {looks[0]}", "eye") if looks else ("Fits", "check-circle")


def _apart(clip: Clip, together: tuple[float, float]) -> tuple[str, bool]:
    apart = apart_of(clip)
    if apart is None:
        return "", False
    stops, mired = together
    words = apart.words_from(stops, mired)
    is_odd = abs(apart.stops) > ODD * stops or abs(apart.mired) > ODD * mired
    return (f"{words} than its light" if words else "Sits with its light"), is_odd


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


def card_of(clip: Clip, together: tuple[float, float] = (TOGETHER_STOPS, TOGETHER_MIRED)) -> Card:
    """Prepare a clip for its card; `together` says from which stops and mired it stands apart."""
    info, profile = clip.info, clip.profile
    facts: list[str] = []
    if info:
        turned = info["rotation"] in (90, 270)
        width, height = (info["height"], info["width"]) if turned else (info["width"], info["height"])
        rate = f"{info['fps']:g} fps{' variable' if info['variable_rate'] else ''}"
        facts += [f"{width}×{height}", rate, f"{info['bit_depth']}-bit", f"{clip.length_s:.1f} s"]
    confidence = profile.get("confidence", 0)
    doubt = "" if confidence >= ASK_BELOW else ("not sure" if confidence < UNSURE else "likely")
    word, icon = _stage(clip)

    verdict, verdict_icon = _verdict(clip)
    apart, is_odd = _apart(clip, together)
    note, icon_of_note, strong, plain, quiet = _to_know(clip)
    return Card(
        clip=clip,
        poster=clip.poster,
        facts=(*facts, sized_for_web(clip.size_bytes)),
        profile=Kind(profile["kind"]).word if profile else "",
        profile_doubt=doubt,
        evidence="; ".join(profile.get("evidence", [])),
        note=note,
        note_icon=icon_of_note,
        strong=strong,
        plain=plain,
        quiet=quiet,
        word=word,
        icon=icon,
        under=under(clip),
        verdict=verdict,
        verdict_icon=verdict_icon,
        apart=apart,
        is_odd=is_odd,
        shots=_shots(clip),
    )


def _shots(clip: Clip) -> int:
    known = (clip.whole or clip).shots_now
    return known.count if known is not None and known.count > 1 else 0


@dataclass(frozen=True, slots=True, kw_only=True)
class LightOfCards:
    """Cards under one light, as the listing shows them."""

    group: LightGroup | None
    cards: list[Card]

    @property
    def span(self) -> int:
        """Columns that the light takes beside others."""
        return min(len(self.cards), MOST_COLUMNS)


def lights_of(cards: Iterable[Card]) -> list[LightOfCards]:
    """Cards, sorted by light already, under their lights."""
    return [
        LightOfCards(group=group, cards=list(found))
        for group, found in groupby(cards, lambda c: c.clip.group)
    ]


Sentences = tuple[str, ...]


def _to_know(clip: Clip) -> tuple[str, str, Sentences, Sentences, Sentences]:
    """What the folded line says, its icon, and what opens: what matters, what is as it should be, more."""
    differs, agrees, unknown = (
        tuple(c["sentence"] for c in clip.checks if c["agrees"] is wanted) for wanted in (False, True, None)
    )
    drift = tuple(clip.drift.get("sentences", ())) if clip.drift else ()
    bends = str(clip.headroom.get("sentence", ""))
    take = f"Take {clip.take.number}{f': {clip.take.note}' if clip.take.note else ''}" if clip.take else ""
    strong = (*differs, *drift)
    note = strong[0] if strong else bends
    if len(strong) > 1:
        note += f" And {len(strong) - 1} more."
    icon = "exclamation-triangle" if strong else "rulers"
    return (
        note,
        icon,
        strong,
        tuple(t for t in (bends, *agrees) if t),
        tuple(t for t in (take, *unknown) if t),
    )

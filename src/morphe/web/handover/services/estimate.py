"""How large and how long a delivery is likely to be, and what to check before it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from morphe.core.advise.rungs import RUNGS
from morphe.core.handover.parts import Part, parts_from_json
from morphe.core.handover.presets import PRESETS
from morphe.core.signal.profiles import Kind
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades import grade_of, under
from morphe.web.clips.services.parts import parts_of
from morphe.web.clips.services.storage import sized_for_web
from morphe.web.handover.models import HandOver

__all__ = ["Offer", "offer_of", "pixel_rate"]

DEFAULT_PIXEL_RATE = 40e6  # pixels a second, until this computer has rendered something


@dataclass(frozen=True, slots=True, kw_only=True)
class Offer:
    """A clip ready to be handed over."""

    clip: Clip
    under: str  # by which grade its picture is drawn
    size: str
    time: str
    checks: tuple[tuple[str, str], ...]  # icon, sentence


def _pixels(clip: Clip, parts: Sequence[Part]) -> float:
    """Pixels of all frames that go out."""
    whole_s = float(clip.info["duration_s"])
    share = sum(p.length_s for p in parts) / whole_s if parts else 1.0
    return float(clip.info["width"] * clip.info["height"] * clip.info["frames"]) * share


def _rate(order: HandOver) -> float:
    return _pixels(order.clip, parts_from_json(order.parts)) / (order.seconds or 1.0)


def pixel_rate(preset: str) -> float:
    """Pixels a second of a preset: what the last renders here achieved, its own if there are any."""
    done = HandOver.objects.done().filter(seconds__gt=0).select_related("clip")
    own = [_rate(order) for order in done.filter(preset=preset)[:5] if order.clip.info]
    if own:
        return sum(own) / len(own)
    others = [_rate(order) * _effort(order.preset) for order in done[:5] if order.clip.info]
    return (sum(others) / len(others) if others else DEFAULT_PIXEL_RATE) / _effort(preset)


def _effort(preset: str) -> float:
    return PRESETS.get(preset).effort if preset in PRESETS else 1.0


def offer_of(clip: Clip, preset: str, *, rate: float) -> Offer:
    """Estimate a delivery and check the clip for it."""
    parts = parts_of(clip)
    pixels = _pixels(clip, parts)
    seconds = pixels / rate
    chosen = PRESETS.get(preset)
    size = _kept_of(clip, chosen.ratio) * pixels * chosen.bits_per_pixel / 8
    if chosen.megabytes:
        size = min(size, chosen.megabytes * 1e6)
    checks = []
    if parts:
        word = "one part" if len(parts) == 1 else f"{len(parts)} parts, joined"
        going_s = sum(p.length_s for p in parts)
        checks.append(("scissors", f"{word.capitalize()}: {going_s:.1f} of {clip.info['duration_s']:.1f} s."))
    if not clip.is_corrected:
        checks.append(("info-circle", "Nothing has been decided for this clip: it goes out as filmed."))
    kind = Kind(clip.profile.get("kind", Kind.STANDARD))
    if kind is not Kind.STANDARD and not _converts(clip):
        checks.append(("exclamation-triangle", f"It was filmed {kind.word} and is not converted."))
    checks += [("eye", sentence) for sentence in _open(clip)]
    checks += [("exclamation-triangle", sentence) for sentence in clip.lost]
    if not checks:
        checks.append(("check-circle", "Nothing speaks against it."))
    return Offer(
        clip=clip,
        under=under(clip),
        size=f"about {sized_for_web(size)}",
        time=f"about {max(1, round(seconds))} s" if seconds < 90 else f"about {seconds / 60:.0f} min",
        checks=tuple(checks),
    )


def _kept_of(clip: Clip, ratio: float) -> float:
    """Share of the picture that a crop to a shape leaves."""
    own = clip.info["width"] / clip.info["height"]
    return float(min(ratio / own, own / ratio)) if ratio else 1.0


def _open(clip: Clip) -> list[str]:
    """What lies outside its zone and waits for a person's eye: nothing was proposed, and nothing set."""
    grade = grade_of(clip)
    waiting = [k for k, state in clip.states.items() if state == "open" and k in RUNGS]
    unset = [k for k in waiting if not any(layer.step(k).at_work for layer in grade.layers)]
    said = [f"{RUNGS[k].step.label} lies outside its zone: look at it on the Bench." for k in unset]
    verdict = clip.stand.get("verdict", "fits") if clip.stand.get("under") == under(clip) else "fits"
    return said if verdict == "fits" else [*said, f"As corrected, {verdict} in some of its frames."]


def _converts(clip: Clip) -> bool:
    return grade_of(clip).convert.at_work

"""How large and how long a delivery is likely to be, and what to check before it."""

from __future__ import annotations

from dataclasses import dataclass

from morphe.core.grade import recipe
from morphe.core.handover.presets import PRESETS
from morphe.core.signal.profiles import Kind
from morphe.web.clips.models import Clip
from morphe.web.clips.services.storage import sized_for_web
from morphe.web.handover.models import HandOver

__all__ = ["Offer", "offer_of", "pixel_rate"]

DEFAULT_PIXEL_RATE = 40e6  # pixels a second, until this computer has rendered something


@dataclass(frozen=True, slots=True, kw_only=True)
class Offer:
    """A clip ready to be handed over."""

    clip: Clip
    size: str
    time: str
    checks: tuple[tuple[str, str], ...]  # icon, sentence


def _pixels(clip: Clip) -> float:
    return float(clip.info["width"] * clip.info["height"] * clip.info["frames"])


def pixel_rate() -> float:
    """Pixels a second: what the last renders on this computer achieved."""
    done = HandOver.objects.done().filter(seconds__gt=0).select_related("clip")[:5]
    rates = [_pixels(j.clip) / j.seconds for j in done if j.clip.info]
    return sum(rates) / len(rates) if rates else DEFAULT_PIXEL_RATE


def offer_of(clip: Clip, preset: str, *, rate: float) -> Offer:
    """Estimate a delivery and check the clip for it."""
    pixels = _pixels(clip)
    seconds = pixels / rate
    size = pixels * PRESETS.get(preset).bits_per_pixel / 8
    checks = []
    if not clip.is_corrected:
        checks.append(("info-circle", "Nothing has been decided for this clip: it goes out as filmed."))
    kind = Kind(clip.profile.get("kind", Kind.STANDARD))
    if kind is not Kind.STANDARD and not _converts(clip):
        checks.append(("exclamation-triangle", f"It was filmed {kind.word} and is not converted."))
    checks += [("exclamation-triangle", sentence) for sentence in clip.lost]
    if not checks:
        checks.append(("check-circle", "Nothing speaks against it."))
    return Offer(
        clip=clip,
        size=f"about {sized_for_web(size)}",
        time=f"about {max(1, round(seconds))} s" if seconds < 90 else f"about {seconds / 60:.0f} min",
        checks=tuple(checks),
    )


def _converts(clip: Clip) -> bool:
    return clip.version is not None and recipe.from_json(clip.version.grade).convert.at_work

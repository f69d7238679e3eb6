"""How large and how long a delivery is likely to be, and what to check before it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from django.core.cache import cache

from morphe.core.advise.rungs import RUNGS
from morphe.core.advise.whole.strain import strain_of
from morphe.core.footage.info import SignalInfo
from morphe.core.footage.motion import Motion
from morphe.core.handover.device_fit import device_fit
from morphe.core.handover.hdr import why_not_hdr
from morphe.core.handover.parts import Part
from morphe.core.handover.presets import Preset
from morphe.core.handover.rhythm import rhythm_cost
from morphe.core.pipeline.hdr_space import left_out
from morphe.core.signal.profiles import Kind
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of, under
from morphe.web.clips.services.reading.kept import strength_of
from morphe.web.clips.services.reading.shots import going_out
from morphe.web.clips.services.reading.storage import sized_for_web
from morphe.web.clips.services.wall.parts import parts_of
from morphe.web.handover.models import HandOver
from morphe.web.handover.services.wish import Wish

__all__ = ["Offer", "offer_of", "pixel_rate"]

WARNS, LOOK, NOTE = "exclamation-triangle", "eye", "info-circle"
STRAINED = 1.0  # where a file breaks
KEPT_S = 3600  # a sentence about a grade, until that grade changes
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
    return _pixels(order.clip, order.wanted.parts) / (order.seconds or 1.0)


def pixel_rate(preset: Preset) -> float:
    """Pixels a second of a preset: what the last renders here achieved, its own if there are any."""
    done = HandOver.objects.timed().select_related("clip")
    own = [_rate(order) for order in done.filter(preset=preset.key)[:5] if order.clip.info]
    if own:
        return sum(own) / len(own)
    others = [_rate(order) * order.wanted.preset.effort for order in done[:5] if order.clip.info]
    return (sum(others) / len(others) if others else DEFAULT_PIXEL_RATE) / preset.effort


def offer_of(clip: Clip, wish: Wish, *, rate: float) -> Offer:
    """Estimate a delivery and check the clip for it."""
    preset = wish.preset
    pixels = _pixels(clip, going_out([clip]))
    seconds = pixels / rate
    size = _kept_of(clip, preset.ratio) * pixels * preset.bits_per_pixel / 8
    if wish.delivery.limit_megabytes:
        size = min(size, wish.delivery.limit_megabytes * 1e6)
    checks = [*_of_parts(clip, parts_of(clip)), *_of_grade(clip), *_of_file(clip, wish)]
    if not any(icon in (WARNS, LOOK) for icon, _ in checks):
        checks.insert(0, ("check-circle", "Nothing speaks against it."))
    return Offer(
        clip=clip,
        under=under(clip),
        size=f"about {sized_for_web(size)}",
        time=f"about {max(1, round(seconds))} s" if seconds < 90 else f"about {seconds / 60:.0f} min",
        checks=tuple(checks),
    )


Said = list[tuple[str, str]]


def _of_parts(clip: Clip, parts: Sequence[Part]) -> Said:
    if not parts:
        return []
    word = "one part" if len(parts) == 1 else f"{len(parts)} parts, joined"
    going_s = sum(p.length_s for p in parts)
    return [("scissors", f"{word.capitalize()}: {going_s:.1f} of {clip.length_s:.1f} s.")]


def _of_grade(clip: Clip) -> Said:
    """What of its grade speaks against it."""
    said: Said = []
    if not clip.is_corrected:
        said.append((NOTE, "Nothing has been decided for this clip: it goes out as filmed."))
    kind = Kind(clip.profile.get("kind", Kind.STANDARD))
    if kind is not Kind.STANDARD and not _converts(clip):
        said.append((WARNS, f"It was filmed {kind.word} and is not converted."))
    said += [(LOOK, sentence) for sentence in _open(clip)]
    said += [(WARNS, sentence) for sentence in clip.lost]
    strained = cache.get_or_set(f"strained-{clip.pk}-{under(clip)}", lambda: _strained(clip), KEPT_S)
    return [*said, (WARNS, strained)] if strained else said


def _strained(clip: Clip) -> str:
    """What shows of a file that is bent too far; empty where nothing does."""
    strain = strain_of(strength_of(clip), grade_of(clip), with_cure=False)
    return strain.sentence if strain.worst > STRAINED else ""


def _of_file(clip: Clip, wish: Wish) -> Said:
    """What the file will be, and what that costs."""
    said: Said = []
    info, preset, wanted = clip.signal, wish.preset, wish.delivery
    if preset.hdr:
        grade = grade_of(clip)
        reason, behind = why_not_hdr(info, grade), left_out(grade)
        if reason:
            said.append((WARNS, f"{reason} Web is what fits it."))
        elif behind:
            said.append((NOTE, f"Not in HDR: {', '.join(behind)}."))
    elif info.is_hdr:
        said.append((NOTE, "Filmed in HDR, goes out as an ordinary picture."))
    if info.motion is Motion.LOST:
        said.append((WARNS, "Its motion data cannot go along: steady it first, then correct the result."))
    elif info.motion is Motion.KEPT:
        said.append((NOTE, "Its motion data goes along."))
    if wanted.fps and (cost := rhythm_cost(round(float(info.fps), 3), round(float(wanted.fps), 3))):
        said.append((NOTE, cost))
    if wanted.size:
        said += [(NOTE, cost) for cost in [_shape_cost(info.upright_size, wanted.size)] if cost]
    return said + [(NOTE, sentence) for sentence in _refused(preset, info)]


def _shape_cost(own: tuple[int, int], wanted: tuple[int, int]) -> str:
    """What it costs to lay a picture into another size, in a sentence."""
    by = min(wanted[0] / own[0], wanted[1] / own[1])
    bars = abs(own[0] / own[1] - wanted[0] / wanted[1]) > 0.01
    said = []
    if by > 1.01:
        said.append(f"enlarged {by:.2g} times, which adds no detail")
    elif by < 0.99:
        said.append(f"made smaller, to {100 * by:.0f} %")
    if bars:
        said.append("bars fill what its shape leaves")
    return f"{own[0]} × {own[1]} into {wanted[0]} × {wanted[1]}: {', '.join(said)}." if said else ""


def _refused(preset: Preset, info: SignalInfo) -> list[str]:
    fits = device_fit(preset, preset.bits_for(info.bit_depth), info.upright_size, float(info.fps))
    reasons: dict[str, list[str]] = {}
    for fit in fits:
        if not fit.plays:
            reasons.setdefault(fit.why, []).append(fit.device)
    return [f"Not for {' and '.join(devices)}: {why}." for why, devices in reasons.items()]


def _kept_of(clip: Clip, ratio: float) -> float:
    """Share of the picture that a crop to a shape leaves."""
    own = clip.info["width"] / clip.info["height"]
    return float(min(ratio / own, own / ratio)) if ratio else 1.0


def _open(clip: Clip) -> list[str]:
    """What lies outside its zone and waits for a person's eye: nothing was proposed, and nothing set."""
    grade = grade_of(clip)
    waiting = [k for k, state in clip.states.items() if state == "open" and k in RUNGS]
    unset = [k for k in waiting if not any(layer.step(k).at_work for layer in grade.layers)]
    said = [f"{RUNGS[k].step.label} lies outside its zone." for k in unset]
    verdict = clip.stand.get("verdict", "fits") if clip.stand.get("under") == under(clip) else "fits"
    return said if verdict == "fits" else [*said, f"As corrected, {verdict} in some of its frames."]


def _converts(clip: Clip) -> bool:
    return grade_of(clip).convert.at_work

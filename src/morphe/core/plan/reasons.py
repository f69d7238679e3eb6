"""The card's lines on profile and exposure: value, reason, runner-up."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import replace

from morphe.core.plan.answer import Answer
from morphe.core.plan.exposure import Pins, Settings
from morphe.core.plan.kit import School
from morphe.core.plan.latitude import scene_span, usable
from morphe.core.plan.profile_choice import Circumstances, choose
from morphe.core.plan.questions import Delivery, Device
from morphe.core.plan.shutter import (
    DETAIL_SHARE,
    angle_of,
    band_beat_hz,
    blur_share,
    flicker_residual,
    time_of,
)
from morphe.core.plan.solution import Solution
from morphe.core.plan.target import Target
from morphe.core.plan.wording import offset, shutter, stops
from morphe.core.signal.profiles import Kind

__all__ = ["aperture_words", "exposure_lines", "filter_words", "profile_line", "sensitivity"]

MOST_TURNS = 3


def profile_line(plan: Solution) -> Answer:
    """The profile, what speaks for it, what comes second, and what would change the answer."""
    best, others = plan.best, plan.verdicts[1:]
    why, cost = best.speaks_for[:2], best.speaks_against[:1]
    reason = f"{_sentence(why)}" + (f" Against it: it {cost[0]}." if cost else "")
    runner_up = ""
    if others:
        against = others[0].speaks_against[:1] or ["has a little less to say for it"]
        runner_up = f"{others[0].profile.label}, which {against[0]}."
    return Answer(
        key="profile",
        label="Profile",
        value=best.profile.label,
        reason=reason,
        runner_up=runner_up,
        warning=" ".join(filter(None, (_hdr_warning(plan), _latitude_warning(plan)))),
        numbers={
            "profile": best.profile.key,
            "kind": str(best.profile.kind),
            "points": round(best.points, 2),
            "scores": {v.profile.key: round(v.points, 2) for v in plan.verdicts},
            "factors": [{"points": round(f.points, 2), "sentence": f.sentence} for f in best.factors],
            "sensitivity": sensitivity(plan),
        },
    )


def _sentence(parts: list[str]) -> str:
    if not parts:
        return "Nothing better is in the kit."
    return f"It {' and '.join(parts)}."


def _hdr_warning(plan: Solution) -> str:
    if plan.questions.delivery is not Delivery.WEB_HDR or plan.about.all_hdr:
        return ""
    return (
        "HDR can only be delivered if every camera films it; one of this day does not, so plan "
        "ordinary video."
    )


def _latitude_warning(plan: Solution) -> str:
    holds = usable(plan.best.profile.key, plan.recording.bit_depth, plan.iso_stops)
    scene = scene_span(plan.scene.contrast_stops)
    clipped = scene.above + plan.offset_stops + plan.settings.error_stops - holds.above
    if clipped <= 0.3:
        return ""
    return (
        f"The brightest {stops(round(3 * clipped) / 3)} of this scene will clip; keep them out of the "
        "frame or expose for them."
    )


def _turns(about: Circumstances) -> Iterable[tuple[str, Circumstances]]:
    """Changes of circumstance that are worth knowing, the likeliest first."""
    words = {0.0: "no time", 0.5: "half an hour", 1.0: "an hour", 2.0: "two hours", 4.0: "four hours"}
    for hours in sorted(words, key=lambda h: abs(h - about.grading_hours)):
        if abs(hours - about.grading_hours) > 0.2:
            yield f"If you had {words[hours]} for grading", replace(about, grading_hours=hours)
    yield "With three stops more contrast", replace(about, contrast_stops=about.contrast_stops + 3)
    yield "With three stops less contrast", replace(about, contrast_stops=max(3, about.contrast_stops - 3))
    yield "If it were so dim that ISO rose two stops", replace(about, iso_stops=about.iso_stops + 2)
    if about.iso_stops > 0.5:
        yield "With light enough for base ISO", replace(about, iso_stops=0.0)
    for delivery in Delivery:
        if delivery is not about.delivery and delivery is not Delivery.VERTICAL:
            yield (
                f"Delivered as {delivery.word.lower().replace('hdr', 'HDR')}",
                replace(about, delivery=delivery),
            )
    if about.device is not Device.LAPTOP:
        yield "Finished on a laptop", replace(about, device=Device.LAPTOP)


def sensitivity(plan: Solution) -> list[str]:
    """What would change the profile: "If you had two hours for grading: Wide log."."""
    said: dict[str, str] = {}
    families: set[str] = set()
    for words, about in _turns(plan.about):
        winner = choose(plan.kit, about)[0].profile
        family = "hours" if "grading" in words else words
        if winner.key == plan.best.profile.key or winner.key in said or family in families:
            continue
        families.add(family)
        said[winner.key] = f"{words}: {winner.label}."
    return list(said.values())[:MOST_TURNS]


def exposure_lines(plan: Solution) -> list[Answer]:
    """Target, shutter, aperture, filter and ISO."""
    return [
        _target_line(plan),
        _shutter_line(plan),
        *_aperture_line(plan),
        _filter_line(plan),
        _iso_line(plan),
    ]


def _aimed(school: School, offset_stops: float) -> str:
    if abs(offset_stops) < 0.05:
        return School.METER.word
    return f"{school.word}, {offset(offset_stops)}"


def _other_school(plan: Solution) -> School:
    """The school that comes second: bright exposure is for log alone."""
    chosen, is_log = plan.target.school, plan.best.profile.kind is Kind.LOG
    if chosen is School.METER:
        return School.BRIGHT if is_log else School.UNDER
    return School.METER


def _risk(target: Target) -> str:
    return f"Risk: {target.risk[0].lower()}{target.risk[1:]}"


def _target_line(plan: Solution) -> Answer:
    target, lesson = plan.target, plan.questions.lesson_stops
    reason = target.reason
    if lesson:
        reason += f" A lesson of this camera adds {stops(lesson)} {'more' if lesson > 0 else 'less'}."
    other = plan.aim(_other_school(plan))
    return Answer(
        key="target",
        label="Exposure",
        value=offset(plan.offset_stops) if abs(plan.offset_stops) >= 0.05 else School.METER.word,
        reason=f"{target.school.word}: {reason[0].lower()}{reason[1:]} {_risk(target)}",
        runner_up=f"{_aimed(other.school, other.offset_stops)}. {_risk(other)}",
        numbers={
            "school": str(target.school),
            "offset_stops": round(plan.offset_stops, 3),
            "lesson_stops": round(lesson, 3),
        },
    )


def _shutter_line(plan: Solution) -> Answer:
    settings, fps = plan.settings, plan.fps
    angle = angle_of(settings.shutter_s, fps)
    width = plan.recording.width
    blur = blur_share(plan.scene.motion.widths_per_s, settings.shutter_s)
    reason = [plan.angle.reason]
    if abs(plan.wanted_shutter_s / settings.shutter_s - 1) > 0.3:
        reason.append(_why_moved(plan))
    reason.append(f"{angle:.0f}° at {fps:g} fps; moving things smear over {blur * width:.0f} px.")
    warnings = [_flicker_words(plan)] if plan.flicker_hz else []
    if blur > DETAIL_SHARE:
        warnings.append(
            f"The smear is {blur:.1%} of the width: fine detail goes. Pan more slowly or use a faster "
            "shutter."
        )
    numbers = {
        "shutter_s": settings.shutter_s,
        "angle_deg": round(angle, 1),
        "blur_px": round(blur * width, 1),
        "blur_share_pct": round(100 * blur, 2),
    }
    if plan.flicker_hz:
        numbers["flicker_residual_pct"] = round(
            100 * flicker_residual(settings.shutter_s, plan.flicker_hz), 1
        )
        numbers["band_beat_hz"] = round(band_beat_hz(fps, plan.flicker_hz), 2)
    return Answer(
        key="shutter",
        label="Shutter",
        value=shutter(settings.shutter_s),
        reason=" ".join(reason),
        runner_up=_other_shutter(plan),
        warning=" ".join(w for w in warnings if w),
        numbers=numbers,
    )


def _other_shutter(plan: Solution) -> str:
    wanted = time_of(plan.angle.other_deg, plan.fps)
    other = plan.resolve(shutter_s=wanted)
    if other.shutter_s != plan.settings.shutter_s:
        return f"{shutter(other.shutter_s)} ({_rest(other)}): {plan.angle.other_reason}."
    held = plan.resolve(pins=Pins(shutter_s=wanted))
    return f"{shutter(held.shutter_s)} ({_rest(held)}): {plan.angle.other_reason}."


def _why_moved(plan: Solution) -> str:
    wanted, settings = shutter(plan.wanted_shutter_s), plan.settings
    if plan.pins.shutter_s is not None:
        return f"Held by you; {wanted} would be usual."
    if settings.shutter_s < plan.wanted_shutter_s:
        return f"Without a filter that is strong enough {wanted} would be too bright."
    if plan.flicker_hz and settings.is_good:
        return f"{wanted} would flicker under the lamps."
    return f"{wanted} would be too dark at ISO {settings.iso:g}."


def _flicker_words(plan: Solution) -> str:
    hz = plan.flicker_hz or 50
    left = flicker_residual(plan.settings.shutter_s, hz)
    if left < 0.03:
        return f"Safe under {hz:g} Hz lamps; LED drivers differ, so film ten seconds as a test."
    beat = band_beat_hz(plan.fps, hz)
    moving = f"bands wander at {beat:g} Hz" if beat else "bands stand still"
    return (
        f"Lamps on {hz:g} Hz mains leave {left:.0%} of their flicker and {moving}; film ten seconds as "
        "a test."
    )


def _rest(settings: Settings) -> str:
    """The rest of a solution in short: "ND16, ISO 100"."""
    return f"{filter_words(settings)}, ISO {settings.iso:g}{_error_words(settings)}"


def _error_words(settings: Settings) -> str:
    if settings.is_good:
        return ""
    return f", {stops(round(settings.error_stops, 1))} too {'bright' if settings.error_stops > 0 else 'dark'}"


def filter_words(settings: Settings) -> str:
    """The neutral density filter as it stands on its rim."""
    return settings.nd.name if settings.nd else "no ND"


def aperture_words(value: float) -> str:
    """An f-number."""
    return f"f/{value:.3g}"


def _aperture_line(plan: Solution) -> list[Answer]:
    if plan.kit.has_fixed_aperture:
        return []
    settings = plan.settings
    other = plan.resolve(pins=Pins(aperture=plan.kit.aperture_widest))
    return [
        Answer(
            key="aperture",
            label="Aperture",
            value=aperture_words(settings.aperture),
            reason="About one stop down is sharpest; it opens for dim light and closes when no filter helps.",
            runner_up=f"{aperture_words(other.aperture)} ({_rest(other)}): a softer background.",
            numbers={"aperture": settings.aperture},
        )
    ]


def _filter_line(plan: Solution) -> Answer:
    settings = plan.settings
    shown = filter_words(settings)
    wanted = f"{shutter(plan.wanted_shutter_s)} at ISO {plan.kit.iso_base:g}"
    if settings.nd:
        reason = f"Holds {shutter(settings.shutter_s)} in this light ({stops(settings.nd_stops)})."
    elif settings.iso > plan.kit.iso_base:
        reason = "There is no light to spare."
    elif plan.kit.densities:
        reason = f"Nothing in the bag fits between this light and {wanted}."
    else:
        reason = "You own none for this camera."
    return Answer(
        key="filter",
        label="Filter",
        value=shown[0].upper() + shown[1:] if settings.nd else "None",
        reason=reason,
        runner_up=_other_filter(plan),
        warning=_filter_warning(plan),
        numbers={"nd_stops": settings.nd_stops, "error_stops": round(settings.error_stops, 3)},
    )


def _other_filter(plan: Solution) -> str:
    """The next weaker or stronger filter, with what it would cost."""
    owned = [0.0, *(f.stops for f in plan.kit.densities)]
    if len(owned) == 1 or (not plan.settings.nd and plan.settings.iso > plan.kit.iso_base):
        return ""
    index = owned.index(plan.settings.nd_stops)
    tries = [owned[i] for i in (index - 1, index + 1) if 0 <= i < len(owned)]
    found = [plan.resolve(pins=Pins(nd_stops=nd)) for nd in tries]
    best = min(found, key=lambda s: (not s.is_good, abs(s.error_stops)))
    name = filter_words(best)
    return (
        f"{name[0].upper()}{name[1:]} with {shutter(best.shutter_s)}, ISO {best.iso:g}{_error_words(best)}."
    )


def _filter_warning(plan: Solution) -> str:
    """The best compromise in words, when the camera cannot hold what was wanted."""
    settings = plan.settings
    if settings.error_stops > 0 and not settings.is_good:
        need = settings.nd_stops + settings.error_stops
        return (
            f"Still {stops(round(settings.error_stops, 1))} too bright: an ND of {need:.0f} stops "
            "would hold it."
        )
    if settings.is_good and plan.wanted_shutter_s / settings.shutter_s > 1.6 and plan.pins.shutter_s is None:
        need = round(settings.nd_stops + math.log2(plan.wanted_shutter_s / settings.shutter_s))
        return f"An ND{2**need} ({stops(need)}) would hold {shutter(plan.wanted_shutter_s)}."
    return ""


def _iso_line(plan: Solution) -> Answer:
    settings, kit = plan.settings, plan.kit
    raised = plan.iso_stops
    warning = ""
    if settings.error_stops < 0 and not settings.is_good:
        warning = (
            f"Still {stops(round(settings.error_stops, 1))} too dark at the best this camera can do: "
            "bring a lamp, "
            "wait for more light, or hold still and expect noise."
        )
    elif settings.iso >= kit.iso_ceiling > kit.iso_base:
        warning = "This is your ceiling for this camera: expect noise, and grade with small moves."
    if raised < 0.1:
        reason = "The lowest ISO exposes this scene; noise breaks grading."
    else:
        reason = (
            f"Raised by {stops(round(3 * raised) / 3)}, so that {shutter(settings.shutter_s)} is not "
            "too dark."
        )
    other = plan.resolve(
        pins=Pins(
            iso=min(settings.iso * 2, kit.iso_ceiling)
            if raised < 0.1
            else max(settings.iso / 2, kit.iso_base)
        )
    )
    return Answer(
        key="iso",
        label="ISO",
        value=f"{settings.iso:g}",
        reason=reason,
        runner_up=f"ISO {other.iso:g} with {shutter(other.shutter_s)}, "
        f"{filter_words(other)}{_error_words(other)}.",
        warning=warning,
        numbers={"iso": settings.iso, "error_stops": round(settings.error_stops, 3)},
    )

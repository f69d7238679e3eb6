"""The card's lines on everything but exposure: recording, steadiness, glass, white, water, room."""

from __future__ import annotations

from morphe.core.plan.answer import Answer
from morphe.core.plan.kit import Codec, Recording, Steadying
from morphe.core.plan.profile_choice import choose, matching_rate, score_profile, score_recording
from morphe.core.plan.questions import Delivery
from morphe.core.plan.shutter import time_of
from morphe.core.plan.solution import Solution
from morphe.core.plan.storage import editing_fit, needed_write_mb_s
from morphe.core.plan.under_water import red_verdict
from morphe.core.plan.white import white_balance
from morphe.core.plan.wording import minutes, shutter, stops
from morphe.core.signal.profiles import Kind

__all__ = ["handling_lines"]


def handling_lines(plan: Solution) -> list[Answer]:
    """Every line that follows from the plan's numbers, in the order in which a camera is set."""
    lines = [
        white_balance(
            plan.scene, plan.kit, plan.best.profile, plan.recording.bit_depth,
            filtered=bool(plan.water_filter and plan.water_filter.filter),
        ),
        _recording_line(plan),
        _rate_line(plan),
        _steadying_line(plan),
        *_lens_line(plan),
        *_water_lines(plan),
        *_processing_lines(plan),
        _storage_line(plan),
        _transfer_line(plan),
        _editing_line(plan),
    ]  # fmt: skip
    return lines


def _recording_line(plan: Solution) -> Answer:
    chosen = plan.recording
    others = [r for r in matching_rate(plan.kit.recordings, plan.fps) if r != chosen]
    ranked = sorted(others, key=lambda r: -_pair_points(plan, r))
    keeps = {
        Codec.H264: "plays everywhere",
        Codec.HEVC: "keeps about twice the detail of the older codec at one bitrate",
        Codec.INTRA: "flexes most, but fills the card and is slow to move",
    }[chosen.codec]
    bends = "10-bit bends where 8-bit breaks" if chosen.bit_depth >= 10 else "8-bit wants small moves"
    return Answer(
        key="recording",
        label="Recording",
        value=f"{chosen.codec.word} {chosen.bit_depth}-bit {chosen.chroma}, {chosen.size}, "
        f"{chosen.mbit_s:g} Mb/s",
        reason=f"{chosen.codec.word} {keeps}; {bends}. {chosen.bits_per_pixel:.2f} bits for each pixel.",
        runner_up=f"{ranked[0].label}, {ranked[0].mbit_s:g} Mb/s." if ranked else "",
        numbers={
            "codec": str(chosen.codec),
            "bit_depth": chosen.bit_depth,
            "chroma": chosen.chroma,
            "width": chosen.width,
            "height": chosen.height,
            "mbit_s": chosen.mbit_s,
            "bits_per_pixel": round(chosen.bits_per_pixel, 3),
        },
    )


def _pair_points(plan: Solution, recording: Recording) -> float:
    factors = score_profile(plan.best.profile, recording.bit_depth, plan.about)
    return sum(f.points for f in (*factors, *score_recording(recording, plan.about)))


def _rate_line(plan: Solution) -> Answer:
    fps, project, wanted = plan.fps, plan.project_fps, plan.questions.slow
    factor = fps / project
    reason = f"Matches {plan.questions.mains_hz} Hz lamps and a {project:g} fps project."
    warning = ""
    if wanted > 1:
        reason = (
            f"Played at {project:g} fps it is {factor:.3g} times slower; the shutter is "
            f"{shutter(time_of(180, fps))} at 180°."
        )
    if abs(factor / wanted - 1) > 0.01:
        warning = f"This camera has no {project * wanted:g} fps; {fps:g} is the nearest it has."
        if abs(factor - round(factor)) > 0.01:
            warning += " Played in the project frames will repeat or drop, so set the project to this rate."
    if plan.questions.delivery is Delivery.VERTICAL:
        kept = round(plan.recording.height * 9 / 16 / 2) * 2
        hint = (
            "turn the camera upright"
            if plan.kit.kind == "phone"
            else f"a level crop keeps {kept} of {plan.recording.width} px"
        )
        reason += f" Vertical: {hint}."
    other = 1 if wanted > 1 else 2
    other_fps = matching_rate(plan.kit.recordings, project * other)[0].fps
    runner_up = (
        ""
        if other_fps == fps
        else f"{other_fps:g} fps"
        + (f", {other_fps / project:.3g} times slower." if other > 1 else " at natural speed.")
    )
    return Answer(
        key="frame-rate", label="Frame rate", value=f"{fps:g} fps", reason=reason, runner_up=runner_up,
        warning=warning, numbers={"fps": fps, "project_fps": project, "slow_factor": round(factor, 3)},
    )  # fmt: skip


def _steadying_line(plan: Solution) -> Answer:
    first, rest = plan.steadying[0], plan.steadying[1:]
    grip = (
        " A grip or cage steadies it further."
        if first.way in (Steadying.IN_CAMERA, Steadying.MOTION_DATA)
        else ""
    )
    return Answer(
        key="steadying",
        label="Steadying",
        value=first.way.word,
        reason=first.reason + grip,
        runner_up=f"{rest[0].way.word}: {rest[0].reason[0].lower()}{rest[0].reason[1:]}" if rest else "",
        numbers={"ranking": [str(r.way) for r in plan.steadying]},
    )


def _lens_line(plan: Solution) -> list[Answer]:
    kit, lens = plan.kit, plan.lens
    if len(kit.lens_modes) < 2 and plan.cover is None:
        return []
    if plan.scene.shot.lens == "narrow":
        reason = "Wide modes stretch a face near the edge."
    elif plan.scene.is_dim:
        reason = "It passes the most light."
    else:
        reason = "Wide shows the way and hides shakes; keep people off the edges."
    value = lens.name
    if plan.cover:
        value += f", {plan.cover.name}"
        reason += f" Glass takes {stops(plan.cover.cost_stops)}." if plan.cover.cost_stops else ""
    others = [m for m in kit.lens_modes if m != lens]
    clearer = [c for c in kit.covers if plan.cover and c.cost_stops < plan.cover.cost_stops]
    runner_up = f"{others[0].name} ({others[0].width_deg:.0f}° wide)." if others else ""
    if clearer:
        runner_up += f" {clearer[0].name} passes more light."
    return [
        Answer(
            key="lens", label="Lens", value=value, reason=reason, runner_up=runner_up.strip(),
            numbers={"lens": lens.name, "cover": plan.cover.name if plan.cover else None,
                     "glass_stops": round(plan.glass_stops, 3)},
        )
    ]  # fmt: skip


def _water_lines(plan: Solution) -> list[Answer]:
    light, chosen = plan.scene.water, plan.water_filter
    if light is None or chosen is None:
        return []
    lamp = "Lamp on" if light.has_lamp else None
    behind = round(light.red_behind_stops, 2)
    closer = 1.4427 * light.water.beam[0]
    return [
        Answer(
            key="water",
            label="Under water",
            value=lamp or (chosen.filter.name if chosen.filter else "No colour filter"),
            reason=f"{chosen.reason} {red_verdict(light, plan.recording.bit_depth)}",
            runner_up=f"{chosen.runner_up} Every metre closer is worth {stops(round(closer, 1))} of red.",
            numbers={
                "water": light.water.key,
                "depth_m": light.depth_m,
                "distance_m": light.distance_m,
                "lamp": light.has_lamp,
                "filter": chosen.filter.name if chosen.filter else None,
                "daylight_left_pct": [round(100 * v, 2) for v in light.daylight],
                "lamp_left_pct": [round(100 * v, 2) for v in light.lamp],
                "red_behind_stops": behind,
                "lost_stops": round(light.lost_stops, 2),
            },
        )
    ]


def _processing_lines(plan: Solution) -> list[Answer]:
    return [*_sharpness_line(plan), *_noise_line(plan)]


def _sharpness_line(plan: Solution) -> list[Answer]:
    levels = plan.kit.sharpness
    if not levels:
        return []
    at_once = plan.questions.grading_hours == 0 and plan.best.profile.kind is Kind.STANDARD
    usual = len(levels) // 2
    reason = "Sharpness can be added later; halos cannot be removed."
    return [
        Answer(
            key="sharpness",
            label="Sharpness",
            value=levels[usual if at_once else 0],
            reason="Shown at once, it needs some sharpness." if at_once else reason,
            runner_up=f"{levels[0]}, to be sharpened later."
            if at_once
            else f"{levels[usual]}, if you add none later.",
            numbers={"sharpness": levels[usual if at_once else 0]},
        )
    ]


def _noise_line(plan: Solution) -> list[Answer]:
    levels = plan.kit.noise_reduction
    if not levels:
        return []
    usual = levels.index("medium") if "medium" in levels else len(levels) // 2
    chosen = levels[max(0, usual - 1)]
    return [
        Answer(
            key="noise",
            label="Noise reduction",
            value=chosen,
            reason="One notch below usual: the least shows noise, the usual looks plastic.",
            runner_up=f"{levels[usual]}, for high ISO and no time to clean up.",
            numbers={"noise_reduction": chosen},
        )
    ]


def _storage_line(plan: Solution) -> Answer:
    room, rate = plan.room, plan.recording.mbit_s
    needed = needed_write_mb_s(rate)
    warning = ""
    if not room.is_enough:
        warning = (
            f"{minutes(room.wanted_minutes)} and some spare need {room.needed_gb:.0f} GB: take "
            "another card or record less."
        )
    elif room.card and room.card.write_mb_s < needed:
        warning = (
            f"{room.card.name} writes {room.card.write_mb_s:g} MB/s, {needed:.0f} are needed: takes "
            "may break off."
        )
    source = room.card.name if room.card else "storage"
    return Answer(
        key="storage",
        label="Room",
        value=f"{minutes(room.fits_minutes)} fit",
        reason=f"{room.usable_gb:.0f} GB of {source} can be used, a tenth kept free; "
        f"{minutes(room.wanted_minutes)} "
        f"with spare takes {room.needed_gb:.1f} GB, with a backup {room.with_backup_gb:.1f} GB.",
        runner_up=_smaller(plan),
        warning=warning,
        numbers={
            "usable_gb": round(room.usable_gb, 2),
            "fits_minutes": round(room.fits_minutes, 1),
            "wanted_minutes": room.wanted_minutes,
            "needed_gb": round(room.needed_gb, 2),
            "with_backup_gb": round(room.with_backup_gb, 2),
            "needed_write_mb_s": round(needed, 1),
        },
    )


def _smaller(plan: Solution) -> str:
    lighter = [r for r in matching_rate(plan.kit.recordings, plan.fps) if r.mbit_s < plan.recording.mbit_s]
    if not lighter:
        return ""
    other = max(lighter, key=lambda r: r.mbit_s)
    fits = plan.room.fits_minutes * plan.recording.mbit_s / other.mbit_s
    return f"{other.label}: {minutes(fits)} fit."


def _transfer_line(plan: Solution) -> Answer:
    room = plan.room
    speed = room.card.read_mb_s if room.card else 90.0
    phone = plan.kit.kind == "phone" and plan.recording.codec is Codec.INTRA
    return Answer(
        key="transfer",
        label="To the computer",
        value=minutes(room.transfer_minutes),
        reason=f"{room.needed_gb:.1f} GB at {speed:g} MB/s by cable or reader.",
        runner_up=f"Over weak Wi-Fi (5 MB/s) {minutes(room.needed_gb * 1000 / 5 / 60)}.",
        warning="Intra files are slow to move off a phone; take a cable." if phone else "",
        numbers={"transfer_minutes": round(room.transfer_minutes, 2), "read_mb_s": speed},
    )


def _editing_line(plan: Solution) -> Answer:
    fit = editing_fit(plan.recording, plan.questions.device)
    lighter = sorted(
        (
            v
            for v in choose(plan.kit, plan.about)
            if editing_fit(v.recording, plan.questions.device).load < fit.load
        ),
        key=lambda v: -v.points,
    )
    return Answer(
        key="editing",
        label="Editing",
        value=f"{plan.questions.device}: {fit.word}".capitalize(),
        reason=fit.sentence,
        runner_up=f"{lighter[0].recording.label}." if lighter else "",
        warning="" if fit.load <= 2.2 else "This device will not play it.",
        numbers={"device": str(plan.questions.device), "load": round(fit.load, 2), "fit": fit.word},
    )

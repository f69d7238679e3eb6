"""What is advised for a clip: judged from what was found, anew whenever more is known; no file is decoded."""

from __future__ import annotations

import json
from collections.abc import Callable
from contextlib import AbstractContextManager
from hashlib import sha256
from typing import Any

from django.db import transaction

from morphe.core.advise.findings import Findings
from morphe.core.advise.judge import VERSION, ceiling_of
from morphe.core.advise.profile.filmed_as import KINDS_SAID, FilmedAs, Hints
from morphe.core.advise.rung import Advice, Rung
from morphe.core.errors import MorpheError
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.reading.clip import Report, report_of
from morphe.web.clips.models import Clip, GradeVersion
from morphe.web.clips.services.grades.aims import aims_of, patch_of
from morphe.web.clips.services.grades.grade import grade_of, shared_layers
from morphe.web.clips.services.grades.lamps import share_of_lamps
from morphe.web.clips.services.grades.versions import keep, with_proposals
from morphe.web.clips.services.grades.working_space import is_wide
from morphe.web.clips.services.questions.filmed import OWN, chosen_profile, hints_for
from morphe.web.clips.services.questions.said import PROFILE, forget, remember, remembered
from morphe.web.clips.services.questions.together import doubtful, of_its_folder
from morphe.web.clips.services.questions.water_hints import water_hints_of
from morphe.web.clips.services.reading.kept import findings_of
from morphe.web.clips.services.wall.grouping import group_anew
from morphe.web.clips.signals import judged
from morphe.web.jobs.services.ask import ask
from morphe.web.jobs.services.run import Run
from morphe.web.outings.models import Outing

__all__ = [
    "ADVISED",
    "choose_profile",
    "judge_anew",
    "judge_findings",
    "keep_advice",
    "sort_work",
    "start_grade",
    "up_to_date",
    "work",
]

Keeping = Callable[[], AbstractContextManager[None]]
ENOUGH = 6  # other clips: more of them hardly say more
# What judging sets; all else about a clip may be changing meanwhile.
ADVISED = (
    "profile_choice", "profile", "rungs", "proposal", "proposals", "lost", "light", "headroom", "drift",
    "advice_version", "states", "planned", "take", "checks", "water_found",
)  # fmt: skip


def judge_findings(clip: Clip, findings: Findings) -> Report:
    """Judge what was found with all that is known beforehand."""
    chosen, hints = _word_on(clip)
    return report_of(
        findings, profile=chosen, hints=hints, wide=is_wide(clip.outing), shared=shared_layers(clip),
        lamps=share_of_lamps(clip.outing), water=water_hints_of(clip), aims=aims_of(clip),
        skin=patch_of(clip),
    )  # fmt: skip


def _word_on(clip: Clip) -> tuple[str | FilmedAs, Hints | None]:
    """The person's word on a clip's profile, else what was said of its like, with the hints there are."""
    if clip.profile_choice == "auto":
        said = remembered(clip, PROFILE)
        if said is not None and said.key.startswith(OWN):
            return chosen_profile(said.key), None
    return chosen_profile(clip.profile_choice), hints_for(clip)


def keep_advice(clip: Clip, report: Report) -> None:
    """Set what was judged. The caller saves the clip."""
    advice = report.advice
    clip.profile = {
        **advice.profile.as_json(),
        "label": advice.profile.label,
        "likelihoods": {k: float(f"{v:.3g}") for k, v in advice.profile.likelihoods.items()},
        "kinds": {k: round(p, 3) for k, p in advice.profile.kinds.items()},
        "curves": {k: curve.as_json() for k, curve in advice.profile.curves.items()},
        "known": _known(hints_for(clip)),
        "without": _without(clip),
    }
    clip.water_found = _water_json(advice)
    clip.rungs = [_rung_json(r) for r in advice.rungs]
    clip.states = {rung.key: str(rung.state) for rung in advice.rungs}
    clip.proposal = recipe.to_json(advice.grade)
    clip.proposals = sum(r.applied for r in advice.rungs)
    clip.lost = list(advice.lost)
    clip.light, clip.headroom = report.light.as_json(), report.headroom.as_json()
    if advice.drift is not None:
        clip.drift = {
            "track": [list(p) for p in advice.drift.track],
            "wanders": advice.drift.wanders,
            "sentences": list(advice.drift.sentences),
            "stops": round(advice.drift.range_stops, 3),
            "mired": round(advice.drift.range_mired, 1),
            "ceiling": ceiling_of(advice.profile.name),
        }
    clip.advice_version = VERSION
    judged.send(Clip, clip=clip)


def _water_json(advice: Advice) -> dict[str, Any]:
    water = advice.water
    if water is None:
        return {"wet": 0.0, "asked": False}
    can = water.recoverable
    return {
        "wet": round(water.wet, 3), "asked": water.is_asked, "taken": water.is_taken,
        "share": round(can.share, 3), "by_tone": [round(s, 3) for s in can.by_tone],
        "behind": round(can.behind, 2), "codes": round(can.codes, 1), "over_noise": round(can.over_noise, 1),
        "quality": [list(index) for index in water.quality],
    }  # fmt: skip


def _rung_json(rung: Rung) -> dict[str, Any]:
    return {
        **rung.as_json(),
        "label": rung.step.label,
        "state": str(rung.state),
        "measured": rung.measured,
        "action": rung.action,
        "proposal": recipe.step_to_json(rung.step),
    }


def _known(hints: Hints) -> str:
    """What was known when a clip was judged, in short: it is judged anew when this has changed."""
    curves = [f"{kind}{min(len(found), ENOUGH)}" for kind, found in sorted(hints.curves.items())]
    return " ".join([str(min(len(hints.others), ENOUGH)), *curves, *(key for key, _ in hints.named)])


def _without(clip: Clip) -> str:
    """The parts that are left out of the picture by hand, in short: with others, the clip is judged anew."""
    regions = repr(grade_of(clip).left_out)
    return sha256(regions.encode()).hexdigest()[:12] if regions != "()" else ""


def judge_anew(clip: Clip, keeping: Keeping = transaction.atomic) -> Report:
    """Judge a clip under what is known by now, and keep it; its decisions stay.

    Where its light was followed, or a person said how it was filmed, while it was being judged, it is judged
    once more: what is kept is never older than what it rests on.

    Parameters
    ----------
    keeping : the transaction in which it is kept
    """
    while True:
        basis = _basis(clip)
        report = judge_findings(clip, findings_of(clip))
        with keeping():
            clip.refresh_from_db(fields=("over_time", "drift", "profile_choice", "water", "skin_at"))
            if _basis(clip) != basis:
                continue
            keep_advice(clip, report)
            clip.save(update_fields=ADVISED)
            return report


def _basis(clip: Clip) -> tuple[str, ...]:
    said = (json.dumps(word, sort_keys=True) for word in (clip.water, clip.skin_at))
    return clip.over_time.name or "", clip.profile_choice, _without(clip), *said


def up_to_date(clip: Clip) -> Clip:
    """The clip with rungs of this version and by what counts of its picture now: others are judged anew."""
    is_old = clip.advice_version < VERSION or clip.profile.get("without", "") != _without(clip)
    if clip.is_ready and is_old and clip.frames.exists():
        judge_anew(clip)
    return clip


def choose_profile(clip: Clip, key: str) -> None:
    """Take the person's word on the profile, judge the clip under it, and remember it.

    Others of its camera and folder follow in the worker.
    """
    before, key = clip.profile_choice, key or "auto"
    _choose(clip, key)
    if key == "auto":
        forget(clip, PROFILE)
    try:
        report = judge_anew(clip)
    except MorpheError:  # a word that means nothing leaves everything as it was
        _choose(clip, before)
        raise
    if key != "auto":
        label = key if key in KINDS_SAID else report.advice.profile.label
        remember(clip, PROFILE, key, label)
    _take_anew(clip)
    alike = clip.outing.clips.open_to_judgement().filter(pk__in=of_its_folder(clip))
    for pk in alike.values_list("pk", flat=True):
        ask("judge", pk)
    ask("sort", clip.outing_id)


def _choose(clip: Clip, key: str) -> None:
    clip.profile_choice = key
    clip.save(update_fields=["profile_choice"])


def _take_anew(clip: Clip) -> None:
    """Under another profile, what was taken for many clips at once is taken anew."""
    clip = Clip.objects.with_grades().get(pk=clip.pk)
    if clip.version is None or clip.version.decision is None or clip.version.decision.given:
        return
    grade = with_proposals(clip)
    if grade.convert != grade_of(clip).convert:
        keep(
            clip,
            grade,
            f"Filmed {clip.profile['label']}: proposals taken anew",
            decision=clip.version.decision,
        )


def start_grade(clip: Clip) -> None:
    """Every clip begins with a version that changes nothing, so that undo has an end."""
    if clip.version_id is None:
        clip.version = GradeVersion.objects.create(
            clip=clip, grade=recipe.to_json(Grade()), change="As filmed"
        )
        clip.save(update_fields=["version"])


# --- in the worker -----------------------------------------------------------------------------------


def work(run: Run) -> None:
    """Judge one clip anew."""
    clip = Clip.objects.ready().select_related("outing", "camera").filter(pk=run.subject).first()
    if clip is None or not clip.frames.exists():
        return
    judge_anew(clip, run.keeping)
    _take_anew(clip)


def sort_work(run: Run) -> None:
    """Judge clips of an outing anew of which more is known by now, then group all by light."""
    outing = Outing.everything.filter(pk=run.subject).first()
    if outing is None:
        return
    candidates = doubtful(outing)
    for done, clip_id in enumerate(candidates):
        run.check()
        run.progress(done, len(candidates))
        clip = outing.clips.ready().filter(pk=clip_id, version__parent=None).first()
        if clip is not None and clip.profile.get("known") != _known(hints_for(clip)):
            judge_anew(clip)
    with run.keeping():
        group_anew(outing)
        ask("stand", outing.pk)

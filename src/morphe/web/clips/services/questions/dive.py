"""A person's word on a clip's water: wet or dry, how deep, how far, what was on the lens."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from morphe.core.errors import ColourError, MorpheError
from morphe.core.grade import recipe
from morphe.core.grade.restore import Restore
from morphe.core.interchange.dive_log import read_depths, read_dive_log
from morphe.core.water.hints import WaterHints
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.grades.versions import keep
from morphe.web.clips.services.questions.said import WATER, forget, remember
from morphe.web.clips.services.reading.judged import judge_anew
from morphe.web.jobs.services.ask import ask

__all__ = ["TYPED", "say_wet", "take_dive_log", "tell"]

TYPED = 8  # depths: so many are shown as typed
WET = {"wet": True, "dry": False, "auto": None}


def say_wet(clip: Clip, word: str) -> None:
    """Take the person's word that a clip was filmed under water, in air, or leave it to Morphe.

    It is remembered for the clips of its camera and folder, which follow in the worker.
    """
    if word not in WET:
        raise ColourError(f"A clip is wet or dry, not {word[:20]!r}.")
    if WET[word] is None:
        forget(clip, WATER)
    else:
        remember(clip, WATER, word, word)
    _keep_said(clip, {**clip.water, "wet": WET[word]})
    for pk in _alike(clip):
        ask("judge", pk)
    ask("sort", clip.outing_id)


def _alike(clip: Clip) -> list[int]:
    """Clips that a word on this one is remembered for."""
    if not clip.camera_id and not clip.folder:
        return []
    alike = clip.outing.clips.open_to_judgement().filter(camera=clip.camera_id, folder=clip.folder)
    return list(alike.exclude(pk=clip.pk).values_list("pk", flat=True))


def tell(clip: Clip, posted: Mapping[str, str]) -> None:
    """Take what the person knows of the dive; an empty answer takes it back.

    Raises
    ------
    ColourError
        If an answer cannot be used; then nothing has changed.
    """
    said: dict[str, Any] = {"wet": clip.water.get("wet")}
    for name, what in (("depth_m", "depth"), ("distance_m", "distance")):
        if typed := posted.get(name, "").strip().replace(",", "."):
            said[name] = _metres(typed, what)
    said |= {name: posted[name] for name in ("water", "filter") if posted.get(name)}
    if posted.get("lamp") in ("yes", "no"):
        said["lamp"] = posted["lamp"] == "yes"
    if typed := posted.get("depths", "").strip():
        said["depths"] = read_depths(typed, _duration(clip))
    elif len(logged := clip.water.get("depths", ())) > TYPED:
        said["depths"] = tuple((t, m) for t, m in logged)  # of a log, which is not shown as text
    WaterHints(**{k: v for k, v in said.items() if v is not None})
    _keep_said(clip, said)


def take_dive_log(clip: Clip, text: str, name: str, begins: str = "") -> None:
    """Take the depths of a clip from a dive log; `begins` is the log's second at which the clip begins.

    Raises
    ------
    ColourError
        If the log cannot be used; then nothing has changed.
    """
    begins_s = _metres(begins.replace(",", "."), "time") if begins.strip() else 0.0
    depths = read_dive_log(text, name, begins_s=begins_s, duration_s=_duration(clip))
    WaterHints(depths=depths)
    _keep_said(clip, {**clip.water, "depths": depths})


def _duration(clip: Clip) -> float:
    return float(clip.info.get("duration_s", 0.0))


def _metres(typed: str, what: str) -> float:
    try:
        return float(typed)
    except ValueError as error:
        raise ColourError(f"“{typed[:20]}” is no {what} in metres.") from error


def _keep_said(clip: Clip, said: dict[str, Any]) -> None:
    """Judge a clip under what was said; what was taken of its water before is taken anew."""
    before, proposed = clip.water, recipe.from_json(clip.proposal)
    clip.water = {k: v for k, v in said.items() if v is not None}
    clip.save(update_fields=["water"])
    try:
        judge_anew(clip)
    except MorpheError:
        clip.water = before
        clip.save(update_fields=["water"])
        raise
    grade, proposal = grade_of(clip), recipe.from_json(clip.proposal)
    was, now = grade.source.restore, proposal.source.restore
    if was.at_work and was != now:
        words = "Water judged anew" if now.at_work else "Filmed in air: water left alone"
        changed = grade.with_step(_with_numbers_of(was, now))
        if grade.convert == proposed.convert:  # another one was chosen by the person, and stays
            changed = changed.with_step(proposal.convert)
        keep(clip, changed, words)


def _with_numbers_of(was: Restore, now: Restore) -> Restore:
    """A new restoration that keeps the strength the person gave the old one."""
    if not now.at_work or was.strength in (0.0, 100.0):
        return now
    return type(now)(**{**now.settings(), "strength": was.strength})

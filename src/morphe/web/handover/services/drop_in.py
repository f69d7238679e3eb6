"""The drop-in folder: looked at by the watch; each new clip in it is corrected by rules and handed back."""

from __future__ import annotations

import logging
import time
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from django.conf import settings

from morphe.core.errors import OutputError
from morphe.core.handover.delivery import Delivery
from morphe.core.handover.hand_back import BACK, Rules, clips_in, hand_back
from morphe.web.handover.models import DropIn, Dropped
from morphe.web.jobs.services.ask import ask
from morphe.web.jobs.services.run import Run
from morphe.web.library.services.presets import preset_named

__all__ = ["KIND", "PROFILES", "keep_failure", "look", "set_drop_in", "work"]

logger = logging.getLogger(__name__)
KIND = "drop-in"
SETTLED_S = 4.0  # a file that was written to until a moment ago is still arriving
_arriving: dict[Path, tuple[str, float]] = {}  # its stamp, and when the watch first saw it so
PROFILES = {"auto": "judged", "standard": "ordinary", "flat": "flat", "log": "log", "hlg": "HLG"}


def set_drop_in(posted: Mapping[str, str]) -> DropIn:
    """Set the folder and its rules, and switch it on or off.

    Raises
    ------
    MorpheError
        If there is no such folder, it cannot be written to, or it is one of Morphe's own.
    """
    folder = Path((posted.get("folder") or "").strip()).expanduser()
    is_on, profile = bool(posted.get("on")), posted.get("profile") or "auto"
    if profile not in PROFILES:
        raise OutputError("Clips are judged, or ordinary, flat, log or HLG; choose one of these.")
    preset = preset_named(posted.get("preset") or "web")
    if is_on:
        _check(folder)
    found = DropIn.objects.first() or DropIn()
    found.folder, found.is_on, found.profile = str(folder), is_on, profile
    found.film, found.preset = bool(posted.get("film")), preset.key
    found.save()
    return found


def _check(folder: Path) -> None:
    if not folder.is_absolute() or not folder.is_dir():
        raise OutputError(f"There is no folder {folder}; type the whole path of one on this computer.")
    if folder.resolve().is_relative_to(Path(settings.HOME).resolve()):
        raise OutputError("That folder is Morphe's own; choose another one.")
    try:
        (folder / BACK).mkdir(exist_ok=True)
    except OSError as error:
        raise OutputError(f"{folder} cannot be written to; choose another folder.") from error


def look(**kwargs: Any) -> None:
    """Ask for every clip in the folder that has settled and was not seen before."""
    found = DropIn.objects.filter(is_on=True).first()
    if found is None:
        return
    try:
        clips = clips_in(Path(found.folder))
    except OutputError as error:
        logger.warning("Drop-in folder: %s", error)
        return
    for clip in clips:
        try:
            state = clip.stat()
        except OSError:
            continue
        stamp = f"{state.st_size}-{state.st_mtime_ns}"
        if time.time() - state.st_mtime < SETTLED_S and not _stayed(clip, stamp):
            continue
        dropped, is_new = Dropped.objects.get_or_create(path=str(clip), stamp=stamp)
        if is_new:
            ask(KIND, dropped.pk)


def _stayed(clip: Path, stamp: str) -> bool:
    """Whether a clip stayed as it is while it was watched; a camera's clock may be days ahead."""
    if _arriving.get(clip, ("", 0.0))[0] != stamp:
        _arriving[clip] = (stamp, time.monotonic())
    return time.monotonic() - _arriving[clip][1] >= SETTLED_S


def work(run: Run) -> None:
    """Hand one clip back in the worker."""
    dropped = Dropped.objects.filter(pk=run.subject).first()
    rules = DropIn.objects.first()
    if dropped is None or rules is None:
        return
    clip = Path(dropped.path)
    wanted = Rules(
        profile=rules.profile, film=rules.film, delivery=Delivery(preset=preset_named(rules.preset))
    )
    done = hand_back(clip, clip.parent / BACK, wanted, run.progress)
    with run.keeping():
        dropped.made = done.as_json()
        dropped.save(update_fields=["made"])


def keep_failure(dropped_id: int, sentence: str) -> None:
    Dropped.objects.filter(pk=dropped_id).update(problem=sentence)

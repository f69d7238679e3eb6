"""Read a clip in the worker: facts, judging frames, readings, advice."""

from __future__ import annotations

import logging
from collections.abc import Mapping
from typing import Any

from django.core.files.base import ContentFile
from django.db import transaction
from django.utils import timezone

from morphe.core.advise.advice import Rung
from morphe.core.advise.filmed_as import SOME_LOG, Hints
from morphe.core.errors import MorpheError
from morphe.core.footage.probe import probe
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.handover.preview import jpeg
from morphe.core.handover.report import Reading, read_clip
from morphe.web.clips.models import Clip, JudgingFrame
from morphe.web.clips.services.filmed import OWN, chosen_profile, hints_for, remember, remembered
from morphe.web.clips.services.grouping import group_anew
from morphe.web.clips.services.proxies import follow_light
from morphe.web.clips.services.space import is_wide
from morphe.web.clips.services.storage import picture_file
from morphe.web.clips.services.together import doubtful, of_its_folder
from morphe.web.logbook.services.record import record
from morphe.web.outings.models import Outing
from morphe.web.plan.services.meet import filmed_at, meet, meet_take, recognised_camera
from morphe.web.shell.heartbeat import beating

__all__ = ["choose_profile", "look_again", "read_again", "read_and_keep"]

logger = logging.getLogger(__name__)
MOST_TAGS = 60
ENOUGH = 6  # other clips: more of them hardly say more
# What reading a clip finds; all else about it may be changing meanwhile.
FOUND = (
    "state", "problem", "profile_choice", "info", "profile", "readings", "rungs", "proposal", "proposals",
    "lost", "outside_nominal", "light", "headroom", "tags", "filmed_at", "camera", "planned", "take",
    "checks",
)  # fmt: skip
THUMBNAIL_STEP = 3  # judging frames are 960 px wide, thumbnails a third of that


def read_and_keep(clip_id: int) -> None:
    """Read a waiting clip and keep what was found; safe to run twice."""
    claimed = Clip.objects.filter(pk=clip_id, state=Clip.State.WAITING).update(
        state=Clip.State.READING, heartbeat=timezone.now()
    )
    if not claimed:
        return
    clip = Clip.objects.get(pk=clip_id)
    try:
        with beating(lambda: Clip.objects.filter(pk=clip_id).update(heartbeat=timezone.now())):
            reading = _read(clip)
    except (MorpheError, OSError, MemoryError) as error:
        _keep_failure(clip, error)
        return
    except Exception:
        logger.exception("Clip %s could not be read", clip_id)
        _keep_failure(clip, MorpheError(f"{clip.title} could not be read; export it as H.264 and try again."))
        return
    _keep(clip, reading)
    _go_on(clip)


def _go_on(clip: Clip) -> None:
    """What follows once a clip has been read: its proxy, and the groups when it was the last to be read."""
    from morphe.web.clips.tasks import prepare_playing_task

    busy = (Clip.State.WAITING, Clip.State.READING)
    if not clip.outing.clips.filter(state__in=busy).exists():
        look_again(clip.outing)
    prepare_playing_task(clip.pk)


def look_again(outing: Outing, told: Clip | None = None) -> None:
    """Read clips anew of which more is known by now, then group all by light.

    Those are clips whose profile is in doubt, and all that a word on the clip `told` is remembered for.
    """
    for clip_id in dict.fromkeys(doubtful(outing) + (of_its_folder(told) if told else [])):
        clip = outing.clips.ready().filter(pk=clip_id, version__parent=None).first()
        if clip is not None and clip.profile.get("known") != _known(hints_for(clip)):
            read_again(clip)
            follow_light(clip)
    group_anew(outing)


def _known(hints: Hints) -> str:
    """What was known when a clip was judged, in short: it is judged anew when this has changed."""
    return " ".join([str(min(len(hints.others), ENOUGH)), *(key for key, _ in hints.named)])


def _read(clip: Clip) -> Reading:
    """Read a clip with all that is known of it beforehand; camera and take are found first, as hints."""
    wide = is_wide(clip.outing)
    if clip.profile_choice == "auto":
        info = probe(clip.path)
        clip.info = info.as_json()
        keep_origin(clip, info.metadata)
        meet_take(clip)
        said = remembered(clip)
        if said is not None and said.key.startswith(OWN):
            return read_clip(clip.path, profile=chosen_profile(said.key), wide=wide)
    chosen = chosen_profile(clip.profile_choice)
    return read_clip(clip.path, profile=chosen, hints=hints_for(clip), wide=wide)


def choose_profile(clip: Clip, key: str) -> None:
    """Take the person's word on the profile, read the clip again under it, and remember it.

    Others of its camera and folder follow in the worker.
    """
    from morphe.web.clips.tasks import look_again_task

    clip.profile_choice = key
    if key == "auto":
        remember(clip, key, "")
    reading = _read(clip)
    _keep(clip, reading, first=False)
    remember(clip, key, "log" if key == SOME_LOG else reading.advice.profile.label)
    follow_light(clip)
    group_anew(clip.outing)
    look_again_task(clip.pk)


def read_again(clip: Clip) -> None:
    """Read a clip anew under what is known by now; its decisions stay."""
    _keep(clip, _read(clip), first=False)


def _keep_failure(clip: Clip, error: BaseException) -> None:
    sentence = str(error) or "There was not enough memory to read it; export it smaller."
    sentence = sentence.replace(clip.path.name, clip.title)
    clip.state, clip.problem = Clip.State.FAILED, sentence
    clip.save(update_fields=["state", "problem"])
    record(clip, "failed", sentence)


def _rung_json(rung: Rung) -> dict[str, Any]:
    return {
        **rung.as_json(),
        "label": rung.step.label,
        "state": str(rung.state),
        "measured": rung.measured,
        "action": rung.action,
        "proposal": recipe.step_to_json(rung.step),
    }


def _keep(clip: Clip, reading: Reading, *, first: bool = True) -> None:
    advice = reading.advice
    clip.info = reading.info.as_json()
    clip.profile = {
        **advice.profile.as_json(),
        "label": advice.profile.label,
        "likelihoods": {k: float(f"{v:.3g}") for k, v in advice.profile.likelihoods.items()},
        "kinds": {k: round(p, 3) for k, p in advice.profile.kinds.items()},
        "known": _known(hints_for(clip)),
    }
    clip.readings = reading.before.as_json()
    clip.rungs = [_rung_json(r) for r in advice.rungs]
    clip.proposal = recipe.to_json(advice.grade)
    clip.proposals = sum(r.applied for r in advice.rungs)
    clip.lost = list(advice.lost)
    clip.outside_nominal = reading.outside_nominal
    clip.light, clip.headroom = reading.light.as_json(), reading.headroom.as_json()
    keep_origin(clip, reading.info.metadata)
    meet(clip)
    clip.state, clip.problem = Clip.State.READY, ""
    pictures = [
        (f, picture_file(f.encoded), jpeg(f.encoded[::THUMBNAIL_STEP, ::THUMBNAIL_STEP]))
        for f in reading.frames
    ]
    with transaction.atomic():
        if not Clip.objects.filter(pk=clip.pk).exists():
            return  # it was removed while it was being read
        old = list(clip.frames.all())
        transaction.on_commit(lambda: _delete_pictures(old))  # until then somebody may be looking at them
        clip.frames.all().delete()
        for number, (frame, picture, thumbnail) in enumerate(pictures):
            kept = JudgingFrame(clip=clip, number=number, role=frame.role, time_s=frame.time_s)
            kept.picture.save(f"{clip.pk}-{number}.npy", picture, save=False)
            kept.thumbnail.save(f"{clip.pk}-{number}.jpg", ContentFile(thumbnail), save=False)
            kept.save()
        clip.save(update_fields=FOUND)
        if first:
            _start_grade(clip)
            width, height = reading.info.upright_size
            record(
                clip,
                "brought-in",
                f"Brought in {clip.title}: {width}×{height}, {float(reading.info.fps):g} fps, "
                f"{reading.info.bit_depth}-bit, {advice.profile.kind.word} "
                f"({advice.profile.confidence:.0%} sure).",
                profile=clip.profile,
                readings=clip.readings,
            )


def _delete_pictures(frames: list[JudgingFrame]) -> None:
    for frame in frames:
        frame.picture.delete(save=False)
        frame.thumbnail.delete(save=False)


def keep_origin(clip: Clip, metadata: Mapping[str, str]) -> None:
    """Which camera it was, and when: what the file says, else what its name and its time on the card say."""
    clip.tags = {str(k)[:40]: str(v)[:200] for k, v in list(metadata.items())[:MOST_TAGS]}
    clip.filmed_at = filmed_at(metadata) or clip.filmed_at
    clip.camera = clip.camera or recognised_camera(clip.title, clip.tags)


def _start_grade(clip: Clip) -> None:
    """Every clip begins with a version that changes nothing, so that undo has an end."""
    from morphe.web.bench.models import GradeVersion

    if clip.version_id is None:
        clip.version = GradeVersion.objects.create(
            clip=clip, grade=recipe.to_json(Grade()), change="As filmed"
        )
        clip.save(update_fields=["version"])

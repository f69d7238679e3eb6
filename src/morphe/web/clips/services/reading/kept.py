"""What was found of a clip, kept: numbers in its row, pictures and light over time in files."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, TypeAlias

from django.core.files.base import ContentFile
from django.db import transaction

from morphe.core.advise.findings import Findings
from morphe.core.footage.judging import JudgingFrame as FoundFrame
from morphe.core.grade.grade import Grade
from morphe.core.measure.drift import OverTime
from morphe.core.measure.faces import Box
from morphe.core.measure.file_strength import FileStrength
from morphe.core.measure.readings import Readings
from morphe.core.pipeline.screen import graded_still
from morphe.core.screen.pictures import jpeg
from morphe.web.clips.models import Clip, JudgingFrame
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.reading.counted import counted_under
from morphe.web.clips.services.reading.storage import load_picture, picture_file, small_picture

__all__ = [
    "faces_of", "findings_of", "keep_findings", "keep_over_time", "over_time_of", "prepared_pictures",
    "strength_of", "thumbnail_under",
]  # fmt: skip

THUMBNAIL_STEP = 3  # judging frames are 960 px wide, thumbnails a third of that

Prepared: TypeAlias = "list[tuple[FoundFrame, ContentFile[bytes], bytes, ContentFile[bytes] | None]]"


def prepared_pictures(findings: Findings) -> Prepared:
    """The files of the judging frames, made before a transaction is begun."""
    return [
        (
            f, picture_file(f.encoded), jpeg(f.encoded[::THUMBNAIL_STEP, ::THUMBNAIL_STEP]),
            None if (grain := f.grain) is None else picture_file(grain),
        )
        for f in findings.frames
    ]  # fmt: skip


def thumbnail_under(frame: JudgingFrame, grade: Grade) -> bytes:
    """A judging frame under a grade, as a JPEG as small as its thumbnail."""
    return jpeg(graded_still(small_picture(frame.picture.path, THUMBNAIL_STEP), grade, frame.time_s))


def keep_findings(clip: Clip, findings: Findings, pictures: Prepared) -> None:
    """Keep what was found; within a transaction. The caller saves the clip."""
    clip.info = findings.info.record()
    clip.readings = findings.before.as_json()
    clip.findings = findings.as_json()
    clip.outside_nominal = findings.outside_nominal
    old = list(clip.frames.all())
    transaction.on_commit(lambda: _delete_pictures(old))  # until then somebody may be looking at them
    clip.frames.all().delete()
    for number, (frame, picture, thumbnail, grain) in enumerate(pictures):
        kept = JudgingFrame(clip=clip, number=number, role=frame.role, time_s=frame.time_s)
        kept.picture.save(f"{clip.pk}-{number}.npy", picture, save=False)
        kept.thumbnail.save(f"{clip.pk}-{number}.jpg", ContentFile(thumbnail), save=False)
        if grain is not None:
            kept.grain.save(f"{clip.pk}-{number}.npy", grain, save=False)
        kept.save()


def _delete_pictures(frames: list[JudgingFrame]) -> None:
    for frame in frames:
        frame.picture.delete(save=False)
        frame.thumbnail.delete(save=False)
        frame.grain.delete(save=False)


def keep_over_time(clip: Clip, over_time: OverTime) -> None:
    """Keep the light over time beside the clip. The caller saves the clip."""
    old = clip.over_time.name
    clip.over_time.save(f"{clip.pk}.npz", ContentFile(over_time.to_bytes()), save=False)
    if old and old != clip.over_time.name:
        storage = clip.over_time.storage
        transaction.on_commit(lambda: storage.delete(old))


def strength_of(clip: Clip) -> FileStrength:
    """What a clip's file can bear, from where it is kept."""
    numbers: dict[str, Any] = clip.findings or clip.headroom
    return FileStrength.from_json(
        numbers, bit_depth=int(clip.info.get("bit_depth", 8)), noise=float(numbers.get("noise_codes", 0.0)),
        blocks=float(numbers.get("blockiness", 1.0)),
    )  # fmt: skip


def faces_of(clip: Clip) -> tuple[tuple[Box, ...], ...] | None:
    """Boxes about faces, by judging frame; none where a clip was read by an older version."""
    found = clip.findings.get("faces") if clip.findings else None
    return tuple(tuple(tuple(box) for box in boxes) for boxes in found) if found is not None else ()


def findings_of(clip: Clip) -> Findings:
    """What was found of a clip, from where it is kept; the clip's own file is not opened."""
    frames = tuple(
        FoundFrame(role=f.role, time_s=f.time_s, encoded=load_picture(f.picture.path))
        for f in clip.frames.all()
    )
    numbers: dict[str, Any] = clip.findings or clip.headroom  # clips of older versions have them there
    return Findings(
        info=replace(clip.signal, path=clip.path),
        frames=frames,
        before=Readings.from_json(clip.readings),
        noise_codes=float(numbers.get("noise_codes", 0.0)),
        blockiness=float(numbers.get("blockiness", 1.0)),
        strength=strength_of(clip),
        faces=faces_of(clip),
        over_time=over_time_of(clip),
        counted=counted_under(clip, grade_of(clip)),
    )


def over_time_of(clip: Clip) -> OverTime | None:
    """The light over time of a clip, of a shot what lies within it; None while it has not been followed."""
    if not clip.over_time:
        return None
    whole = OverTime.from_bytes(clip.over_time.read())
    return whole if clip.shot is None else whole.within(clip.shot)

"""Pinning: what a person chose as a reference, kept as it looks at that moment."""

from __future__ import annotations

import io
import tempfile
from pathlib import Path

import cv2
import numpy as np
from django.core.files.base import ContentFile
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction

from morphe.core.advise.evidence import reduced
from morphe.core.errors import MorpheError
from morphe.core.pipeline.screen import graded_still
from morphe.core.reading.reference import check_reference, read_still
from morphe.core.screen.pictures import jpeg
from morphe.core.signal.arrays import Encoded
from morphe.core.stored import read_array
from morphe.web.clips.models import Clip, JudgingFrame, LightGroup
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.reading.storage import load_picture
from morphe.web.match.models import PinnedFrame
from morphe.web.outings.models import Outing

__all__ = ["graded", "pictures_of", "pin_frame", "pin_light", "pin_still", "unpin"]

MOST_BYTES = 60_000_000
MOST_IN_A_LIGHT = 12  # clips whose middle makes a light's
SHOWN = (960, 540)


def graded(clip: Clip, frame: JudgingFrame) -> Encoded:
    """A judging frame as the clip looks now."""
    return graded_still(load_picture(frame.picture.path), grade_of(clip), frame.time_s)


def pin_frame(clip: Clip, number: int) -> PinnedFrame:
    """Pin a clip's judging frame as it looks now."""
    frame = clip.frames.filter(number=number).first()
    if frame is None:
        raise MorpheError("There is no such frame; reload the page.")
    picture = graded(clip, frame)
    name = f"{clip.title} at {frame.time_s:.1f} s"
    return _kept(clip.outing, name, (reduced(picture),), picture, clip)


def pin_light(group: LightGroup) -> PinnedFrame:
    """Pin the middle of a light: one frame of each of its clips."""
    clips = list(Clip.objects.ready().with_grades().filter(group=group)[:MOST_IN_A_LIGHT])
    frames = [(clip, clip.frames.order_by("number").first()) for clip in clips]
    pictures = [reduced(graded(clip, frame)) for clip, frame in frames if frame is not None]
    if len(pictures) < 2:
        raise MorpheError(f"{group} has a single clip; pin a frame of it instead.")
    return _kept(group.outing, f"{group}, its middle", _alike(pictures), _together(pictures), None)


def pin_still(outing: Outing, file: UploadedFile[bytes] | None) -> PinnedFrame:
    """Pin a picture from a file."""
    if file is None or file.size is None:
        raise MorpheError("No picture arrived; choose a PNG, JPEG or TIFF.")
    if file.size > MOST_BYTES:
        raise MorpheError(f"{file.name} is larger than {MOST_BYTES // 10**6} MB; export it smaller.")
    name = Path(str(file.name)).name[:120]
    with tempfile.NamedTemporaryFile(suffix=Path(name).suffix) as kept:
        kept.write(file.read())
        kept.flush()
        picture = read_still(Path(kept.name), name)
    return _kept(outing, name, (reduced(picture),), picture, None)


def unpin(pin: PinnedFrame) -> None:
    """Take a reference away; what was matched to it stays as it is."""
    pin.delete()
    pin.pictures.delete(save=False)
    pin.shown.delete(save=False)


def pictures_of(pin: PinnedFrame) -> tuple[Encoded, ...]:
    return tuple(read_array(pin.pictures.path).astype(np.float32))


def _kept(
    outing: Outing, name: str, pictures: tuple[Encoded, ...], shown: Encoded, clip: Clip | None
) -> PinnedFrame:
    check_reference(pictures, name)
    buffer = io.BytesIO()
    np.save(buffer, np.stack(pictures).astype(np.float16))
    pin = PinnedFrame(outing=outing, clip=clip, name=name)
    pin.pictures.save("pin.npy", ContentFile(buffer.getvalue()), save=False)
    pin.shown.save("pin.jpg", ContentFile(jpeg(_fitted(shown))), save=False)
    with transaction.atomic():
        pin.save()
    return pin


def _fitted(picture: Encoded) -> Encoded:
    """At most as large as it is shown."""
    height, width = picture.shape[:2]
    scale = min(SHOWN[0] / width, SHOWN[1] / height, 1.0)
    size = (max(2, round(width * scale)), max(2, round(height * scale)))
    return cv2.resize(picture, size, interpolation=cv2.INTER_AREA).astype(np.float32)


def _alike(pictures: list[Encoded]) -> tuple[Encoded, ...]:
    """All of the first one's size."""
    height, width = pictures[0].shape[:2]
    sized = (cv2.resize(p, (width, height), interpolation=cv2.INTER_AREA) for p in pictures)
    return tuple(p.astype(np.float32, copy=False) for p in sized)


def _together(pictures: list[Encoded]) -> Encoded:
    """Up to four pictures as one."""
    height, width = SHOWN[1] // 2, SHOWN[0] // 2
    four = [cv2.resize(p, (width, height), interpolation=cv2.INTER_CUBIC) for p in pictures[:4]]
    four += [np.zeros((height, width, 3), np.float32)] * (4 - len(four))
    return np.concatenate([np.concatenate(four[:2], axis=1), np.concatenate(four[2:], axis=1)])

"""What of a clip's picture counts: without bars and writing that were found, and parts left out by hand."""

from __future__ import annotations

from morphe.core.advise.counted import Counted
from morphe.core.grade.grade import Grade
from morphe.core.measure.picture_area import PictureArea
from morphe.core.signal.arrays import Encoded
from morphe.web.clips.models import Clip, JudgingFrame
from morphe.web.clips.services.reading.storage import small_picture

__all__ = ["area_of_clip", "counted_small", "counted_under"]


def area_of_clip(clip: Clip) -> PictureArea:
    """The picture within the frames of a clip; all of them where it was read by an older version."""
    return PictureArea.from_json((clip.findings or {}).get("area") or {})


def counted_under(clip: Clip, grade: Grade) -> Counted:
    """What counts of a clip under a grade, which holds the parts that are left out by hand."""
    return Counted(area=area_of_clip(clip), left_out=grade.left_out)


def counted_small(clip: Clip, frame: JudgingFrame, grade: Grade, step: int) -> Encoded:
    """Every so many pixels of a judging frame, with nothing in it but what counts."""
    return counted_under(clip, grade).picture(small_picture(frame.picture.path, step), frame.time_s)

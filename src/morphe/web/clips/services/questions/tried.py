"""A clip's picture under an answer nobody has given yet: corrected as if it had been filmed that way."""

from __future__ import annotations

from functools import lru_cache

from morphe.core.advise.judge import judge
from morphe.core.advise.profile.filmed_as import FilmedAs
from morphe.core.errors import UnknownName
from morphe.core.water.hints import WaterHints
from morphe.web.clips.models import Clip, JudgingFrame
from morphe.web.clips.services.questions.filmed import chosen_profile
from morphe.web.clips.services.reading.kept import findings_of, thumbnail_under

__all__ = ["tried"]


def tried(clip: Clip, profile: str, water: WaterHints | None = None) -> bytes:
    """The clip's poster as a small JPEG, corrected as if it had been filmed in a profile and in that water.

    Raises
    ------
    UnknownName
        If there is no such profile, or no picture of the clip any more.
    """
    frame = clip.poster
    if frame is None:
        raise UnknownName("This clip is being read anew; reload the page.")
    return _tried(frame.pk, f"{clip.sha256}.{clip.over_time.name}", chosen_profile(profile), water)


@lru_cache(maxsize=128)  # pictures of some 10 kB; to judge a clip takes a second
def _tried(frame_id: int, mark: str, profile: str | FilmedAs, water: WaterHints | None) -> bytes:
    """`mark` names the file and its light over time; a clip that is read anew has new frames."""
    frame = JudgingFrame.objects.select_related("clip").get(pk=frame_id)
    grade = judge(findings_of(frame.clip).evidence, profile=profile, water=water).grade
    return thumbnail_under(frame, grade)

"""How clips stand as corrected: the verdict on each, and what sets it apart from those of its light."""

from __future__ import annotations

from collections import defaultdict

from morphe.core.advise.outing.settle import Member, graded
from morphe.core.grade.grade import Grade
from morphe.core.measure.stand import Apart, Stand, apart_from_others, stand_of
from morphe.core.screen.still import frame_state
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of, under
from morphe.web.clips.services.reading.counted import counted_small
from morphe.web.clips.services.reading.kept import thumbnail_under
from morphe.web.jobs.services.run import Run
from morphe.web.outings.models import Outing

__all__ = ["apart_of", "corrected_picture", "member_of", "work"]

SAMPLE_STEP = 10  # judging frames are 960 px wide: 96 x 54 pixels tell
WORST_FIRST = ("lights clip", "shadows sink", "fits")


def member_of(clip: Clip, grade: Grade | None = None, *, fixed: bool = False) -> Member:
    """A clip as it is compared with others, under its grade of now or another."""
    frames = list(clip.frames.all())
    grade = grade_of(clip) if grade is None else grade
    return Member(
        pictures=tuple(counted_small(clip, f, grade, SAMPLE_STEP) for f in frames),
        times_s=tuple(f.time_s for f in frames),
        grade=grade.uncovered,
        fixed=fixed,
    )


def apart_of(clip: Clip) -> Apart | None:
    """What sets a clip apart from those of its light, as it was found last."""
    found = clip.stand.get("apart")
    return Apart(stops=found[0], mired=found[1]) if found else None


def corrected_picture(clip: Clip) -> bytes:
    """The clip's poster under its grade of now, as a JPEG."""
    frame = clip.poster
    if frame is None:
        return b""
    return thumbnail_under(frame, grade_of(clip))


def work(run: Run) -> None:
    """Find anew how the clips of an outing stand whose grade, or whose light, has changed."""
    outing = Outing.everything.filter(pk=run.subject).first()
    if outing is None:
        return
    clips = list(outing.clips.ready().with_grades().prefetch_related("frames"))
    old = [c for c in clips if c.stand.get("under") != under(c) and c.frames.all()]
    for done, clip in enumerate(old):
        run.check()
        run.progress(done, len(old))
        clip.stand = {"under": under(clip), **_found(clip)}
    lights: dict[int | None, list[Clip]] = defaultdict(list)
    for clip in clips:
        if clip.stand.get("light"):
            lights[clip.group_id].append(clip)
    changed = {clip.pk for clip in old}
    for alike in lights.values():
        stands = [Stand.from_json(clip.stand) for clip in alike]
        for clip, apart in zip(alike, apart_from_others(stands), strict=True):
            told = [round(apart.stops, 2), round(apart.mired, 1)] if apart and clip.group_id else None
            if clip.stand.get("apart") != told or clip.pk in changed:
                clip.stand["apart"] = told
                changed.add(clip.pk)
    with run.keeping():
        for clip in clips:
            if clip.pk in changed:
                Clip.objects.filter(pk=clip.pk).update(stand=clip.stand)


def _found(clip: Clip) -> dict[str, object]:
    pictures = graded(member_of(clip))
    states = {frame_state(picture) for picture in pictures}
    verdict = next(word for word in WORST_FIRST if word in states)
    return {**stand_of(pictures).as_json(), "verdict": verdict}

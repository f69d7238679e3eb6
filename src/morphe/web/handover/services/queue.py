"""Queue hand-overs; stop, pause and go on; put one before another."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from django.db import transaction
from django.db.models import Min

from morphe.core.errors import OutputError
from morphe.core.grade import recipe
from morphe.core.grade.reel import Reel
from morphe.core.handover.delivery import Delivery
from morphe.core.handover.hdr import why_not_hdr
from morphe.core.handover.parts import Part
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.reading.shots import going_out
from morphe.web.clips.services.wall.parts import parts_of
from morphe.web.handover.models import HandOver
from morphe.web.handover.services.names import file_name
from morphe.web.handover.services.wish import Wish
from morphe.web.jobs.models import Job
from morphe.web.jobs.services.ask import ask, stop
from morphe.web.shell.files import plain_name

__all__ = [
    "Batch",
    "batch",
    "go_on",
    "hand_over",
    "pause",
    "queue_hand_over",
    "queue_still",
    "sooner",
    "stop_hand_over",
]

KIND = "hand-over"
TOGETHER = {"joined": HandOver.What.JOINED, "link": HandOver.What.LINK, "report": HandOver.What.REPORT}


def hand_over(clips: Sequence[Clip], wish: Wish) -> list[HandOver]:
    """Put clips with their grades of now into the queue, as files of the kind that is wished.

    Raises
    ------
    OutputError
        If a clip cannot go out like that; nothing is queued then.
    """
    if wish.preset.hdr:
        _check_hdr(clips)
    with transaction.atomic():
        if wish.mode in TOGETHER:
            return [_together(clips, wish)]
        if wish.mode == "still":
            return [queue_still(clip, _usual_moment(clip), wish.still) for clip in clips]
        files = _files(clips) if wish.mode != "apart" else [[clip] for clip in clips]
        return [order for number, shots in enumerate(files, 1) for order in _each(shots, wish, number)]


def _files(clips: Sequence[Clip]) -> list[list[Clip]]:
    """Clips by the file that they become: shots of one source go out as one again."""
    found: dict[int, list[Clip]] = {}
    for clip in clips:
        found.setdefault(clip.whole_id or clip.pk, []).append(clip)
    return [sorted(shots, key=lambda shot: shot.begin_s) for shots in found.values()]


def _check_hdr(clips: Sequence[Clip]) -> None:
    for clip in clips:
        if reason := why_not_hdr(clip.signal, grade_of(clip)):
            raise OutputError(
                f"HDR goes out only if all that goes in is HDR. {clip.title}: {reason} Take Web."
            )


def _each(shots: list[Clip], wish: Wish, number: int) -> list[HandOver]:
    clip = shots[0]
    label = wish.preset.label
    if wish.mode == "apart" and clip.parts:
        return [
            _queued(
                shots, replace(wish.delivery, parts=(part,)),
                file_name(wish.pattern, clip, preset=label, number=number, part=(index, part)),
            )
            for index, part in enumerate(parts_of(clip), 1)
        ]  # fmt: skip
    is_file = clip.whole is not None and wish.mode != "apart"
    named = clip.whole if is_file and clip.whole is not None else clip
    name = file_name(wish.pattern, named, preset=label, number=number)
    return [_queued(shots, replace(wish.delivery, parts=going_out(shots)), name)]


def queue_hand_over(clip: Clip, wish: Wish) -> HandOver:
    """Put one clip into the queue as one file."""
    return hand_over([clip], wish)[0]


def _queued(shots: Sequence[Clip], delivery: Delivery, name: str) -> HandOver:
    clip = shots[0]
    title = clip.whole.title if clip.whole is not None and len(shots) > 1 else ""
    order = HandOver.objects.create(
        clip=clip, version=clip.version, grade=recipe.reel_to_json(_reel(shots)), preset=delivery.preset.key,
        delivery=delivery.as_json(), name=name, title=title,
    )  # fmt: skip
    return _asked(order, _frames(clip, delivery.parts))


def _reel(shots: Sequence[Clip]) -> Reel:
    """The grades of now, each for as long as its shot; what lies between goes with the one before."""
    return Reel(
        grades=tuple(grade_of(shot) for shot in shots), ends_s=tuple(shot.begin_s for shot in shots[1:])
    )


def _frames(clip: Clip, parts: Sequence[Part]) -> int:
    frames, whole_s = int(clip.info.get("frames", 0)), float(clip.info.get("duration_s", 0) or 1)
    return round(frames * sum(p.length_s for p in parts) / whole_s) if parts else frames


def _asked(order: HandOver, total: int) -> HandOver:
    order.job = ask(KIND, order.pk, total=total)
    order.save(update_fields=["job"])
    return order


def _together(clips: Sequence[Clip], wish: Wish) -> HandOver:
    """One file of several clips, in the order of filming."""
    ordered = sorted(clips, key=lambda c: (c.filmed_at is None, c.filmed_at or c.created, c.pk))
    first, outing = ordered[0], ordered[0].outing.name
    others = [
        {
            "clip": c.pk,
            "grade": recipe.to_json(grade_of(c)),
            "time_s": _usual_moment(c),
            "parts": [[p.begin_s, p.end_s] for p in going_out([c])],
        }
        for c in ordered
    ]
    what = TOGETHER[wish.mode]
    is_film = what is HandOver.What.JOINED
    order = HandOver.objects.create(
        clip=first, what=what, version=first.version,
        title=outing, name=plain_name(f"{outing}-{wish.preset.label if is_film else wish.mode}"),
        grade=others[0]["grade"], preset=wish.preset.key, delivery=wish.delivery.as_json(), others=others,
    )  # fmt: skip
    total = sum(_frames(c, going_out([c])) for c in ordered) if is_film else len(ordered)
    return _asked(order, total)


def _usual_moment(clip: Clip) -> float:
    return clip.poster.time_s if clip.poster else 0.0


def queue_still(clip: Clip, time_s: float, kind: str) -> HandOver:
    """Put a still of a moment into the queue."""
    order = HandOver.objects.create(
        clip=clip, what=HandOver.What.STILL, version=clip.version, grade=recipe.to_json(grade_of(clip)),
        preset=kind, time_s=time_s, name=plain_name(f"{clip.title.rsplit('.', 1)[0]}-{time_s:.2f}s"),
        delivery=Delivery().as_json(),
    )  # fmt: skip
    return _asked(order, 1)


# --- while they wait -------------------------------------------------------------------------------


def stop_hand_over(order: HandOver) -> None:
    """Stop a render; one that still waits never starts."""
    if order.job is not None:
        stop(order.job)
    if order.paused:
        HandOver.objects.filter(pk=order.pk).update(paused=False)


def pause(order: HandOver) -> None:
    """Have a hand-over rest; what of it is finished is kept, and gone on with."""
    HandOver.objects.filter(pk=order.pk).update(paused=True)
    if order.job is not None:
        stop(order.job)


def go_on(order: HandOver) -> None:
    """Put a hand-over that rests, or that was stopped or failed, back into the queue."""
    with transaction.atomic():
        fresh = HandOver.objects.select_for_update().select_related("job").get(pk=order.pk)
        if fresh.is_done or fresh.is_active:
            return
        fresh.paused = False
        fresh.save(update_fields=["paused"])
        _asked(fresh, fresh.job.total if fresh.job else 0)


def sooner(order: HandOver) -> None:
    """Put a waiting hand-over before the one that waits ahead of it: their jobs change hands."""
    with transaction.atomic():
        mine = Job.objects.filter(hand_over=order, state=Job.State.WAITING).first()
        if mine is None:
            return
        waiting = Job.objects.filter(kind=KIND, state=Job.State.WAITING, pk__lt=mine.pk)
        ahead = waiting.order_by("-pk").first()
        if ahead is None:
            return
        theirs = HandOver.objects.get(pk=ahead.subject)
        HandOver.objects.filter(pk__in=(order.pk, theirs.pk)).update(job=None)
        Job.objects.filter(pk=mine.pk).update(subject=-order.pk)  # two may not wait for one
        for job, subject, total in ((ahead, order, mine.total), (mine, theirs, ahead.total)):
            Job.objects.filter(pk=job.pk).update(subject=subject.pk, total=total)
            HandOver.objects.filter(pk=subject.pk).update(job=job)


@dataclass(frozen=True, slots=True, kw_only=True)
class Batch:
    """All that is on its way, as one: files and frames, done and in all."""

    files: int
    ready: int
    percent: int
    minutes: float | None

    @property
    def is_active(self) -> bool:
        return self.ready < self.files

    @property
    def words(self) -> str:
        said = f"{self.ready} of {self.files} files ready, {self.percent} %"
        if self.minutes is None:
            return f"{said}."
        left = "less than a minute" if self.minutes < 1 else f"about {self.minutes:.0f} min"
        return f"{said}, {left} left."


def batch(speed: float) -> Batch | None:
    """How far all that was ordered since the queue was last empty has come; None if it is empty.

    speed : frames a second that this machine renders, 0 if that is not known
    """
    first = HandOver.objects.live().aggregate(first=Min("created"))["first"]
    if first is None:
        return None
    counted_of = HandOver.objects.defer("grade", "others", "measured", "delivery", "verdicts")
    since = counted_of.filter(created__gte=first).exclude(paused=True).select_related("job")
    counted = [o for o in since if o.job is not None and (o.is_active or o.is_done)]
    if not counted:
        return None
    total = sum(max(o.job.total, 1) for o in counted if o.job)
    done = sum(max(o.job.total, 1) if o.is_done else o.job.done for o in counted if o.job)
    return Batch(
        files=len(counted), ready=sum(o.is_done for o in counted), percent=min(100 * done // total, 100),
        minutes=(total - done) / speed / 60 if speed else None,
    )  # fmt: skip

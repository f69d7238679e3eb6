"""A file of several shots: split into clips of their own, joined again, its cuts set by hand."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import PurePath
from typing import Any

from django.db import transaction

from morphe.core.errors import MediaError
from morphe.core.footage.shots import Shot, Shots
from morphe.core.handover.parts import Part
from morphe.web.clips.models import Clip
from morphe.web.clips.services.wall.parts import parts_of
from morphe.web.jobs.services.ask import ask
from morphe.web.shell.notes import note

__all__ = [
    "clip_at",
    "cut_here",
    "going_out",
    "join",
    "join_with_next",
    "move_edge",
    "reset_cuts",
    "shots_of",
    "siblings",
    "split",
    "undo_cut",
]

MOST_BEFORE = 50  # changes of cuts that can be taken back
SHARED = (  # what a shot has from its file
    "outing", "camera", "file", "sha256", "size_bytes", "profile_choice", "folder", "group", "proxy",
    "proxy_chroma", "over_time", "filmed_at", "tags", "planned", "take", "water",
)  # fmt: skip


def shots_of(clip: Clip) -> Shots | None:
    """The shots of a clip's file; None where there is one, or it is not known yet."""
    found = (clip.whole or clip).shots_now
    return found if found is not None and found.count > 1 else None


def siblings(clip: Clip) -> list[Clip]:
    """All shots of a shot's file that are worked on, in order."""
    return list(Clip.objects.with_grades().filter(whole=clip.whole_id).order_by("begin_s"))


def clip_at(clip: Clip, time_s: float) -> Clip:
    """What is worked on at a moment of a clip's file: the file, or the shot that is shown then."""
    found = Clip.objects.filter(whole=clip.whole_id or clip.pk, begin_s__lte=time_s + 1e-3).order_by(
        "-begin_s"
    )
    return found.first() or (clip.whole or clip)


def going_out(shots: Sequence[Clip]) -> tuple[Part, ...]:
    """The parts of a file that go out: of a clip its good parts; of shots theirs, or all they have.

    Nothing stands for the whole file, as it does where all its shots go out whole.
    """
    first = shots[0]
    if first.whole_id is None:
        return parts_of(first)
    if not any(shot.parts for shot in shots) and len(shots) == len(siblings(first)):
        return ()
    return tuple(
        part for shot in shots for part in (parts_of(shot) or (Part(begin_s=shot.begin_s, end_s=shot.end_s),))
    )


def split(clip: Clip) -> list[Clip]:
    """Give each shot of a file a card, a light, proposals, a grade and a history of its own.

    Raises
    ------
    MediaError
        If it is one shot, or not looked through yet.
    """
    shots = shots_of(clip)
    if clip.whole_id is not None or shots is None:
        raise MediaError(f"{clip.title} is a single shot; cut it on the Bench where another begins.")
    with transaction.atomic():
        Clip.everything.filter(pk=clip.pk).update(aside=True)
        _lay(clip, shots)
        note(clip, "split", f"Split {clip.title} into {shots.count} shots.")
    return list(Clip.objects.filter(whole=clip).order_by("begin_s"))


def join(clip: Clip) -> Clip:
    """Work on a file as one clip again; what was set for its shots is kept, should it be split once more."""
    whole = clip.whole or clip
    with transaction.atomic():
        Clip.everything.filter(whole=whole).update(aside=True)
        Clip.everything.filter(pk=whole.pk).update(aside=False)
        note(whole, "joined", f"Joined the shots of {whole.title} again.")
    whole.aside = False
    return whole


def cut_here(clip: Clip, time_s: float) -> None:
    """A shot begins at a moment."""
    _change(clip, lambda shots: shots.with_cut(_on_a_frame(clip, time_s)))


def move_edge(clip: Clip, edge: str, time_s: float) -> None:
    """A shot's `begin` or `end` lies at another moment; its neighbour's with it."""
    number = clip.number - 2 if edge == "begin" else clip.number - 1
    _change(clip, lambda shots: shots.moved(_existing(shots, number), _on_a_frame(clip, time_s)))


def join_with_next(clip: Clip) -> None:
    """A shot goes on to where the next one ends."""
    _change(clip, lambda shots: shots.without_cut(_existing(shots, clip.number - 1)))


def undo_cut(clip: Clip) -> None:
    """Take the last change of the cuts back."""
    whole = clip.whole or clip
    before = list(whole.cuts.get("before", ()))
    if not before:
        raise MediaError("No cut was changed; there is nothing to take back.")
    _keep(whole, Shots.from_json(before.pop()), before)


def reset_cuts(clip: Clip) -> None:
    """Cuts as they were found."""
    whole = clip.whole or clip
    _change(clip, lambda shots: Shots.from_json(whole.cuts["found"]))


def _existing(shots: Shots, number: int) -> int:
    if not 0 <= number < len(shots.cuts):
        raise MediaError("There is no cut on that side; the file begins or ends there.")
    return number


def _on_a_frame(clip: Clip, time_s: float) -> float:
    """The moment of the frame that is shown then, by the clip's rate."""
    fps = float(clip.signal.fps)
    return round(time_s * fps) / fps if not clip.signal.variable_rate else time_s


def _change(clip: Clip, change: Callable[[Shots], Shots]) -> None:
    whole = clip.whole or clip
    now = whole.shots_now
    if now is None:
        raise MediaError("The clip is still being looked through; try again in a moment.")
    made = change(now)
    if made != now:
        _keep(whole, made, [*whole.cuts.get("before", ()), now.as_json()][-MOST_BEFORE:])


def _keep(whole: Clip, shots: Shots, before: list[Any]) -> None:
    with transaction.atomic():
        whole.cuts = {**whole.cuts, "now": shots.as_json(), "before": before}
        whole.save(update_fields=["cuts"])
        if shots.count == 1:
            join(whole)
        elif whole.aside or Clip.objects.filter(whole=whole).exists():
            _lay(whole, shots)
        else:
            split(whole)
        note(whole, "cut", f"{whole.title} has {shots.count} shot{'s' if shots.count > 1 else ''}.")


def _lay(whole: Clip, shots: Shots) -> None:
    """Bring the rows of a file's shots in step with where they lie; what was set for one stays with it."""
    left = list(Clip.everything.filter(whole=whole).order_by("aside", "-pk"))
    for number, shot in enumerate(shots.each, 1):
        row = _row_for(shot, left)
        if row is None:
            row = Clip(whole=whole, **{name: getattr(whole, name) for name in SHARED})
        else:
            left.remove(row)
        _set(row, whole, number, shot)
    Clip.everything.filter(pk__in=[row.pk for row in left]).update(aside=True)


def _row_for(shot: Shot, rows: list[Clip]) -> Clip | None:
    """The row that is this shot: of the same stretch, else one that is shown and has an end in common."""
    same = [r for r in rows if r.shot and (r.shot.begin_s, r.shot.end_s) == (shot.begin_s, shot.end_s)]
    begun = [r for r in rows if not r.aside and r.shot and r.shot.begin_s == shot.begin_s]
    ended = [r for r in rows if not r.aside and r.shot and r.shot.end_s == shot.end_s]
    return next(iter([*same, *begun, *ended]), None)


def _set(row: Clip, whole: Clip, number: int, shot: Shot) -> None:
    name = PurePath(whole.title)
    stretch = shot.as_json()
    is_new = row.stretch != stretch
    row.title, row.number = f"{name.stem} shot {number}{name.suffix}"[:200], number
    row.stretch, row.begin_s, row.aside = stretch, shot.begin_s, False
    row.parts = [] if is_new else row.parts
    if row.pk is None:
        row.state = Clip.State.WAITING
    row.save()
    if is_new:
        ask("read", row.pk)

"""Decisions on several clips at once: proposals taken, a correction passed on; taken back as a whole."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from django.db import transaction

from morphe.core.advise.outing.settle import common_balance, settle, trimmed
from morphe.core.advise.rungs import RUNGS
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import CLIP, Scope
from morphe.core.grade.steps import Balance
from morphe.core.measure.stand import TOGETHER_MIRED, Apart
from morphe.web.clips.models import Clip, Decision, GradeVersion
from morphe.web.clips.services.grades.fit import Given, fit_on, trim_words
from morphe.web.clips.services.grades.grade import Holder, grade_of, is_split, with_shared
from morphe.web.clips.services.grades.shared import changed_for_all, joined, put_on
from morphe.web.clips.services.grades.versions import go_to, keep, with_proposals
from morphe.web.clips.services.questions.together import asked_about
from morphe.web.clips.services.wall.stands import member_of
from morphe.web.jobs.models import Job
from morphe.web.jobs.services.ask import ask
from morphe.web.jobs.services.run import Run
from morphe.web.outings.models import Outing

__all__ = [
    "Offer",
    "do_again",
    "is_deciding",
    "latest_decision",
    "offer_of",
    "pass_on",
    "take_all",
    "take_back",
    "work",
]

NEAR_TINT = 2.0  # thousandths of Duv: so near the light's balance a clip needs none of its own
MOST_NAMED = 4  # clips in a sentence


@dataclass(frozen=True, slots=True, kw_only=True)
class Offer:
    """What taking the proposals of clips would do, and what it leaves to a person."""

    clips: int
    proposals: int
    counts: tuple[tuple[str, int], ...]
    asked: int
    look: tuple[str, ...]
    apart: int  # clips that stand apart from their light

    @property
    def is_worth_it(self) -> bool:
        return bool(self.proposals or self.apart)

    @property
    def sentence(self) -> str:
        said = []
        if self.proposals:
            kinds = ", ".join(f"{label} {count}" for label, count in self.counts)
            plural = "s" if self.proposals != 1 else ""
            said.append(f"{_clips(self.clips)}, {self.proposals} proposal{plural}: {kinds}.")
        if self.apart:
            said.append(f"{_clips(self.apart)} stand{'s' if self.apart == 1 else ''} apart from the light.")
        return " ".join(said)

    @property
    def left(self) -> str:
        """What stays open, in a sentence; empty where nothing does."""
        said = []
        if self.asked:
            said.append(f"how {_clips(self.asked)} {'was' if self.asked == 1 else 'were'} filmed")
        if self.look:
            said.append(f"a look at {_named(self.look)}")
        return f"Left to you: {'; '.join(said)}." if said else ""


def _is_apart(found: Sequence[float] | None) -> bool:
    return found is not None and len(found) > 1 and not Apart(stops=found[0], mired=found[1]).is_together


def _clips(count: int) -> str:
    return f"{count} clip{'s' if count != 1 else ''}"


def _named(names: Sequence[str]) -> str:
    more = len(names) - MOST_NAMED
    return ", ".join(names[:MOST_NAMED]) + (f" and {more} more" if more > 0 else "")


def _meant(outing: Outing, ticked: Iterable[int]) -> list[int]:
    """Numbers of the clips that are meant: the ticked ones, else all that a person decided nothing for."""
    chosen = list(ticked)
    clips = outing.clips.ready().filter(pk__in=chosen) if chosen else outing.clips.untouched()
    return list(clips.values_list("pk", flat=True))


def offer_of(outing: Outing, ticked: Iterable[int] = ()) -> Offer:
    """Say what taking the proposals of all clips, or of the ticked ones, would do."""
    pks = _meant(outing, ticked)
    found = outing.clips.filter(pk__in=pks).values_list("title", "states", "stand__apart")
    rows = [(title, states) for title, states, _ in found]
    counts = Counter(key for _, states in rows for key, state in states.items() if state == "proposed")
    look = tuple(
        f"{RUNGS[key].step.label.lower()} of {title}" for title, states in rows
        for key, state in states.items() if state == "open" and key in RUNGS
    )  # fmt: skip
    return Offer(
        clips=sum("proposed" in states.values() for _, states in rows), proposals=sum(counts.values()),
        counts=tuple((RUNGS[key].step.label.lower(), counts[key]) for key in RUNGS if counts[key]),
        asked=asked_about(outing).filter(pk__in=pks).count(), look=look,
        apart=sum(_is_apart(apart) for *_, apart in found),
    )  # fmt: skip


def take_all(outing: Outing, ticked: Iterable[int] = ()) -> Decision | None:
    """Have the worker take the proposals of all clips, or of the ticked ones; None if there are none."""
    pks = _meant(outing, ticked)
    return _begin(outing, pks, f"Took the proposals of {_clips(len(pks))}", {}) if pks else None


def pass_on(outing: Outing, given: Given, targets: Sequence[int]) -> Decision:
    """Have the worker pass a correction on to clips, trimmed to each one's own readings."""
    return _begin(outing, targets, f"Passed {given.name} on to {_clips(len(targets))}", given.as_json())


def _begin(outing: Outing, pks: Sequence[int], change: str, given: dict[str, object]) -> Decision:
    with transaction.atomic():
        decision = Decision.objects.create(outing=outing, asked=list(pks), change=change[:200], given=given)
        ask("decide", decision.pk, total=len(pks))
    return decision


def latest_decision(outing: Outing) -> Decision | None:
    """The last decision on several clips."""
    return outing.decisions.first()


def is_deciding(outing: Outing) -> bool:
    """Whether the worker still has something to do that the cards will show."""
    live = Job.objects.live()
    open_ones = list(outing.decisions.filter(done=False).values_list("pk", flat=True))
    judged = live.filter(kind="judge", subject__in=outing.clips.values("pk"))
    together = live.filter(kind__in=("sort", "stand"), subject=outing.pk)
    return (live.of("decide", *open_ones) | judged | together).exists()


# --- in the worker -----------------------------------------------------------------------------------


def work(run: Run) -> None:
    """Do what was decided for several clips; all of it is kept at once, or nothing."""
    decision = Decision.objects.select_related("outing").filter(pk=run.subject, done=False).first()
    if decision is None:
        return
    do = _pass_on if decision.given else _take
    planned = do(run, decision)
    with run.keeping():
        decision.sentences = planned.keep(decision)
        decision.done = True
        decision.save(update_fields=["sentences", "done"])


@dataclass(frozen=True, slots=True, kw_only=True)
class Planned:
    """What will be kept: balances of lights, and the grade and trim of every clip."""

    clips: Sequence[Clip]  # as they were when it was planned
    grades: dict[int, Grade]
    trims: dict[int, Apart]
    lights: dict[int, Balance]  # by the number of a clip that lies in it
    change: str
    sentences: tuple[str, ...] = ()

    def keep(self, decision: Decision) -> list[str]:
        said = list(self.sentences)
        for pk, balance in self.lights.items():
            clip = _clip(pk)
            if clip is None:
                continue
            grade, change = put_on(clip, "balance", Scope.LIGHT, balance, proposed=True)
            said.append(f"{clip.group}: {change}, for all its clips.")
            keep(clip, grade, change, decision=decision)
        trims, passed = [], []
        for planned in self.clips:
            pk = planned.pk
            clip, trim = _clip(pk), self.trims[pk]
            if clip is None:  # it was removed meanwhile
                continue
            if clip.version_id != planned.version_id:  # a person decided meanwhile
                passed.append(clip.title)
                continue
            Clip.objects.filter(pk=pk).update(trim={"exposure": trim.stops, "balance": -trim.mired})
            if trim != Apart():
                trims.append(f"{clip.title} {trim_words(trim)}")
            keep(clip, with_shared(clip, self.grades[pk]), self.change, decision=decision)
        if passed:
            said.append(f"Changed meanwhile, and left: {_named(passed)}.")
        if trims:
            said.append(f"Trimmed: {_named(trims)}.")
        return said


def _clip(pk: int) -> Clip | None:
    return Clip.objects.with_grades().filter(pk=pk).first()


def _asked(decision: Decision) -> list[Clip]:
    clips = decision.outing.clips.ready().with_grades().prefetch_related("frames")
    return list(clips.filter(pk__in=decision.asked))


def _pass_on(run: Run, decision: Decision) -> Planned:
    given = Given.from_json(decision.given)
    grades, trims, far = {}, {}, []
    clips = _asked(decision)
    for done, clip in enumerate(clips):
        run.check()
        run.progress(done, len(clips))
        fit = fit_on(given, clip)
        grades[clip.pk], trims[clip.pk] = fit.grade, fit.trim
        if not fit.fits:
            far.append(clip.title)
    said = (f"It does not fit {_named(far)} well: look at the result.",) if far else ()
    change = f"Took the correction of {given.name}"
    return Planned(clips=clips, grades=grades, trims=trims, lights={}, change=change, sentences=said)


def _take(run: Run, decision: Decision) -> Planned:
    offer = offer_of(decision.outing, decision.asked)
    taken = {clip.pk: clip for clip in _asked(decision)}
    lights: dict[int | None, list[Clip]] = {}
    for clip in taken.values():
        lights.setdefault(clip.group_id, []).append(clip)
    grades: dict[int, Grade] = {}
    trims: dict[int, Apart] = {}
    balances: dict[int, Balance] = {}
    for group, clips in lights.items():
        run.check()
        run.progress(len(grades), len(taken))
        planned = {clip.pk: with_proposals(clip, over_own=False) for clip in clips}
        others = _others(decision.outing, group, taken)
        shared = None if others or group is None else _shared_balance(clips, planned)
        if shared is not None:
            balances[clips[0].pk] = shared
        planned = {pk: _under(grade, shared) for pk, grade in planned.items()}
        members = [member_of(clip, _through(planned[clip.pk], shared)) for clip in clips]
        fixed = [member_of(clip, fixed=True) for clip in others]
        found = settle([*members, *fixed]) if group is not None else [Apart()] * len(clips)
        for clip, trim in zip(clips, found, strict=False):
            trims[clip.pk], grades[clip.pk] = trim, trimmed(planned[clip.pk], trim)
    said = [sentence for sentence in (offer.sentence, offer.left) if sentence]
    return Planned(
        clips=list(taken.values()), grades=grades, trims=trims, lights=balances, change="Took all proposals",
        sentences=tuple(said),
    )  # fmt: skip


def _others(outing: Outing, group: int | None, taken: dict[int, Clip]) -> list[Clip]:
    """Clips of a light that are not meant: the others come to them."""
    if group is None:
        return []
    found = outing.clips.ready().filter(group=group).exclude(pk__in=taken)
    return list(found.with_grades().prefetch_related("frames"))


def _shared_balance(clips: Sequence[Clip], planned: dict[int, Grade]) -> Balance | None:
    """The balance that belongs to the light of clips, all of which are being decided."""
    if any(is_split(planned[c.pk], Scope.LIGHT) or grade_of(c).step("balance").at_work for c in clips):
        return None
    return common_balance([planned[clip.pk] for clip in clips])


def _under(grade: Grade, shared: Balance | None) -> Grade:
    """A clip's grade beside a balance of its light: what is left of its own."""
    own = grade.step("balance", CLIP)
    if shared is None or not isinstance(own, Balance) or not own.at_work:
        return grade
    warmth, tint = (own.number(n) - shared.number(n) for n in ("warmth", "tint"))
    if abs(warmth) < TOGETHER_MIRED and abs(tint) < NEAR_TINT:
        return grade.without_step("balance", CLIP)
    return grade.with_step(replace(own, warmth=round(warmth, 1), tint=round(tint, 1)), CLIP)


def _through(grade: Grade, shared: Balance | None) -> Grade:
    if shared is None:
        return grade
    return grade.with_step(joined(grade.step("balance", Scope.LIGHT), shared), Scope.LIGHT)


# --- taken back as a whole -----------------------------------------------------------------------------


def take_back(decision: Decision) -> str:
    """Take a decision back on all clips that nothing was done to since; what was done, in words."""
    return _turn(decision, back=True)


def do_again(decision: Decision) -> str:
    """Do a decision again that was taken back."""
    return _turn(decision, back=False)


def _turn(decision: Decision, *, back: bool) -> str:
    turned, kept = 0, []
    with transaction.atomic():
        for holder, first, last in _steps(decision):
            before, after = (last, first.parent) if back else (first.parent, last)
            if before is None or holder.version_id != before.pk:
                kept.append(holder.title if isinstance(holder, Clip) else holder.label)
                continue
            go_to(holder, after)
            if isinstance(holder, Clip):
                turned += 1
            else:
                changed_for_all(holder)
        Decision.objects.filter(pk=decision.pk).update(taken_back=back)
        ask("stand", decision.outing_id)
    said = f"{'Taken back' if back else 'Done again'} on {_clips(turned)}."
    if kept:
        one = len(kept) == 1
        said += f" {_named(kept)} {'was' if one else 'were'} changed since and {'stays' if one else 'stay'}."
    return said


def _steps(decision: Decision) -> list[tuple[Holder, GradeVersion, GradeVersion]]:
    """Every clip and shared layer that a decision changed, with its first and its last version of it."""
    found: dict[tuple[str, int], tuple[Holder, GradeVersion, GradeVersion]] = {}
    for version in decision.versions.select_related("clip", "layer__group", "layer__outing", "parent"):
        holder = version.clip if version.clip is not None else version.layer
        assert holder is not None  # the database sees to it
        key = (type(holder).__name__, holder.pk)
        first = found[key][1] if key in found else version
        found[key] = (holder, first, version)
    return list(found.values())

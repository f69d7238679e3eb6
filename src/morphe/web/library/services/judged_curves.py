"""Curves that were judged from clips, as the Library shows them beside the profiles, and keeping one."""

from __future__ import annotations

from dataclasses import dataclass

from morphe.core.errors import UnknownName
from morphe.core.signal.families import curve_of
from morphe.core.signal.own_profile import judged_profile
from morphe.web.clips.services.reading.judged import choose_profile
from morphe.web.clips.services.reading.shared_curves import SharedCurve, shared_curve_of, shared_curves
from morphe.web.library.models import KeptProfile
from morphe.web.library.services.drawing import Drawing, band, drawn
from morphe.web.library.services.profiles import keep_own

__all__ = ["ShownCurve", "keep_judged", "shown_curve", "shown_curves"]

MARKS = ("Black", "Grey 18 %", "White 90 %")


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownCurve:
    """A judged curve: from which clips, drawn with the band that the true one most likely lies in."""

    pk: int  # of the clip that stands for it
    label: str
    about: str
    kind: str
    drawing: Drawing
    band: str
    marks: tuple[tuple[str, str], ...]
    titles: tuple[str, ...]


def shown_curves() -> list[ShownCurve]:
    """All judged curves."""
    return [_shown(shared) for shared in shared_curves()]


def shown_curve(clip_id: int) -> ShownCurve:
    """The curve of one clip and its like.

    Raises
    ------
    UnknownName
        If the clip has no judged curve any more.
    """
    return _shown(_found(clip_id))


def keep_judged(clip_id: int, name: str) -> KeptProfile:
    """Keep the curve of a clip and its like as a profile; all of them are taken as filmed in it."""
    shared = _found(clip_id)
    landing, colour = shared.judged.best
    about = f"judged from {_count(shared)}"
    kept = keep_own(judged_profile(name, shared.kind, curve_of(shared.kind, landing), colour), about)
    choose_profile(shared.clips[0], kept.key)
    return kept


def _found(clip_id: int) -> SharedCurve:
    shared = shared_curve_of(clip_id)
    if shared is None:
        raise UnknownName("This curve has changed or is gone; look at the list again.")
    return shared


def _count(shared: SharedCurve) -> str:
    return f"{len(shared.clips)} clips" if len(shared.clips) > 1 else "one clip"


def _shown(shared: SharedCurve) -> ShownCurve:
    landing, colour = shared.judged.best
    own = judged_profile("Judged", shared.kind, curve_of(shared.kind, landing), colour)
    likely = [curve_of(shared.kind, one).encode for one, _, _ in shared.judged.points()]
    levels = (landing.black, landing.grey, landing.white)
    first = shared.clips[0]
    where = " · ".join(str(part) for part in (first.camera or "", first.folder) if part)
    return ShownCurve(
        pk=first.pk, label=f"{shared.kind.word.capitalize()}, judged from {_count(shared)}",
        about=where or first.title, kind=shared.kind.word, drawing=drawn(own.profile),
        band=band(likely, own.clip_stops),
        marks=tuple(
            (name, f"{100 * level:.0f} ± {100 * spread:.0f} %")
            for name, level, spread in zip(MARKS, levels, shared.judged.spread, strict=True)
        ),
        titles=tuple(clip.title for clip in shared.clips),
    )  # fmt: skip

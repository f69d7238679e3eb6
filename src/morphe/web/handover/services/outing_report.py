"""The report of an outing: each clip before and after, its numbers, the reasons, the checks of its files."""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from morphe.core.grade.grade import Grade
from morphe.core.grade.letters import FACES, FALLBACKS
from morphe.core.handover.output import whole_file
from morphe.core.handover.verdict import State
from morphe.core.pipeline.screen import graded_still
from morphe.core.screen.pictures import jpeg
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.reading.storage import load_picture
from morphe.web.handover.models import HandOver
from morphe.web.outings.models import Outing

if TYPE_CHECKING:
    from fpdf import FPDF

__all__ = ["ClipReport", "report_of", "write_pdf"]

SPELLED = {"Δ": "delta ", "→": "to", "≤": "at most ", "≥": "at least "}  # what the typeface has no sign for
SIZE = (210.0, 297.0)  # mm, A4
MARGIN, GAP, PICTURE = 15.0, 4.0, 88.0
READINGS = (("p01", "Darkest 1 %"), ("p50", "Middle"), ("p99", "Brightest 1 %"))


@dataclass(frozen=True, slots=True, kw_only=True)
class ClipReport:
    """One clip as a report shows it."""

    clip: Clip
    facts: str
    numbers: tuple[tuple[str, str], ...]  # what was measured in the clip as filmed
    done: tuple[tuple[str, str], ...]  # each step at work with its numbers
    reasons: tuple[tuple[str, str], ...]  # each rung's label, what was measured and why
    files: tuple[tuple[str, tuple[str, ...]], ...]  # each file that went out, with what its checks said


def report_of(outing: Outing, numbers: Sequence[int] = ()) -> list[ClipReport]:
    """All clips of an outing that were read, or those of some numbers, in the order of filming."""
    clips = (
        outing.clips.ready().with_grades().select_related("camera").prefetch_related("frames", "hand_overs")
    )
    found = [c for c in clips if not numbers or c.pk in numbers]
    found.sort(key=lambda c: (c.filmed_at is None, c.filmed_at or c.created, c.pk))
    return [_clip(clip) for clip in found]


def _clip(clip: Clip) -> ClipReport:
    info, grade, luma = clip.signal, grade_of(clip), clip.readings.get("luma", {})
    facts = [
        clip.camera.name if clip.camera else "", str(clip.profile.get("label", "")),
        f"{info.width} × {info.height}, {float(info.fps):g} a second, {info.bit_depth}-bit",
        f"{info.duration_s:.1f} s",
    ]  # fmt: skip
    return ClipReport(
        clip=clip,
        facts=", ".join(f for f in facts if f),
        numbers=tuple((label, f"{luma[key]:.1f} %") for key, label in READINGS if key in luma),
        done=tuple((s.label, s.summary) for _, s in grade.steps() if s.at_work),
        reasons=tuple((r["label"], f"{r['measured']} {r['reason']}".strip()) for r in clip.rungs),
        files=tuple((order.label, _checks(order)) for order in clip.hand_overs.all() if order.is_done),
    )


def _checks(order: HandOver) -> tuple[str, ...]:
    if not order.verdicts:
        return ()
    asks = [f"{v['label']}: {v['sentence']}" for v in order.verdicts if v["state"] != State.GOOD]
    return tuple(asks) or ("Looked over, nothing to mend.",)


# --- as PDF ----------------------------------------------------------------------------------------


def write_pdf(
    outing: Outing, clips: Sequence[ClipReport], out: Path, progress: Callable[[int, int], bool]
) -> int:
    """Write the report as a PDF; the number of its pages."""
    from fpdf import FPDF  # heavy: late, as only a report needs it

    pdf = FPDF(format=SIZE)
    for style, name in (("", "regular"), ("B", "bold")):
        pdf.add_font("Text", style, str(FACES / f"atkinson-hyperlegible-next-latin-{name}.ttf"))
        for number, face in enumerate(FALLBACKS[bool(style)]):
            pdf.add_font(f"Other {number}", style, str(face))
    pdf.set_fallback_fonts([f"Other {number}" for number in range(len(FALLBACKS[False]))], exact_match=False)
    pdf.set_title(outing.name)
    pdf.set_lang("en")
    pdf.set_margins(MARGIN, MARGIN)
    pdf.set_auto_page_break(True, MARGIN)
    for number, one in enumerate(clips):
        pdf.add_page()
        if number == 0:
            _line(pdf, outing.name, size=20, style="B")
            _line(pdf, ", ".join(p for p in (outing.place, outing.date.strftime("%d %B %Y")) if p), size=11)
            pdf.ln(GAP)
        _page(pdf, one)
        progress(number + 1, len(clips))
    with whole_file(out) as part:
        pdf.output(str(part))
    return int(pdf.pages_count)


def _page(pdf: FPDF, one: ClipReport) -> None:
    _line(pdf, one.clip.title, size=14, style="B")
    _line(pdf, one.facts, size=9)
    _pictures(pdf, one.clip)
    if one.numbers:
        _line(pdf, "As filmed: " + ", ".join(f"{label} {value}" for label, value in one.numbers), size=9)
    _table(pdf, "What is set", one.done or (("Nothing", "it is as filmed"),))
    _table(pdf, "What was measured, and why", one.reasons)
    for label, checks in one.files:
        _table(pdf, f"Handed over: {label}", tuple(("Check", check) for check in checks))


def _pictures(pdf: FPDF, clip: Clip) -> None:
    frame = clip.poster
    if frame is None:
        return
    filmed = load_picture(frame.picture.path)
    made = graded_still(filmed, grade_of(clip), frame.time_s)
    top = pdf.get_y() + 2
    height = PICTURE * filmed.shape[0] / filmed.shape[1]
    for place, picture in enumerate((np.clip(graded_still(filmed, Grade()), 0, 1), made)):
        left = MARGIN + place * (PICTURE + GAP)
        words = f"{clip.title}, {'corrected' if place else 'as filmed'}"
        pdf.image(io.BytesIO(jpeg(picture)), x=left, y=top, w=PICTURE, alt_text=words)
    pdf.set_y(top + height + 2)


def _table(pdf: FPDF, title: str, rows: Sequence[tuple[str, str]]) -> None:
    if not rows:
        return
    pdf.ln(2)
    _line(pdf, title, size=10, style="B")
    for label, text in rows:
        pdf.set_font("Text", size=9)
        pdf.multi_cell(0, 4.4, _spelled(f"{label}: {text}"), new_x="LMARGIN", new_y="NEXT")


def _line(pdf: FPDF, text: str, *, size: float, style: str = "") -> None:
    pdf.set_font("Text", style, size)  # type: ignore[arg-type]
    pdf.multi_cell(0, size * 0.5, _spelled(text), new_x="LMARGIN", new_y="NEXT")


def _spelled(text: str) -> str:
    for sign, words in SPELLED.items():
        text = text.replace(sign, words)
    return text

"""The palette of a judging frame: its colour families before and after, and what their edits leave alone."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np

from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Families
from morphe.core.grade.steps.families import Edit
from morphe.core.measure.palette import Member, members_of, palette_of
from morphe.core.measure.readings import oklab_of
from morphe.core.pipeline.screen import graded_still
from morphe.core.signal.arrays import Encoded, Float, Mask
from morphe.core.signal.hues import FAMILIES, family_of, within_reach
from morphe.core.signal.perception import delta_e_2000, encoded_to_lab

__all__ = ["palette_json"]

WIDTH = 200  # pixels across that tell
HALF = 0.5


def palette_json(picture: Encoded, graded: Encoded, grade: Grade, time_s: float) -> dict[str, Any]:
    """Families and picked colours of a frame, as they are without and with the step, and how far the rest
    moved."""
    height = max(2, round(picture.shape[0] * WIDTH / picture.shape[1]))
    size = (WIDTH, height)
    small: Encoded = cv2.resize(picture, size, interpolation=cv2.INTER_AREA).astype(np.float32, copy=False)
    after: Encoded = cv2.resize(graded, size, interpolation=cv2.INTER_AREA).astype(np.float32, copy=False)
    after = after.reshape(-1, 3)
    step = grade.step(Families.key)
    edits = step.edits if isinstance(step, Families) else ()
    works = any(not edit.is_neutral for edit in edits)
    before = graded_still(small, grade.without_step(Families.key), time_s).reshape(-1, 3) if works else after
    lab = oklab_of(before)
    members = members_of(lab)
    found = {m.family.key: m for m in palette_of(before)}
    usual = {FAMILIES.get(key).at: key for key in FAMILIES}
    own = [edit for edit in edits if edit.at not in usual]
    rows = [_row(member, before, after, members[member.family.key]) for member in found.values()]
    rows += [_picked(edit, lab, before, after) for edit in own]
    return {"rows": rows, "rest": round(_rest_moved(edits, lab, before, after), 2) if works else 0.0}


def _row(member: Member, before: Encoded, after: Encoded, mask: Mask) -> dict[str, Any]:
    family = member.family
    return {
        "key": family.key, "label": family.label, "usually": family.usually,
        "at": family.at, "below": round(family.below, 2), "above": round(family.above, 2),
        "share": round(100 * member.share, 1), "beyond": round(100 * member.beyond, 1),
        "before": _hex(before[mask].mean(axis=0)), "after": _hex(after[mask].mean(axis=0)),
    }  # fmt: skip


def _picked(edit: Edit, lab: Float, before: Encoded, after: Encoded) -> dict[str, Any]:
    mask = _reached(edit, lab)
    pixels = (before[mask], after[mask]) if mask.any() else (before, after)
    return {
        "key": f"at-{edit.at:.0f}", "label": f"Near {family_of(edit.at).label.lower()}", "usually": "picked",
        "at": edit.at, "below": edit.below, "above": edit.above,
        "share": round(100 * float(mask.mean()), 1), "beyond": 0.0,
        "before": _hex(pixels[0].mean(axis=0)), "after": _hex(pixels[1].mean(axis=0)),
    }  # fmt: skip


def _reached(edit: Edit, lab: Float, least: float = HALF) -> Mask:
    hue = np.degrees(np.arctan2(lab[:, 2], lab[:, 1])) % 360
    chroma = np.hypot(lab[:, 1], lab[:, 2])
    return np.asarray((within_reach(hue, edit.at, edit.below, edit.above) > least) & (chroma > 0.035))


def _rest_moved(edits: tuple[Edit, ...], lab: Float, before: Encoded, after: Encoded) -> float:
    """Mean CIEDE2000 of what no edit reaches."""
    touched = np.zeros(len(lab), bool)
    for edit in edits:
        if not edit.is_neutral:
            touched |= _reached(edit, lab, 0.1)
    if touched.all():
        return 0.0
    rest = ~touched
    return float(delta_e_2000(encoded_to_lab(before[rest]), encoded_to_lab(after[rest])).mean())


def _hex(colour: Float) -> str:
    codes = np.clip(np.round(np.asarray(colour) * 255), 0, 255).astype(int)
    return "#{:02x}{:02x}{:02x}".format(*codes)

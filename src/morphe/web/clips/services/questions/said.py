"""What a person answered for clips of one camera and folder: kept, and held to for the next ones."""

from __future__ import annotations

from typing import Any

from morphe.web.clips.models import Clip, GivenAnswer

__all__ = ["PROFILE", "WATER", "forget", "remember", "remembered"]

PROFILE, WATER = "profile", "water"  # the questions whose answers are kept


def remember(clip: Clip, question: str, key: str, label: str) -> None:
    """Keep an answer for the next clips of this one's camera and folder."""
    if _has_like(clip):
        GivenAnswer.objects.update_or_create(
            **_where(clip, question), defaults={"key": key, "label": label[:80]}
        )


def forget(clip: Clip, question: str) -> None:
    """Leave it open again."""
    GivenAnswer.objects.filter(**_where(clip, question)).delete()


def remembered(clip: Clip, question: str) -> GivenAnswer | None:
    """What was answered before for this camera's clips from this folder."""
    return GivenAnswer.objects.filter(**_where(clip, question)).first() if _has_like(clip) else None


def _has_like(clip: Clip) -> bool:
    return bool(clip.camera_id or clip.folder)


def _where(clip: Clip, question: str) -> dict[str, Any]:
    return {"question": question, "camera_id": clip.camera_id, "folder": clip.folder}

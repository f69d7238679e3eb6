"""Presets by which clips go out: those that are built in, and a person's own."""

from __future__ import annotations

from collections.abc import Mapping

from morphe.core.errors import OutputError, UnknownName
from morphe.core.handover.presets import CODECS, PRESETS, Preset, own_preset
from morphe.web.library.models import KeptPreset
from morphe.web.shell.numbers import decimal

__all__ = ["all_presets", "keep_preset", "preset_named", "remove_preset"]


def all_presets() -> list[Preset]:
    """Built-in ones first."""
    return [*PRESETS.values(), *(own_preset(p.key, p.name, p.values) for p in KeptPreset.objects.all())]


def preset_named(key: str) -> Preset:
    """The preset of a key.

    Raises
    ------
    UnknownName
        If there is none; the known ones are named.
    """
    for preset in all_presets():
        if preset.key == key:
            return preset
    raise UnknownName(f"There is no preset {key!r}; known are: {', '.join(p.key for p in all_presets())}.")


def keep_preset(posted: Mapping[str, str]) -> Preset:
    """Keep a preset of a person's own under its name; one of that name is replaced.

    Raises
    ------
    OutputError
        If it is none.
    """
    name = (posted.get("name") or "").strip()[:40]
    values = {
        "codec": posted.get("codec") or next(iter(CODECS)),
        "coarser": _number(posted, "coarser"),
        "bit_depth": _number(posted, "bit_depth"),
        "chroma": posted.get("chroma") or "4:2:0",
        "every_frame": bool(posted.get("every_frame")),
        "ratio": _ratio(posted.get("ratio") or ""),
        "megabytes": _number(posted, "megabytes"),
    }
    made = own_preset("own", name, values)
    if any(p.label.lower() == made.label.lower() for p in PRESETS.values()):
        raise OutputError(f"{made.label} is built in; choose another name.")
    kept, _ = KeptPreset.objects.update_or_create(name=made.label, defaults={"values": values})
    return own_preset(kept.key, kept.name, kept.values)


def _number(posted: Mapping[str, str], name: str) -> float:
    text = posted.get(name) or "0"
    try:
        return decimal(text)
    except ValueError as error:
        raise OutputError(f"“{text}” is no number; type one.") from error


def _ratio(text: str) -> float:
    """Width to height of a shape as people write it; 0 for the clip's own."""
    if not text.strip():
        return 0.0
    try:
        wide, _, tall = text.partition(":")
        return decimal(wide) / decimal(tall or "1")
    except (ValueError, ZeroDivisionError) as error:
        raise OutputError(f"“{text}” is no shape; write it as 4:5 or 2.35.") from error


def remove_preset(key: str) -> str:
    """Forget a preset of one's own; what was handed over by it stays as it is."""
    for kept in KeptPreset.objects.all():
        if kept.key == key:
            kept.delete()
            return f"{kept.name} is gone."
    raise UnknownName("There is no such preset; reload the page.")

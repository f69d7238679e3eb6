"""A camera's data as a form shows it and as it comes back."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from django.http import QueryDict

from morphe.core.plan.kit import Codec, FilterKind, KitKind, School, Steadying
from morphe.core.signal.profiles import PROFILES

__all__ = ["TABLES", "Column", "Table", "choices", "data_from", "shown"]

BLANK_ROWS = 1


@dataclass(frozen=True, slots=True, kw_only=True)
class Column:
    """One column of a repeated entry."""

    key: str
    label: str
    options: tuple[tuple[str, str], ...] = ()
    width: int = 6


@dataclass(frozen=True, slots=True, kw_only=True)
class Table:
    """Entries of which a camera has several."""

    key: str
    label: str
    hint: str
    columns: tuple[Column, ...]


def _words(kinds: Any) -> tuple[tuple[str, str], ...]:
    return tuple((str(kind), kind.word) for kind in kinds)


CHROMAS = tuple((c, c) for c in ("4:2:0", "4:2:2", "4:4:4"))
TABLES = (
    Table(key="recordings", label="Ways of recording", hint="As the camera's menu lists them.", columns=(
        Column(key="codec", label="Codec", options=_words(Codec)),
        Column(key="bit_depth", label="Bits", options=(("8", "8"), ("10", "10"))),
        Column(key="chroma", label="Chroma", options=CHROMAS),
        Column(key="width", label="Width"), Column(key="height", label="Height"),
        Column(key="fps", label="fps"), Column(key="mbit_s", label="Mb/s"))),
    Table(key="lens_modes", label="Lens modes", hint="Horizontal angle; stops of light.", columns=(
        Column(key="name", label="Name", width=16), Column(key="width_deg", label="Angle °"),
        Column(key="cost_stops", label="Costs stops"))),
    Table(key="covers", label="Cover glasses", hint="The usual one first.", columns=(
        Column(key="name", label="Name", width=16), Column(key="cost_stops", label="Costs stops"))),
    Table(key="filters", label="Filters owned", hint="An ND8 takes 3 stops, an ND64 takes 6.", columns=(
        Column(key="name", label="Name", width=16),
        Column(key="kind", label="Kind", options=_words(FilterKind)),
        Column(key="stops", label="Stops"))),
    Table(key="cards", label="Cards", hint="Sustained speeds.", columns=(
        Column(key="name", label="Name", width=16), Column(key="gb", label="GB"),
        Column(key="write_mb_s", label="Writes MB/s"), Column(key="read_mb_s", label="Reads MB/s"))),
)  # fmt: skip
PLAIN = (
    "kind", "aperture_widest", "aperture_narrowest", "iso_base", "iso_ceiling", "kelvin_lowest",
    "kelvin_highest", "depth_limit_m", "school", "recognise",
)  # fmt: skip
SHUTTERS = ("shutter_slowest", "shutter_fastest")


def choices() -> dict[str, Any]:
    """What can be picked for each single field."""
    return {
        "kinds": _words(KitKind),
        "schools": _words(School),
        "profiles": [(p.key, p.label) for p in PROFILES.values() if p.key != "pq"],
        "steadying": _words(s for s in Steadying if s is not Steadying.GRIP),
    }


def _number(value: Any) -> str:
    return f"{value:g}" if isinstance(value, float) else str(value)


def shown(data: Mapping[str, Any]) -> dict[str, Any]:
    """A camera's plain values as the form's: times as denominators, tables with a free row."""
    values: dict[str, Any] = {k: _number(data.get(k, "")) for k in PLAIN}
    for key in SHUTTERS:
        seconds = data.get(f"{key}_s", "")  # a word if it was mistyped
        is_time = isinstance(seconds, float) and seconds > 0
        values[key] = _number(round(1 / seconds, 2)) if is_time else str(seconds)
    values["sharpness"] = ", ".join(data.get("sharpness", ("low", "medium", "high")))
    values["noise_reduction"] = ", ".join(data.get("noise_reduction", ("low", "medium", "high")))
    values["lamp"] = bool(data.get("lamp"))
    values["profiles"] = set(data.get("profiles", ("std-709",)))
    values["steadying"] = set(data.get("steadying", ()))
    values["tables"] = [_table(table, data.get(table.key, ())) for table in TABLES]
    return values


def _table(table: Table, entries: Any) -> dict[str, Any]:
    rows = [*entries, *({} for _ in range(BLANK_ROWS))]
    cells = [[{"column": c, "value": _number(row.get(c.key, ""))} for c in table.columns] for row in rows]
    return {"table": table, "rows": cells}


def data_from(posted: QueryDict) -> dict[str, Any]:
    """The form's values as a camera's plain values; rows left blank are left out."""
    data: dict[str, Any] = {key: posted[key] for key in PLAIN if posted.get(key, "").strip()}
    data["name"] = posted.get("name", "")
    for key in SHUTTERS:
        data |= _seconds(key, posted.get(key, "").strip())
    for key in ("sharpness", "noise_reduction"):
        data[key] = [word.strip() for word in posted.get(key, "").split(",") if word.strip()]
    data["lamp"] = "lamp" in posted
    data["profiles"] = posted.getlist("profiles")
    data["steadying"] = posted.getlist("steadying")
    for table in TABLES:
        data[table.key] = list(_rows(table, posted))
    return data


def _seconds(key: str, typed: str) -> dict[str, Any]:
    """A shutter time typed as 1/50 or 50."""
    word = typed.removeprefix("1/")
    if not word:
        return {}
    try:
        return {f"{key}_s": 1 / float(word)}
    except (ValueError, ZeroDivisionError):
        return {f"{key}_s": typed}  # refused with a sentence when the camera is read


def _rows(table: Table, posted: QueryDict) -> Any:
    columns = {c.key: posted.getlist(f"{table.key}-{c.key}") for c in table.columns}
    for index in range(max((len(values) for values in columns.values()), default=0)):
        row = {key: values[index].strip() if index < len(values) else "" for key, values in columns.items()}
        typed = [row[c.key] for c in table.columns if not c.options]
        if any(typed):
            yield {key: value for key, value in row.items() if value}

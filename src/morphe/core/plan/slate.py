"""Notes on the slate: read settings out of a few typed words, and set them against the plan."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from morphe.core.errors import PlanError
from morphe.core.plan.wording import kelvin, shutter, stops
from morphe.core.signal.profiles import PROFILES, Kind

__all__ = ["Check", "Note", "Recorded", "check_against_plan", "parse_note", "parse_notes"]

WORDS = re.compile(
    r"(?:^|[\s,;])(?:"
    r"1/(?P<shutter>\d{1,5}(?:\.\d+)?)(?:\s*s)?"
    r"|iso\s*(?P<iso>\d{2,6})"
    r"|(?P<kelvin>\d{4,5})\s*k"
    r"|nd\s*(?P<density>\d?\.\d{1,2})"
    r"|nd\s*(?P<nd>\d{1,6})"
    r"|f\s*/?\s*(?P<aperture>\d{1,2}(?:\.\d{1,2})?)"
    r"|(?P<fps>\d{2,3}(?:\.\d+)?)\s*(?:fps|p)"
    r")(?=$|[\s,;]|\.(?!\d))",
    re.IGNORECASE,
)
KINDS = {
    "standard": Kind.STANDARD, "ordinary": Kind.STANDARD, "flat": Kind.FLAT, "log": Kind.LOG, "hlg": Kind.HLG,
}  # fmt: skip
SAME_STOPS, SAME_MIRED = 0.2, 8.0
DENSITY_OF_A_STOP = 0.3  # as filters are marked: the logarithm of two, rounded


@dataclass(frozen=True, slots=True, kw_only=True)
class Recorded:
    """Settings somebody wrote down; None where nothing was said."""

    shutter_s: float | None = None
    iso: float | None = None
    kelvin: float | None = None
    nd_stops: float | None = None
    aperture: float | None = None
    fps: float | None = None
    kind: str | None = None

    def as_json(self) -> dict[str, Any]:
        return {name: getattr(self, name) for name in self.__slots__}

    @property
    def words(self) -> list[str]:
        """What was understood, as short words."""
        said = [
            self.shutter_s and shutter(self.shutter_s),
            self.iso and f"ISO {self.iso:g}",
            self.nd_stops is not None and (f"ND{2**self.nd_stops:.0f}" if self.nd_stops else "no ND"),
            self.aperture and f"f/{self.aperture:g}",
            self.kelvin and kelvin(self.kelvin),
            self.fps and f"{self.fps:g} fps",
            self.kind and Kind(self.kind).word,
        ]
        return [str(word) for word in said if word]


def parse_note(note: str) -> Recorded:
    """Read `1/400 iso 800 ND8 5600K flat` and the like; words that say no setting are left alone."""
    found: dict[str, float] = {}
    for match in WORDS.finditer(note):
        for name, value in match.groupdict().items():
            if value is not None:
                found.setdefault(name, float(value))
    lowered = note.lower()
    kinds = [kind for word, kind in KINDS.items() if re.search(rf"\b{word}\b", lowered)]
    nd_stops = math.log2(found["nd"]) if found.get("nd") else None
    if found.get("density"):
        nd_stops = found["density"] / DENSITY_OF_A_STOP
    if nd_stops is None and re.search(r"\bno (?:nd|filter)\b", lowered):
        nd_stops = 0.0
    return Recorded(
        shutter_s=1 / found["shutter"] if found.get("shutter") else None,
        iso=found.get("iso"),
        kelvin=found.get("kelvin"),
        nd_stops=nd_stops,
        aperture=found.get("aperture") or None,
        fps=found.get("fps") or None,
        kind=str(kinds[-1]) if kinds else None,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Check:
    """One planned setting against what is known of the take; `agrees` None means not recorded."""

    label: str
    planned: str
    found: str
    source: str
    agrees: bool | None
    difference: str = ""

    @property
    def sentence(self) -> str:
        if self.agrees is None:
            return f"{self.label}: planned {self.planned}, not recorded."
        if self.agrees:
            return f"{self.label}: {self.planned}, as planned ({self.source})."
        more = f", {self.difference}" if self.difference else ""
        return f"{self.label}: planned {self.planned}, {self.source} says {self.found}{more}."

    def as_json(self) -> dict[str, Any]:
        return {"label": self.label, "planned": self.planned, "found": self.found, "source": self.source,
                "agrees": self.agrees, "sentence": self.sentence}  # fmt: skip


def check_against_plan(
    planned: Mapping[str, Any], *, slate: Recorded | None, tags: Recorded, file: Mapping[str, Any]
) -> list[Check]:
    """Set a plan's numbers against what slate, file tags and the file itself say of one take.

    Parameters
    ----------
    planned : the settings of a shoot card (`ShootCard.settings_json`).
    slate : what was noted for the take, if anything.
    tags : what the file's text tags say.
    file : facts and detected profile of the clip: fps, bit_depth, width, height, kind, kind_is_sure.
    """
    slate = slate or Recorded()

    def known(name: str) -> tuple[float | None, str]:
        if getattr(slate, name) is not None:
            return getattr(slate, name), "slate"
        return getattr(tags, name), "file"

    checks = [_check_kind(planned, slate, file)]
    checks += [
        _check_stops("Shutter", planned["shutter_s"], *known("shutter_s"), shutter, "longer", "shorter"),
        _check_stops("ISO", planned["iso"], *known("iso"), lambda v: f"{v:g}", "more", "less"),
        _check_filter(planned["nd_stops"], *known("nd_stops")),
        _check_kelvin(planned["kelvin"], *known("kelvin")),
    ]
    rate = f"{planned['fps']:g} fps"
    checks.append(
        _plain("Frame rate", rate, f"{file['fps']:g} fps", abs(file["fps"] / planned["fps"] - 1) < 0.01)
    )
    wanted, got = f"{planned['bit_depth']}-bit", f"{file['bit_depth']}-bit"
    checks.append(_plain("Bit depth", wanted, got, wanted == got))
    return checks


def _plain(label: str, planned: str, found: str, agrees: bool) -> Check:
    return Check(label=label, planned=planned, found=found, source="file", agrees=agrees)


def _missing(label: str, planned: str) -> Check:
    return Check(label=label, planned=planned, found="", source="", agrees=None)


def _check_kind(planned: Mapping[str, Any], slate: Recorded, file: Mapping[str, Any]) -> Check:
    profile = PROFILES.get(planned["profile"])
    if slate.kind is not None:
        found, source = slate.kind, "slate"
    elif file.get("kind") and file.get("kind_is_sure"):
        found, source = file["kind"], "picture"
    else:
        return _missing("Profile", profile.label)
    agrees = found == profile.kind
    return Check(label="Profile", planned=profile.label, found=Kind(found).word, source=source, agrees=agrees)


def _check_stops(
    label: str, planned: float, found: float | None, source: str, shown: Any, more: str, less: str
) -> Check:
    if found is None:
        return _missing(label, shown(planned))
    off = math.log2(found / planned)
    return Check(
        label=label, planned=shown(planned), found=shown(found), source=source, agrees=abs(off) <= SAME_STOPS,
        difference=f"{stops(off)} {more if off > 0 else less}",
    )  # fmt: skip


def _check_filter(planned: float, found: float | None, source: str) -> Check:
    def shown(value: float) -> str:
        return f"ND{2**value:.0f}" if value else "none"

    if found is None:
        return _missing("Filter", shown(planned))
    off = found - planned
    return Check(
        label="Filter", planned=shown(planned), found=shown(found), source=source,
        agrees=abs(off) <= SAME_STOPS, difference=f"{stops(off)} {'stronger' if off > 0 else 'weaker'}",
    )  # fmt: skip


def _check_kelvin(planned: float, found: float | None, source: str) -> Check:
    if found is None:
        return _missing("White balance", kelvin(planned))
    off = 1e6 / found - 1e6 / planned
    return Check(
        label="White balance", planned=kelvin(planned), found=kelvin(found), source=source,
        agrees=abs(off) <= SAME_MIRED, difference=f"{abs(off):.0f} mired off",
    )  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Note:
    """One line of notes that were written away from Morphe."""

    number: int
    time: datetime
    text: str


def parse_notes(text: str) -> list[Note]:
    """Read notes as the saved card copies them: `12; 2026-09-12T10:05:00Z; 1/400 iso 800`, one per line.

    Raises
    ------
    PlanError
        With the number of the first line that is no note.
    """
    notes = []
    for count, line in enumerate(text.splitlines(), start=1):
        if not line.strip():
            continue
        number, _, rest = line.partition(";")
        time, _, words = rest.partition(";")
        try:
            when = datetime.fromisoformat(time.strip())
            wanted = int(number)
        except ValueError as error:
            raise PlanError(
                f"Line {count} is no note; it reads like “12; 2026-09-12T10:05:00Z; 1/400 iso 800”."
            ) from error
        if when.tzinfo is None or not 0 < wanted < 100_000:
            raise PlanError(f"Line {count} needs a slate number above 0 and a time with its zone.")
        notes.append(Note(number=wanted, time=when, text=" ".join(words.split())))
    return notes

"""The person's own profiles: typed, read from a file, or measured; with everything kept as plain values."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.signal.camera_log import CameraLog, general_log
from morphe.core.signal.families import FlatGamma
from morphe.core.signal.point_curve import GREY, PointCurve
from morphe.core.signal.primaries import LUMINANCE_709, Primaries
from morphe.core.signal.profiles import Kind, Profile

__all__ = ["OwnProfile", "judged_profile", "typed_log"]

KINDS = (Kind.STANDARD, Kind.FLAT, Kind.LOG)
LONGEST_NAME = 60
LARGEST = 100  # of a matrix


@dataclass(frozen=True, kw_only=True)
class OwnProfile:
    """A transfer curve with primaries, or a matrix to BT.709, and what is known of its quality.

    `clip_stops` is the brightest light kept, `usable_stops` the range that is worth using, both from grey;
    `fit_error_stops` is the RMS error of a measured curve.
    """

    name: str
    kind: Kind
    curve: CameraLog | PointCurve
    primaries: Primaries = Primaries.BT709
    matrix: tuple[float, ...] | None = None
    clip_stops: float = 4.0
    usable_stops: tuple[float, float] | None = None
    fit_error_stops: float | None = None
    source: str = "typed"

    def __post_init__(self) -> None:
        if not self.name.strip() or len(self.name) > LONGEST_NAME:
            raise ColourError(f"A profile needs a name of at most {LONGEST_NAME} characters.")
        if self.kind not in KINDS:
            raise ColourError("A profile of your own is standard, flat or log.")
        if not 0.5 <= self.clip_stops <= 12:
            raise ColourError("The brightest light kept must lie 0.5 to 12 stops above grey.")
        if self.matrix is not None and (len(self.matrix) != 9 or not np.abs(self.matrix).max() <= LARGEST):
            raise ColourError(f"A colour matrix has nine numbers between −{LARGEST} and {LARGEST}.")
        codes = self.curve.encode(np.array([0.0, GREY, GREY * 2.0**self.clip_stops]))
        if not (
            np.isfinite(codes).all() and (np.diff(codes) > 0).all() and codes[0] > -0.2 and codes[2] < 1.2
        ):
            raise ColourError("This curve leaves the range of codes; check its numbers and its range.")

    @property
    def profile(self) -> Profile:
        """The same as the built-in profiles are."""
        return Profile(
            key="own", label=self.name, kind=self.kind, encode=self.curve.encode, decode=self.curve.decode,
            primaries=self.primaries, clip=GREY * 2.0**self.clip_stops,
        )  # fmt: skip

    def as_json(self) -> dict[str, Any]:
        """Plain values that `from_json` reads back."""
        is_log = isinstance(self.curve, CameraLog)
        return {
            "name": self.name,
            "kind": str(self.kind),
            "log": list(self.curve.numbers) if isinstance(self.curve, CameraLog) else None,
            "points": None if is_log else [list(p) for p in self.curve.points],  # type: ignore[union-attr]
            "primaries": str(self.primaries),
            "matrix": list(self.matrix) if self.matrix else None,
            "clip_stops": self.clip_stops,
            "usable_stops": list(self.usable_stops) if self.usable_stops else None,
            "fit_error_stops": self.fit_error_stops,
            "source": self.source,
        }

    @classmethod
    def from_json(cls, data: Mapping[str, Any]) -> OwnProfile:
        """Read a profile from plain values.

        Raises
        ------
        ColourError
            If a part is missing or makes no profile.
        """
        try:
            curve: CameraLog | PointCurve = (
                CameraLog.of([float(v) for v in data["log"]])
                if data.get("log")
                else PointCurve.of(data["points"])
            )
            usable = data.get("usable_stops")
            return cls(
                name=str(data["name"]).strip(), kind=Kind(data["kind"]), curve=curve,
                primaries=Primaries(data.get("primaries") or "bt709"),
                matrix=tuple(float(v) for v in data["matrix"]) if data.get("matrix") else None,
                clip_stops=float(data["clip_stops"]),
                usable_stops=(float(usable[0]), float(usable[1])) if usable else None,
                fit_error_stops=data.get("fit_error_stops"), source=str(data.get("source", "file")),
            )  # fmt: skip
        except (KeyError, TypeError, ValueError) as error:
            if isinstance(error, ColourError):
                raise
            raise ColourError("This is no whole profile; save it again from Morphe.") from error


POINT_STOPS = (-8.0, -6.0, -4.5, -3.5, -2.5, -2.0, -1.5, -1.0, -0.5, 0.0, 0.5, 1.0, 1.5, 2.0, 2.5)


def judged_profile(name: str, kind: Kind, curve: CameraLog | FlatGamma, colour: float) -> OwnProfile:
    """A profile from a curve that was judged from a clip; `colour` is the gain that its colours need."""
    codes = np.asarray(curve.encode(GREY * np.exp2(np.array(POINT_STOPS)))).tolist()
    points = PointCurve.of(list(zip(codes, POINT_STOPS, strict=True)))
    brightest = float(np.log2(max(float(curve.decode(np.array(1.0))), GREY) / GREY))
    gain = colour * np.eye(3) + (1 - colour) * np.broadcast_to(LUMINANCE_709, (3, 3))
    return OwnProfile(
        name=name, kind=kind, curve=curve if isinstance(curve, CameraLog) else points,
        matrix=tuple(gain.ravel().tolist()) if colour != 1 else None,
        clip_stops=float(np.clip(brightest, 0.5, 12)), source="judged",
    )  # fmt: skip


def typed_log(values: Mapping[str, str]) -> CameraLog:
    """Read the numbers of the general log family as a person types them; blanks stand for the usual.

    Raises
    ------
    ColourError
        Naming the field that is no number.
    """
    labels = {
        "log_slope": ("Log-side slope", None), "log_offset": ("Log-side offset", None),
        "linear_offset": ("Linear-side offset", None), "linear_break": ("Break", None),
        "linear_side_slope": ("Linear-side slope", 1.0), "base": ("Base", 2.0),
    }  # fmt: skip
    numbers: dict[str, float] = {}
    for key, (label, usual) in labels.items():
        word = values.get(key, "").strip().replace(",", ".")
        if not word and usual is None:
            raise ColourError(f"{label} is missing; type its number.")
        try:
            numbers[key] = float(word) if word else float(usual or 0)
        except ValueError as error:
            raise ColourError(f"{label}: “{word[:20]}” is no number.") from error
    slope = values.get("linear_slope", "").strip().replace(",", ".")
    try:
        own_slope = float(slope) if slope else None
    except ValueError as error:
        raise ColourError(f"Slope of the straight part: “{slope[:20]}” is no number.") from error
    return general_log(**numbers, linear_slope=own_slope, full_range=values.get("range", "narrow") == "full")

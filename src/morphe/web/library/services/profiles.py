"""Profiles in the Library: built in and the person's own, drawn, brought in from files and handed out."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import PurePath
from typing import Any

import numpy as np
from django.utils.text import slugify

from morphe.core.advise.profile.filmed_as import FilmedAs, filmed_as_own, filmed_as_table
from morphe.core.errors import ColourError, LutError, UnknownName
from morphe.core.grade.convert import Convert, convert_of
from morphe.core.grade.grade import Grade
from morphe.core.grade.table import SHELF
from morphe.core.interchange import clf, cube_in
from morphe.core.interchange.clf import clf_text, read_clf
from morphe.core.interchange.cube import cube_text
from morphe.core.interchange.cube_in import read_cube
from morphe.core.interchange.stop_csv import read_stop_csv, stop_csv
from morphe.core.pipeline.cube import DELIVERY_SIZE, bake_grade
from morphe.core.signal.camera_log import CameraLog
from morphe.core.signal.landmarks import Landmarks, landmarks
from morphe.core.signal.own_profile import OwnProfile, typed_log
from morphe.core.signal.point_curve import GREY, PointCurve
from morphe.core.signal.primaries import Primaries
from morphe.core.signal.profiles import LOG_CURVES, PROFILES, Kind, Profile
from morphe.core.signal.transfer import decode_bt1886, decode_srgb, encode_bt1886, encode_srgb
from morphe.web.clips.models import Clip
from morphe.web.library.models import KeptProfile
from morphe.web.library.services.drawing import Drawing, drawn
from morphe.web.shell.numbers import decimal, row

__all__ = [
    "FORMATS",
    "MAX_BYTES",
    "Shown",
    "filmed_as_kept",
    "hand_out",
    "keep_own",
    "keep_typed",
    "kind_of",
    "profile_of",
    "read_file",
    "remove_profile",
    "shown_profiles",
]

MAX_BYTES = max(cube_in.MAX_BYTES, clf.MAX_BYTES)
FORMATS = {"clf": "application/xml", "cube": "text/plain", "csv": "text/csv", "json": "application/json"}
# Curves of screens: shown and handed out, but no camera films in them.
SCREENS = {
    key: Profile(
        key=key,
        label=label,
        kind=Kind.STANDARD,
        encode=encode,
        decode=decode,
        primaries=Primaries.BT709,
        clip=1.0,
    )
    for key, label, encode, decode in (
        ("bt1886", "Video screen (BT.1886)", encode_bt1886, decode_bt1886),
        ("srgb", "Computer screen (sRGB)", encode_srgb, decode_srgb),
    )
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Shown:
    """One profile as the Library shows it."""

    key: str
    label: str
    kind: str
    primaries: str
    about: str
    marks: Landmarks | None
    codes: tuple[tuple[str, str, int, int], ...]
    drawing: Drawing | None
    is_own: bool
    is_screen: bool = False
    pk: int | None = None


def _shown(key: str, profile: Profile, about: str, pk: int | None = None) -> Shown:
    marks = landmarks(profile)
    names = (("black", "Black"), ("grey", "Grey 18 %"), ("white", "White 90 %"), ("clip", "Clip"))
    codes = tuple(
        (label, f"{getattr(marks, name):.1f} %", marks.code(name, 8), marks.code(name, 10))
        for name, label in names
    )
    return Shown(
        key=key, label=profile.label, kind=profile.kind.word, primaries=str(profile.primaries).upper(),
        about=about, marks=marks, codes=codes, drawing=drawn(profile), is_own=pk is not None, pk=pk,
        is_screen=key in SCREENS,
    )  # fmt: skip


def shown_profiles() -> list[Shown]:
    """All profiles, the person's own first."""
    own = [_shown_own(kept) for kept in KeptProfile.objects.all()]
    return [*own, *(_shown(p.key, p, "Built in") for p in (*PROFILES.values(), *SCREENS.values()))]


def _shown_own(kept: KeptProfile) -> Shown:
    if kept.is_table:
        return Shown(key=kept.key, label=kept.name, kind=Kind(kept.kind).word, primaries="", about=kept.about,
                     marks=None, codes=(), drawing=None, is_own=True, pk=kept.pk)  # fmt: skip
    return _shown(kept.key, kept.own.profile, kept.about, kept.pk)


def profile_of(key: str) -> Shown:
    """One profile by its key.

    Raises
    ------
    UnknownName
        If there is none.
    """
    if key.startswith("own-"):
        return _shown_own(_kept(key))
    return _shown(key, SCREENS.get(key) or PROFILES.get(key), "Built in")


def _kept(key: str) -> KeptProfile:
    kept = KeptProfile.objects.filter(pk=row(key.removeprefix("own-"))).first()
    if kept is None:
        raise UnknownName("This profile is no longer in the Library.")
    return kept


def _free_name(name: str) -> str:
    name = " ".join(name.split())[:60]
    if not name:
        raise ColourError("Give the profile a name.")
    if KeptProfile.objects.filter(name__iexact=name).exists() or any(
        p.label == name for p in PROFILES.values()
    ):
        raise ColourError(f"There is a profile called {name} already; choose another name.")
    return name


def keep_own(own: OwnProfile, about: str) -> KeptProfile:
    """Keep a curve."""
    kept = _of_curve(own, about)
    kept.save()
    return kept


def _of_curve(own: OwnProfile, about: str) -> KeptProfile:
    data = json.loads(json.dumps(own.as_json()))
    return KeptProfile(name=_free_name(own.name), kind=str(own.kind), data=data, about=about[:200])


def _of_table(name: str, kind: Kind, table: Any) -> KeptProfile:
    free = _free_name(name)
    return KeptProfile(name=free, kind=str(kind), digest=SHELF.keep(table), about=f"LUT: {table.words}"[:200])


def kind_of(word: str) -> Kind:
    """The kind of profile that a form names.

    Raises
    ------
    ColourError
        If there is no such kind.
    """
    try:
        return Kind(word)
    except ValueError as error:
        raise ColourError("Say whether the profile is ordinary, flat or log.") from error


def keep_typed(posted: Mapping[str, str]) -> KeptProfile:
    """Keep a log curve from its typed numbers."""
    try:
        clip = decimal(posted.get("clip_stops", "") or "5")
    except ValueError as error:
        raise ColourError("The brightest light kept is no number of stops.") from error
    own = OwnProfile(
        name=" ".join(posted.get("name", "").split()), kind=kind_of(posted.get("kind", "log")),
        curve=typed_log(posted), clip_stops=clip, source="typed",
        primaries=Primaries.BT2020 if posted.get("primaries") == "bt2020" else Primaries.BT709,
    )  # fmt: skip
    return keep_own(own, "Typed numbers of a log curve")


def read_file(
    content: bytes, file_name: str, posted: Mapping[str, str], told: Callable[[int, int], object]
) -> KeptProfile:
    """A profile from a .clf, .cube, .csv or .json file, not saved yet.

    Parameters
    ----------
    told : called with how many lines of how many of a long file have been read

    Raises
    ------
    MorpheError
        Naming the row and the reason where the file is malformed.
    """
    ending = PurePath(file_name).suffix.lower()
    if b"\0" in content[:4096]:
        raise LutError(f"{file_name} is no text; choose a .clf, .cube, .csv or .json file.")
    text = content.decode("utf-8", errors="replace")
    name = posted.get("name", "").strip() or PurePath(file_name).stem
    kind = kind_of(posted.get("kind", "log"))
    if ending == ".cube":
        return _of_table(name, kind, read_cube(text, file_name, told))
    if ending == ".clf":
        return _of_clf(text, file_name, name, kind, posted.get("gives", ""))
    if ending == ".csv":
        return _of_points(read_stop_csv(text, file_name), name, kind, posted)
    if ending == ".json":
        return _of_json(text, file_name)
    raise LutError(f"{file_name} is none of .clf, .cube, .csv and .json.")


def _of_clf(text: str, file_name: str, name: str, kind: Kind, gives: str) -> KeptProfile:
    found = read_clf(text, file_name, gives_light={"light": True, "video": False}.get(gives))
    if found.curve is None:
        return _of_table(name, kind, found.table)
    top = float(np.log2(max(float(found.curve.decode(np.array(0.95))), GREY) / GREY))
    own = OwnProfile(
        name=name, kind=kind, curve=found.curve, matrix=found.matrix, clip_stops=round(max(top, 0.5), 2),
        source="file",
    )  # fmt: skip
    return _of_curve(own, f"From {file_name}")


def _of_points(curve: PointCurve, name: str, kind: Kind, posted: Mapping[str, str]) -> KeptProfile:
    own = OwnProfile(
        name=name, kind=kind, curve=curve, clip_stops=max(curve.points[-1][1], 0.5), source="file",
        primaries=Primaries.BT2020 if posted.get("primaries") == "bt2020" else Primaries.BT709,
    )  # fmt: skip
    return _of_curve(own, f"{len(curve.points)} measured points")


def _of_json(text: str, file_name: str) -> KeptProfile:
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise LutError(f"{file_name} is no profile that Morphe has saved.") from error
    if not isinstance(data, dict):
        raise LutError(f"{file_name} is no profile that Morphe has saved.")
    return _of_curve(OwnProfile.from_json(data), f"From {file_name}")


def hand_out(key: str, ending: str) -> tuple[str, str]:
    """(text, file name) of a profile as a file: CLF to light, .cube to ordinary video, CSV of stops, JSON."""
    kept = _kept(key) if key.startswith("own-") else None
    if kept is not None and kept.is_table:
        return _table_out(kept, ending)
    own = kept.own if kept else None
    profile = own.profile if own else SCREENS.get(key) or PROFILES.get(key)
    return _curve_out(profile, own, ending), f"{slugify(profile.label) or 'profile'}.{ending}"


def _curve_out(profile: Profile, own: OwnProfile | None, ending: str) -> str:
    if ending == "csv":
        return stop_csv(profile)
    if ending == "json" and own is not None:
        return json.dumps(own.as_json(), indent=2) + "\n"
    if ending == "clf":
        curve = own.curve if own else LOG_CURVES.get(profile.key)
        matrix = np.array(own.matrix).reshape(3, 3) if own and own.matrix else None
        return clf_text(profile, curve=curve if isinstance(curve, CameraLog) else None, matrix=matrix)
    if ending == "cube" and profile.key not in SCREENS:
        convert = convert_of(own) if own else Convert(profile=profile.key)
        lut = bake_grade(Grade.of(convert), size=DELIVERY_SIZE, domain=(0.0, 1.0))
        return cube_text(lut, title=f"{profile.label} to BT.709")
    raise UnknownName(f"{profile.label} is not handed out as .{ending}.")


def _table_out(kept: KeptProfile, ending: str) -> tuple[str, str]:
    if ending != "cube":
        raise UnknownName(f"{kept.name} is a LUT; it is handed out as .cube.")
    lut = bake_grade(Grade.of(Convert(profile="table", name=kept.name, table=kept.digest)),
    size=DELIVERY_SIZE,
               domain=(0.0, 1.0))  # fmt: skip
    return cube_text(lut, title=kept.name), f"{slugify(kept.name) or 'lut'}.cube"


def filmed_as_kept(key: str) -> FilmedAs | None:
    """What stands behind the key of one of the person's own profiles; None if it is gone."""
    kept = KeptProfile.objects.filter(pk=row(key.removeprefix("own-"))).first()
    if kept is None:
        return None
    if kept.is_table:
        return filmed_as_table(kept.key, kept.name, kept.digest, Kind(kept.kind))
    return filmed_as_own(kept.key, kept.own)


def remove_profile(key: str) -> str:
    """Take one of the person's own profiles away; recipes that use it keep its numbers, or the LUT's file."""
    kept = _kept(key)
    used = Clip.objects.filter(profile_choice=kept.key).count()
    name = kept.name
    Clip.objects.filter(profile_choice=kept.key).update(profile_choice="auto")
    kept.delete()
    return f"{name} was removed; {used} clip{'s' if used != 1 else ''} keep their conversion."

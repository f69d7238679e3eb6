"""Recipes kept under a name: made from a clip, proposed where a clip resembles, shared as files."""

from __future__ import annotations

import io
import json
import zipfile
import zlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.db.models import F
from django.utils.text import slugify

from morphe.core.errors import MorpheError, RecipeError
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.interchange.cdl import read_cdl
from morphe.core.pipeline.screen import graded_still
from morphe.core.screen.pictures import jpeg
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.decide import pass_on
from morphe.web.clips.services.grades.fit import GOOD, Fit, Given, fit_on, given_by
from morphe.web.clips.services.reading.storage import load_picture
from morphe.web.library.models import KeptRecipe

__all__ = [
    "Likeness",
    "Offer",
    "fit_of",
    "keep_recipe",
    "offers_for",
    "picture_on",
    "put_on",
    "recipe_text",
    "resembling",
    "take_in_file",
    "zipped",
]

FORMAT, SCHEMA = "morphe-kept-recipe", 1
MOST_FILES = 200
MOST_LIKE = 3  # recipes that are proposed
MOST_LOOKED_AT = 24  # clips of an outing for which that is asked at once
LISTS = (".cc", ".ccc", ".cdl")
ENDINGS = (".json", *LISTS)
WATER = {True: "under water", False: "dry"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Likeness:
    """A recipe for a clip that resembles those it was made for."""

    recipe: KeptRecipe
    fit: Fit

    @property
    def sentence(self) -> str:
        fit = f"Predicted fit {self.fit.residual:.1f} ΔE: it {self.fit.verdict}."
        return f"{self.recipe.words}; {_times(self.recipe)}. {fit}"


@dataclass(frozen=True, slots=True, kw_only=True)
class Offer:
    """A recipe for untouched clips of an outing, and how it fits the one it fits worst."""

    recipe: KeptRecipe
    clips: tuple[Clip, ...]
    residual: float

    @property
    def sentence(self) -> str:
        how = "Predicted fit" if len(self.clips) == 1 else "Predicted fit of the worst"
        return f"{self.recipe.words}; {_times(self.recipe)}. {how} {self.residual:.1f} ΔE."


def _times(kept: KeptRecipe) -> str:
    return {0: "not used yet", 1: "used on one clip"}.get(kept.used, f"used on {kept.used} clips")


def tags_of(clip: Clip) -> dict[str, str]:
    """What a clip is, in the words by which recipes are told apart."""
    wet = clip.water.get("wet")
    if wet is None:
        wet = float(clip.water_found.get("wet", 0)) > 0.5 if clip.water_found else False
    group = clip.present_group
    return {
        "camera": clip.camera.name if clip.camera else "",
        "profile": str(clip.profile.get("label", "")),
        "light": group.words if group is not None else "",
        "water": WATER[True] if wet else "",
    }


def keep_recipe(clip: Clip, name: str) -> KeptRecipe:
    """Keep a clip's correction under a name; one of that name is replaced.

    Raises
    ------
    RecipeError
        If it has no name.
    """
    plain = " ".join(name.split())[:56]
    if not plain:
        raise RecipeError("A recipe needs a name; type one.")
    given = given_by(clip, with_regions=False).as_json() | {"name": plain}
    kept, _ = KeptRecipe.objects.update_or_create(
        name=plain, defaults={"given": given, "tags": tags_of(clip)}
    )
    return kept


def resembling(clip: Clip) -> list[Likeness]:
    """Recipes made for clips like this one, the best first; none that would not fit."""
    own = tags_of(clip)
    near = [(likeness, k) for k in KeptRecipe.objects.all() if (likeness := _alike(k.tags, own))]
    near.sort(key=lambda pair: -pair[0])
    found = []
    for _, kept in near[: 2 * MOST_LIKE]:
        try:
            fit = fit_of(kept, clip)
        except MorpheError:  # it names a LUT that is gone
            continue
        if fit.fits:
            found.append(Likeness(recipe=kept, fit=fit))
    return sorted(found, key=lambda one: one.fit.residual)[:MOST_LIKE]


def offers_for(clips: Sequence[Clip]) -> list[Offer]:
    """Recipes for clips that nobody has decided on, the one for most of them first; each clip is in one."""
    found: dict[int, list[tuple[Clip, Likeness]]] = {}
    for clip in [c for c in clips if not c.is_corrected][:MOST_LOOKED_AT]:
        if likes := [like for like in resembling(clip) if like.fit.residual < GOOD]:
            found.setdefault(likes[0].recipe.pk, []).append((clip, likes[0]))
    offers = [
        Offer(
            recipe=pairs[0][1].recipe, clips=tuple(clip for clip, _ in pairs),
            residual=max(like.fit.residual for _, like in pairs),
        )
        for pairs in found.values()
    ]  # fmt: skip
    return sorted(offers, key=lambda offer: -len(offer.clips))[:MOST_LIKE]


def _alike(one: Mapping[str, str], other: Mapping[str, str]) -> int:
    """How many tags agree; 0 where camera, profile or water are known of both and differ."""
    known = [tag for tag in one if one[tag] and other.get(tag)]
    if bool(one.get("water")) != bool(other.get("water")):
        return 0
    if any(one[tag] != other[tag] for tag in known if tag in ("camera", "profile")):
        return 0
    return sum(one[tag] == other[tag] for tag in known)


def fit_of(kept: KeptRecipe, clip: Clip) -> Fit:
    """How a kept recipe would fit a clip."""
    return fit_on(Given.from_json(kept.given), clip)


def picture_on(kept: KeptRecipe, clip: Clip) -> bytes:
    """A clip's poster under a recipe, trimmed to it."""
    frame = clip.poster
    if frame is None:
        raise RecipeError("This clip has no judging frames; read it again.")
    grade = fit_of(kept, clip).grade
    return jpeg(graded_still(load_picture(frame.picture.path), grade, frame.time_s))


def put_on(kept: KeptRecipe, clips: Sequence[Clip]) -> None:
    """Have the worker put a recipe on clips of one outing, trimmed to each."""
    with transaction.atomic():
        pass_on(clips[0].outing, Given.from_json(kept.given), [clip.pk for clip in clips])
        KeptRecipe.objects.filter(pk=kept.pk).update(used=F("used") + len(clips))


# --- files -----------------------------------------------------------------------------------------


def recipe_text(kept: KeptRecipe) -> str:
    """A kept recipe as one file to share."""
    said = {"format": FORMAT, "schema": SCHEMA, "name": kept.name, "tags": kept.tags, "given": kept.given}
    return json.dumps(said, indent=1)


def zipped() -> bytes:
    """All kept recipes in one archive."""
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for kept in KeptRecipe.objects.all():
            archive.writestr(f"{slugify(kept.name) or kept.pk}.recipe.json", recipe_text(kept))
    return buffer.getvalue()


def take_in_file(data: bytes, name: str) -> list[KeptRecipe]:
    """Take in a recipe, a decision list, or an archive of recipes.

    Raises
    ------
    MorpheError
        If it is none of these.
    """
    if len(data) > recipe.MAX_BYTES:
        raise RecipeError(f"{name} is far too long for a recipe; choose another file.")
    if data[:2] == b"PK":
        return [kept for text, inner in _in_archive(data, name) for kept in _taken(text, inner)]
    try:
        return _taken(data.decode("utf-8"), name)
    except UnicodeDecodeError as error:
        raise RecipeError(f"{name} is no recipe; choose a .json, .zip, .cc, .ccc or .cdl.") from error


def _in_archive(data: bytes, name: str) -> list[tuple[str, str]]:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            entries = [e for e in archive.infolist() if e.filename.endswith(ENDINGS)]
            size = sum(e.file_size for e in entries)
            if not entries or len(entries) > MOST_FILES or size > 10 * recipe.MAX_BYTES:
                raise RecipeError(f"{name} holds no recipes, or far too many; choose another archive.")
            return [
                (archive.read(e).decode("utf-8", "replace"), e.filename.rsplit("/", 1)[-1]) for e in entries
            ]
    except MorpheError:
        raise
    except (zipfile.BadZipFile, zlib.error, RuntimeError, ValueError, OSError, EOFError) as error:
        raise RecipeError(f"{name} is no readable archive; ask for it again.") from error


def _taken(text: str, name: str) -> list[KeptRecipe]:
    if name.lower().endswith(LISTS):
        stem = name.rsplit(".", 1)[0]
        found = read_cdl(text, name)
        return [
            _kept(f"{stem} {ident}" if len(found) > 1 else stem, Grade.of(cdl), {}) for ident, cdl in found
        ]
    try:
        data: Any = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise RecipeError(f"{name} is no readable recipe; ask for it again.") from error
    if isinstance(data, dict) and data.get("format") == FORMAT:
        return [_from_kept(data, name)]
    return [_kept(name.removesuffix(".json"), recipe.from_json(data), {})]


def _from_kept(data: dict[str, Any], name: str) -> KeptRecipe:
    if not isinstance(data.get("schema"), int) or data["schema"] > SCHEMA:
        raise RecipeError(f"{name} was kept by a newer Morphe; update this one.")
    try:
        given = Given.from_json(data["given"])
        tags = {tag: str(data["tags"].get(tag, ""))[:80] for tag in ("camera", "profile", "light", "water")}
        return _kept(str(data["name"]), given.grade, tags, given)
    except (KeyError, TypeError, AttributeError, ValueError) as error:
        raise RecipeError(f"{name} is damaged; ask for it again.") from error


def _kept(name: str, grade: Grade, tags: dict[str, str], given: Given | None = None) -> KeptRecipe:
    plain = " ".join(name.split())[:50] or "Recipe"
    free, number = plain, 2
    while KeptRecipe.objects.filter(name=free).exists():
        free, number = f"{plain} {number}", number + 1
    made = given or Given(grade=grade, name=free, with_regions=False)
    return KeptRecipe.objects.create(name=free, given=made.as_json() | {"name": free}, tags=tags)

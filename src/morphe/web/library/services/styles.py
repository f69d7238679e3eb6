"""Styles in the Library: LUTs with what they expect, and looks that are saved, shared and taken in."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict, replace
from pathlib import PurePath

from django.core.files.base import ContentFile
from django.utils.text import slugify

from morphe.core.errors import ColourError, LutError, UnknownName
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer, Scope
from morphe.core.grade.recipe import layer_from_json, layer_to_json
from morphe.core.grade.steps import Title
from morphe.core.grade.steps.lut import ROLES
from morphe.core.grade.table import SHELF
from morphe.core.interchange.clf import read_clf
from morphe.core.interchange.cube import cube_text
from morphe.core.interchange.cube_in import read_cube
from morphe.core.pipeline.cube import DELIVERY_SIZE, bake_grade
from morphe.core.style.look_file import LookFile, look_from_text, look_text
from morphe.core.style.lut_role import role_of
from morphe.web.library.models import KeptLook, KeptLut
from morphe.web.shell.numbers import row

__all__ = [
    "change_role",
    "keep_look",
    "kept_look",
    "kept_lut",
    "look_cube",
    "look_file",
    "look_layers",
    "own_looks",
    "read_style",
    "remove_style",
]


def own_looks() -> list[KeptLook]:
    return list(KeptLook.objects.all())


def kept_lut(key: str) -> KeptLut:
    """A LUT by its key.

    Raises
    ------
    UnknownName
        If it is no longer there.
    """
    found = KeptLut.objects.filter(pk=row(key.removeprefix("lut-"))).first()
    if found is None:
        raise UnknownName("This LUT is no longer in the Library; reload the page.")
    return found


def kept_look(key: str) -> KeptLook:
    """A look by its key, or UnknownName."""
    found = KeptLook.objects.filter(pk=row(key.removeprefix("own-"))).first()
    if found is None:
        raise UnknownName("This look is no longer in the Library; reload the page.")
    return found


def look_layers(look: KeptLook) -> tuple[Layer, ...]:
    """The layers of style and finish of a look."""
    return tuple(layer_from_json(item) for item in look.layers)


# --- taken in -----------------------------------------------------------------------------------------


def read_style(
    content: bytes, file_name: str, name: str, told: Callable[[int, int], object]
) -> KeptLut | KeptLook:
    """A LUT or a look from a file, not saved yet.

    Raises
    ------
    MorpheError
        Naming what is wrong with the file.
    """
    if b"\0" in content[:4096]:
        raise LutError(f"{file_name} is no text; choose a .cube, a .clf, or a look that Morphe has saved.")
    text, ending = content.decode("utf-8", errors="replace"), PurePath(file_name).suffix.lower()
    if ending == ".json":
        return _of_look(look_from_text(text))
    if ending not in (".cube", ".clf"):
        raise LutError(f"{file_name} is none of .cube, .clf and look file.")
    if ending == ".cube":
        table = read_cube(text, file_name, told)
    else:
        found = read_clf(text, file_name, gives_light=False)
        if found.table is None:
            raise LutError(f"{file_name} is a camera's curve, no look; take it in under Profiles.")
        table = found.table
    verdict = role_of(table)
    return KeptLut(
        name=_free(KeptLut, name.strip() or PurePath(file_name).stem), digest=SHELF.keep(table),
        role=verdict.role, judged=asdict(verdict), about=table.words,
    )  # fmt: skip


def _of_look(look: LookFile) -> KeptLook:
    kept = KeptLook(
        name=_free(KeptLook, look.name), words=look.words, layers=[layer_to_json(x) for x in look.layers]
    )
    if look.picture:
        kept.picture.save("look.jpg", ContentFile(look.picture), save=False)
    return kept


def _free(model: type[KeptLut] | type[KeptLook], name: str) -> str:
    """A name that nothing of the kind has: a number is put behind one that is taken."""
    wanted = " ".join(name.split())[:56]
    if not wanted:
        raise ColourError("Give it a name.")
    taken = {n.lower() for n in model.objects.values_list("name", flat=True)}
    return next(n for n in (wanted, *(f"{wanted} {i}" for i in range(2, 1000))) if n.lower() not in taken)


def change_role(lut: KeptLut, role: str) -> None:
    """Say what a LUT expects, against what was judged."""
    if role not in ROLES:
        raise ColourError(f"A LUT expects one of: {', '.join(ROLES)}.")
    lut.role = role
    lut.save(update_fields=["role"])


# --- kept and handed out --------------------------------------------------------------------------------


def keep_look(grade: Grade, name: str, words: str, picture: bytes) -> KeptLook:
    """Keep the style and finish of a grade as a look; what belongs to one clip alone is left out."""
    layers = tuple(_for_any_clip(x) for x in grade.layers if x.scope in (Scope.STYLE, Scope.FINISH))
    look = LookFile(
        name=" ".join(name.split()), words=" ".join(words.split()), picture=picture,
        layers=tuple(layer for layer in layers if layer.at_work),
    )  # fmt: skip
    if KeptLook.objects.filter(name__iexact=look.name).exists():
        raise ColourError(f"There is a look called {look.name} already; choose another name.")
    kept = _of_look(look)
    kept.save()
    return kept


def _for_any_clip(layer: Layer) -> Layer:
    steps = tuple(step.at(0.0) for step in layer.steps if not isinstance(step, Title))
    return replace(layer, steps=steps, region=None)


def look_file(look: KeptLook) -> tuple[str, str]:
    """(text, file name) of a look as one file."""
    picture = look.picture.open("rb").read() if look.picture else b""
    found = LookFile(name=look.name, words=look.words, layers=look_layers(look), picture=picture)
    return look_text(found), f"{slugify(look.name) or 'look'}.look.json"


def look_cube(look: KeptLook) -> tuple[str, str]:
    """(text, file name) of a look's colours as a .cube for ordinary video."""
    grade = Grade()
    for layer in look_layers(look):
        grade = grade.with_layer(layer)
    lut = bake_grade(grade, size=DELIVERY_SIZE, domain=(0.0, 1.0))
    return cube_text(lut, title=look.name), f"{slugify(look.name) or 'look'}.cube"


def remove_style(key: str) -> str:
    """Take a LUT or a look away; clips that wear it keep it."""
    kept = kept_lut(key) if key.startswith("lut-") else kept_look(key)
    kept.delete()
    return f"{kept.name} was removed; clips that wear it keep it."

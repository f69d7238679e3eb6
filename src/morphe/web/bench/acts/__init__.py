"""What can be done to a clip on the Bench: an act is one function, found by its name in the address.

A new act is a function with `@act("its-name")` in the module of its room; address and dispatch follow.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from importlib import import_module
from pkgutil import iter_modules

from django.http import HttpRequest

from morphe.core.registry import Registry
from morphe.web.clips.models import Clip

__all__ = ["ACTS", "Act", "Asked", "act"]


@dataclass(frozen=True, slots=True)
class Asked:
    """A clip, and what a page says to an act: words by their names, nothing where it says nothing."""

    clip: Clip
    request: HttpRequest

    def __getitem__(self, name: str) -> str:
        return str(self.request.POST.get(name, ""))

    @property
    def words(self) -> dict[str, str]:
        return self.request.POST.dict()

    def all(self, name: str) -> list[str]:
        return self.request.POST.getlist(name)


# Gives the region that is open afterwards where that is another; a refusal is a MorpheError.
Act = Callable[[Asked], str | None]
ACTS: Registry[Act] = Registry("act")


def act(name: str) -> Callable[[Act], Act]:
    """File an act under its name."""
    return ACTS.register(name)


for _room in iter_modules(__path__):
    import_module(f"{__name__}.{_room.name}")

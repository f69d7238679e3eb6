"""What a step is: a frozen value in real units that says in which state of the light it works."""

from __future__ import annotations

from dataclasses import dataclass, fields
from enum import StrEnum
from typing import ClassVar, TypeVar

from morphe.core.errors import ColourError
from morphe.core.registry import Registry
from morphe.core.signal.arrays import Float, Linear

__all__ = ["STEPS", "Light", "Step", "register_step"]


class Light(StrEnum):
    """State of the light a step works in."""

    ENCODED = "encoded"
    LINEAR = "linear"  # scene-linear, BT.709 primaries
    WIDE = "wide"  # scene-linear, BT.2020 primaries


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """Base of all steps. `on` is the rung's switch; limits are (low, high) per parameter."""

    key: ClassVar[str] = ""
    label: ClassVar[str] = ""
    works_in: ClassVar[Light] = Light.ENCODED
    limits: ClassVar[dict[str, tuple[float, float]]] = {}
    units: ClassVar[dict[str, str]] = {}

    on: bool = True

    def __post_init__(self) -> None:
        for name, (low, high) in self.limits.items():
            value = getattr(self, name)
            if not isinstance(value, (int, float)) or isinstance(value, bool) or not low <= value <= high:
                raise ColourError(
                    f"{self.label}: {name.replace('_', ' ')} must lie between {low:g} and {high:g}, "
                    f"not {value!r}."
                )

    @classmethod
    def within(cls, name: str, value: float) -> float:
        """The nearest value that parameter `name` may take."""
        low, high = cls.limits[name]
        return float(min(max(value, low), high))

    @property
    def is_neutral(self) -> bool:
        """Whether the parameters are those that change nothing."""
        return all(getattr(self, f.name) == f.default for f in fields(self) if f.name != "on")

    @property
    def at_work(self) -> bool:
        return self.on and not self.is_neutral

    @property
    def gives(self) -> Light:
        """State of the light that comes out."""
        return self.works_in

    def apply(self, picture: Float) -> Float:
        raise NotImplementedError

    def apply_wide(self, picture: Linear) -> Linear:
        """Do the same to scene-linear light in BT.2020 primaries; for steps that treat channels alike."""
        return self.apply(picture)


STEPS: Registry[type[Step]] = Registry("step")
S = TypeVar("S", bound=type[Step])


def register_step(cls: S) -> S:
    """File a step under its key; the order of registration is the order of the work."""
    STEPS.register(cls.key)(cls)
    return cls

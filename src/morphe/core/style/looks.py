"""Looks: recipes of steps that exist, each with what it does, when it serves and what it costs."""

from __future__ import annotations

from dataclasses import dataclass

from morphe.core.grade.step import Step
from morphe.core.grade.steps import Contrast, Density, Fade, Families, Film, MidLevel, Saturation, Tint
from morphe.core.grade.steps.families import Edit
from morphe.core.registry import Registry
from morphe.core.signal.hues import FAMILIES

__all__ = ["LOOKS", "Look"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Look:
    """A named list of steps, in the order of the work."""

    key: str
    label: str
    does: str
    serves: str
    costs: str
    steps: tuple[Step, ...]


def _family(key: str, *, hue: float = 0.0, strength: float = 0.0, depth: float = 0.0) -> Edit:
    found = FAMILIES.get(key)
    return Edit(at=found.at, below=found.below, above=found.above, hue=hue, strength=strength, depth=depth)


LOOKS: Registry[Look] = Registry("look")
for _look in (
    Look(
        key="opposed", label="Opposed", does="Cool shadows against warm lights; the middle balances.",
        serves="People before water, sky or dusk.", costs="Whites are no longer white; skin is only spared.",
        steps=(Contrast(amount=8), Tint(dark_hue=235, dark=55, bright_hue=65, bright=45)),
    ),
    Look(
        key="moody", label="Overcast", does="Darker middle, black raised to dark grey, calm greens.",
        serves="Woods, rain, quiet stories.", costs="Depth in the shadows; noise shows sooner.",
        steps=(
            MidLevel(lift=-5),
            Families(edits=(_family("greens", hue=10, strength=-40), _family("yellows", strength=-25))),
            Tint(dark_hue=220, dark=25), Fade(black=4),
        ),
    ),
    Look(
        key="bright", label="Clear day", does="Blues towards turquoise, yellows towards gold.",
        serves="Sun, sea, travel.", costs="Skies of 8 bits may show bands.",
        steps=(
            MidLevel(lift=3), Saturation(amount=8),
            Families(edits=(_family("blues", hue=-14, strength=15), _family("yellows", hue=-8, strength=15))),
        ),
    ),
    Look(
        key="faded", label="Matt paper", does="Black lifted, white lowered, colours paler.",
        serves="Memories, soft talk.", costs="Contrast; it looks flat beside unstyled clips.",
        steps=(
            Saturation(amount=-18), Tint(dark_hue=260, dark=15, bright_hue=85, bright=15),
            Fade(black=6, white=4),
        ),
    ),
    Look(
        key="dusk", label="Last light", does="Lower middle, warm lights, blue shadows.",
        serves="Clips filmed near sunset that should agree.", costs="A noon sun gives it away.",
        steps=(MidLevel(lift=-6), Tint(dark_hue=270, dark=40, mid_hue=40, mid=15, bright_hue=55, bright=60)),
    ),
    Look(
        key="soft", label="Soft", does="Less contrast, gentle lights, denser colour.",
        serves="Faces in hard light.", costs="Haze looks hazier.",
        steps=(Contrast(amount=-12), Density(amount=25), Fade(white=3)),
    ),
    Look(
        key="silver", label="Silver", does="Nearly no colour, more contrast.",
        serves="Texture, weather, serious things.", costs="Colour that tells something is gone.",
        steps=(Contrast(amount=14), Saturation(amount=-80), Density(amount=20)),
    ),
    *(
        Look(
            key=key, label=label, does=f"A print-like curve{said}: soft lights, full middle.",
            serves="Stories that should not look like video.", costs="Detail at both ends.",
            steps=(Film(amount=100, warmth=warmth), Density(amount=15)),
        )
        for key, label, said, warmth in (
            ("print-cool", "Print, cool", " with cool light", -70),
            ("print", "Print", "", 0),
            ("print-warm", "Print, warm", " with warm light", 70),
        )
    ),
):  # fmt: skip
    LOOKS.register(_look.key)(_look)

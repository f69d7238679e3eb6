"""Acts on how a clip was filmed: its profile, its curve, its light over time."""

from __future__ import annotations

from morphe.web.bench.acts import Asked, act
from morphe.web.bench.services import convert

__all__: list[str] = []


@act("profile")
def take_profile(asked: Asked) -> None:
    convert.take_profile(asked.clip, asked["profile"] or "auto")


@act("render-as")
def render_as(asked: Asked) -> None:
    convert.render_as(asked.clip, asked.words)


@act("keep-curve")
def keep_curve(asked: Asked) -> None:
    convert.keep_curve(asked.clip, asked["name"])


@act("by-hand")
def draw_by_hand(asked: Asked) -> None:
    convert.draw_by_hand(asked.clip, asked.all("code"), asked.all("level"))


@act("even-out")
def even_out(asked: Asked) -> None:
    convert.even_out(asked.clip, asked["amount"])

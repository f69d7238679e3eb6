"""Acts on regions: added, turned inside out, held still, left out, followed."""

from __future__ import annotations

from dataclasses import replace

from morphe.core.errors import ColourError
from morphe.core.grade.layer import Layer
from morphe.core.grade.region import Region
from morphe.web.bench.acts import Asked, act
from morphe.web.bench.services.follow import begin_following
from morphe.web.bench.services.regions import add_region
from morphe.web.clips.services.grades import versions
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.shell.numbers import seconds

__all__: list[str] = []


def _asked_for(asked: Asked) -> tuple[Layer, Region]:
    layer = grade_of(asked.clip).layer(asked["layer"])
    if layer.region is None:
        raise ColourError("There is no such region; reload the page.")
    return layer, layer.region


def _keep(asked: Asked, layer: Layer, said: str) -> str:
    versions.keep(asked.clip, grade_of(asked.clip).with_layer(layer), f"{layer.label}{said}")
    return layer.id


@act("region-add")
def add(asked: Asked) -> str:
    return add_region(asked.clip, asked["shape"])


@act("region-inverse")
def turn_inside_out(asked: Asked) -> str:
    layer, region = _asked_for(asked)
    side = "inside" if region.inverse else "outside"
    return _keep(asked, replace(layer, region=replace(region, inverse=not region.inverse)), f": {side}")


@act("region-still")
def hold_still(asked: Asked) -> str:
    layer, region = _asked_for(asked)
    place = region.place(region.moments[0][0])
    return _keep(asked, replace(layer, region=region.put(place)), " holds still")


@act("region-leave")
def leave_out(asked: Asked) -> str:
    layer, _ = _asked_for(asked)
    said = "counts again" if layer.left_out else "left out of gauges and proposals"
    return _keep(asked, replace(layer, left_out=not layer.left_out), f": {said}")


@act("follow")
def follow(asked: Asked) -> None:
    begin_following(asked.clip, asked["layer"], seconds(asked["time"]))

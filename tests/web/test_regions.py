"""Regions on the Bench: added, changed, taken away, followed; what is unsaved is kept before another act."""

import base64
import json

import numpy as np
import pytest

from morphe.core.errors import UnknownName
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer
from morphe.core.grade.moments import Moments
from morphe.core.grade.region import Ellipse, Region
from morphe.core.grade.steps import Exposure
from morphe.web.bench.models import Following
from morphe.web.bench.services.over_time import over_time
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.grades.versions import keep
from tests.web.working import work_all, work_off


def act(client, clip, name, **posted):
    address = f"/bench/{clip.pk}/change/{name}/"
    return client.post(address, posted, headers={"HX-Request": "true"}).content.decode()


def now(clip):
    return grade_of(Clip.objects.select_related("version").get(pk=clip.pk))


@pytest.mark.parametrize(
    ("shape", "label"), [("ellipse", "Ellipse"), ("line", "Upper part"), ("outline", "Outline")]
)
def test_given_a_shape_when_added_then_a_region_stands_on_the_ladder_and_undo_takes_it(
    client, clip, shape, label
):
    page = act(client, clip, "region-add", shape=shape)

    assert f"{label} added" == Clip.objects.get().version.change
    assert 'data-region="region-1"' in page and label in page
    assert now(clip).layer("region-1").region.shape.kind == shape
    act(client, clip, "undo")
    with pytest.raises(UnknownName):
        now(clip).layer("region-1")


def test_given_a_region_when_acted_on_then_each_act_is_a_version(client, clip):
    act(client, clip, "region-add", shape="ellipse")
    for name, posted in (
        ("layer-put", {"value": "saturation"}), ("layer-name", {"value": "Face"}), ("region-inverse", {}),
        ("layer-switch", {}),
    ):  # fmt: skip
        act(client, clip, name, layer="region-1", **posted)

    layer = now(clip).layer("region-1")
    assert [s.key for s in layer.steps] == ["exposure", "saturation"]
    assert (layer.name, layer.region.inverse, layer.on) == ("Face", True, False)
    act(client, clip, "layer-take", layer="region-1", value="saturation")
    act(client, clip, "layer-remove", layer="region-1")
    assert not now(clip).has_layer("region-1")


@pytest.mark.parametrize(
    ("name", "posted", "words"),
    [
        ("region-add", {"shape": "star"}, "A region is one of"),
        ("layer-name", {"layer": "clip"}, "no such region"),
        ("layer-put", {"layer": "region-9"}, "no layer"),
        ("follow", {"layer": "clip"}, "no such region"),
        ("follow", {"layer": "region-1"}, "no layer"),
    ],
)
def test_given_a_region_that_is_not_there_when_acted_on_then_it_is_said(client, clip, name, posted, words):
    assert words in act(client, clip, name, **posted).replace("&#x27;", "'")


def test_given_what_was_set_by_hand_when_another_act_comes_first_then_it_is_kept_before(client, clip):
    unsaved = recipe.to_json(Grade.of(Exposure(stops=0.3)))

    act(client, clip, "region-add", shape="line", grade=json.dumps(unsaved), kept="exposure")

    grade = now(clip)
    assert grade.step("exposure").stops == 0.3 and grade.has_layer("region-1")
    assert Clip.objects.get().version.parent.change == "Exposure set by hand"


def test_given_a_region_when_followed_then_the_worker_keeps_where_it_went(client, clip):
    act(client, clip, "region-add", shape="ellipse")
    assert "being prepared for playing" in act(client, clip, "follow", layer="region-1")
    work_off("play", clip.pk)

    waiting = act(client, clip, "follow", layer="region-1", time="0.2")
    told = client.get(f"/bench/{clip.pk}/followed/").content.decode()
    work_all("track")
    done = client.get(f"/bench/{clip.pk}/followed/")

    assert "It is being followed" in waiting and "It is being followed" in told
    assert (done.status_code, json.loads(done["HX-Trigger"])) == (204, {"ladder-is-old": {}})
    region = now(clip).layer("region-1").region
    assert region.moments[0][0] == pytest.approx(0.2)
    page = client.get(f"/bench/{clip.pk}/ladder/").content.decode()
    wish = Following.objects.get()
    assert ("Lost at" if wish.lost_s is not None else "Followed from 0.2 s") in page


def test_given_a_region_taken_away_while_it_is_followed_when_done_then_nothing_is_kept(client, clip):
    act(client, clip, "region-add", shape="ellipse")
    work_off("play", clip.pk)
    act(client, clip, "follow", layer="region-1")
    keep(Clip.objects.select_related("version").get(), Grade(), "Begun anew")

    work_all("track")

    assert now(clip) == Grade()


def test_given_long_ways_in_a_grade_when_kept_and_drawn_then_the_bench_bears_all_that_a_recipe_may_hold(
    client, clip
):
    way = tuple((0.5 * n, 0.5 + 0.3 * np.sin(n / 7), 0.5, 1.0, 0.0) for n in range(1000))
    grade = Grade.of(Exposure(stops=0.3))
    for n in range(10):
        region = Region(shape=Ellipse(wide=0.2, tall=0.2), moments=way)
        grade = grade.with_layer(Layer(id=f"region-{n}", region=region))
    grade = recipe.to_json(grade)
    posted = json.dumps({"grade": grade, "frame": 0})

    drawn = client.post(f"/bench/{clip.pk}/still/", posted, content_type="application/json")
    act(client, clip, "region-add", shape="line", grade=json.dumps(grade), kept="exposure")

    assert len(posted) > 300_000 and drawn.status_code == 200
    assert now(clip).has_layer("region-9") and now(clip).has_layer("region-10")


def test_given_a_grade_with_a_region_when_a_still_is_asked_for_then_it_says_where_it_lies(client, clip):
    act(client, clip, "region-add", shape="ellipse")
    asked = {"grade": recipe.to_json(now(clip)), "frame": 0, "before": True}

    answer = client.post(
        f"/bench/{clip.pk}/still/", json.dumps(asked), content_type="application/json"
    ).json()

    assert answer["regions"] == {"region-1": [0.5, 0.5, 1.0, 0.0]}
    assert set(answer["before"]) == set(answer["scopes"])


@pytest.mark.parametrize(("side", "brighter"), [("inside", True), ("outside", False)])
def test_given_a_region_when_it_measures_then_gauges_read_that_part_alone(client, clip, side, brighter):
    region = Region(shape=Ellipse(wide=0.2, tall=0.2))
    layer = Layer(id="region-1", region=region, steps=(Exposure(stops=1.5),))
    grade = recipe.to_json(Grade().with_layer(layer))

    def still(measure):
        posted = {"grade": grade, "frame": 0, "measure": measure, "before": True}
        return client.post(
            f"/bench/{clip.pk}/still/", json.dumps(posted), content_type="application/json"
        ).json()

    def count(answer, when):
        return np.frombuffer(base64.b64decode(answer[when]["vector"]["data"]), np.uint8).astype(int).sum()

    whole, part = still(None), still({"layer": "region-1", "side": side})

    mid = [answer["marks"]["mid"]["value"] for answer in (whole, part)]
    assert (mid[1] > mid[0] + 1) is brighter
    assert part["picture"] == whole["picture"]
    assert count(part, "before") < count(whole, "before")
    assert still({"layer": "gone", "side": side})["marks"] == whole["marks"]


def test_given_a_number_that_moves_when_looked_at_then_its_value_of_that_moment_is_told(client, clip):
    last = clip.frames.last()
    grade = recipe.to_json(Grade.of(Exposure(stops=Moments(((0.0, 0.0), (last.time_s, 1.0))))))
    posted = json.dumps({"grade": grade, "frame": last.number})

    told = client.post(f"/bench/{clip.pk}/still/", posted, content_type="application/json").json()

    assert told["numbers"] == {"clip": {"exposure": {"stops": 1.0}}}


def test_given_light_that_turns_when_moments_are_proposed_then_they_lie_at_its_corners(clip):
    track = [[t / 10, *(3 * [0.8 * min(max(t / 10 - 2, 0), 1)])] for t in range(60)]
    clip.drift = {"track": track, "wanders": True, "sentences": []}

    chart = over_time(clip, Grade())

    assert chart.changes == (0.0, 2.0, 3.0, 5.9)

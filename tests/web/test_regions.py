"""Regions on the Bench: added, changed, taken away, followed; what is unsaved is kept before another act."""

import json

import pytest

from morphe.core.errors import UnknownName
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Exposure
from morphe.web.bench.models import Following
from morphe.web.clips.models import Clip
from morphe.web.clips.services.versions import grade_of, keep
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
        ("put", {"value": "saturation"}), ("name", {"value": "Face"}), ("inverse", {}), ("switch", {}),
    ):  # fmt: skip
        act(client, clip, f"region-{name}", layer="region-1", **posted)

    layer = now(clip).layer("region-1")
    assert [s.key for s in layer.steps] == ["exposure", "saturation"]
    assert (layer.name, layer.region.inverse, layer.on) == ("Face", True, False)
    act(client, clip, "region-take", layer="region-1", value="saturation")
    act(client, clip, "region-remove", layer="region-1")
    assert not now(clip).has_layer("region-1")


@pytest.mark.parametrize(
    ("name", "posted", "words"),
    [
        ("region-add", {"shape": "star"}, "A region is one of"),
        ("region-name", {"layer": "clip"}, "no such region"),
        ("region-put", {"layer": "region-9"}, "no layer"),
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


def test_given_a_grade_with_a_region_when_a_still_is_asked_for_then_it_says_where_it_lies(client, clip):
    act(client, clip, "region-add", shape="ellipse")
    asked = {"grade": recipe.to_json(now(clip)), "frame": 0, "before": True}

    answer = client.post(
        f"/bench/{clip.pk}/still/", json.dumps(asked), content_type="application/json"
    ).json()

    assert answer["regions"] == {"region-1": [0.5, 0.5, 1.0, 0.0]}
    assert set(answer["before"]) == set(answer["scopes"])

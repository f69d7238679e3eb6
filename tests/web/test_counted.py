"""What of a clip's picture counts, on the page: bars and parts are left out, said, undone, kept black."""

import json

import numpy as np
import pytest

from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frame_at
from morphe.core.grade import recipe
from morphe.core.grade.layer import Layer
from morphe.core.grade.region import Ellipse, Region
from morphe.core.grade.steps import Exposure
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of, under
from morphe.web.clips.services.grades.versions import keep
from morphe.web.clips.services.reading.counted import area_of_clip
from morphe.web.handover.models import HandOver
from morphe.web.handover.services.queue import hand_over
from morphe.web.handover.services.wish import Wish
from tests.footage import ClipSpec, other_scene, write_clip
from tests.web.conftest import brought_in
from tests.web.test_regions import act, now
from tests.web.working import work_all

SIZE, BAR = (192, 108), 16


def filmed(folder, seed, *, bars: bool = False, book: bool = False):
    """A dark moving scene, with bars above and below or a large red book before a camera that stands."""

    def picture(index: int) -> np.ndarray:
        made = 0.35 * other_scene(*SIZE, seed, at=0.0 if book else 0.01 * index)
        if book:
            made[20:88, 56:136] = (0.9, 0.05, 0.05)
        if bars:
            made[:BAR], made[-BAR:] = 0.0, 0.0
        return made

    return write_clip(folder / "dusk.mp4", ClipSpec(size=SIZE, frames=40), picture)


@pytest.fixture
def barred(outing, tmp_path, fresh_seed):
    return brought_in(outing, filmed(tmp_path, fresh_seed, bars=True))


@pytest.fixture
def booked(outing, tmp_path, fresh_seed):
    return brought_in(outing, filmed(tmp_path, fresh_seed, book=True))


def still(client, clip, **more):
    grade = recipe.to_json(now(clip))
    body = {"grade": grade, "frame": 0, "measure": None, "before": True, **more}
    answer = client.post(f"/bench/{clip.pk}/still/", json.dumps(body), content_type="application/json")
    assert answer.status_code == 200, answer.content
    return answer.json()


def tap_out(client, clip, x, y):
    """Leave out what lies about a place, as the page does: the answer's grade is kept."""
    body = {"grade": recipe.to_json(now(clip)), "frame": 0, "meaning": "leave", "x": x, "y": y}
    answer = client.post(f"/bench/{clip.pk}/tap/", json.dumps(body), content_type="application/json").json()
    act(client, clip, "keep", grade=json.dumps(answer["grade"]), change=answer["change"])
    return answer


def told(clip):
    """What the rungs have measured, and propose."""
    clip = Clip.objects.get(pk=clip.pk)
    return [rung["measured"] for rung in clip.rungs], clip.proposal


def test_given_bars_when_read_then_the_bench_says_so_and_offers_their_crop(client, barred):
    page = client.get(f"/bench/{barred.pk}/").content.decode()

    assert area_of_clip(barred).surround.is_black
    assert still(client, barred)["left_out"] == "Left out: black bars."
    assert "Crop</button>" in page and "without its bars" in page


def test_given_bars_when_the_clip_is_graded_and_handed_over_then_they_stay_black(barred, tmp_path):
    keep(barred, grade_of(barred).with_step(Exposure(stops=1.5)), "Brighter")
    hand_over([barred], Wish())
    work_all("hand-over")

    planes = frame_at(probe(HandOver.objects.get().result.path), 0.5)
    filmed_luma = frame_at(probe(barred.path), 0.5).luma.astype(int)
    assert np.abs(planes.luma[: BAR - 2].astype(int) - 16).max() <= 1
    assert planes.luma[BAR + 2 : -BAR - 2].mean() > filmed_luma[BAR + 2 : -BAR - 2].mean() + 15


def test_given_a_clip_with_bars_when_its_correction_is_stored_then_bars_are_no_part_of_it(barred):
    keep(barred, grade_of(barred).with_step(Exposure(stops=0.5)), "Brighter")

    barred.refresh_from_db()
    assert "edges" not in json.dumps(barred.version.grade)
    assert grade_of(barred).source.edges.top > 10


def test_given_a_place_when_it_is_tapped_out_then_a_part_of_its_own_says_so_until_undone(client, booked):
    answer = tap_out(client, booked, 0.5, 0.5)

    assert now(booked).layer(answer["region"]).left_out
    assert still(client, booked)["left_out"] == "Left out: “Spot”."
    act(client, booked, "undo")
    assert still(client, booked)["left_out"] == ""


def test_given_two_devices_when_each_leaves_out_a_place_then_both_are_left_out(client, booked):
    known, before = under(booked), recipe.to_json(now(booked))
    for x in (0.2, 0.8):
        body = {"grade": before, "frame": 0, "meaning": "leave", "x": x, "y": 0.5}
        tapped = client.post(
            f"/bench/{booked.pk}/tap/", json.dumps(body), content_type="application/json"
        ).json()
        act(client, booked, "keep", grade=json.dumps(tapped["grade"]), under=known)

    places = [layer.region.moments[0][1] for layer in now(booked).layers if layer.left_out]
    assert sorted(places) == [0.2, 0.8]
    act(client, booked, "undo")
    assert [layer.region.moments[0][1] for layer in now(booked).layers if layer.left_out] == [0.2]


def test_given_a_book_when_it_is_drawn_round_then_the_clip_is_judged_without_it_until_undone(client, booked):
    before = told(booked)
    region = Region(shape=Ellipse(wide=0.5, tall=0.42), feather=0.02)
    layer = Layer(id="region-1", name="Book", region=region, left_out=True)

    act(client, booked, "keep", grade=json.dumps(recipe.to_json(now(booked).with_layer(layer))))

    without = told(booked)
    assert without != before
    act(client, booked, "undo")
    assert told(booked) == before
    act(client, booked, "redo")
    assert told(booked) == without


def test_given_a_drawn_part_when_left_out_and_back_then_gauges_go_without_it_and_with_it(client, booked):
    act(client, booked, "region-add", shape="ellipse")
    whole = still(client, booked)["marks"]

    page = act(client, booked, "region-leave", layer="region-1")
    without = still(client, booked)["marks"]
    act(client, booked, "region-leave", layer="region-1")

    assert 'aria-pressed="true"' in page and "left out" in page
    assert whole != without and still(client, booked)["marks"] == whole


def test_given_everything_left_out_when_judged_then_the_whole_picture_counts(client, booked):
    before = told(booked)
    for shape in ("line", "line", "ellipse"):
        act(client, booked, "region-add", shape=shape)
    act(
        client, booked, "region-inverse", layer="region-2"
    )  # the lower part beside the upper: nothing is left
    act(client, booked, "region-leave", layer="region-1")
    act(client, booked, "region-leave", layer="region-2")

    page = client.get(f"/bench/{booked.pk}/")

    assert page.status_code == 200 and still(client, booked)["picture"]
    assert told(booked) != before  # one of them counts: the first that leaves something


@pytest.mark.parametrize("posted", [{"x": "left"}, {}, {"x": 4e9, "y": 0.5}])
def test_given_a_tap_that_is_no_place_when_left_out_then_it_is_refused_in_words(client, booked, posted):
    body = {"grade": recipe.to_json(now(booked)), "frame": 0, "meaning": "leave", **posted}

    answer = client.post(f"/bench/{booked.pk}/tap/", json.dumps(body), content_type="application/json")

    assert answer.status_code == 422 and answer.json()["problem"]

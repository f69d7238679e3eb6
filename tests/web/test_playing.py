"""Playing and light over time: proxies in ranges, tables for the browser, evening out, curves by hand."""

import json
from datetime import timedelta

import numpy as np
import pytest
from django.utils import timezone

from morphe.core.footage.probe import probe
from morphe.core.grade import recipe
from morphe.core.grade.even_out import EvenOut
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer, Scope
from morphe.core.grade.region import Ellipse, Place, Region
from morphe.core.grade.steps import Exposure, Sharpen, Vignette
from morphe.core.pipeline.cube import bake
from morphe.core.pipeline.passes import compile_grade
from morphe.core.pipeline.playing import MOST_TABLES
from morphe.web.bench.services.over_time import over_time
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.space.remove import remove_clip
from morphe.web.jobs.models import Job
from morphe.web.jobs.services.ask import rescue
from tests.web.working import work_off

TRACK = [[t / 4, 0.4 * t / 4, 0.4 * t / 4, 0.3 * t / 4] for t in range(-3, 4)]


@pytest.fixture
def playable(clip):
    work_off("play", clip.pk)
    return Clip.objects.select_related("version").get(pk=clip.pk)


@pytest.fixture
def wandering(clip):
    Clip.objects.update(drift={"track": TRACK, "wanders": True, "sentences": ["It wanders."], "ceiling": 4.0})
    return Clip.objects.select_related("version").get(pk=clip.pk)


def act(client, clip, name, **posted):
    return client.post(
        f"/bench/{clip.pk}/change/{name}/", posted, headers={"HX-Request": "true"}
    ).content.decode()


def test_given_a_read_clip_when_prepared_then_its_proxy_has_every_frame_and_its_light_is_followed(playable):
    info = probe(playable.proxy.path)

    assert (info.codec, info.frames, info.bit_depth) == ("h264", playable.info["frames"], 8)
    assert playable.drift["wanders"] is False and len(playable.drift["track"]) > 3
    work_off("play", playable.pk)
    assert Clip.objects.get().proxy.name == playable.proxy.name


@pytest.mark.parametrize(
    ("asked", "first", "last"), [("bytes=0-99", 0, 99), ("bytes=100-", 100, None), ("bytes=-50", -50, None)]
)
def test_given_a_range_when_asked_for_then_exactly_that_part_comes(client, playable, asked, first, last):
    whole = playable.proxy.open("rb").read()

    answer = client.get(f"/bench/{playable.pk}/proxy.mp4", headers={"Range": asked})

    part = b"".join(answer.streaming_content)
    assert answer.status_code == 206
    assert part == whole[first : last + 1 if last is not None else None]
    assert answer["Content-Range"].endswith(f"/{len(whole)}")


@pytest.mark.parametrize("asked", ["bytes=999999999-", "bytes=x-y", "bytes=9-2"])
def test_given_a_range_outside_when_asked_for_then_it_is_refused(client, playable, asked):
    assert client.get(f"/bench/{playable.pk}/proxy.mp4", headers={"Range": asked}).status_code == 416


def test_given_no_proxy_yet_when_asked_for_then_it_is_said(client, clip):
    answer = client.get(f"/bench/{clip.pk}/proxy.mp4")

    assert answer.status_code == 404 and b"being prepared" in answer.content


def passes_of(client, clip, grade):
    """The passes that a grade plays through, and the numbers they speak of."""
    posted = json.dumps({"grade": recipe.to_json(grade)})
    answer = client.post(f"/bench/{clip.pk}/passes/", posted, content_type="application/json")
    head, _, data = answer.content.partition(b"\n")
    assert len(head) % 2 == 1  # halves begin at an even byte
    return json.loads(head)["passes"], np.frombuffer(data, np.float16)


def test_given_a_grade_when_passes_are_asked_for_then_their_table_is_that_of_the_still(client, clip):
    grade = Grade.of(Exposure(stops=0.5))

    (about,), numbers = passes_of(client, clip, grade)

    table = numbers.reshape(about["size"], about["size"], about["size"], 3)
    assert (about["kind"], about["times"]) == ("colour", [0.0])
    assert np.abs(table - bake(compile_grade(grade).only_colour).table).max() < 2e-3


def test_given_a_grade_that_moves_when_passes_are_asked_for_then_a_table_comes_for_each_moment(client, clip):
    grade = Grade.of(EvenOut(amount=100, track=tuple(tuple(p) for p in TRACK)))

    (about,), _ = passes_of(client, clip, grade)

    assert len(about["times"]) == MOST_TABLES
    bad = client.post(f"/bench/{clip.pk}/passes/", "{", content_type="application/json")
    assert bad.status_code == 422


def test_given_regions_and_effects_when_passes_are_asked_for_then_masks_and_shaders_come_along(client, clip):
    part = Layer(id="part", steps=(Exposure(stops=1),), region=Region(shape=Ellipse()).put(Place(x=0.3)))
    finish = Layer(id="finish", scope=Scope.FINISH, steps=(Vignette(amount=20), Sharpen(amount=3)))

    found, numbers = passes_of(
        client, clip, Grade.of(Exposure(stops=0.2)).with_layer(part).with_layer(finish)
    )

    assert [p["kind"] for p in found] == ["colour", "masked", "frame", "frame"]
    samples, size = found[1]["region"]["samples"], found[0]["size"]
    assert numbers.size == 2 * 3 * size**3 + samples**2
    assert found[1]["region"]["places"] == [[0.0, 0.3, 0.5, 1.0, 0.0]]
    assert found[3]["numbers"] == [{"amount": 3, "size": 1.2}] and "return" in found[3]["shader"]


def test_given_light_that_wanders_when_evened_out_then_chart_and_grade_show_it_and_zero_lets_it_be(
    client, wandering
):
    page = client.get(f"/bench/{wandering.pk}/").content.decode()
    swapped = act(client, wandering, "even-out", amount="60")
    evened = grade_of(Clip.objects.select_related("version").get())
    act(client, wandering, "even-out", amount="0")
    left = grade_of(Clip.objects.select_related("version").get())

    assert "Even out the light" in page and "It wanders." in page
    assert "data-over-time" in swapped and "60 %" in swapped
    assert evened.even_out.amount == 60 and evened.moves
    assert not left.moves


def test_given_an_amount_that_is_none_when_sent_then_it_is_refused_in_words(client, wandering, clip):
    assert "is no percentage" in act(client, wandering, "even-out", amount="lots")
    Clip.objects.update(drift={})
    assert "has not been followed yet" in act(client, clip, "even-out", amount="50")
    assert over_time(Clip.objects.get(), Grade()) is None


def test_given_a_curve_by_hand_when_drawn_then_it_converts_and_a_falling_one_is_refused(client, clip):
    said = act(client, clip, "by-hand", code=["2", "50", "95"], level=["0", "48", "100"])
    drawn = grade_of(Clip.objects.select_related("version").get()).convert
    refused = act(client, clip, "by-hand", code=["2", "50", "95"], level=["50", "48", "x"])

    assert drawn.profile == "hand" and drawn.points[1] == (0.5, 0.48)
    assert "By hand" in said or "hand" in said
    assert "is no number" in refused


def test_given_hdr_when_its_rendering_is_chosen_then_the_conversion_follows(client, clip):
    act(client, clip, "profile", profile="hlg")
    page = client.get(f"/bench/{clip.pk}/").content.decode()
    act(client, clip, "render-as", rendering="scene")

    assert "HDR arrives" in page
    assert grade_of(Clip.objects.select_related("version").get()).convert.rendering == "scene"


def test_given_log_when_wide_is_chosen_then_the_conversion_stays_wide(client, clip):
    act(client, clip, "profile", profile="log-lifted")
    act(client, clip, "render-as", wide="yes")

    assert grade_of(Clip.objects.select_related("version").get()).convert.wide


def test_given_a_worker_that_died_when_rescued_then_the_proxy_is_queued_again(clip):
    Job.objects.filter(kind="play").update(state="running", heartbeat=timezone.now() - timedelta(hours=1))

    rescue()

    assert Job.objects.get(kind="play").state == "waiting"


def test_given_a_clip_that_nobody_prepares_when_the_watch_comes_round_then_it_is_asked_for(clip):
    Job.objects.all().delete()

    rescue()
    rescue()

    assert [(j.kind, j.subject) for j in Job.objects.all()] == [("play", clip.pk)]


def test_given_clips_on_their_way_when_asked_then_the_count_is_told_until_there_are_none(client, clip):
    waiting = client.get("/clips/preparing/").content.decode()
    work_off("play", clip.pk)
    done = client.get("/clips/preparing/").content.decode()

    assert "1 clip being prepared" in waiting and "data-busy" in waiting
    assert "being prepared" not in done and "data-busy" not in done


def test_given_a_clip_when_removed_then_its_proxy_goes_too(playable, media):
    remove_clip(playable)

    assert list((media / "proxies").iterdir()) == []


def test_given_a_page_opened_early_when_the_light_has_been_followed_then_its_chart_comes_by_itself(
    client, clip
):
    address = f"/bench/{clip.pk}/over-time/"
    early = client.get(f"/bench/{clip.pk}/").content.decode()
    waiting = client.get(address).content.decode()

    work_off("play", clip.pk)
    followed = client.get(address).content.decode()

    assert f'hx-get="{address}"' in early and "is being followed" in waiting
    assert "hx-get" not in followed and "The light holds steady" in followed

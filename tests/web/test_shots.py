"""A file of several shots on the page: split, graded apart, cut by hand, handed over as one again."""

from __future__ import annotations

import json
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frame_at
from morphe.core.grade.steps import Exposure
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.grades.versions import keep
from morphe.web.clips.services.reading.shots import siblings
from morphe.web.clips.services.reading.storage import sized_for_web
from morphe.web.clips.services.space.remove import remove_clip
from morphe.web.clips.services.space.room import room
from morphe.web.handover.models import HandOver
from morphe.web.handover.services.queue import hand_over
from morphe.web.handover.services.wish import Wish
from tests.footage import ClipSpec, click_of, frame_times, several_shots, write_clip
from tests.web.conftest import brought_in
from tests.web.working import work_all, work_off

HTMX = {"HX-Request": "true"}
LENGTHS, RATE = (30, 24, 36), Fraction(24)
EDGES = [0.0, 30 / 24, 54 / 24, 90 / 24]


@pytest.fixture
def joined(outing, tmp_path, fresh_seed):
    """A clip of three shots, followed."""
    pictures = several_shots(LENGTHS, fresh_seed, (1.0, 0.5, 0.9))
    spec = ClipSpec(size=(192, 108), frames=90, fps=RATE, sound="aac")
    clip = brought_in(outing, write_clip(tmp_path / "day.mp4", spec, pictures))
    work_off("play", clip.pk)
    return Clip.objects.get(pk=clip.pk)


def act(client, clip, what, **data):
    return client.post(f"/clips/{clip.pk}/shots/{what}/", data, headers=HTMX)


def shots_of(clip):
    return list(Clip.objects.filter(whole=clip).order_by("begin_s"))


@pytest.fixture
def split(client, joined):
    act(client, joined, "split")
    work_all("read", "stand")  # lights may well part them
    return shots_of(joined)


def edges_of(clip):
    return [s.begin_s for s in shots_of(clip)] + [shots_of(clip)[-1].end_s]


def test_given_a_file_with_cuts_when_split_then_each_shot_is_a_clip_in_order_and_the_file_steps_back(
    client, joined, split
):
    page = client.get("/clips/").content.decode()

    assert edges_of(joined) == pytest.approx(EDGES, abs=1e-3)
    assert [s.title for s in split] == [f"day shot {n}.mp4" for n in (1, 2, 3)]
    assert all(s.is_ready and s.frames.exists() and s.rungs and s.drift.get("track") for s in split)
    for shot in split:
        times = shot.frames.values_list("time_s", flat=True)
        assert all(shot.begin_s - 1e-6 <= t < shot.end_s for t in times)
    assert not Clip.objects.filter(pk=joined.pk).exists() and Clip.everything.get(pk=joined.pk).aside
    assert page.index("Shot 1 of 3") < page.index("Shot 2 of 3") < page.index("Shot 3 of 3")
    assert f"Clips use {sized_for_web(joined.size_bytes)};" in room()
    bench = client.get(f"/bench/{split[1].pk}/").content.decode()
    assert f'data-begin="{split[1].begin_s}"' in bench and "Join with next" in bench


def test_given_shots_graded_apart_when_handed_over_then_one_file_has_all_frames_times_and_sound(
    client, joined, split
):
    keep(split[1], grade_of(split[1]).with_step(Exposure(stops=1.0)), "Brighter")

    (order,) = hand_over(siblings(split[0]), Wish())
    work_all("hand-over")

    order = HandOver.objects.get(pk=order.pk)
    out = order.result.path
    assert frame_times(out) == pytest.approx(frame_times(joined.file.path), abs=1e-3)
    assert click_of(out) == pytest.approx(click_of(joined.file.path), abs=0.003)
    assert order.shown_title == "day.mp4" and "day" in order.result.name
    before, after = probe(joined.file.path), probe(out)
    for number, at in enumerate((0.5, 1.7, 3.0)):
        ratio = frame_at(after, at).encoded().mean() / frame_at(before, at).encoded().mean()
        assert (ratio > 1.2) == (number == 1)
    edge = [np.abs(frame_at(after, t).encoded() - frame_at(before, t).encoded()).mean() for t in
            (EDGES[1] - 0.5 / 24, EDGES[1] + 0.5 / 24)]  # fmt: skip
    assert edge[0] < 0.02 < edge[1]
    assert len(json.loads(Path(order.recipe.path).read_text())["shots"]) == 3 and not order.cube


def test_given_some_shots_when_handed_over_then_those_alone_go_out(joined, split):
    (order,) = hand_over([split[0], split[2]], Wish())
    apart = hand_over([split[1]], Wish(mode="apart"))
    work_all("hand-over")

    assert probe(HandOver.objects.get(pk=order.pk).result.path).frames == LENGTHS[0] + LENGTHS[2]
    assert probe(HandOver.objects.get(pk=apart[0].pk).result.path).frames == LENGTHS[1]


def test_given_cuts_by_hand_when_set_and_taken_back_then_grades_stay_with_their_shots(client, joined, split):
    keep(split[0], grade_of(split[0]).with_step(Exposure(stops=1.0)), "Brighter")

    act(client, split[1], "cut", time="1.8")
    work_all("read")
    assert edges_of(joined) == pytest.approx([*EDGES[:2], 43 / 24, *EDGES[2:]], abs=0.03)
    act(client, shots_of(joined)[0], "end", time="1.0")
    work_all("read")
    assert edges_of(joined)[1] == pytest.approx(1.0, abs=0.001)
    assert all(not s.is_stale and s.is_ready for s in shots_of(joined))
    assert grade_of(Clip.objects.with_grades().get(pk=split[0].pk)).step("exposure").stops == 1.0
    act(client, shots_of(joined)[1], "next")
    for _ in range(3):
        act(client, shots_of(joined)[0], "undo")
    work_all("read")

    assert edges_of(joined) == pytest.approx(EDGES, abs=1e-3)
    assert [s.pk for s in shots_of(joined)] == [s.pk for s in split]
    answer = act(client, split[0], "begin", time="0.5").content.decode() or act(
        client, split[0], "begin"
    ).headers.get("Location", "")
    assert answer
    assert edges_of(joined) == pytest.approx(EDGES, abs=1e-3)


def test_given_shots_joined_again_when_split_once_more_then_what_was_set_is_there(client, joined, split):
    keep(split[2], grade_of(split[2]).with_step(Exposure(stops=0.5)), "Brighter")

    assert client.get(f"/bench/{joined.pk}/").headers["Location"] == f"/bench/{split[0].pk}/"
    act(client, split[0], "join")
    assert client.get(f"/bench/{split[1].pk}/").headers["Location"] == f"/bench/{joined.pk}/"
    assert list(Clip.objects.values_list("pk", flat=True)) == [joined.pk]
    act(client, joined, "split")

    assert [s.pk for s in shots_of(joined)] == [s.pk for s in split]
    assert grade_of(Clip.objects.with_grades().get(pk=split[2].pk)).step("exposure").stops == 0.5


def test_given_a_single_shot_when_split_then_it_is_refused_and_when_cut_by_hand_it_has_two(
    client, outing, clip
):
    work_off("play", clip.pk)

    assert act(client, clip, "split").status_code == 302
    assert Clip.objects.filter(pk=clip.pk).exists()
    act(client, Clip.objects.get(pk=clip.pk), "cut", time="0.8")

    assert [s.begin_s for s in shots_of(clip)] == pytest.approx([0.0, 0.8])


def test_given_a_split_file_when_removed_then_file_shots_and_pictures_are_gone(joined, split, media):
    remove_clip(split[1])

    assert not Clip.everything.exists()
    assert not [p for p in media.rglob("*") if p.is_file() and "results" not in p.parts]


def test_given_a_file_with_cuts_when_a_part_is_followed_then_it_ends_at_the_cut(client, joined):
    bench = f"/bench/{joined.pk}/change/"
    client.post(f"{bench}region-add/", {"shape": "ellipse"}, headers=HTMX)
    client.post(f"{bench}follow/", {"layer": "region-1", "time": "0.2"}, headers=HTMX)
    work_all("track")

    region = grade_of(Clip.objects.get(pk=joined.pk)).layer("region-1").region
    page = client.get(f"/bench/{joined.pk}/ladder/").content.decode()
    assert region.moments[-1][0] < EDGES[1]
    assert f"Followed from 0.2 s to the cut at {EDGES[1]:.1f} s" in page or "Lost at" in page

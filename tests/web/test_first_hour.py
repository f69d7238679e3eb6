"""The first hour: an empty Morphe greets, the demo goes and comes back, the tour is five decisions."""

from pathlib import Path

import pytest

from morphe.core.grade.steps import Balance
from morphe.web.bench.services.tour import STOPS
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.grades.versions import keep
from morphe.web.outings.models import Camera, Outing
from morphe.web.plan.services.current import add_camera, plan_of
from morphe.web.today.services.demo import is_wanted, load_demo, throw_away
from tests.web.test_plan import camera_of


@pytest.fixture
def home(settings, tmp_path):
    settings.HOME = tmp_path
    settings.CARD_FOLDERS = [tmp_path / "demo-card"]
    return tmp_path


def page_of(client):
    return client.get("/").content.decode()


def test_given_an_empty_morphe_when_opened_then_it_greets_with_three_ways_to_begin(client, db):
    page = page_of(client)

    assert "Welcome. Where do you begin?" in page
    assert all(way in page for way in ("Plan a shoot", "Bring in clips", "Open the demo outing"))
    assert "What comes next" not in page


def test_given_the_demo_when_thrown_away_and_brought_back_then_only_what_is_its_own_goes(client, db, home):
    assert is_wanted()
    demo = load_demo()
    own = Outing.objects.create(name="My harbour", date=demo.date)
    add_camera(plan_of(own), Camera.objects.get(name="Fern"))
    files = [Path(clip.file.path) for clip in demo.clips.all()]

    client.post("/demo/away/")

    assert list(Outing.objects.all()) == [own]
    assert not any(file.exists() for file in files) and not (home / "demo-card").exists()
    assert list(Camera.objects.values_list("name", flat=True)) == ["Fern"]
    own.delete()
    assert not is_wanted()  # a start does not bring back what was thrown away

    client.post("/demo/back/")
    client.post("/demo/back/")
    assert Outing.objects.filter(is_demo=True).count() == 1
    assert Clip.objects.count() == len(files) and Camera.objects.count() == 3


def test_given_an_outing_of_ones_own_when_the_demo_is_thrown_away_then_there_is_none_to_throw(client, clip):
    client.post("/demo/away/")

    assert Clip.objects.filter(pk=clip.pk).exists() and clip.path.exists()


def test_given_the_tour_when_clips_are_decided_or_left_then_it_goes_on_to_its_end(client, clip):
    clip.outing.is_demo = True
    clip.outing.save()
    Clip.objects.filter(pk=clip.pk).update(title="fern-jetty-talk.mp4")
    assert "Take the tour" in page_of(client)

    begun = client.post("/bench/tour/begin/")
    assert begun.url == f"/bench/{clip.pk}/?open=balance"  # the only clip of the tour that is here
    keep(clip, grade_of(clip).with_step(Balance(warmth=-20)), "White balance set by hand")
    page = client.get(f"/bench/{clip.pk}/").content.decode()
    assert "Tour, 4 of 5." in page and STOPS[3].sentence in page
    ended = client.post("/bench/tour/leave/", {"stop": "style"})
    assert ended.url == "/hand-over/"
    assert "Five decisions made." in page_of(client)
    client.post("/bench/tour/end/")
    assert "Tour" not in page_of(client) and "Take the tour" not in page_of(client)


def test_given_no_demo_when_a_tour_is_begun_then_today_is_shown(client, outing):
    assert client.post("/bench/tour/begin/").url == "/"
    camera_of("fern")
    throw_away(outing)
    assert not Outing.objects.exists()

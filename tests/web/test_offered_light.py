"""A light that may be coloured, or meant so: asked once for all its clips, shown both ways."""

import pytest

from morphe.core.advise.rung import State
from morphe.core.grade import recipe
from morphe.core.grade.layer import Scope
from morphe.core.grade.steps import Balance
from morphe.web.clips.models import Clip, Decision
from morphe.web.clips.services.grades.decide import take_back
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.questions import light as service
from morphe.web.clips.services.wall.grouping import group_anew
from tests.web.conftest import brought_in

question = service.LightQuestion()
BALANCE = Balance(warmth=38.0, tint=0.0)


def offer(clip, balance=BALANCE):
    """Have a clip's rung offer a balance, as a likely cast does."""
    rung = next(r for r in clip.rungs if r["step"] == "balance")
    rung |= {"state": "offered", "proposal": recipe.step_to_json(balance), "action": "Cool by 38 mired"}
    rung["applied"] = False
    clip.states["balance"] = str(State.OFFERED)
    clip.save(update_fields=["rungs", "states"])


@pytest.fixture
def two(outing, log_file):
    """Two clips of one light whose balance is offered, and which nothing else is asked about."""
    clips = [brought_in(outing, log_file, f"marsh-{n}.mp4") for n in (1, 2)]
    for clip in clips:
        offer(clip)
    group_anew(outing)
    Clip.objects.update(profile_choice="log-lifted", water_found={"wet": 0.0, "asked": False})
    return [Clip.objects.with_grades().get(pk=c.pk) for c in clips]


def warmth_of(clip):
    clip = Clip.objects.with_grades().get(pk=clip.pk)
    return grade_of(clip).step("balance", Scope.LIGHT).number("warmth")


def test_given_a_likely_cast_when_listed_then_the_light_is_shown_both_ways(client, outing, two):
    page = client.get("/clips/").content.decode()

    assert "Is the colour of Light 1 meant?" in page and "2 clips." in page
    assert "It may be 38 mired warm" in page and "Cool by 38 mired" in page
    pictures = [client.get(f"/clips/{two[0].pk}/asked/light/{way}.jpg") for way in ("as-filmed", "taken-out")]
    assert all(p["Content-Type"] == "image/jpeg" for p in pictures)
    assert pictures[0].content != pictures[1].content
    assert client.get(f"/clips/{two[0].pk}/asked/light/other.jpg").status_code == 404


def test_given_the_light_when_taken_out_then_all_its_clips_follow_and_one_undo_takes_it_back(
    client, outing, two
):
    client.post(f"/clips/{two[0].pk}/asked/light/", {"answer": "taken-out"})

    assert [warmth_of(c) for c in two] == [38.0, 38.0]
    assert question.asked(outing) is None
    decision = Decision.objects.get()
    take_back(decision)
    assert [warmth_of(c) for c in two] == [0.0, 0.0]


def test_given_the_light_when_meant_then_nothing_changes_and_it_is_not_asked_again(client, outing, two):
    client.post(f"/clips/{two[0].pk}/asked/light/", {"answer": "as-filmed"})

    assert question.asked(outing) is None
    assert [warmth_of(c) for c in two] == [0.0, 0.0]
    again = client.post(f"/clips/{two[0].pk}/asked/light/", {"answer": "taken-out"}, follow=True)
    assert "no longer in question" in again.content.decode()


def test_given_two_lights_when_asked_then_the_one_of_most_clips_comes_first(outing, two, log_file):
    third = brought_in(outing, log_file, "marsh-3.mp4")
    offer(third)
    third.group = outing.light_groups.create(number=9)
    third.save(update_fields=["group"])
    Clip.objects.update(profile_choice="log-lifted", water_found={"wet": 0.0, "asked": False})

    found = question.asked(outing)

    assert found.clip.pk in {c.pk for c in two} and found.count == 2 and found.more == 1


@pytest.mark.django_db(transaction=True)
def test_given_lights_grouped_anew_at_the_moment_of_the_tap_when_taken_out_then_the_new_light_has_it(
    outing, two, monkeypatch
):
    clip = question.asked(outing).clip
    sound = service.put_on

    def grouped_meanwhile(*rest, **options):
        group_anew(outing)
        return sound(*rest, **options)

    monkeypatch.setattr(service, "put_on", grouped_meanwhile)
    question.take(clip, "taken-out")

    for one in Clip.objects.with_grades():
        assert grade_of(one).step("balance", Scope.LIGHT).at_work

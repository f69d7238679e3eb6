"""Lights of an outing: grouped, moved by hand, and whether a correction fits another clip."""

import pytest

from morphe.core.advise.aims import Aims
from morphe.core.grade.grade import Grade
from morphe.web.clips.models import Clip, LightGroup
from morphe.web.clips.services.grades.aims import aims_of
from morphe.web.clips.services.grades.fit import fit_on, given_by
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.grades.versions import accept_all
from morphe.web.clips.services.grades.working_space import space_of
from morphe.web.clips.services.wall.grouping import group_anew, move_to
from tests.web.conftest import brought_in
from tests.web.kept import once

DUSK = {"middle": -4.5, "warmth": 60.0, "tint": 0.0, "contrast": 3.0, "colour": -3.0}


@pytest.fixture
def two(outing, log_file, media, store):
    """Two clips of one scene, of which one is said to be filmed at dusk."""

    def make():
        _, dusk = brought_in(outing, log_file), brought_in(outing, log_file, "dusk.mp4")
        Clip.objects.filter(pk=dusk.pk).update(light=DUSK)
        group_anew(outing)

    once(("two", outing.pk), media, make, store)
    return tuple(Clip.objects.order_by("pk"))


def test_given_clips_in_two_lights_when_listed_then_each_stands_under_its_own(client, two):
    page = client.get("/clips/").content.decode()

    assert two[0].group != two[1].group
    assert page.index("Light 1") < page.index("Light 2")
    assert "dim, warm" in page


def test_given_a_clip_moved_by_hand_when_grouped_anew_then_it_stays_and_empty_lights_go(client, outing, two):
    client.post(f"/clips/{two[1].pk}/group/", {"group": two[0].group_id})
    alone = LightGroup.objects.count()

    group_anew(outing)

    two[1].refresh_from_db()
    assert alone == 1
    assert two[1].group_is_chosen and two[1].group_id == two[0].group_id


def test_given_a_clip_moved_to_a_light_of_its_own_when_asked_then_a_new_light_is_made(client, two):
    client.post(f"/clips/{two[0].pk}/group/", {"group": "new"})

    two[0].refresh_from_db()
    assert two[0].group.number == 3


def test_given_a_light_of_another_outing_when_moved_to_then_it_is_refused_in_words(client, two):
    page = client.post(f"/clips/{two[0].pk}/group/", {"group": "99999"}, follow=True).content.decode()

    assert "There is no such light" in page


def test_given_two_clips_of_one_scene_when_asked_then_the_correction_fits_and_numbers_say_so(
    client, outing, log_file
):
    one, other = brought_in(outing, log_file), brought_in(outing, log_file, "twin.mp4")
    accept_all(one)

    fit = fit_on(given_by(one), other, one)
    page = client.get("/clips/fit/", {"source": one.pk, "clip": [other.pk]}).content.decode()

    assert fit.fits and fit.residual < 1
    assert "marsh.mp4 fits twin.mp4: trimmed by nothing, about 0.0 ΔE would be left; both" in page


def test_given_another_light_when_asked_then_the_reason_is_named(two):
    fit = fit_on(given_by(two[0]), two[1], two[0])

    assert "stops darker (another light)" in fit.sentence


@pytest.mark.parametrize("asked", [{}, {"source": "1"}, {"source": "x", "clip": "y"}])
def test_given_nothing_ticked_when_asked_then_a_sentence_says_what_to_pick(client, outing, asked):
    answer = client.get("/clips/fit/", {k: v for k, v in asked.items() if v != "x"})

    assert "tick the clips" in answer.content.decode()


def test_given_a_recipe_with_evened_light_when_used_on_another_clip_then_each_keeps_its_own_time(client, two):
    track = [[0.0, 0.1, 0.1, 0.1], [1.0, -0.1, -0.1, -0.1]]
    Clip.objects.update(drift={"track": track, "wanders": True, "sentences": [], "ceiling": 1.0})
    client.post(f"/bench/{two[0].pk}/change/even-out/", {"amount": "80"})
    source = Clip.objects.select_related("version").get(pk=two[0].pk)

    given = given_by(source)

    assert given.grade.moves
    assert not given.on(two[1]).moves


def test_given_mixed_profiles_when_a_space_is_asked_for_then_the_rule_and_its_reason_are_told(outing, two):
    Clip.objects.filter(pk=two[0].pk).update(profile={"name": "hlg", "kind": "hlg"})
    mixed = space_of(outing)
    Clip.objects.update(profile={"name": "hlg", "kind": "hlg"})
    all_hdr = space_of(outing)

    assert mixed.key == "bt709" and "mixed" in mixed.hdr
    assert all_hdr.key == "wide" and "All clips are HDR" in all_hdr.hdr


def test_given_a_chosen_space_when_kept_then_it_is_the_outings_and_nonsense_is_not(client, outing, two):
    client.post("/clips/space/", {"space": "wide"})
    client.post("/clips/space/", {"space": "huge"})

    outing.refresh_from_db()
    assert outing.working_space == "wide"
    assert space_of(outing).reason == "You chose it."


def test_given_a_wide_outing_when_a_clip_is_read_then_its_conversion_stays_wide(outing, log_file):
    outing.working_space = "wide"
    outing.save()

    clip = brought_in(outing, log_file)

    assert clip.rungs[1]["proposal"]["wide"] is True


def test_given_a_clip_without_light_when_moved_then_it_still_finds_a_group(outing, clip):
    Clip.objects.update(light={})
    clip.refresh_from_db()

    assert move_to(clip, None).words == ""


def test_given_a_light_that_is_gone_when_a_clip_held_from_before_is_asked_then_it_is_in_none(two):
    held = Clip.objects.get(pk=two[1].pk)

    two[1].group.delete()

    assert held.present_group is None
    assert aims_of(held) == Aims() and grade_of(held) == Grade()

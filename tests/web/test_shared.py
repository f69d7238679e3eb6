"""Layers that clips share, and decisions on several clips at once."""

import numpy as np
import pytest

from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer, Scope
from morphe.core.grade.region import Ellipse, Region
from morphe.core.grade.steps import Balance, Contrast, Exposure
from morphe.core.measure.stand import Stand, apart_from_others
from morphe.web.clips.models import Clip, Decision
from morphe.web.clips.services.grades import decide, versions
from morphe.web.clips.services.grades.decide import offer_of, take_all, take_back
from morphe.web.clips.services.grades.fit import fit_on, given_by
from morphe.web.clips.services.grades.grade import grade_of, shared_layers
from morphe.web.clips.services.grades.shared import back_under, put_on, reach, split_off
from morphe.web.clips.services.reading import judged
from morphe.web.clips.services.wall.grouping import group_anew, move_to
from tests.web.conftest import brought_in
from tests.web.kept import once
from tests.web.working import work_all, work_off

DUSK = {"middle": -4.5, "warmth": 60.0, "tint": 0.0, "contrast": 3.0, "colour": -3.0}


@pytest.fixture
def light(outing, plain_files, media, store):
    """Five clips of one light."""

    def make():
        clips = [brought_in(outing, path) for path in plain_files]
        Clip.objects.update(light=clips[0].light)
        group_anew(outing)

    once(("light", outing.pk), media, make, store)
    return [fresh(clip) for clip in outing.clips.order_by("pk")]


def fresh(clip: Clip) -> Clip:
    return Clip.objects.with_grades().get(pk=clip.pk)


def shared(clip: Clip, *steps, scope=Scope.LIGHT) -> Grade:
    return grade_of(clip).with_layer(Layer(id=scope, scope=scope, steps=steps))


# --- shared layers ---------------------------------------------------------------------------------


def test_given_a_layer_of_the_light_when_kept_on_one_clip_then_all_have_it_and_keep_their_own(light):
    versions.keep(light[1], grade_of(light[1]).with_step(Contrast(amount=10)), "Contrast")

    versions.keep(fresh(light[0]), shared(light[0], Exposure(stops=0.4)), "Exposure")

    assert reach(fresh(light[0]), Scope.LIGHT) == 5
    assert all(grade_of(fresh(c)).step("exposure", "light") == Exposure(stops=0.4) for c in light)
    assert grade_of(fresh(light[1])).step("contrast") == Contrast(amount=10)
    assert not fresh(light[2]).is_corrected  # what is shared decides nothing about the clip itself


def test_given_own_and_shared_changes_when_undone_and_redone_then_the_latest_goes_first(light):
    one, other = light[0], light[1]
    versions.keep(one, grade_of(one).with_step(Contrast(amount=5)), "own")
    versions.keep(fresh(other), shared(other, Exposure(stops=0.4)), "shared")
    versions.keep(fresh(one), grade_of(fresh(one)).with_step(Contrast(amount=9)), "own again")
    whole = grade_of(fresh(one))

    undone = []
    while versions.undo(fresh(one)):
        undone.append(grade_of(fresh(one)))
    redone = 0
    while versions.redo(fresh(one)):
        redone += 1

    assert [g.step("contrast").amount for g in undone] == [5, 5, 0]
    assert [g.step("exposure", "light").stops for g in undone] == [0.4, 0, 0]
    assert redone == 3 and grade_of(fresh(one)) == whole
    assert grade_of(fresh(other)).step("exposure", "light") == Exposure(stops=0.4)


def test_given_a_shared_change_taken_back_and_the_clip_changed_since_when_redone_then_it_is_not(light):
    versions.keep(light[0], shared(light[0], Exposure(stops=0.4)), "shared")
    versions.undo(fresh(light[1]))
    versions.keep(fresh(light[1]), grade_of(fresh(light[1])).with_step(Contrast(amount=5)), "own")

    assert not versions.redo(fresh(light[1]))
    assert grade_of(fresh(light[0])) == Grade()


def test_given_a_clip_split_off_when_the_light_changes_then_it_stays_and_can_come_back(light):
    versions.keep(light[0], shared(light[0], Exposure(stops=0.4)), "shared")
    before = grade_of(fresh(light[0]))
    versions.keep(fresh(light[0]), *split_off(fresh(light[0]), Scope.LIGHT))

    versions.keep(fresh(light[1]), shared(light[1], Exposure(stops=-1)), "shared")
    split = grade_of(fresh(light[0]))
    assert reach(fresh(light[1]), Scope.LIGHT) == 4
    versions.keep(fresh(light[0]), *back_under(fresh(light[0]), Scope.LIGHT))

    assert split.layer("own-light").steps == before.layer("light").steps
    assert grade_of(fresh(light[0])).step("exposure", "light") == Exposure(stops=-1)
    assert not grade_of(fresh(light[0])).has_layer("own-light")


def test_given_a_rung_when_put_on_the_outing_then_the_clip_looks_the_same_and_light_adds_up(light):
    one = light[0]
    versions.keep(one, shared(one, Exposure(stops=0.25), scope=Scope.OUTING), "outing")
    versions.keep(fresh(one), grade_of(fresh(one)).with_step(Exposure(stops=0.5)), "own")

    grade, change = put_on(fresh(one), "exposure", Scope.OUTING, Exposure())
    versions.keep(fresh(one), grade, change)

    assert grade_of(fresh(light[3])).step("exposure", "outing") == Exposure(stops=0.75)
    assert not grade_of(fresh(one)).step("exposure").at_work


def test_given_lights_grouped_anew_when_clips_part_then_what_was_set_goes_with_them(outing, light):
    versions.keep(light[0], shared(light[0], Exposure(stops=0.4)), "shared")
    Clip.objects.filter(pk__in=[c.pk for c in light[3:]]).update(light=DUSK)

    group_anew(outing)

    assert len({c.group_id for c in Clip.objects.all()}) == 2
    assert all(grade_of(fresh(c)).step("exposure", "light") == Exposure(stops=0.4) for c in light)


def test_given_a_clip_moved_to_another_light_when_looked_at_then_it_is_under_that_one(outing, light):
    versions.keep(light[0], shared(light[0], Exposure(stops=0.4)), "shared")

    move_to(fresh(light[1]), None)

    assert grade_of(fresh(light[1])) == Grade()
    assert reach(fresh(light[0]), Scope.LIGHT) == 4


def test_given_a_shared_layer_when_judged_then_the_rungs_read_the_picture_through_it(light):
    dark = light[4]
    wanted = next(r for r in dark.rungs if r["step"] == "exposure")
    assert wanted["applied"] and wanted["value"] > 0.5

    versions.keep(dark, shared(dark, Exposure(stops=wanted["value"])), "shared")
    work_all("judge")

    assert not next(r for r in fresh(dark).rungs if r["step"] == "exposure")["applied"]


# --- decisions on several clips --------------------------------------------------------------------


def test_given_a_light_when_all_proposals_are_taken_then_its_clips_sit_together_and_all_goes_back(
    client, outing, light
):
    offer = offer_of(outing)
    client.post("/clips/decide/")
    work_all()

    stands = [Stand.from_json(fresh(c).stand) for c in light]
    apart = apart_from_others(stands)
    page = client.get("/clips/?view=corrected").content.decode()
    assert f"{offer.proposals} proposal" in offer.sentence and offer.clips
    assert np.ptp([a.stops for a in apart]) < 0.15
    assert np.ptp([a.mired for a in apart]) < 8
    assert "Trimmed:" in page and page.count("Sits with its light") == 5

    decision = Decision.objects.get()
    client.post(f"/clips/decisions/{decision.pk}/undo/")
    assert all(grade_of(fresh(c)) == Grade() for c in light)
    client.post(f"/clips/decisions/{decision.pk}/redo/")
    assert all(grade_of(fresh(c)) != Grade() for c in light)


def test_given_a_cast_common_to_a_light_when_taken_then_it_belongs_to_the_light(outing, light):
    cast = Balance(warmth=40.0, tint=2.0)
    for number, clip in enumerate(light):
        warmth = 40.0 + 2 * number - 4
        rung = {"step": "balance", "applied": True, "action": "", "label": "White balance",
                "proposal": {"step": "balance", "on": True, "warmth": warmth, "tint": 2.0}}  # fmt: skip
        Clip.objects.filter(pk=clip.pk).update(rungs=[rung], states={"balance": "proposed"}, proposals=1)

    take_all(outing)
    work_all("decide")

    assert grade_of(fresh(light[0])).step("balance", "light") == cast
    assert "for all its clips" in " ".join(Decision.objects.get().sentences)


def test_given_a_clip_changed_since_when_a_decision_is_taken_back_then_that_one_stays(outing, light):
    take_all(outing, [light[3].pk, light[4].pk])
    work_all("decide")
    versions.keep(fresh(light[4]), grade_of(fresh(light[4])).with_step(Contrast(amount=7)), "by hand")

    said = take_back(Decision.objects.get())

    assert said == "Taken back on 1 clip. plain-4.mp4 was changed since and stays."
    assert grade_of(fresh(light[3])) == Grade()
    assert grade_of(fresh(light[4])).step("contrast") == Contrast(amount=7)


def test_given_a_clip_decided_by_hand_when_all_are_taken_then_the_others_come_to_it(outing, light):
    versions.keep(light[1], grade_of(light[1]).with_step(Exposure(stops=0.9)), "by hand")

    take_all(outing)
    work_all("decide", "stand")

    assert grade_of(fresh(light[1])).step("exposure") == Exposure(stops=0.9)
    assert abs(fresh(light[0]).stand["apart"][0]) < 0.15


def test_given_a_correction_when_passed_on_then_it_is_trimmed_to_the_other_clip(client, light):
    bright, dark = light[0], light[4]
    versions.accept_all(bright)
    wanted = grade_of(fresh(bright)).with_step(Contrast(amount=12))
    region = Layer(
        id="region-1", region=Region(shape=Ellipse(wide=0.2, tall=0.2)), steps=(Exposure(stops=1),)
    )
    versions.keep(fresh(bright), wanted.with_layer(region), "by hand")

    fit = fit_on(given_by(fresh(bright)), fresh(dark))
    told = client.get("/clips/fit/", {"source": bright.pk, "clip": [dark.pk]}).content.decode()
    client.post("/clips/use-recipe/", {"source": bright.pk, "clip": [dark.pk]})
    work_all("decide")

    grade = grade_of(fresh(dark))
    assert fit.trim.stops > 0.5 and fit.fits
    assert grade == fit.grade and grade.step("contrast") == Contrast(amount=12)
    assert not grade.has_layer("region-1") and "It has 1 region: left out" in told


def test_given_a_page_that_does_not_know_a_shared_change_when_it_keeps_then_that_is_not_undone(client, light):
    from morphe.core.grade import recipe
    from morphe.web.clips.services.grades.grade import under

    one = light[0]
    versions.keep(one, shared(one, Exposure(stops=0.1)), "shared")
    old, known = grade_of(fresh(one)), under(fresh(one))
    versions.keep(fresh(light[1]), shared(light[1], Exposure(stops=0.6)), "shared")

    posted = recipe.to_text(old.with_step(Contrast(amount=8)))
    client.post(f"/bench/{one.pk}/change/keep/", {"grade": posted, "under": known, "open": "contrast"})

    grade = grade_of(fresh(one))
    assert grade.step("exposure", "light") == Exposure(stops=0.6)
    assert grade.step("contrast") == Contrast(amount=8)


@pytest.mark.parametrize("address", ["/clips/offer/?clip=x", "/clips/offer/?clip=99"])
def test_given_nothing_that_waits_when_an_offer_is_asked_for_then_there_is_none(client, outing, address):
    assert "Take" not in client.get(address).content.decode()


def test_given_a_clip_when_its_corrected_picture_is_asked_for_then_it_differs_once_it_is_corrected(
    client, light
):
    filmed = client.get(f"/clips/{light[4].pk}/corrected.jpg").content
    versions.accept_all(light[4])

    assert client.get(f"/clips/{light[4].pk}/corrected.jpg").content != filmed
    assert client.get("/clips/99999/corrected.jpg").status_code == 404


def test_given_a_rung_put_on_a_light_when_undone_on_another_clip_then_the_first_has_its_own_again(light):
    one, other = light[0], light[1]
    versions.keep(one, grade_of(one).with_step(Exposure(stops=0.6)), "own")
    versions.keep(fresh(one), *put_on(fresh(one), "exposure", Scope.LIGHT, Exposure()))

    versions.undo(fresh(other))
    undone = grade_of(fresh(one))
    versions.redo(fresh(one))

    assert undone == Grade.of(Exposure(stops=0.6))
    assert grade_of(fresh(other)).step("exposure", "light") == Exposure(stops=0.6)
    assert not grade_of(fresh(one)).step("exposure").at_work


def test_given_a_clip_held_by_long_work_when_lights_are_grouped_anew_then_it_is_judged_all_the_same(
    outing, light
):
    held = Clip.objects.get(pk=light[0].pk)
    versions.keep(light[1], shared(light[1], Exposure(stops=0.4)), "shared")

    group_anew(outing)

    assert [layer.id for layer in shared_layers(held)] == ["light"]


def test_given_clips_changed_or_removed_while_the_worker_plans_when_kept_then_the_others_are_decided(
    outing, light, monkeypatch
):
    settled = decide.settle

    def meanwhile(members):
        versions.keep(fresh(light[3]), grade_of(fresh(light[3])).with_step(Contrast(amount=7)), "by hand")
        Clip.objects.filter(pk=light[2].pk).delete()
        return settled(members)

    monkeypatch.setattr(decide, "settle", meanwhile)
    take_all(outing)
    work_all("decide")

    assert "Changed meanwhile, and left: plain-3.mp4." in Decision.objects.get().sentences
    assert grade_of(fresh(light[3])) == Grade.of(Contrast(amount=7))
    assert fresh(light[4]).is_corrected


def test_given_light_followed_while_a_clip_is_being_judged_when_kept_then_it_is_not_forgotten(
    clip, monkeypatch
):
    judging = judged.judge_findings
    stale = Clip.objects.select_related("outing", "camera").get(pk=clip.pk)

    def meanwhile(held, findings):
        monkeypatch.setattr(judged, "judge_findings", judging)
        work_off("play", held.pk)
        return judging(held, findings)

    monkeypatch.setattr(judged, "judge_findings", meanwhile)
    judged.judge_anew(stale)

    assert fresh(clip).drift.get("track")

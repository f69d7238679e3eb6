"""Practice: exercises made ahead, answers judged and kept once, eyes measured, clips mended and scored."""

import base64
import json
import random
from pathlib import Path

import cv2
import numpy as np
import pytest

from morphe.core.grade.convert import Convert
from morphe.core.grade.steps import Balance, Exposure
from morphe.core.practice.mending import KINDS, mending
from morphe.core.practice.staircase import chance_right
from morphe.core.practice.subjects import ORDER
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.grades.versions import accept_all, keep
from morphe.web.outings.models import Outing
from morphe.web.practice.models import Attempt, Mend, Prepared, Skill, Walk, Wish
from morphe.web.practice.services import eyes, mends, prepared, record
from morphe.web.practice.services.own_work import leanings
from morphe.web.practice.services.topics import OWN, TOPICS
from tests.core.practice.conftest import few_moments  # noqa: F401 (scenes of few moments here too)
from tests.web.conftest import brought_in
from tests.web.working import work_all, work_off

HTMX = {"HX-Request": "true"}
pytestmark = pytest.mark.django_db


def taken(client, key):
    page = client.get(f"/practice/{key}/")
    return Prepared.objects.filter(subject=key).exclude(taken=None).latest("taken"), page.content.decode()


def right_answer(one):
    content = json.loads(Path(one.content.path).read_text())
    if content["taps"] == "waveform":
        area = content["area"]
        return {"x": (area["left"] + area["right"]) / 2, "y": (area["low"] + area["high"]) / 2}
    if content["taps"]:
        lit = cv2.imdecode(np.frombuffer(base64.b64decode(content["lit"]), np.uint8), cv2.IMREAD_UNCHANGED)
        rows, columns = np.nonzero(lit[..., 3])
        return {"x": (columns[0] + 0.5) / lit.shape[1], "y": (rows[0] + 0.5) / lit.shape[0]}
    return {"choice": content["right"]}


@pytest.mark.parametrize("key", ORDER)
def test_given_a_subject_when_its_exercise_is_answered_rightly_then_it_is_kept_once(client, key):
    one, page = taken(client, key)

    answers = [
        client.post(f"/practice/answer/{one.pk}/", right_answer(one), headers=HTMX).content.decode()
        for _ in range(2)
    ]

    assert "Right." in answers[0] and "As it was" in answers[0] and '"lit"' in answers[0]
    assert '"right"' not in page.replace("&quot;", '"')  # what is right is not told before
    assert Skill.objects.get(subject=key).rights == 1 and Attempt.objects.count() == 1
    assert Skill.objects.get(subject=key).level > 0


def test_given_exercises_made_ahead_when_one_is_taken_then_it_is_that_one_and_more_are_asked_for(client):
    work_off(prepared.KIND, ORDER.index("leans"))
    waiting = set(Prepared.objects.values_list("pk", flat=True))

    one, _ = taken(client, "leans")

    assert len(waiting) == prepared.AHEAD and one.pk in waiting
    work_all(prepared.KIND)
    assert Prepared.objects.filter(subject="leans", taken=None).count() == prepared.AHEAD


def test_given_a_level_that_has_risen_when_an_exercise_is_taken_then_old_ones_are_let_go(client):
    work_off(prepared.KIND, ORDER.index("clipped"))
    Skill.objects.create(subject="clipped", level=0.9)

    one, _ = taken(client, "clipped")

    assert one.level == 0.9 and not Prepared.objects.filter(level__lt=0.5).exists()


@pytest.mark.parametrize(
    "answer", [{}, {"choice": "9"}, {"choice": "x"}, {"choice": "-1"}, {"x": "nan", "y": "2"}, {"x": "1"}]
)
def test_given_no_answer_when_sent_then_a_sentence_says_what_to_do_and_nothing_is_kept(client, answer):
    for key in ("clipped", "face"):
        one, _ = taken(client, key)
        page = client.post(f"/practice/answer/{one.pk}/", answer, headers=HTMX).content.decode()

        assert "Choose one of the answers" in page or "Tap a place" in page
    assert not Attempt.objects.exists()


def test_given_a_wrong_answer_when_told_then_the_right_one_is_named_and_the_subject_comes_again(client):
    one, _ = taken(client, "clipped")
    content = json.loads(Path(one.content.path).read_text())
    wrong = (content["right"] + 1) % len(content["choices"])

    page = client.post(f"/practice/answer/{one.pk}/", {"choice": wrong}, headers=HTMX).content.decode()

    assert "Not this time" in page and f"It is: {content['choices'][content['right']].lower()}" in page
    assert Skill.objects.get().rights == 0 and Skill.objects.get().level == 0
    assert "0 of 1 right" in client.get("/practice/").content.decode()


def test_given_a_subject_that_fades_when_practice_is_opened_then_it_is_next(client):
    for key in ("belongs", "leans"):
        for _ in range(8):
            record.answered(key, 1, 0.5, right=True)
    assert record.next_topic().topic.key not in ("belongs", "leans")
    skill = Skill.objects.get(subject="leans")
    skill.card["due"] = skill.card["last_review"] = "2020-01-01T00:00:00+00:00"
    skill.save()

    assert record.next_topic().topic.key == "leans" and record.next_topic().kept < 60
    assert "it fades" in client.get("/practice/").content.decode()

    client.post("/practice/start-over/")
    assert not Skill.objects.exists() and record.next_topic().topic.key == ORDER[0]


@pytest.mark.parametrize(("sense", "threshold"), [("exposure", 0.08), ("warmth", 5.0)])
def test_given_an_observer_when_compared_to_the_end_then_the_threshold_is_theirs(client, sense, threshold):
    walk, chance, answers = eyes.walk_of(sense), random.Random(3), 0
    while not walk.ended:
        level, seed = eyes.staircase_of(walk).level, walk.seed
        right = eyes._pair(walk).right
        place = right if chance.random() < chance_right(level, threshold) else 1 - right
        assert eyes.answer(walk, place, seed) is (place == right)
        assert eyes.answer(walk, place, seed) is None  # a second click
        answers += 1

    assert walk.threshold == pytest.approx(threshold, rel=0.35) and answers <= 90
    page = client.get(f"/practice/eyes/{sense}/").content.decode()
    assert "three times of four" in page and "Measure again" in page
    client.post(f"/practice/eyes/{sense}/answer/", {"anew": "1"}, headers=HTMX)
    assert Walk.objects.get().ended is None and Walk.objects.get().threshold == walk.threshold


def test_given_many_comparisons_when_another_is_shown_then_eyes_are_said_to_tire(client):
    Attempt.objects.bulk_create(
        Attempt(subject="eye-tint", seed=n, level=1, right=True) for n in range(eyes.TIRED_ANSWERS)
    )
    page = client.get("/practice/eyes/tint/").content.decode()

    assert "eyes tire" in page and "Which one is greener?" in page
    answer = client.post("/practice/eyes/tint/answer/", {"place": "7", "seed": "1"}, headers=HTMX)
    assert "Choose the left or the right" in answer.content.decode()


def test_given_own_thresholds_when_wished_then_clips_stand_apart_by_them(client, clip):
    Clip.objects.update(stand={"apart": [0.12, 0.0]})
    Walk.objects.create(sense="exposure", threshold=0.05)
    Walk.objects.create(sense="warmth", threshold=3.0)
    assert "darker than its light" not in client.get("/clips/?view=corrected").content.decode()

    client.post("/practice/wish/", {"own": "1"})

    assert Wish.objects.get().own_thresholds
    assert "0.1 stop brighter than its light" in client.get("/clips/?view=corrected").content.decode()
    assert mends.tolerance() < 2.0


@pytest.mark.parametrize("kind", list(KINDS))
def test_given_a_clip_to_mend_when_set_right_then_the_distance_falls_and_it_is_scored(client, kind):
    made = mends.begin(kind)
    work_all(mends.KIND, "read")
    made = mends.begin(kind)
    page = client.get(f"/bench/{made.clip_id}/").content.decode()
    clip = Clip.objects.with_grades().get(pk=made.clip_id)
    frame = clip.poster

    def distance(grade):
        from morphe.web.bench.services.still import still_json

        return still_json(clip, frame.number, grade)["aside"]["distance"]

    first = distance(grade_of(clip))
    errors = mending(kind, made.seed, made.level).exposure
    back = Balance(warmth=errors.warm_mired, tint=1000 * errors.green_duv)
    grade = grade_of(clip).with_step(Exposure(stops=-errors.exposure_stops), "clip").with_step(back, "clip")
    if errors.profile != "std-709":
        grade = grade.with_step(Convert(profile=errors.profile))
    keep(clip, grade, "As somebody would set it who knows")
    clip = Clip.objects.with_grades().get(pk=clip.pk)
    last = distance(grade_of(clip))
    client.post(f"/practice/mended/{made.pk}/end/")
    made.refresh_from_db()
    result = client.get(f"/practice/mended/{made.pk}/").content.decode()

    assert made.state == Mend.State.ENDED and last < first and made.left["distance"] == last
    assert made.score == pytest.approx(100 * (first - last) / (first - 2.0), abs=2) or made.score == 100
    assert "Accept all" not in page and "ΔE from the truth" in page and "propose" not in page
    assert (f"{made.score}</strong> of 100" in result and "Still" in result) or "where they were" in result
    assert Skill.objects.get(subject=kind).tries == 1
    assert client.get(f"/practice/mended/{made.pk}/truth.jpg").content[:2] == b"\xff\xd8"


def test_given_clips_for_practice_when_places_are_opened_then_they_are_nowhere_listed(client, clip):
    mends.begin("mend-light")
    work_all(mends.KIND, "read", "sort")

    assert Outing.objects.count() == 1 and Outing.everything.count() == 2
    for path in ("/", "/clips/", "/logbook/", "/hand-over/", "/match/"):
        assert "to-mend" not in client.get(path).content.decode()


def test_given_a_clip_of_ones_own_when_spoiled_then_its_truth_is_as_it_was_corrected(client, clip):
    assert "No clip of yours" in client.get(f"/practice/mend/{OWN}/", follow=True).content.decode()
    accept_all(clip)

    waiting = client.get(f"/practice/mend/{OWN}/").content.decode()
    work_all(mends.KIND, "read")
    answer = client.get(f"/practice/mend/{OWN}/", headers=HTMX)

    made = Mend.objects.get(kind=OWN)
    assert "being made" in waiting and answer.headers["HX-Redirect"] == f"/bench/{made.clip_id}/"
    assert made.own == clip and made.clip.title == "marsh-spoiled.mp4"


def test_given_a_habit_in_ones_own_work_when_practice_is_opened_then_it_is_named(client, outing, plain_files):
    for number, path in enumerate(plain_files[:3]):
        clip = brought_in(outing, path, f"own-{number}.mp4")
        accept_all(clip)
        clip = Clip.objects.with_grades().get(pk=clip.pk)
        grade = grade_of(clip)
        found = next((s for _, s in grade.steps() if s.key == "balance"), Balance())
        warmer = Balance(warmth=found.warmth + 14, tint=found.tint)
        keep(clip, grade.with_step(warmer, "clip").with_step(Exposure(stops=0.02 * number), "clip"), "Warmer")

    [one] = [found for found in leanings() if "mired" in found.sentence]
    assert "on 3 clips you went 14 mired" in one.sentence and one.topic == TOPICS["mend-colour"]
    assert "From your own work" in client.get("/practice/").content.decode()


def test_given_a_camera_decision_when_right_or_wrong_then_each_setting_is_judged(client):
    from morphe.core.practice.decisions import decision

    best = decision(4).best
    settings = {"profile": best.profile, "shutter": best.shutter, "nd": best.nd_stops, "kelvin": best.kelvin}
    right = client.post("/practice/camera/", settings | {"seed": 4}).content.decode()
    wrong = client.post("/practice/camera/", settings | {"seed": 4, "nd": 0, "shutter": 30}).content.decode()
    junk = client.post("/practice/camera/", {"seed": 4, "profile": "x"}).content.decode()

    assert right.count("bi-check-circle") == 4 and "would have been right" not in right
    assert "over: what clips is gone" in wrong and "would have been right" in wrong
    assert "Choose profile, shutter, filter and balance" in junk
    assert Skill.objects.get(subject="camera").tries == 2


@pytest.mark.parametrize("path", ["nothing/", "eyes/taste/", "mended/99/", "mend/nothing/", "mend/belongs/"])
def test_given_something_that_is_not_practised_when_opened_then_it_is_said(client, path):
    answer = client.get(f"/practice/{path}", follow=True)

    assert answer.status_code == 404 or "nothing to practise" in answer.content.decode()


def test_given_mendings_that_ended_when_more_are_begun_then_old_clips_are_let_go(
    client, clip, settings, monkeypatch
):
    monkeypatch.setattr(mends, "KEPT", 1)
    begun = []
    for _ in range(3):
        mends.begin("mend-light")
        work_all(mends.KIND, "read")
        made = mends.begin("mend-light")
        mends.end(made)
        begun.append(made.clip_id)

    assert set(Clip.objects.filter(pk__in=begun).values_list("pk", flat=True)) == set(begun[1:])
    assert Clip.objects.filter(pk=clip.pk).exists() and Attempt.objects.count() == 3


def test_given_an_exercise_that_is_gone_when_answered_then_a_sentence_says_what_to_do(client):
    page = client.post("/practice/answer/999/", {"choice": "1"}, headers=HTMX).content.decode()

    assert "taken away by a later one" in page

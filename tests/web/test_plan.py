"""Plan: answers make a card, the card is kept, taken along, and set against what was filmed."""

import json
from datetime import UTC, date, datetime

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from morphe.core.grade.steps import Exposure
from morphe.core.plan.place import PLACES
from morphe.core.standins.kits import KITS
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.grades.versions import keep
from morphe.web.clips.services.intake.origin import recognised_camera
from morphe.web.outings.models import Camera, Outing
from morphe.web.plan.models import Lesson, PlannedCamera, Take
from morphe.web.plan.services.current import add_camera, card_of, plan_of
from morphe.web.plan.services.takes import add_take, paste_takes
from morphe.web.today.services.standing import standing
from tests.web.conftest import brought_in

HTMX = {"HX-Request": "true"}
MORNING = datetime(2026, 5, 1, 9, 5, tzinfo=UTC)


def camera_of(key: str) -> Camera:
    kit = KITS.get(key)
    return Camera.objects.create(name=kit.name, kit=json.loads(json.dumps(kit.as_json())))


@pytest.fixture
def drone(outing):
    """The drone, taken along on the test day."""
    return add_camera(plan_of(outing), camera_of("sandpiper"))


def answer(client, planned, **posted):
    return client.post(f"/plan/{planned.pk}/answers/", posted, headers=HTMX).content.decode()


def test_given_no_camera_when_plan_is_opened_then_the_way_to_describe_one_is_shown(client, outing):
    page = client.get("/plan/").content.decode()

    assert "Describe a camera" in page


def test_given_a_camera_in_the_library_when_taken_along_then_its_card_is_on_the_page(client, outing):
    camera = camera_of("cuttle")

    page = client.post("/plan/cameras/", {"camera": camera.pk}, follow=True).content.decode()

    assert "Settings of Cuttle" in page
    assert "Shutter" in page and "White balance" in page


def test_given_a_camera_nothing_is_known_of_when_taken_along_then_a_sentence_sends_to_the_library(
    client, outing
):
    camera = Camera.objects.create(name="Old one")

    page = client.post("/plan/cameras/", {"camera": camera.pk}, follow=True).content.decode()

    assert "Nothing is known of Old one yet" in page
    assert not PlannedCamera.objects.exists()


def test_given_three_answers_when_sent_then_the_card_follows_and_is_kept(client, drone):
    before = card_of(drone).answer("profile").value

    piece = answer(client, drone, shot="flight", light="shade", grading_hours="0.2")

    drone.refresh_from_db()
    assert drone.answers["light"] == "shade"
    assert drone.plan.answers["grading_hours"] == "0.2"
    assert piece.lstrip().startswith('<div id="plan-body"')
    assert card_of(drone).answer("profile").value != before


@pytest.mark.parametrize(
    ("posted", "sentence"),
    [
        ({"place": "nowhere at all"}, "nowhere at all"),
        ({"contrast_stops": "many"}, "many"),
        ({"hour": "25:99"}, "25:99"),
        ({"day": "yesterday"}, "yesterday"),
        ({"shot": "stroll"}, "stroll"),
    ],
)
def test_given_an_answer_that_cannot_be_used_when_sent_then_a_sentence_says_so_and_nothing_is_kept(
    client, drone, posted, sentence
):
    drone.refresh_from_db()
    kept = (drone.answers, drone.plan.answers)

    said = client.post(f"/plan/{drone.pk}/answers/", posted, headers=HTMX)

    drone = PlannedCamera.objects.get(pk=drone.pk)
    assert sentence in said.content.decode()
    assert said["HX-Retarget"] == "#plan-problem"
    assert (drone.answers, drone.plan.answers) == kept


def test_given_a_part_held_fast_when_the_card_is_made_then_the_others_make_up_for_it(client, drone):
    client.post(f"/plan/{drone.pk}/pin/", {"part": "iso", "value": "800"}, headers=HTMX)

    drone.refresh_from_db()
    held = card_of(drone).settings_json()
    client.post(f"/plan/{drone.pk}/pin/", {"part": "iso", "value": ""}, headers=HTMX)
    drone.refresh_from_db()
    free = card_of(drone).settings_json()

    assert held["iso"] == 800
    assert free["iso"] < 800
    assert held["nd_stops"] > free["nd_stops"] or held["shutter_s"] < free["shutter_s"]


@pytest.mark.parametrize(
    ("part", "value"), [("colour", "1"), ("iso", "high"), ("shutter", "-1"), ("iso", "inf")]
)
def test_given_a_part_that_cannot_be_held_when_sent_then_it_is_refused_in_words(client, drone, part, value):
    said = client.post(f"/plan/{drone.pk}/pin/", {"part": part, "value": value}, headers=HTMX)

    drone.refresh_from_db()
    assert said["HX-Retarget"] == "#plan-problem"
    assert drone.pins == {}


def test_given_a_flight_when_planned_then_cautions_defer_to_others_and_ticks_are_kept(client, drone):
    page = client.get("/plan/").content.decode()

    client.post(f"/plan/{drone.pk}/caution/", {"key": "aviation", "on": "yes"}, headers=HTMX)
    client.post(f"/plan/{drone.pk}/caution/", {"key": "aviation", "on": "yes"}, headers=HTMX)
    drone.refresh_from_db()
    ticked = list(drone.ticked)
    client.post(f"/plan/{drone.pk}/caution/", {"key": "aviation"}, headers=HTMX)
    drone.refresh_from_db()

    assert "authority" in page
    assert ticked == ["aviation"]
    assert drone.ticked == []


def test_given_a_known_place_when_planned_then_the_sun_and_its_calendar_are_offered(client, outing, db):
    outing.place = next(iter(PLACES.values())).name
    outing.save()
    planned = add_camera(plan_of(outing), camera_of("sandpiper"))

    page = client.get("/plan/").content.decode()
    calendar = client.get(f"/plan/{planned.pk}/sun.ics")

    assert planned.answers["light"] == "sky"
    assert "olden hour" in page
    assert calendar["Content-Type"].startswith("text/calendar")
    assert b"BEGIN:VEVENT" in calendar.content
    assert "2026-05-01-sandpiper-sun.ics" in calendar["Content-Disposition"]


def test_given_no_place_when_the_calendar_is_asked_for_then_a_sentence_asks_for_one(client, drone):
    page = client.get(f"/plan/{drone.pk}/sun.ics", follow=True).content.decode()

    assert "The sun needs a place" in page


def test_given_a_card_when_saved_then_one_file_needs_nothing_else(client, drone):
    saved = client.get(f"/plan/{drone.pk}/card.html")

    page = saved.content.decode()
    assert 'filename="2026-05-01-sandpiper.html"' in saved["Content-Disposition"]
    assert "Sandpiper" in page
    assert "<style>" in page and "<script>" in page
    assert "http" not in page.replace("http-equiv", "")
    assert " src=" not in page and "<link" not in page


def test_given_a_card_when_saved_as_json_then_it_says_what_the_command_says(client, drone, morphe):
    saved = json.loads(client.get(f"/plan/{drone.pk}/card.json").content)

    said = morphe("plan", "--camera", "sandpiper", "--shot", "flight", "--json").json

    assert saved.pop("outing") == "Test day"
    assert saved.pop("day") == "2026-05-01"
    assert saved["settings"] == said["settings"]


def test_given_two_cameras_when_printed_then_each_has_a_sheet(client, outing, drone):
    add_camera(plan_of(outing), camera_of("fern"))

    both = client.get("/plan/print/").content.decode()
    one = client.get(f"/plan/print/?camera={drone.camera_id}").content.decode()

    assert both.count('<article class="sheet">') == 2
    assert one.count('<article class="sheet">') == 1


def test_given_takes_when_slated_then_they_count_on_and_a_number_is_used_once(client, drone):
    client.post(f"/plan/{drone.pk}/takes/", {"note": "gust"}, headers=HTMX)
    client.post(f"/plan/{drone.pk}/takes/", {"number": "7"}, headers=HTMX)
    client.post(f"/plan/{drone.pk}/takes/", {"note": "again"}, headers=HTMX)
    twice = client.post(f"/plan/{drone.pk}/takes/", {"number": "7"}, headers=HTMX).content.decode()
    forgotten = Take.objects.get(number=1)
    client.post(f"/plan/takes/{forgotten.pk}/forget/", headers=HTMX)

    assert list(Take.objects.values_list("number", "note")) == [(7, ""), (8, "again")]
    assert "Take 7 of Sandpiper is slated already" in twice


def test_given_notes_from_the_saved_card_when_pasted_then_they_are_takes_and_rows_that_are_not_are_named(
    client, drone
):
    good = "3; 2026-05-01T09:00:00Z; 1/400 iso 800\n4; 2026-05-01T09:10:00Z; "
    client.post(f"/plan/{drone.pk}/takes/paste/", {"notes": good}, headers=HTMX)
    bad = client.post(
        f"/plan/{drone.pk}/takes/paste/", {"notes": "4; then; x"}, headers=HTMX
    ).content.decode()
    none = client.post(f"/plan/{drone.pk}/takes/paste/", {"notes": " "}, headers=HTMX).content.decode()

    assert list(Take.objects.values_list("number", "note")) == [(3, "1/400 iso 800"), (4, "")]
    assert "Line 1" in bad
    assert "no notes in this text" in none


def test_given_a_clip_filmed_near_a_slate_when_read_then_the_plan_is_set_against_it(
    client, outing, drone, log_file
):
    settings = card_of(drone).settings_json()
    paste_takes(drone, f"1; {MORNING.isoformat()}; 1/400")
    clip = brought_in(outing, log_file, "sandpiper-marsh.mp4")

    Clip.objects.filter(pk=clip.pk).update(filmed_at=MORNING)
    client.post(f"/clips/{clip.pk}/filmed-by/", {"camera": drone.camera_id})

    clip.refresh_from_db()
    said = {c["label"]: c for c in clip.checks}
    assert clip.planned == drone and clip.take.number == 1
    assert settings["shutter_s"] > 1 / 200
    assert f"planned 1/{1 / settings['shutter_s']:.0f}, slate says 1/400" in said["Shutter"]["sentence"]
    assert said["ISO"]["agrees"] is None and "not recorded" in said["ISO"]["sentence"]
    assert said["Frame rate"]["source"] == "file"
    assert "slate says 1/400" in client.get("/clips/").content.decode()


def test_given_a_name_that_tells_the_camera_when_read_then_it_is_recognised(outing, drone, log_file):
    clip = brought_in(outing, log_file, "Sandpiper-0042.mp4")

    assert clip.camera == drone.camera


@pytest.mark.parametrize(("title", "tags", "name"), [
    ("fern0012.mp4", {}, "Fern"), ("ferns at dawn.mp4", {}, None), ("a walk.mp4", {}, "A"),
    ("A001_C002.mov", {}, "A"), ("on a walk.mp4", {}, None), ("B 7.mp4", {}, "B"),
    ("x.mp4", {"model": "Fern Two"}, "Fern Two"), ("fern-two.mp4", {}, "Fern"), ("FERN.mp4", {}, "Fern"),
])  # fmt: skip
def test_given_names_that_begin_alike_when_a_clip_is_read_then_the_whole_word_and_the_longest_tell(
    outing, title, tags, name
):
    for known in ("A", "B", "Fern", "Fern Two"):
        Camera.objects.create(name=known, kit={})

    found = recognised_camera(title, tags)

    assert (found and found.name) == name


def test_given_a_clip_of_another_day_when_read_then_it_is_not_set_against_the_plan(
    client, outing, drone, log_file
):
    card_of(drone)
    clip = brought_in(outing, log_file, "sandpiper-old.mp4")
    Clip.objects.filter(pk=clip.pk).update(filmed_at=datetime(2026, 4, 1, tzinfo=UTC))

    client.post(f"/clips/{clip.pk}/filmed-by/", {"camera": drone.camera_id})

    clip.refresh_from_db()
    assert clip.planned is None and clip.checks == []


def test_given_a_browser_that_tells_the_files_time_when_uploaded_then_it_is_the_time_of_filming(
    client, outing, plain_clip
):
    upload = SimpleUploadedFile("walk.mp4", plain_clip.read_bytes())
    client.post("/clips/upload/", {"clip": upload, "modified": str(int(MORNING.timestamp() * 1000))})

    assert Clip.objects.get().filmed_at == MORNING


def test_given_clips_that_all_needed_more_light_when_decided_then_the_lesson_is_offered_and_taken(
    client, outing, drone, log_file
):
    card_of(drone)
    for number in range(3):
        clip = brought_in(outing, log_file, f"sandpiper-{number}.mp4")
        Clip.objects.filter(pk=clip.pk).update(profile={**clip.profile, "name": "log-wide", "kind": "log"})
        clip.refresh_from_db()
        keep(clip, grade_of(clip).with_step(Exposure(stops=0.7)), "Exposure")
    client.post(
        f"/plan/{drone.pk}/answers/", {"light": "deep-shade", "contrast_stops": "13", "grading_hours": "5"}
    )
    drone.refresh_from_db()

    lesson = Lesson.objects.get()
    offered = client.get("/plan/").content.decode()
    wanted = card_of(drone).settings_json()
    answer(client, drone, lesson_stops=str(lesson.stops))
    drone.refresh_from_db()

    assert lesson.stops == pytest.approx(2 / 3)
    assert wanted["profile"] == "log-wide"
    assert lesson.sentence in offered
    assert card_of(drone).settings_json()["lesson_stops"] == pytest.approx(2 / 3)
    assert lesson.sentence not in client.get("/plan/").content.decode()


def test_given_a_new_day_when_begun_then_it_is_the_one_worked_on_until_another_is_opened(client, outing):
    client.post("/outings/", {"name": "Harbour", "place": "", "day": "2026-06-01"})
    begun = client.get("/").content.decode()
    client.post(f"/outings/{outing.pk}/open/")
    opened = client.get("/").content.decode()

    assert "<h1>Harbour" in begun or "Harbour" in begun
    assert Outing.objects.get(name="Harbour").date == date(2026, 6, 1)
    assert "Test day" in opened


@pytest.mark.parametrize(("name", "day", "sentence"), [("", "2026-06-01", "Give the outing a name"),
                                                       ("Harbour", "soon", "is no date")])  # fmt: skip
def test_given_an_outing_without_name_or_day_when_begun_then_it_is_refused_in_words(
    client, outing, name, day, sentence
):
    page = client.post("/outings/", {"name": name, "place": "", "day": day}, follow=True).content.decode()

    assert sentence in page
    assert Outing.objects.count() == 1


def test_given_a_day_to_come_when_nothing_is_planned_then_planning_is_the_next_step(outing):
    outing.date = date(2100, 1, 1)
    outing.save()
    before = standing(outing).next_label
    add_camera(plan_of(outing), camera_of("fern"))

    assert before == "Plan the shoot"
    assert standing(outing).next_label == "Bring in clips"


def test_given_a_camera_left_at_home_when_the_page_is_opened_then_its_data_is_kept(client, drone):
    add_take(drone, "one")

    page = client.post(f"/plan/{drone.pk}/leave/", follow=True).content.decode()

    assert "stays at home" in page
    assert Camera.objects.get().name == "Sandpiper"
    assert not PlannedCamera.objects.exists()

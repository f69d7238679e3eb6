"""Today and the Logbook: where the outing stands, what comes next, and what was done."""

import csv
import io
import json

import pytest

from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.versions import accept_all
from morphe.web.handover.services.queue import Wish, queue_hand_over
from morphe.web.logbook.models import LogEntry
from morphe.web.logbook.services.record import record
from morphe.web.outings.models import Outing
from morphe.web.outings.services.current import current_outing
from morphe.web.today.services.standing import standing
from tests.web.working import work_off


def test_given_nothing_at_all_when_opened_then_an_outing_is_begun_and_a_plan_is_offered(client, db):
    page = client.get("/").content.decode()

    assert Outing.objects.get().name == "My first outing"
    assert "Plan a shoot" in page


def test_given_a_clip_on_its_way_when_each_stage_is_passed_then_the_next_one_is_named(outing, clip):
    def told():
        found = standing(outing)
        return found.next_label, [s.done for s in found.stages]

    Clip.objects.update(state=Clip.State.READING)
    reading = told()
    Clip.objects.update(state=Clip.State.READY)
    asked = told()
    Clip.objects.update(profile_choice="log-lifted")
    waiting = told()
    accept_all(clip)
    decided = told()
    work_off("hand-over", queue_hand_over(clip, Wish()).pk)
    delivered = told()

    assert reading == ("Look at the clips", [1, 0, 0, 0])
    assert asked == ("Say how it was filmed", [1, 1, 0, 0])
    assert waiting == ("Correct marsh.mp4", [1, 1, 0, 0])
    assert decided == ("Hand over", [1, 1, 1, 0])
    assert delivered == ("Read the logbook", [1, 1, 1, 1])


def test_given_a_clip_with_nothing_to_propose_when_counted_then_it_waits_for_no_decision(outing, clip):
    Clip.objects.update(proposals=0, profile_choice="log-lifted")

    assert standing(outing).next_label == "Hand over"


def test_given_a_clip_that_cannot_be_used_when_counted_then_it_does_not_hold_up_the_outing(outing, clip):
    Clip.objects.update(state=Clip.State.FAILED)

    assert standing(outing).next_label == "Bring in clips"


def test_given_two_outings_when_opened_then_the_latest_is_shown(outing, db):
    later = Outing.objects.create(name="Later", date="2026-06-01")

    assert current_outing() == later


@pytest.mark.parametrize("address", ["/", "/clips/", "/bench/", "/hand-over/", "/logbook/"])
def test_given_an_empty_outing_when_any_place_is_opened_then_it_says_what_to_do(client, outing, address):
    answer = client.get(address)

    page = answer.content.decode()
    assert answer.status_code == client.head(address).status_code == 200
    assert any(words in page for words in ("Welcome", "No clips yet", "needs a clip", "Nothing"))


# --- logbook ---------------------------------------------------------------------------------------


@pytest.fixture
def log(clip):
    accept_all(clip)
    record(clip, "failed", "=HYPERLINK(1) could not be read.")
    return LogEntry.objects


def test_given_entries_when_shown_then_each_has_its_numbers(client, log):
    page = client.get("/logbook/").content.decode()

    assert "Accepted all proposals." in page
    assert "darkest 1 %" in page
    assert "Profile" in page


@pytest.mark.parametrize(
    ("query", "count"), [("kind=decided", 1), ("kind=failed", 1), ("kind=nonsense", 3), ("clip=other.mp4", 0)]
)
def test_given_a_filter_when_shown_then_only_what_fits_is_listed(client, log, query, count):
    entries = json.loads(client.get(f"/logbook/logbook.json?{query}").content)

    assert len(entries) == count


def test_given_entries_when_exported_as_csv_then_a_spreadsheet_computes_nothing(client, log):
    rows = list(csv.DictReader(io.StringIO(client.get("/logbook/logbook.csv").content.decode())))

    assert len(rows) == log.count() == 3
    assert rows[0]["what"].startswith("'=HYPERLINK")
    assert json.loads(rows[1]["numbers"])["grade"]["format"] == "morphe-recipe"


def test_given_entries_when_exported_as_json_then_grades_can_be_read_back(client, log):
    entries = json.loads(client.get("/logbook/logbook.json").content)

    assert [e["kind"] for e in entries] == ["failed", "decided", "brought-in"]
    assert entries[1]["numbers"]["grade"]["layers"]

"""The logbook: searched, compared, taken back into use, and what it tells of how somebody works."""

from dataclasses import replace
from datetime import timedelta

import pytest
from django.utils import timezone

from morphe.core.grade.convert import Convert
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Exposure
from morphe.web.bench.services.history import grade_differences
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.grades.versions import accept_all, keep
from morphe.web.handover.models import HandOver
from morphe.web.handover.services.queue import hand_over
from morphe.web.handover.services.wish import Wish
from morphe.web.logbook.models import LogEntry
from morphe.web.logbook.services.statistics import statistics
from tests.web.working import work_all


def fresh(clip):
    return Clip.objects.with_grades().get(pk=clip.pk)


@pytest.fixture
def decided(clip):
    """Two decisions on a clip: all proposals, then brighter."""
    accept_all(clip)
    clip = fresh(clip)
    keep(clip, grade_of(clip).with_step(Exposure(stops=1.5), "clip"), "Made brighter")
    return fresh(clip)


def test_given_entries_when_searched_then_those_with_all_words_are_listed(client, decided):
    def found(**asked):
        return client.get("/logbook/", asked, headers={"HX-Request": "true"}).content.decode()

    assert "Made brighter" in found(q="brighter") and "Accepted" not in found(q="brighter")
    assert "Made brighter" in found(q="marsh made") and "Nothing like that" in found(q="sluice")
    assert "Made brighter" in client.get("/logbook/logbook.csv?q=brighter").content.decode()


def test_given_two_decisions_when_compared_then_pictures_numbers_and_the_way_back_are_there(client, decided):
    other, one = LogEntry.objects.filter(kind="decided")[:2]

    page = client.get("/logbook/compare/", {"entry": [one.pk, other.pk]}).content.decode()
    pictures = [client.get(f"/logbook/{e.pk}/picture.jpg").content for e in (one, other)]
    client.post(f"/logbook/{one.pk}/again/")

    assert "stops brighter" in page and "Use A again" in page
    assert pictures[0] != pictures[1] and all(p[:2] == b"\xff\xd8" for p in pictures)
    assert not any(s == Exposure(stops=1.5) for _, s in grade_of(fresh(decided)).steps())
    assert fresh(decided).versions.count() == 4


@pytest.mark.parametrize("entries", [[], [1], [1, 99999], ["x", "²"]])
def test_given_less_than_two_decisions_when_compared_then_it_says_what_to_do(client, decided, entries):
    page = client.get("/logbook/compare/", {"entry": entries}).content.decode()

    assert "Tick two decisions" in page or "has no grade any more" in page


def test_given_decisions_when_counted_then_minutes_and_what_was_kept_are_right(outing, decided):
    first, second = LogEntry.objects.filter(kind="decided").order_by("id")
    begun = timezone.now() - timedelta(hours=1)
    LogEntry.objects.filter(pk=first.pk).update(created=begun)
    LogEntry.objects.filter(pk=second.pk).update(created=begun + timedelta(seconds=100))

    told = statistics(outing)

    assert (told.clips, told.decisions) == (1, 2) and told.minutes_per_clip == pytest.approx(2.0)
    assert told.kept + told.changed + told.left == told.proposals > 0
    LogEntry.objects.filter(pk=second.pk).update(created=begun + timedelta(minutes=30))
    assert statistics(outing).minutes_per_clip == pytest.approx(1 / 3)
    keep(decided, Grade(), "Nothing at all")
    assert statistics(outing).left == told.proposals and statistics(outing).most_changed


def test_given_an_outing_when_reported_then_page_and_pdf_have_all_of_it(client, outing, decided):
    hand_over([decided], Wish())
    hand_over([decided], Wish(mode="report"))
    work_all("hand-over")

    page = client.get("/hand-over/report/").content.decode()
    film, report = HandOver.objects.order_by("id")
    pdf = b"".join(client.get(f"/hand-over/{report.pk}/clip/").streaming_content)

    assert "marsh.mp4" in page and "Exposure" in page and "Handed over: Web" in page
    assert film.verdicts and pdf[:5] == b"%PDF-" and pdf.count(b"/Subtype /Image") >= 2
    assert client.post("/hand-over/report/").status_code == 302


def test_given_questions_when_answered_then_those_put_most_are_told(client, clip, outing):
    for wet in ("wet", "dry"):
        client.post(f"/clips/{clip.pk}/asked/water/", {"answer": wet})
    client.post(f"/clips/{clip.pk}/asked/profile/", {"answer": "std-709"})
    client.post(f"/clips/{clip.pk}/asked/water/", {"answer": "damp"})  # no answer

    assert statistics(outing).asked == (("whether it is under water", 2), ("how it was filmed", 1))
    page = client.get("/logbook/?kind=answered", headers={"HX-Request": "true"}).content.decode()
    assert "Asked whether it is under water: it is not." in page


def test_given_two_grades_when_they_differ_in_anything_then_it_is_said_and_alike_ones_say_nothing():
    fitted = Convert(profile="fitted", curve=(0.09, 0.58, 0.03, 0.0))
    style = Grade.of(fitted).with_step(Exposure(stops=0.5), "style")
    weaker = style.with_layer(replace(style.layer("style"), strength=0.4))

    def told(one, other):
        return [(d.label, d.one, d.other) for d in grade_differences(one, other)]

    assert told(style, style) == []
    assert told(Grade(), Grade.of(fitted)) == [("Profile", "as filmed", "log, judged")]
    assert told(Grade.of(fitted), Grade.of(replace(fitted, bend=0.6))) == [
        ("Profile", "log, judged", "log, judged, wider")
    ]
    assert told(Grade.of(fitted), Grade.of(replace(fitted, curve=(0.1, 0.5, 0.03, 0.0)))) == [
        ("Profile", "log, judged", "log, judged, with other numbers")
    ]
    assert told(style, weaker) == [(style.layer("style").label, "at 100%", "at 40%")]

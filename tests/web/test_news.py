"""An open page learns by one small question whether anything that it shows has changed."""

import pytest
from django.utils import timezone

from morphe.web.clips.models import Clip
from morphe.web.jobs.models import Job
from morphe.web.jobs.services.ask import ask

ALL = "cards,imports,preparing,queue,rendering,incoming,following,drift"


def asked(client, mark=""):
    return client.get(f"/news/?of={ALL}", headers={"If-None-Match": mark} if mark else {})


def pieces(answer):
    """Which pieces have news beside a first answer."""
    return lambda later: {name for name, mark in later.json().items() if mark != answer.json()[name]}


def test_given_a_page_when_nothing_has_changed_then_the_answer_is_empty_and_costs_one_query(
    client, clip, django_assert_num_queries
):
    first = asked(client)

    with django_assert_num_queries(1):
        again = asked(client, first["ETag"])

    assert again.status_code == 304 and not again.content
    assert set(first.json()) == set(ALL.split(","))


@pytest.mark.parametrize(
    ("write", "news"),
    [
        (lambda clip: Clip.objects.update(state="reading"), {"cards", "preparing", "drift"}),
        (lambda clip: clip.delete(), {"cards", "preparing", "drift"}),
        (lambda clip: ask("sort", clip.outing_id), {"cards"}),
        (lambda clip: ask("hand-over", 1), {"queue", "rendering"}),
        (lambda clip: Job.objects.filter(kind="play").update(state="failed"), {"preparing", "drift"}),
    ],
)  # fmt: skip
def test_given_a_write_of_any_kind_when_asked_then_the_pieces_that_show_it_have_news(
    client, clip, write, news
):
    Job.objects.exclude(kind="play").delete()
    first = asked(client)
    changed = pieces(first)

    write(clip)

    later = asked(client, first["ETag"])
    assert later.status_code == 200
    assert changed(later) == news


def test_given_work_that_only_lives_or_goes_on_when_asked_then_what_shows_its_steps_has_news(client, clip):
    job = ask("hand-over", 1)
    first = asked(client)
    Job.objects.filter(pk=job.pk).update(heartbeat=timezone.now(), done=0)
    assert asked(client, first["ETag"]).status_code == 304

    Job.objects.filter(pk=job.pk).update(done=3)

    assert pieces(first)(asked(client, first["ETag"])) == {"rendering"}


def test_given_a_page_when_opened_then_it_has_the_marks_by_which_it_asks(client, clip):
    marks = asked(client).json()

    page = client.get("/clips/").content.decode()

    for piece in ("cards", "imports", "preparing"):
        assert f'data-follow="{piece}" data-mark="{marks[piece]}"' in page

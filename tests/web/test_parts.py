"""Good parts of a clip: set on the Bench, told in Hand over, delivered alone."""

import pytest

from morphe.core.footage.probe import probe
from morphe.web.clips.models import Clip
from morphe.web.handover.models import HandOver
from morphe.web.handover.services.estimate import offer_of, pixel_rate
from morphe.web.handover.services.queue import queue_hand_over
from morphe.web.handover.services.wish import Wish
from morphe.web.jobs.services.run import run_job

HTMX = {"HX-Request": "true"}


def post(client, clip, act, **data):
    return client.post(f"/bench/{clip.pk}/parts/{act}/", data, headers=HTMX).content.decode()


def test_given_a_clip_when_parts_are_set_and_handed_over_then_the_file_holds_them_alone(client, clip):
    assert "the whole clip" in client.get(f"/bench/{clip.pk}/").content.decode()
    whole = offer_of(clip, Wish(), rate=1e6)

    post(client, clip, "begin", time="0.2")
    post(client, clip, "end", time="0.6")
    page = post(client, clip, "begin", time="1.0")
    assert "0.2–0.6 s" in page and "1.0–1.6 s" in page

    clip.refresh_from_db()
    told = offer_of(clip, Wish(), rate=1e6)
    assert any("2 parts, joined: 1.0 of 1.6 s." in sentence for _, sentence in told.checks)
    assert told.size != whole.size
    order = queue_hand_over(clip, Wish())
    post(client, clip, "away", part="0")  # what is ordered stays as it was ordered
    run_job(order.job.pk)

    order.refresh_from_db()
    assert probe(order.result.path).frames == 25 and order.measured
    assert pixel_rate(Wish().preset) == pytest.approx(192 * 108 * 25 / order.seconds, rel=0.01)
    assert Clip.objects.get(pk=clip.pk).parts == [[1.0, 1.6]]
    post(client, clip, "away", part="0")
    assert "the whole clip" in client.get(f"/bench/{clip.pk}/").content.decode()


@pytest.mark.parametrize(
    ("act", "data", "words"),
    [
        ("end", {"time": "0.1"}, "lasts at least 0.2 s"),
        ("begin", {"time": "1.55"}, "lasts at least 0.2 s"),
        ("away", {"part": "3"}, "no such part"),
        ("away", {}, "no such part"),
        ("end", {"time": "nan"}, "lasts at least 0.2 s"),
    ],
)
def test_given_a_part_that_is_none_when_set_then_a_sentence_says_so_and_all_stays(
    client, clip, act, data, words
):
    assert words in post(client, clip, act, **data)
    assert Clip.objects.get(pk=clip.pk).parts == [] and not HandOver.objects.exists()
    assert client.post(f"/bench/{clip.pk}/parts/turn/", data).status_code == 404

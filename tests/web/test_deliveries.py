"""What a form can wish: parts apart, one joined file, wipes, stills, a page; queued, paused, put in order."""

import pytest

from morphe.core.footage.probe import probe
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.versions import accept_all
from morphe.web.handover.models import HandOver
from morphe.web.handover.services import queue, run
from morphe.web.handover.services.names import file_name
from morphe.web.handover.services.wish import Wish
from morphe.web.jobs.models import Job
from morphe.web.library.models import KeptPreset
from tests.web.conftest import brought_in
from tests.web.working import work_all


def start(client, *clips, **wish):
    return client.post(
        "/hand-over/start/", {"clip": [c.pk for c in clips], **wish}, follow=True
    ).content.decode()


@pytest.fixture
def ready(clip):
    accept_all(clip)
    return Clip.objects.with_grades().get(pk=clip.pk)


def test_given_good_parts_when_delivered_apart_then_each_is_a_file_by_the_pattern(client, ready):
    Clip.objects.filter(pk=ready.pk).update(parts=[[0.0, 0.4], [0.8, 1.6]])

    start(client, ready, mode="apart", pattern="{date} {clip} {preset}")
    work_all("hand-over")

    orders = HandOver.objects.order_by("id")
    assert [o.result.name.split("/")[-1] for o in orders] == [
        "2026-05-01 marsh Web-1.mp4",
        "2026-05-01 marsh Web-2.mp4",
    ]
    assert [probe(o.result.path).frames for o in orders] == [10, 20]


def test_given_two_clips_when_joined_and_more_then_each_comes_out(client, outing, plain_files, ready):
    other = brought_in(outing, plain_files[0], "other.mp4")

    for mode in ("joined", "still", "wipe", "link"):
        start(client, ready, other, mode=mode, still="png16")
    work_all("hand-over")

    made = {o.what: o for o in HandOver.objects.order_by("-id")}
    assert HandOver.objects.done().count() == 1 + 2 + 2 + 1
    assert probe(made["joined"].result.path).frames == 52 and not made["joined"].asks_for_more
    assert made["still"].result.name.endswith(".png") and made["still"].picture
    page = b"".join(client.get(f"/hand-over/{made['link'].pk}/clip/").streaming_content).decode()
    assert page.count("data:image/jpeg;base64,") == 4 and "http" not in page.replace("http-equiv", "")
    assert "before and after" in client.get("/hand-over/").content.decode()
    assert client.get(f"/hand-over/{made['joined'].pk}/picture/").headers["Content-Type"] == "image/jpeg"

    client.post(f"/clips/{made['joined'].clip_id}/remove/")  # its first clip: what is of both stays
    left = {o.what: o.result.path for o in HandOver.objects.all() if o.clip_id == other.pk or o.others}
    assert set(left) >= {"joined", "link"} and probe(left["joined"]).frames == 52
    assert client.get(f"/hand-over/{made['joined'].pk}/clip/").status_code == 200


@pytest.mark.django_db(transaction=True)
def test_given_a_clip_removed_while_it_is_rendered_when_done_then_nothing_is_left_of_it(
    client, ready, media, monkeypatch
):
    start(client, ready)
    looked = run._picture_of
    monkeypatch.setattr(
        run, "_picture_of", lambda *of: client.post(f"/clips/{ready.pk}/remove/") and looked(*of)
    )

    work_all("hand-over")

    assert not HandOver.objects.exists() and not Job.objects.filter(state="failed").exists()
    assert not [path for path in (media / "results").rglob("*") if path.is_file()]


def test_given_an_ordinary_clip_when_hdr_or_another_shape_is_wished_then_it_is_said_what_that_means(
    client, outing, plain_files, ready
):
    assert "HDR goes out only if all that goes in is HDR" in start(client, ready, preset="web-hdr")
    assert not HandOver.objects.exists()
    page = client.get("/hand-over/?preset=web-hdr").content.decode()
    assert "was not filmed in HDR" in page
    other = brought_in(outing, plain_files[0], "other.mp4")
    Clip.objects.filter(pk=other.pk).update(info={**other.info, "width": 96, "height": 96})
    page = client.get("/hand-over/?shape=outing").content.decode()
    assert "bars fill what its shape leaves" in page


def test_given_hand_overs_that_wait_when_put_sooner_and_paused_then_the_queue_follows(
    client, outing, plain_files, ready
):
    others = [brought_in(outing, f, f"other-{n}.mp4") for n, f in enumerate(plain_files[:2])]
    first, second, third = (queue.queue_hand_over(c, Wish()) for c in (ready, *others))

    client.post(f"/hand-over/{third.pk}/sooner/")
    client.post(f"/hand-over/{second.pk}/pause/")
    waiting = [j.subject for j in Job.objects.filter(kind="hand-over", state="waiting").order_by("id")]
    page = client.get("/hand-over/").content.decode()
    work_all("hand-over")

    assert waiting == [first.pk, third.pk]
    assert "0 of 2 files ready" in page and "Paused" in page and "Sooner" in page
    assert not HandOver.objects.get(pk=second.pk).is_done
    client.post(f"/hand-over/{second.pk}/go-on/")
    work_all("hand-over")
    assert HandOver.objects.done().count() == 3
    assert HandOver.objects.get(pk=third.pk).job.subject == third.pk


def test_given_a_preset_of_ones_own_when_kept_then_it_can_be_chosen_and_taken_away(client, ready):
    values = {"name": "For the club", "codec": "libx265", "coarser": "6", "bit_depth": "10", "ratio": "4:5"}
    assert "For the club" in client.post("/library/presets/keep/", values, follow=True).content.decode()
    key = KeptPreset.objects.get().key

    start(client, ready, preset=key)
    client.post(f"/library/presets/{key}/remove/")
    work_all("hand-over")

    order = HandOver.objects.get()
    info = probe(order.result.path)
    assert (info.codec, info.bit_depth, info.width / info.height) == (
        "hevc",
        10,
        pytest.approx(0.8, abs=0.03),
    )
    assert order.label == "For the club" and not KeptPreset.objects.exists()


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"name": ""}, "needs a name"), ({"name": "Web"}, "is built in"),
        ({"name": "x", "ratio": "wide"}, "no shape"), ({"name": "x", "megabytes": "many"}, "no number"),
        ({"name": "x", "codec": "mpeg"}, "H.264, HEVC or AV1"),
        ({"name": "x", "coarser": "1e999"}, "no number"), ({"name": "x", "ratio": "1:nan"}, "no shape"),
    ],
)  # fmt: skip
def test_given_what_is_no_preset_when_kept_then_a_sentence_says_so(client, db, values, words):
    assert words in client.post("/library/presets/keep/", values, follow=True).content.decode()


def test_given_a_name_by_a_pattern_when_made_then_it_is_plain_and_foreign_words_are_refused(client, ready):
    assert file_name("{outing}/{clip}: {number}", ready, preset="Web", number=7) == "Test day-marsh- 007"
    assert "take the rest out of its braces" in start(client, ready, pattern="{clip} {secret}")


def test_given_the_moment_on_the_bench_when_a_still_is_asked_for_then_it_waits(client, ready):
    assert client.post(f"/hand-over/still/{ready.pk}/", {"time": "0.5", "kind": "jpeg"}).status_code == 200
    assert client.post(f"/hand-over/still/{ready.pk}/", {"time": "99"}).status_code == 400
    work_all("hand-over")

    assert HandOver.objects.get().result.name.endswith("marsh-0.50s.jpg")


def test_given_two_hundred_orders_when_listed_then_few_questions_are_asked(
    client, ready, django_assert_max_num_queries
):
    order = queue.queue_hand_over(ready, Wish())
    for _ in range(200):
        HandOver.objects.create(
            clip=ready,
            grade=order.grade,
            preset="web",
            delivery=order.delivery,
            job=Job.objects.create(kind="x", subject=1, state="done"),
        )
    with django_assert_max_num_queries(30):
        assert client.get("/hand-over/").status_code == 200

"""Takes checked on the spot: a clip or a still comes in, what was found stays with the take."""

import cv2
import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from morphe.core.standins.demo import render_scene
from morphe.web.jobs.models import Job
from morphe.web.plan.models import Take, TakeCheck
from morphe.web.plan.services.checks import begin_check
from morphe.web.plan.services.current import add_camera, card_of, plan_of
from morphe.web.plan.services.takes import add_take
from tests.web.test_plan import camera_of
from tests.web.working import work_all


@pytest.fixture
def drone(outing):
    planned = add_camera(plan_of(outing), camera_of("sandpiper"))
    card_of(planned)
    return planned


@pytest.fixture(scope="module")
def still():
    """A photograph, far too dark."""
    linear = render_scene("jetty-tan", 0.5, width=640, height=360) / 8
    codes = (255 * np.clip(linear, 0, 1) ** 0.45).astype(np.uint8)
    return cv2.imencode(".jpg", codes[..., ::-1])[1].tobytes()


def sent(client, planned, content, name, **more):
    file = SimpleUploadedFile(name, content)
    return client.post(f"/plan/{planned.pk}/checks/begin/", {"file": file, **more}, follow=True)


def test_given_a_clip_when_checked_then_a_take_is_slated_and_what_was_found_stays_with_it(
    client, drone, log_file, media
):
    waiting = sent(client, drone, log_file.read_bytes(), "gust.mp4", note="iso 100").content.decode()
    assert "Looking at gust.mp4" in waiting
    work_all("take-check")

    check = TakeCheck.objects.get()
    page = client.get(f"/plan/checks/{check.pk}/").content.decode()
    assert check.take.number == 1 and check.take.note == "iso 100"
    assert check.found["verdict"] in page.replace("&#x27;", "'")
    assert {"exposure", "focus", "shake", "flicker"} <= {row["key"] for row in check.found["findings"]}
    assert not check.file and [p.suffix for p in sorted((media / "checks").iterdir())] == [".jpg", ".npy"]
    assert client.get(f"/plan/checks/{check.pk}.jpg")["Content-Type"] == "image/jpeg"
    told = client.get(f"/plan/checks/{check.pk}/scopes/").json()["scopes"]
    assert set(told) == {"luma", "parade", "histogram", "vector"}
    plan = client.get("/plan/").content.decode()
    assert f"/plan/checks/{check.pk}/" in plan


def test_given_a_dark_still_for_a_slated_take_when_checked_then_it_is_to_be_filmed_again_brighter(
    client, drone, still
):
    take = add_take(drone, "")
    sent(client, drone, still, "screen.jpg", take=take.pk)
    work_all("take-check")

    check = TakeCheck.objects.get()
    assert check.take == take and Take.objects.count() == 1
    assert not check.found["keep"] and "brighter" in check.found["verdict"]
    assert "shake" not in {row["key"] for row in check.found["findings"]}
    assert "Check it again" in client.get(f"/plan/checks/{check.pk}/").content.decode()


@pytest.mark.parametrize(("content", "name"), [(b"no clip at all", "odd.mp4"), (b"no picture", "odd.jpg")])
def test_given_what_cannot_be_looked_at_when_checked_then_a_sentence_says_so_and_nothing_is_left(
    client, drone, media, content, name
):
    sent(client, drone, content, name)
    work_all("take-check")

    check = TakeCheck.objects.get()
    assert check.state == "failed" and name in check.problem
    assert check.problem in client.get(f"/plan/checks/{check.pk}/").content.decode()
    assert list((media / "checks").iterdir()) == []
    assert client.get(f"/plan/checks/{check.pk}/scopes/").status_code == 404
    client.post(f"/plan/checks/{check.pk}/forget/")
    assert not TakeCheck.objects.exists()


def test_given_nothing_or_too_much_when_sent_then_it_is_refused_and_no_take_is_slated(client, drone):
    page = client.post(f"/plan/{drone.pk}/checks/begin/", follow=True).content.decode()
    assert "film a few seconds, or choose one" in page

    huge = SimpleUploadedFile("long.mp4", b"x")
    huge.size = 10**12
    with pytest.raises(Exception, match="film a few seconds for a check"):
        begin_check(Take(planned=drone, number=1), huge)
    assert not Take.objects.exists() and not Job.objects.exists()

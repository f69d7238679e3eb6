"""Match: references pinned, clips brought to them in stages, taken and taken off again."""

from pathlib import Path

import cv2
import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from morphe.web.clips.models import Clip, LightGroup
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.grades.versions import accept_all, undo
from morphe.web.clips.services.wall.grouping import group_anew
from morphe.web.match.models import Matching, PinnedFrame
from morphe.web.match.services.pins import pictures_of
from morphe.web.outings.models import Camera
from morphe.web.plan.models import PairLesson
from tests.web.conftest import brought_in
from tests.web.kept import once
from tests.web.working import work_all


@pytest.fixture
def clips(outing, plain_files, media, store):
    """The same scene by two cameras, the first as it should be."""

    def make():
        for path in (plain_files[0], plain_files[4]):
            brought_in(outing, path)

    once(("to match", outing.pk), media, make, store)
    return list(Clip.objects.with_grades().order_by("pk"))


def now(clip):
    return Clip.objects.with_grades().get(pk=clip.pk)


def pinned(client, clip):
    client.post("/match/pin/", {"what": "frame", "clip": clip.pk, "frame": 0})
    return PinnedFrame.objects.get()


def matched(client, pin, clip, reach="clip"):
    client.post("/match/start/", {"pin": pin.pk, "clip": clip.pk, "reach": reach})
    work_all("match")
    return Matching.objects.get(pin=pin, clip=clip)


def test_given_no_clip_when_opened_then_the_page_says_what_to_do(client, outing):
    assert "Bring clips in" in client.get("/match/").content.decode()


def test_given_a_pinned_frame_when_a_clip_is_matched_then_stages_are_shown_and_nothing_is_changed(
    client, clips
):
    pin = pinned(client, clips[0])
    before = grade_of(clips[1])

    matching = matched(client, pin, clips[1])

    page = client.get(f"/match/?pin={pin.pk}&clip={clips[1].pk}").content.decode()
    assert matching.match.after < 0.5 < matching.match.before
    assert "Levels: black, middle and white" in page and "alike" in page
    assert grade_of(now(clips[1])) == before
    for name in ("still", "scopes"):
        answer = client.get(f"/match/{matching.pk}/0/{name}.jpg?share-levels=50")
        assert answer["Content-Type"] == "image/jpeg" and len(answer.content) > 1000


def test_given_stages_in_part_when_put_on_then_the_layer_has_so_much_and_undo_takes_it_back(client, clips):
    pin = pinned(client, clips[0])
    matching = matched(client, pin, clips[1])

    client.post(f"/match/{matching.pk}/use/", {"share-levels": "50", "share-families": "0"})

    layer = grade_of(now(clips[1])).layer("match")
    whole = {s.key: s for s in matching.match.layer().steps}
    assert {s.key for s in layer.steps} == set(whole) - {"families"}
    stops = next(s for s in layer.steps if s.key == "exposure").stops
    assert stops == pytest.approx(whole["exposure"].stops / 2, abs=0.01)
    bench = client.get(f"/bench/{clips[1].pk}/").content.decode()
    assert f"Match to {pin.name}" in bench
    undo(now(clips[1]))
    assert not grade_of(now(clips[1])).has_layer("match")


def test_given_a_match_when_taken_off_then_the_correction_beneath_stays(client, clips):
    accept_all(clips[1])
    pin = pinned(client, clips[0])
    matching = matched(client, pin, now(clips[1]))
    beneath = grade_of(now(clips[1]))

    client.post(f"/match/{matching.pk}/use/", {})
    assert grade_of(now(clips[1])).has_layer("match")
    client.post(f"/match/{matching.pk}/off/")

    assert grade_of(now(clips[1])) == beneath


def test_given_a_whole_outing_when_matched_then_all_are_given_theirs_at_once(client, clips):
    pin = pinned(client, clips[0])
    matched(client, pin, clips[1], reach="outing")

    client.post("/match/use/", {"pin": pin.pk, "clip": clips[1].pk})

    assert [m.used for m in Matching.objects.filter(pin=pin)] == [True]  # the reference itself is left alone
    assert grade_of(now(clips[1])).has_layer("match")


def test_given_a_log_clip_when_matched_then_it_is_brought_into_the_working_space_too(
    client, clip, clips_still
):
    client.post("/match/pin/", {"what": "still", "still": clips_still, "clip": clip.pk})
    matching = matched(client, PinnedFrame.objects.get(), clip)

    client.post(f"/match/{matching.pk}/use/", {})

    assert grade_of(now(clip)).convert.profile == "log-lifted"


@pytest.fixture
def clips_still():
    ramp = np.linspace(20, 230, 200 * 120 * 3).reshape(120, 200, 3)
    return SimpleUploadedFile("still.png", cv2.imencode(".png", ramp.astype(np.uint8))[1].tobytes())


@pytest.mark.parametrize(("posted", "sentence"), [
    ({"what": "still"}, "No picture arrived"),
    ({"what": "still", "still": b"no picture"}, "is not a picture"),
    ({"what": "still", "still": "black"}, "is black"),
    ({"what": "frame", "frame": 99}, "no such frame"),
])  # fmt: skip
def test_given_what_cannot_be_pinned_when_pinned_then_one_sentence_says_why(client, clip, posted, sentence):
    content = posted.get("still")
    if content == "black":
        content = cv2.imencode(".png", np.zeros((90, 160, 3), np.uint8))[1].tobytes()
    if content:
        posted = {**posted, "still": SimpleUploadedFile("x.png", content)}

    answer = client.post("/match/pin/", {"clip": clip.pk, **posted}, follow=True)

    assert sentence in answer.content.decode() and not PinnedFrame.objects.exists()


def test_given_a_reference_when_taken_away_then_its_files_go_and_the_clip_keeps_its_match(client, clips):
    pin = pinned(client, clips[0])
    matching = matched(client, pin, clips[1])
    client.post(f"/match/{matching.pk}/use/", {})
    files = [pin.pictures.path, pin.shown.path]

    client.post(f"/match/pin/{pin.pk}/away/")

    assert not PinnedFrame.objects.exists() and not any(Path(f).exists() for f in files)
    assert grade_of(now(clips[1])).has_layer("match")


@pytest.mark.parametrize("shares", ["share-levels=x", "share-levels="])
def test_given_a_share_that_is_no_number_when_a_picture_is_asked_for_then_there_is_none(
    client, clips, shares
):
    matching = matched(client, pinned(client, clips[0]), clips[1])

    assert client.get(f"/match/{matching.pk}/0/still.jpg?{shares}").status_code == 404
    answer = client.post(f"/match/{matching.pk}/use/", dict([shares.split("=")]), follow=True)
    assert "a number from 0 to 100" in answer.content.decode()
    assert not grade_of(now(clips[1])).has_layer("match")


def test_given_a_light_of_two_clips_when_its_middle_is_pinned_then_both_are_in_it(client, clips):
    Clip.objects.update(light=clips[0].light)
    group_anew(clips[0].outing)
    light = now(clips[0]).group_id

    client.post("/match/pin/", {"what": "light", "light": light, "clip": clips[1].pk})

    pin = PinnedFrame.objects.get()
    assert "its middle" in pin.name and len(pictures_of(pin)) == 2


def test_given_a_light_of_one_clip_when_its_middle_is_pinned_then_a_frame_is_advised(client, clip):
    light = LightGroup.objects.create(outing=clip.outing, number=1)
    Clip.objects.update(group=light)
    posted = {"what": "light", "light": light.pk, "clip": clip.pk}

    answer = client.post("/match/pin/", posted, follow=True)

    assert "has a single clip; pin a frame of it instead" in answer.content.decode()


def test_given_another_place_when_matched_as_far_as_it_goes_then_the_odd_one_is_named(client, clips):
    pin = pinned(client, clips[0])
    matching = matched(client, pin, clips[1])
    far = {**matching.found, "after": 6.5}
    Matching.objects.filter(pk=matching.pk).update(found=far)

    page = client.get(f"/match/?pin={pin.pk}&clip={clips[1].pk}").content.decode()

    assert f"{clips[1].title}: still far from the reference" in page and "far apart" in page


def test_given_two_cameras_that_keep_differing_when_matched_then_its_lesson_is_kept_until_one_is_off(
    client, outing, plain_files
):
    fern, cuttle = (Camera.objects.create(name=name) for name in ("Fern", "Cuttle"))
    for path in (plain_files[0], plain_files[3], plain_files[4]):
        brought_in(outing, path)
    reference, *others = Clip.objects.with_grades().order_by("pk")
    Clip.objects.update(camera=cuttle)
    Clip.objects.filter(pk=reference.pk).update(camera=fern)
    pin = pinned(client, reference)
    for clip in others:
        client.post(f"/match/{matched(client, pin, clip).pk}/use/", {})

    lesson = PairLesson.objects.get()
    board = client.get(f"/match/?pin={pin.pk}&clip={others[0].pk}").content.decode()

    assert (lesson.camera, lesson.other, lesson.clips) == (cuttle, fern, 2)
    assert lesson.mired > 3 and lesson.stops == 0  # of exposure the two clips disagree
    assert lesson.sentence.startswith("Cuttle sits ")
    assert lesson.sentence in board and lesson.sentence in client.get("/library/").content.decode()
    client.post(f"/match/{Matching.objects.get(clip=others[0]).pk}/off/")
    assert not PairLesson.objects.exists()

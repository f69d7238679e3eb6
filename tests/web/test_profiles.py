"""Profiles in the Library and the lab: shown, typed, from files, handed out, measured, used on a clip."""

import json

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Exposure
from morphe.core.grade.table import SHELF
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.lab import CARD_REGION, TARGET_CORNERS
from morphe.web.bench.services.convert import choices_of, take_profile
from morphe.web.clips.models import Clip, GivenAnswer
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.grades.versions import keep
from morphe.web.clips.services.questions.filmed import hints_for
from morphe.web.jobs.models import Job
from morphe.web.library.models import Incoming, KeptProfile, LabSeries, LabTake
from morphe.web.library.services.lab import demo_series, step_in
from morphe.web.outings.models import Camera
from tests.footage import ClipSpec, scene, write_clip
from tests.web.conftest import brought_in
from tests.web.kept import once
from tests.web.working import work_all

WIDE = {
    "name": "My wide", "kind": "log", "log_slope": "0.0863", "log_offset": "0.5824",
    "linear_offset": "0.01675", "linear_break": "0.010", "clip_stops": "6.5",
}  # fmt: skip


@pytest.fixture(autouse=True)
def shelf(media, monkeypatch):
    monkeypatch.setattr(SHELF, "folder", media / "tables")


def typed(client, **changes):
    return client.post("/library/profiles/new/", {**WIDE, **changes})


def filed(client, file_name, content, **fields):
    """Bring a file in, have it read, and open the page that tells what came of it."""
    file = SimpleUploadedFile(file_name, content)
    client.post("/library/profiles/new/", {"file": file, "kind": "log", **fields})
    work_all("take-in")
    return client.get("/library/profiles/")


def test_given_the_library_when_opened_then_every_profile_is_drawn_with_its_codes(client, db):
    page = client.get("/library/profiles/").content.decode()
    wide = client.get("/library/profiles/log-wide/").content.decode()

    for profile in PROFILES.values():
        assert profile.label in page
    assert "BT.1886" in page and "sRGB" in page
    for number in ("138", "397", "565", "17.3"[:2], "93.0 %"):
        assert number in wide


def test_given_typed_numbers_when_kept_then_the_profile_has_its_codes_and_can_be_chosen(client, clip):
    typed(client)

    kept = KeptProfile.objects.get()
    page = client.get(f"/library/profiles/{kept.key}/").content.decode()
    assert "397" in page and "My wide" in page
    assert (kept.key, "My wide") in choices_of(clip).own


@pytest.mark.parametrize(
    ("changes", "sentence"),
    [({"name": " "}, "needs a name"), ({"log_slope": "steep"}, "“steep” is no number"),
     ({"log_slope": ""}, "is missing"),
     ({"log_offset": "7"}, "leaves the range of codes"), ({"name": "Wide log"}, "choose another name"),
     ({"clip_stops": "far"}, "no number of stops"), ({"kind": "odd"}, "ordinary, flat or log")],
)  # fmt: skip
def test_given_numbers_that_make_no_profile_when_typed_then_they_are_refused_and_stay(
    client, db, changes, sentence
):
    answer = typed(client, **changes)

    page = answer.content.decode()
    assert answer.status_code == 422 and sentence in page
    assert "0.01675" in page
    assert not KeptProfile.objects.exists()


@pytest.mark.parametrize("ending", ["clf", "csv", "json"])
def test_given_a_profile_when_handed_out_and_taken_in_then_it_has_the_same_codes(client, db, ending):
    typed(client)
    first = KeptProfile.objects.get()
    file = client.get(f"/library/profiles/{first.key}/profile.{ending}")
    first.delete()

    filed(client, f"again.{ending}", file.content, name="Again")

    again = KeptProfile.objects.get().own
    light = 0.18 * 2.0 ** np.arange(-6, 6.1, 0.5)
    assert np.abs(again.curve.encode(light) - PROFILES.get("log-wide").encode(light)).max() < 1e-5
    assert file["Content-Disposition"].endswith(f'.{ending}"')


def test_given_a_built_in_profile_as_cube_when_taken_in_then_it_is_a_lut_that_converts_a_clip(client, clip):
    cube = client.get("/library/profiles/log-lifted/profile.cube").content
    filed(client, "lifted.cube", cube)
    kept = KeptProfile.objects.get()

    take_profile(clip, kept.key)

    step = grade_of(clip).convert
    assert kept.is_table and "cube of 65" in kept.about
    assert (step.profile, step.name) == ("table", "lifted")
    assert client.get(f"/bench/{clip.pk}/").status_code == 200
    assert "no curve to draw" in client.get(f"/library/profiles/{kept.key}/").content.decode()


@pytest.mark.parametrize(
    ("name", "content", "sentence"),
    [("a.cube", b"LUT_3D_SIZE 2\n0 0 x\n", "row 2"), ("a.clf", b"<xml/>", "no ProcessList"),
     ("a.csv", b"stop,code10\n0,1\n", "at least 3"), ("a.json", b"[]", "no profile"),
     ("a.json", b"{", "no profile"),
     ("a.png", b"\x89PNG\0\0", "is no text"), ("a.doc", b"text", "is none of"),
     ("a.json", b"{}", "no whole profile")],
)  # fmt: skip
def test_given_a_file_that_is_no_profile_when_taken_in_then_row_or_reason_is_said(
    client, db, name, content, sentence
):
    answer = filed(client, name, content)

    assert sentence in answer.content.decode()
    assert not KeptProfile.objects.exists()


def test_given_a_profile_in_use_when_removed_then_its_clips_keep_their_conversion(client, clip):
    typed(client)
    kept = KeptProfile.objects.get()
    take_profile(clip, kept.key)

    page = client.post(f"/library/profiles/{kept.key}/remove/", follow=True).content.decode()

    clip.refresh_from_db()
    assert "1 clip keep their conversion" in page
    assert grade_of(clip).convert.name == "My wide"
    assert client.get(f"/bench/{clip.pk}/").status_code == 200


@pytest.mark.parametrize("address", ["own-99/", "nothing/", "own-99/profile.clf", "srgb/profile.cube"])
def test_given_a_profile_that_is_not_there_when_asked_for_then_the_list_says_so(client, db, address):
    page = client.get(f"/library/profiles/{address}", follow=True)

    assert page.status_code == 200
    assert "notice-error" in page.content.decode()


# --- what was said before --------------------------------------------------------------------------


def test_given_a_persons_word_when_the_next_clip_of_the_folder_comes_then_it_is_remembered(outing, log_file):
    camera = Camera.objects.create(name="Cuttle")
    Clip.objects.all().delete()
    one = brought_in(outing, log_file, "cuttle-1.mp4")
    take_profile(one, "log-mild")

    other = brought_in(outing, log_file, "cuttle-2.mp4")
    hints = hints_for(other)
    take_profile(other, "auto")

    assert one.camera == camera
    assert hints.named == (("log-mild", "you said Mild log of this camera's clips before"),)
    assert not GivenAnswer.objects.exists()


@pytest.fixture
def card(outing, tmp_path, media, store):
    """Three clips of one camera, none of which shows surely what it was filmed in."""

    def make():
        linear = 0.5 * PROFILES.get("std-709").decode(scene(192, 108))
        flat = PROFILES.get("flat-a").encode(linear).astype(np.float32)
        path = write_clip(tmp_path / "flat.mp4", ClipSpec(size=(192, 108), frames=20), lambda i: flat)
        Camera.objects.create(name="Cuttle")
        for number in (1, 2, 3):
            brought_in(outing, path, f"cuttle-{number}.mp4")
        work_all("sort")

    once(("three in doubt", outing.pk), media, make, store)
    return list(outing.clips.select_related("version").order_by("pk"))


def test_given_clips_of_one_card_in_doubt_when_the_last_is_read_then_all_are_weighed_together(outing, card):
    clips = list(outing.clips.order_by("pk"))

    assert [c.profile["known"] for c in clips] == ["2", "2", "2"]
    for clip in clips:
        assert "weighed together with 2 other clips of this camera and folder" in clip.profile["evidence"]


def test_given_a_word_on_one_clip_when_the_worker_looks_again_then_the_others_in_doubt_follow(outing, card):
    before = {c.profile["kind"] for c in outing.clips.all()}
    take_profile(card[0], "log-mild")

    work_all("judge", "sort")

    after = {c.profile["kind"] for c in outing.clips.all()}
    assert before == {"flat"} and after == {"log"}


def test_given_a_word_taken_back_when_the_worker_looks_again_then_clips_that_followed_it_are_judged_anew(
    outing, card
):
    take_profile(card[0], "flat-a")
    work_all("judge", "sort")
    followed = {c.profile["known"] for c in outing.clips.exclude(pk=card[0].pk)}

    take_profile(card[0], "auto")
    work_all("judge", "sort")

    assert followed == {"1 flat-a"}
    assert {c.profile["known"] for c in outing.clips.all()} == {"2"}


def test_given_a_clip_that_is_being_corrected_when_looked_at_again_then_it_is_left_alone(outing, card):
    keep(card[1], Grade.of(Exposure(stops=0.5)), "Exposure set to +0.5 stop")
    take_profile(card[0], "flat-a")

    work_all("judge", "sort")

    assert outing.clips.get(pk=card[1].pk).profile["known"] == "2"


def test_given_clips_of_other_cameras_or_of_none_when_read_then_they_do_not_weigh_in(outing, log_file, clip):
    other = brought_in(outing, log_file, "another.mp4")

    assert hints_for(clip).others == hints_for(other).others == ()


def test_given_ones_own_profile_as_the_word_when_the_next_clip_comes_then_it_is_taken(
    client, outing, log_file
):
    Camera.objects.create(name="Cuttle")
    typed(client)
    take_profile(brought_in(outing, log_file, "cuttle-1.mp4"), KeptProfile.objects.get().key)

    other = brought_in(outing, log_file, "cuttle-2.mp4")

    assert other.profile["label"] == "My wide"


# --- the lab ---------------------------------------------------------------------------------------


@pytest.fixture
def series(db):
    return demo_series()


def fitted(client, series, region=CARD_REGION, corners=TARGET_CORNERS):
    posted = {"region": json.dumps(region), "corners": json.dumps(corners)}
    return client.post(f"/library/lab/{series.pk}/fit/", posted, follow=True).content.decode()


def test_given_the_demo_series_when_fitted_and_saved_then_the_unknown_camera_is_known(client, series):
    page = fitted(client, series)
    client.post(f"/library/lab/{series.pk}/save/", {"name": "Found", "colour": "on"})

    own = KeptProfile.objects.get().own
    light = 0.18 * 2.0 ** np.arange(-5, 5.1, 0.5)
    error = np.log2(own.curve.decode(PROFILES.get("log-wide").encode(light)) / light)
    assert "Fits within" in page and "Mean distance" in page
    assert np.sqrt((error**2).mean()) < 0.05
    assert own.matrix is not None and own.fit_error_stops < 0.05
    assert "Found" in client.get("/library/profiles/").content.decode()


@pytest.mark.parametrize(
    ("region", "sentence"),
    [([0, 0, 1, 1], "more than a plain surface"), ([0.9, 0, 0.1, 1], "lies outside"),
     ([0, 0], "lies outside"), ("box", "not readable")],
)  # fmt: skip
def test_given_a_box_that_is_no_card_when_fitted_then_a_sentence_says_so(client, series, region, sentence):
    assert sentence in fitted(client, series, region=region)


def test_given_too_few_takes_when_fitted_then_it_says_what_is_needed(client, series):
    LabTake.objects.filter(stops__gt=-4).delete()

    assert "at least 5 are needed" in fitted(client, series)


def test_given_the_values_of_another_target_when_taken_in_then_they_are_used(client, series):
    values = client.get(f"/library/lab/{series.pk}/reference.csv").content
    client.post(f"/library/lab/{series.pk}/reference/", {"reference": SimpleUploadedFile("t.csv", values)})
    bad = client.post(
        f"/library/lab/{series.pk}/reference/", {"reference": SimpleUploadedFile("t.csv", b"a")}, follow=True
    )

    series.refresh_from_db()
    assert len(series.reference["lab"]) == 24
    assert "no columns of CIELAB" in bad.content.decode()


def test_given_takes_of_ones_own_when_added_then_their_names_tell_the_step(client, db, plain_clip):
    client.post("/library/lab/begin/", {"name": "Mine"})
    series = LabSeries.objects.get()
    files = [
        SimpleUploadedFile("grey-minus-2.mp4", plain_clip.read_bytes()),
        SimpleUploadedFile("x.png", b"no"),
    ]

    client.post(f"/library/lab/{series.pk}/takes/", {"takes": files})
    work_all("take-in")
    page = client.get(f"/library/lab/{series.pk}/").content.decode()
    take = LabTake.objects.get()
    client.post(f"/library/lab/takes/{take.pk}/", {"stops": "1,5"})
    wrong = client.post(f"/library/lab/takes/{take.pk}/", {"stops": "bright"}, follow=True).content.decode()

    assert take.stops == -2
    assert "x.png cannot be read" in page
    assert LabTake.objects.get().stops == 1.5 and "“bright” is no step" in wrong
    assert client.get(f"/library/lab/takes/{take.pk}/picture.jpg").content[:2] == b"\xff\xd8"


def test_given_a_file_being_read_when_its_page_waits_then_it_sees_how_far_and_where_it_went(client, db):
    rows = "".join(f"{stop},{400 + 60 * stop}\n" for stop in range(-4, 5))
    file = SimpleUploadedFile("mine.csv", b"stop,code10\n" + rows.encode())
    client.post("/library/profiles/new/", {"file": file, "kind": "log"})
    Job.objects.filter(kind="take-in").update(done=1, total=4)
    waiting = client.get("/library/profiles/").content.decode()
    going_on = client.get("/library/incoming/").content.decode()

    work_all("take-in")
    ended = client.get("/library/incoming/")

    kept = KeptProfile.objects.get()
    assert "mine.csv" in waiting and 'value="25"' in going_on
    assert ended["HX-Redirect"] == f"/library/profiles/{kept.key}/"
    assert "mine is kept" in client.get(ended["HX-Redirect"]).content.decode()
    assert not Incoming.objects.exists()


@pytest.mark.parametrize(
    ("name", "step"),
    [("card-minus-2.mp4", -2), ("card-plus-0.mp4", 0), ("grey+1.5.png", 1.5), ("IMG_0042.mp4", None),
     ("a\u22123.mov", -3)],
)  # fmt: skip
def test_given_a_file_name_when_read_then_its_step_is_found(name, step):
    assert step_in(name) == step


def test_given_a_series_when_removed_then_its_takes_go_and_profiles_stay(client, series, media):
    fitted(client, series)
    client.post(f"/library/lab/{series.pk}/save/", {"name": "Found"})

    client.post(f"/library/lab/{series.pk}/remove/")

    assert KeptProfile.objects.count() == 1 and not LabTake.objects.exists()
    assert list((media / "lab").iterdir()) == []


def test_given_a_series_without_a_name_or_a_fit_when_asked_then_it_is_refused_in_words(client, series):
    nameless = client.post("/library/lab/begin/", {"name": " "}, follow=True).content.decode()
    unfitted = client.post(f"/library/lab/{series.pk}/save/", {"name": "X"}, follow=True).content.decode()

    assert "Give the series a name" in nameless
    assert "Nothing has been fitted yet" in unfitted

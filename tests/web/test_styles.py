"""Style and finish by the page: effects, shapes and titles put on; looks saved, shared and taken in; LUTs."""

import json

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test.utils import CaptureQueriesContext

from morphe.core.footage.probe import probe
from morphe.core.grade.convert import Convert
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer, Scope
from morphe.core.grade.moments import Moments
from morphe.core.grade.recipe import to_json
from morphe.core.grade.region import Ellipse, Place, Region
from morphe.core.grade.steps import Saturation
from morphe.core.grade.table import SHELF
from morphe.core.handover.render import render
from morphe.core.interchange.cube import cube_text
from morphe.core.interchange.cube_in import read_cube
from morphe.core.pipeline.cube import bake_grade
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades import versions
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.library.models import KeptLook, KeptLut
from tests.web.working import work_all


@pytest.fixture(autouse=True)
def shelf(media, monkeypatch):
    monkeypatch.setattr(SHELF, "folder", media / "tables")


def act(client, clip, act_, **posted):
    return client.post(
        f"/bench/{clip.pk}/change/{act_}/", posted, headers={"HX-Request": "true"}
    ).content.decode()


def layer(clip, scope=Scope.FINISH):
    return grade_of(Clip.objects.select_related("version").get(pk=clip.pk)).layer(scope)


def a_lut(grade, name="harbour.cube"):
    text = cube_text(bake_grade(grade, size=17, domain=(0.0, 1.0)), title="Harbour")
    return SimpleUploadedFile(name, text.encode())


def taken_in(client, file):
    client.post("/library/looks/take-in/", {"file": file})
    work_all("take-in")
    return client.get("/library/looks/").content.decode()


# --- finish ---------------------------------------------------------------------------------------------


@pytest.mark.parametrize("key", ["glow", "halation", "flare", "soften", "edge-blur", "fringe", "grain"])
def test_given_an_effect_when_put_on_and_taken_out_then_it_begins_gently_and_is_gone(client, clip, key):
    said = act(client, clip, "finish-effect", value=key)
    on = layer(clip).step(key)
    act(client, clip, "layer-take", layer="finish", value=key)

    low, high = on.params["amount"].natural
    assert on.at_work and low < on.amount <= high
    assert f'data-step="{key}"' in said
    assert not layer(clip).step(key).at_work


@pytest.mark.parametrize(
    ("act_name", "posted", "said"),
    [
        ("effect", {"value": "sparkle"}, "no such effect"), ("shape", {"value": "bars:wide"}, "2.35"),
        ("shape", {"value": "bars:99"}, "must lie between"),
        ("title", {"text": "Marsh", "size": "x"}, "is no number"),
        ("title", {"text": "M", "size": 60, "margin": 8, "start": 4, "end": 1}, "goes before it comes"),
        ("subject", {"value": "crop", "layer": "clip"}, "no such part"),
    ],
)  # fmt: skip
def test_given_what_cannot_be_when_sent_then_it_is_refused_in_words(client, clip, act_name, posted, said):
    before = layer(clip)
    numbers = {"manner": "quiet", "spot": "left", **posted}

    assert said in act(client, clip, f"finish-{act_name}", **numbers)
    assert layer(clip) == before


def test_given_a_shape_and_a_title_when_rendered_then_the_file_is_cropped_and_the_words_are_in_it(
    client, clip, tmp_path
):
    act(client, clip, "finish-shape", value="bars:2.35")
    title = {"text": "Marsh at dawn", "manner": "strong", "spot": "middle", "size": 120, "margin": 8}
    act(client, clip, "finish-title", **title, start=0, end=9)
    act(client, clip, "finish-shape", value="crop:1.0000")
    found = layer(clip)

    assert found.step("crop").ratio == 1.0 == found.step("title").ratio and not found.step("bars").at_work
    grade = grade_of(Clip.objects.select_related("version").get())
    done = render(probe(clip.path), grade, tmp_path / "out.mp4")
    plain = render(probe(clip.path), grade.uncovered, tmp_path / "plain.mp4")
    assert (done.width, done.height) == (108, 108) == (probe(done.out).width, probe(done.out).height)
    assert (plain.width, plain.height) == (192, 108)


def test_given_a_subject_that_moves_when_followed_then_crop_and_sharpness_go_along(client, clip):
    region = Region(shape=Ellipse()).put(Place(x=0.3, y=0.5), 0.0).put(Place(x=0.8, y=0.5), 1.5)
    grade = grade_of(clip).with_layer(Layer(id="region-1", name="Heron", region=region))
    versions.keep(clip, grade, "Heron marked")
    act(client, clip, "finish-effect", value="edge-blur")
    act(client, clip, "finish-shape", value="crop:0.5625")

    page = act(client, clip, "finish-subject", value="crop", layer="region-1")
    act(client, clip, "finish-subject", value="edge-blur", layer="region-1")

    crop, blur = layer(clip).step("crop"), layer(clip).step("edge-blur")
    assert "Follow Heron" in page and "Keep sharp Heron" in page
    assert isinstance(crop.place, Moments) and crop.place.values[0] < 0 < crop.place.values[-1]
    left, _, right, _ = crop.at(0.0).window(1920, 1080)
    assert (left + right) / 2 / 1920 == pytest.approx(0.3, abs=0.01)
    assert blur.x.values == pytest.approx((30, 80))


def test_given_a_light_when_tapped_then_the_flare_comes_from_there(client, clip):
    sent = {"grade": {"format": "morphe-recipe", "schema": 8, "source": [], "layers": []}, "frame": 0,
            "meaning": "light", "x": 0.25, "y": 0.75}  # fmt: skip
    answer = client.post(f"/bench/{clip.pk}/tap/", json.dumps(sent), content_type="application/json").json()

    (flare,) = next(x for x in answer["grade"]["layers"] if x["id"] == "finish")["steps"]
    assert (flare["x"], flare["y"]) == (25, 75) and flare["amount"] > 0


def test_given_bars_when_the_still_is_measured_then_their_black_is_not_read(client, clip):
    act(client, clip, "finish-shape", value="bars:2.39")
    grade = grade_of(Clip.objects.select_related("version").get())

    def shown(of):
        body = json.dumps({"grade": to_json(of), "frame": 0})
        return client.post(f"/bench/{clip.pk}/still/", body, content_type="application/json").json()

    with_bars, without = shown(grade), shown(grade.uncovered)
    blacks = [found["marks"]["black"]["at"][0] for found in (with_bars, without)]
    assert min(blacks) > 15 and blacks[0] == pytest.approx(blacks[1], abs=8)  # log as filmed: no black in it
    assert len(with_bars["strip"]) == 30


# --- looks and LUTs -------------------------------------------------------------------------------------


def test_given_what_a_clip_wears_when_saved_shared_and_taken_in_then_it_goes_onto_another_clip(client, clip):
    act(client, clip, "look", look="moody")
    act(client, clip, "finish-effect", value="glow")
    said = act(client, clip, "save-look", name="Reed evening", words="For reeds.")
    again = act(client, clip, "save-look", name="Reed evening", words="")
    look = KeptLook.objects.get()
    shared = client.get(f"/library/looks/{look.key}/look.json")
    table = client.get(f"/library/looks/{look.key}/look.cube")
    client.post(f"/library/looks/{look.key}/remove/")
    assert not KeptLook.objects.exists()

    page = taken_in(client, SimpleUploadedFile("reed.look.json", shared.content))
    act(client, clip, "look", look="")
    act(client, clip, "look", look=KeptLook.objects.get().key)

    assert "Reed evening" in said and "already" in again and "Reed evening" in page
    assert read_cube(table.content.decode(), "look.cube").cube.shape == (65, 65, 65, 3)
    assert client.get(f"/library/looks/{KeptLook.objects.get().key}/picture.jpg").content[:2] == b"\xff\xd8"
    assert layer(clip, Scope.STYLE).name == "Reed evening" and layer(clip).step("glow").at_work


def test_given_nothing_worn_when_saved_as_a_look_then_it_is_refused(client, clip):
    assert "put some on first" in act(client, clip, "save-look", name="Nothing", words="")
    assert not KeptLook.objects.exists()


def test_given_a_lut_when_taken_in_then_its_role_is_judged_told_and_can_be_corrected(client, clip):
    page = taken_in(client, a_lut(Grade.of(Convert(profile="log-lifted"))))
    lut = KeptLut.objects.get()
    client.post(f"/library/looks/{lut.key}/role/", {"role": "film log"})
    client.post(f"/library/looks/{lut.key}/role/", {"role": "dream"})
    lut.refresh_from_db()

    assert "it expects log" in page and "Code 10 % becomes" in page
    assert lut.role == "film log" and lut.judged["role"] == "log"
    wall = client.get(f"/bench/{clip.pk}/looks/").content.decode()
    assert "A LUT that expects film log" in wall
    assert client.get(f"/bench/{clip.pk}/look/{lut.key}.jpg?full=yes").content[:2] == b"\xff\xd8"


def test_given_an_ordinary_lut_when_put_on_log_as_filmed_then_it_is_refused_and_offered_right(client, clip):
    taken_in(client, a_lut(Grade.of(Saturation(amount=20))))
    key = KeptLut.objects.get().key

    refused = act(client, clip, "look", look=key)
    before = layer(clip, Scope.STYLE)
    act(client, clip, "look", look=key, offered="yes")

    assert "expects ordinary video, and this clip is log" in refused and not before.steps
    assert layer(clip, Scope.STYLE).step("lut").at_work
    assert grade_of(Clip.objects.select_related("version").get()).convert.at_work


@pytest.mark.parametrize(
    ("name", "content", "said"),
    [
        ("a.cube", b"LUT_3D_SIZE 2\n0 0 0\n", "should have 8 rows"), ("a.txt", b"hello", "none of .cube"),
        ("a.json", b"{}", "no look"), ("a.cube", b"\0\0", "no text"),
    ],
)  # fmt: skip
def test_given_a_file_that_is_no_style_when_taken_in_then_it_is_said(client, outing, name, content, said):
    page = taken_in(client, SimpleUploadedFile(name, content))

    assert said in page
    assert not KeptLut.objects.exists() and not KeptLook.objects.exists()


@pytest.mark.parametrize("key", ["own-99", "lut-99", "none"])
def test_given_a_look_that_is_gone_when_asked_for_then_it_is_said_and_nothing_breaks(client, clip, key):
    assert "reload the page" in act(client, clip, "look", look=key)
    assert client.get(f"/bench/{clip.pk}/look/{key}.jpg").status_code == 404
    assert client.post(f"/library/looks/{key}/remove/").status_code == 302
    assert client.get(f"/library/looks/{key}/look.json").status_code == 302


def test_given_a_profile_when_a_lut_for_a_screen_is_made_then_codes_and_size_are_as_chosen(client, outing):
    def made(**asked):
        text = client.get("/library/profiles/log-mild/screen.cube", asked).content.decode()
        return read_cube(text, "screen.cube").cube

    full, narrow = made(size=17, domain="full"), made(size=17, domain="narrow")
    worn = made(size=17, domain="narrow", look="silver", strength=100)

    assert full.shape == (17, 17, 17, 3)
    # 40 % of the narrow range is grey in this log; of all codes that is (64 + 0.4 * 876) / 1023.
    at = np.linspace(0, 1, 17)
    grey = np.interp((64 + 0.4 * 876) / 1023, at, full[range(17), range(17), range(17), 1])
    assert grey == pytest.approx((64 + 0.409 * 876) / 1023, abs=0.02)
    assert np.interp(0.4, at, narrow[range(17), range(17), range(17), 1]) == pytest.approx(0.409, abs=0.02)
    assert np.ptp(worn[9, 6, 6]) < 0.5 * np.ptp(narrow[9, 6, 6])
    assert client.get("/library/profiles/log-mild/screen.cube", {"size": "18"}).status_code == 302
    assert "Make .cube" in client.get("/library/profiles/log-mild/").content.decode()


def test_given_more_looks_and_luts_when_the_wall_is_asked_for_then_no_more_is_asked_of_the_database(
    client, clip
):
    act(client, clip, "look", look="moody")
    with CaptureQueriesContext(connection) as few:
        client.get(f"/bench/{clip.pk}/looks/")
    for number in range(4):
        act(client, clip, "save-look", name=f"Reed {number}", words="")

    with CaptureQueriesContext(connection) as many:
        wall = client.get(f"/bench/{clip.pk}/looks/").content.decode()

    assert all(f"Reed {number}" in wall for number in range(4))
    many_times = sum("library_keptlook" in query["sql"] for query in many.captured_queries)
    assert many_times == sum("library_keptlook" in query["sql"] for query in few.captured_queries)

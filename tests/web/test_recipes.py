"""Recipes kept under a name: proposed for a clip like theirs, shared as files, taken in."""

import io
import random
import zipfile

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Cdl, Exposure
from morphe.core.interchange.cdl import cdl_text, read_cdl
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.grades.versions import accept_all, keep
from morphe.web.library.models import KeptRecipe
from morphe.web.library.services.recipes import recipe_text, resembling, zipped
from tests.odd import mutated
from tests.web.conftest import brought_in
from tests.web.working import work_all

HTMX = {"HX-Request": "true"}


def taken_in(client, data, name):
    return client.post(
        "/library/recipes/take-in/", {"file": SimpleUploadedFile(name, data)}, follow=True
    ).content.decode()


@pytest.fixture
def kept(client, clip):
    accept_all(clip)
    client.post(f"/library/recipes/keep/{clip.pk}/", {"name": "Marsh"})
    return KeptRecipe.objects.get(name="Marsh")


def test_given_a_recipe_that_was_kept_when_a_clip_like_its_own_comes_then_it_is_proposed_and_put_on(
    client, outing, log_file, clip, kept
):
    other = brought_in(outing, log_file, "another.mp4")

    [like] = resembling(Clip.objects.with_grades().get(pk=other.pk))
    page = client.get(f"/library/recipes/like/{other.pk}/", headers=HTMX).content.decode()
    client.post(f"/library/recipes/{kept.pk}/use/", {"clip": other.pk})
    work_all("decide")

    assert like.recipe == kept and like.fit.residual < 3 and "Predicted fit" in page
    other = Clip.objects.with_grades().get(pk=other.pk)
    assert other.is_corrected and KeptRecipe.objects.get().used == 1
    assert "used on one clip" in resembling(other)[0].sentence


def test_given_recipes_when_shared_as_files_then_they_are_taken_in_as_they_were(client, clip, kept):
    text = recipe_text(kept)
    archive = client.get("/library/recipes/morphe-recipes.zip").content
    KeptRecipe.objects.all().delete()

    assert "Taken in: Marsh." in taken_in(client, text.encode(), "marsh.json")
    assert "Taken in: Marsh 2." in taken_in(client, archive, "all.zip")
    one, two = KeptRecipe.objects.all()
    assert one.given["grade"] == two.given["grade"] == kept.given["grade"] and one.tags == kept.tags
    page = client.get("/library/recipes/").content.decode()
    assert "Marsh 2" in page and "ΔE would be left" in page
    assert client.get(f"/library/recipes/{one.pk}/picture.jpg?clip={clip.pk}").content[:2] == b"\xff\xd8"


def test_given_a_decision_list_when_taken_in_and_put_on_then_the_clip_has_its_numbers(client, clip):
    cdl = Cdl(slope=(1.1, 1.0, 0.9), saturation=1.2)

    taken_in(client, cdl_text(cdl, "warm").encode(), "warm.cc")
    client.post(f"/library/recipes/{KeptRecipe.objects.get().pk}/use/", {"clip": clip.pk})
    work_all("decide")

    grade = grade_of(Clip.objects.with_grades().get(pk=clip.pk))
    assert cdl in [step for _, step in grade.steps()]


def test_given_a_grade_when_saved_as_clf_or_decision_list_then_each_says_what_it_is(client, clip):
    accept_all(clip)
    keep(clip, grade_of(clip).with_step(Exposure(stops=0.3), "clip"), "Brighter")

    clf = client.get(f"/bench/{clip.pk}/grade.clf").content.decode()
    listed = client.get(f"/bench/{clip.pk}/grade.cc").content.decode()

    assert "ProcessList" in clf and "LUT3D" in clf
    assert "cannot hold the conversion" in listed and read_cdl(listed, "x.cc")
    assert Grade.of(read_cdl(listed, "x.cc")[0][1])


def bad_zip():
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as archive:
        archive.writestr("a.txt", "no")
    return buffer.getvalue()


def test_given_an_archive_that_broke_on_its_way_when_taken_in_then_it_is_answered(client, kept, fresh_seed):
    whole, dice = zipped(), random.Random(fresh_seed)

    for _ in range(80):
        taken_in(client, mutated(whole, dice), "x.zip")

    assert "Marsh" in client.get("/library/recipes/").content.decode()


@pytest.mark.parametrize(
    ("data", "name", "words"),
    [
        (b"", "x.json", "no readable recipe"), (b"[]", "x.json", "not a Morphe recipe"),
        (b"\xff\xfe\x00", "x.json", "no recipe"), (bad_zip(), "x.zip", "holds no recipes"),
        (b"PK\x03\x04junk", "x.zip", "no readable archive"),
        (b'{"format": "morphe-kept-recipe", "schema": 9}', "x.json", "newer Morphe"),
        (b'{"format": "morphe-kept-recipe", "schema": 1, "tags": 4}', "x.json", "damaged"),
    ],
)  # fmt: skip
def test_given_something_that_is_no_recipe_when_taken_in_then_a_sentence_says_so(
    client, db, data, name, words
):
    assert words in taken_in(client, data, name) and not KeptRecipe.objects.exists()


def test_given_untouched_clips_when_clips_are_listed_then_the_recipe_that_fits_is_offered_for_all(
    client, outing, log_file, clip, kept
):
    others = [brought_in(outing, log_file, f"another-{n}.mp4") for n in range(2)]

    assert "/library/recipes/for-clips/" in client.get("/clips/").content.decode()
    page = client.get("/library/recipes/for-clips/", headers=HTMX).content.decode()
    answer = client.post(
        f"/library/recipes/{kept.pk}/use/", {"clip": [c.pk for c in others], "back": "clips"}, follow=True
    )
    work_all("decide")

    assert "Put it on 2 clips" in page and "Predicted fit of the worst" in page
    assert "being put on 2 clips" in answer.content.decode() and answer.request["PATH_INFO"] == "/clips/"
    assert all(c.is_corrected for c in Clip.objects.with_grades().filter(pk__in=[c.pk for c in others]))
    assert "Put it on" not in client.get("/library/recipes/for-clips/", headers=HTMX).content.decode()


def test_given_a_recipe_made_in_air_when_a_clip_is_likely_wet_then_it_is_not_proposed(
    client, outing, log_file, clip, kept
):
    other = brought_in(outing, log_file, "another.mp4")
    Clip.objects.update(water_found={"wet": 0.1})
    client.post(f"/library/recipes/keep/{clip.pk}/", {"name": "Marsh"})
    assert resembling(Clip.objects.with_grades().get(pk=other.pk))

    Clip.objects.filter(pk=other.pk).update(water_found={"wet": 0.9})
    assert not resembling(Clip.objects.with_grades().get(pk=other.pk))

    Clip.objects.filter(pk=other.pk).update(water={"wet": False})  # a person's word weighs more
    assert resembling(Clip.objects.with_grades().get(pk=other.pk))

"""Library: cameras entered, changed, taken in, handed out and removed; bad entries refused in words."""

import json
import re
from dataclasses import replace

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import QueryDict
from django.utils.datastructures import MultiValueDict

from morphe.core.plan.kit import Kit
from morphe.core.standins.kits import KITS
from morphe.web.library.services.cameras import MAX_BYTES
from morphe.web.library.services.kit_form import TABLES, data_from, shown
from morphe.web.outings.models import Camera

KINDS = ("sandpiper", "cuttle", "fern")


def as_posted(data: dict) -> dict:
    """What a browser sends when a form filled with `data` is kept as it is."""
    values, posted = shown(data), MultiValueDict()
    posted["name"] = data["name"]
    for key, value in values.items():
        if key in ("profiles", "steadying"):
            posted.setlist(key, sorted(value))
        elif key == "lamp" and value:
            posted["lamp"] = "on"
        elif isinstance(value, str):
            posted[key] = value
    for table in TABLES:
        entry = next(t for t in values["tables"] if t["table"] is table)
        for index, column in enumerate(table.columns):
            posted.setlist(f"{table.key}-{column.key}", [row[index]["value"] for row in entry["rows"]])
    return dict(posted.lists())


def as_received(posted: dict) -> QueryDict:
    received = QueryDict(mutable=True)
    for key, values in posted.items():
        received.setlist(key, values)
    return received


@pytest.fixture
def fern(db):
    return Camera.objects.create(name="Fern", kit=json.loads(json.dumps(KITS.get("fern").as_json())))


@pytest.mark.parametrize("key", KINDS)
def test_given_a_camera_when_its_form_is_kept_unchanged_then_it_is_the_same_camera(key):
    kit = KITS.get(key)

    again = Kit.from_json(data_from(as_received(as_posted(kit.as_json()))))

    in_order = {"profiles": kit.profiles, "steadying": kit.steadying}  # a form lists them in its own order
    assert {key: set(getattr(again, key)) for key in in_order} == {k: set(v) for k, v in in_order.items()}
    assert replace(again, **in_order) == kit


def test_given_a_made_up_camera_when_used_as_a_pattern_then_every_field_is_filled_in(client, db):
    page = client.get("/library/cameras/new/?like=cuttle").content.decode()

    for item in KITS.get("cuttle").filters:
        assert item.name in page


def test_given_an_entered_camera_when_kept_then_it_stands_in_the_library(client, db):
    posted = as_posted({**KITS.get("fern").as_json(), "name": "My phone"})

    page = client.post("/library/cameras/new/", posted, follow=True).content.decode()

    assert "My phone is kept." in page
    assert Camera.objects.get().described.iso_ceiling == KITS.get("fern").iso_ceiling


@pytest.mark.parametrize(
    ("field", "value", "sentence"),
    [
        ("name", "", "Name of the camera is missing"),
        ("iso_base", "low", "low"),
        ("iso_ceiling", "10", "ISO"),
        ("shutter_slowest", "0", "shutter"),
        ("aperture_widest", "-2", "aperture"),
    ],
)
def test_given_an_entry_that_cannot_be_when_kept_then_it_is_refused_and_what_was_typed_stays(
    client, db, field, value, sentence
):
    posted = as_posted(KITS.get("fern").as_json())
    posted["recognise"] = "typed-before"
    posted[field] = value

    answer = client.post("/library/cameras/new/", posted)

    page = answer.content.decode()
    assert answer.status_code == 422
    assert not Camera.objects.exists()
    assert "typed-before" in page
    assert sentence in re.search(r'role="alert">(.*?)</p>', page, re.S)[1]


def test_given_a_camera_when_another_takes_its_name_then_it_is_refused(client, fern):
    page = client.post("/library/cameras/new/", as_posted(KITS.get("fern").as_json())).content.decode()

    assert "There is a camera called Fern already" in page


def test_given_a_camera_when_saved_and_taken_in_again_then_nothing_is_lost(client, fern):
    saved = client.get(f"/library/cameras/{fern.pk}/camera.json")
    fern.delete()

    file = SimpleUploadedFile("fern.json", saved.content)
    client.post("/library/cameras/take-in/", {"camera": file})

    assert 'filename="Fern.json"' in saved["Content-Disposition"]
    assert Camera.objects.get().described == KITS.get("fern")


@pytest.mark.parametrize(
    "content",
    [b"no camera", b"[1, 2]", b"[" * 100_000, b"\xff\xfe", b"{}", b" " * (MAX_BYTES + 1), b'{"name": 3}',
     b'{"name": "X", "recordings": "all", "cards": 4}'],
)  # fmt: skip
def test_given_a_file_that_is_no_camera_when_taken_in_then_a_sentence_says_so(client, db, content):
    file = SimpleUploadedFile("x.json", content)

    page = client.post("/library/cameras/take-in/", {"camera": file}, follow=True)

    assert page.status_code == 200
    assert "notice-error" in page.content.decode()
    assert not Camera.objects.exists()


def test_given_a_camera_when_removed_then_its_clips_stay(client, clip, fern):
    clip.camera = fern
    clip.save()

    client.post(f"/library/cameras/{fern.pk}/remove/")

    clip.refresh_from_db()
    assert clip.camera is None
    assert not Camera.objects.exists()

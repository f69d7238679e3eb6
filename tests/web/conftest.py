"""An outing with clips that were really read, in a media root of its own."""

from __future__ import annotations

import json
import shutil
from datetime import date
from pathlib import Path

import numpy as np
import pytest
from django.test import Client
from huey.contrib.djhuey import HUEY

from morphe.core.grade.table import SHELF
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.cameras import Exposure as Camera
from morphe.core.standins.cameras import film
from morphe.core.standins.demo import render_scene
from morphe.core.standins.kits import KITS
from morphe.web.clips.models import CardImport, Clip
from morphe.web.clips.services.intake.bring_in import bring_in_path
from morphe.web.clips.services.wall.grouping import group_anew
from morphe.web.library.services.lab import begin_series
from morphe.web.library.services.profiles import keep_typed
from morphe.web.outings.models import Camera as OwnCamera
from morphe.web.outings.models import Outing
from morphe.web.plan.services.current import add_camera, plan_of
from morphe.web.plan.services.takes import add_take
from tests.footage import ClipSpec, scene, write_clip
from tests.web.kept import once
from tests.web.working import work_off

NUMBERS = {"name": "Mine", "log_slope": "0.0863", "log_offset": "0.5824", "linear_offset": "0.01675",
           "linear_break": "0.010"}  # fmt: skip


@pytest.fixture(scope="session")
def log_file(tmp_path_factory):
    """A clip in a lifted log profile."""
    linear = PROFILES.get("std-709").decode(scene(192, 108))
    log = PROFILES.get("log-lifted").encode(linear).astype(np.float32)
    return write_clip(
        tmp_path_factory.mktemp("log") / "marsh.mp4",
        ClipSpec(size=(192, 108), frames=40, sound="aac"),
        lambda i: log,
    )


@pytest.fixture(scope="session")
def plain_files(tmp_path_factory):
    """One scene filmed five times, each at another exposure and warmth."""
    folder = tmp_path_factory.mktemp("plain")
    linear = render_scene("jetty-tan", 1.0, width=192, height=108)
    files = []
    for number, (stops, mired) in enumerate([(0, 0), (-0.5, 5), (0.25, -8), (-0.3, 10), (-1.2, 0)]):
        camera = Camera(exposure_stops=stops, warm_mired=mired, noise=0.0, sharpening=0.0)
        picture = film(linear, camera, np.random.default_rng(number))
        spec = ClipSpec(size=(192, 108), frames=12)
        files.append(write_clip(folder / f"plain-{number}.mp4", spec, lambda i, picture=picture: picture))
    return files


@pytest.fixture(autouse=True)
def media(settings, tmp_path):
    HUEY.flush()
    settings.MEDIA_ROOT = tmp_path / "media"
    return settings.MEDIA_ROOT


@pytest.fixture
def outing(db):
    return Outing.objects.create(name="Test day", place="Wrenfleet", date=date(2026, 5, 1))


def brought_in(outing: Outing, path: Path, title: str = "") -> Clip:
    """A clip brought in and read, as the worker does it."""
    if title:
        path = Path(shutil.copy(path, path.parent / title))
        with path.open("ab") as stream:  # another file to the eye of the duplicate check
            stream.write(title.encode())
    clip = bring_in_path(outing, path)
    work_off("read", clip.pk)
    return Clip.objects.select_related("version").get(pk=clip.pk)


@pytest.fixture(scope="session")
def store(tmp_path_factory):
    """Where files of fixtures are kept from one test to the next."""
    return tmp_path_factory.mktemp("kept")


@pytest.fixture
def clip(outing, log_file, media, store):
    """A log clip, read, with nothing decided."""
    once(("clip", outing.pk), media, lambda: brought_in(outing, log_file), store)
    return Clip.objects.select_related("version").get()


@pytest.fixture
def everything(outing, clip, media, monkeypatch):
    """An outing with a plan, a take, a grouped clip, an own profile, a series and a card on its way."""
    monkeypatch.setattr(SHELF, "folder", media / "tables")
    outing.place = "Wrenfleet estuary"
    outing.save()
    kit = KITS.get("cuttle")
    camera = OwnCamera.objects.create(name=kit.name, kit=json.loads(json.dumps(kit.as_json())))
    add_take(add_camera(plan_of(outing), camera), "1/400")
    CardImport.objects.create(outing=outing, folder="/card", files=["a.mp4"], problems=["It failed."])
    Clip.objects.update(
        drift={"track": [[0, 0, 0, 0], [1, 0.5, 0.5, 0.5]], "wanders": True, "sentences": ["x"]}
    )
    group_anew(outing)
    keep_typed(NUMBERS)
    begin_series("Card")
    return clip


@pytest.fixture
def client():
    return Client()

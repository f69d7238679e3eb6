"""Speed of what a person waits for: the live picture, taking in a clip, and a long list of clips."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np

from bench.footage import DEMO
from bench.render import WITH_REGIONS
from morphe.core.advise.whole.skin import watch_skin
from morphe.core.advise.whole.strain import strain_of
from morphe.core.footage.judging import judging_frames
from morphe.core.footage.probe import probe
from morphe.core.grade.convert import Convert
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import (
    Balance,
    BlackPoint,
    Casts,
    Contrast,
    Curves,
    Exposure,
    Families,
    HoldLights,
    MidLevel,
    Saturation,
    SkinTurn,
    WhitePoint,
)
from morphe.core.grade.steps.families import Edit
from morphe.core.measure.file_strength import strength_of_planes
from morphe.core.pipeline.screen import graded_still
from morphe.core.reading.clip import read_clip
from morphe.core.screen.still import shown
from morphe.core.standins.cameras import Exposure as Filmed
from morphe.core.standins.cameras import film, record
from morphe.core.standins.demo import DEMO_CLIPS, render_scene

CHANGES = 200
LONG_S, FPS = 60, 25


EIGHT_RUNGS = Grade.of(
    Convert(profile="log-lifted"), HoldLights(stops=1.0), BlackPoint(lower=2), WhitePoint(raise_by=2),
    MidLevel(lift=3), Contrast(amount=8), Saturation(amount=8),
)  # fmt: skip


TWELVE_RUNGS = EIGHT_RUNGS.with_step(Balance(warmth=10))
for _step in (
    Casts(dark_warmth=1.5), Curves(luma=((0.0, 0.0), (40.0, 43.0), (100.0, 100.0))),
    Families(edits=(Edit(25.0, 28.0, 30.0, strength=-30), Edit(128.0, 29.0, 46.0, hue=6))), SkinTurn(turn=3),
):  # fmt: skip
    TWELVE_RUNGS = TWELVE_RUNGS.with_step(_step)


def preview() -> None:
    """Print how long new parameters take to become a picture with all scopes and marks, strain and skin."""
    frames = judging_frames(probe(DEMO / DEMO_CLIPS[-1].name))
    frame = frames[0].encoded
    some = Grade.of(Convert(profile="log-lifted"), Balance(warmth=10), Saturation(amount=8))
    eight, twelve = (_with_regions(grade) for grade in (EIGHT_RUNGS, TWELVE_RUNGS))
    strength = strength_of_planes([f.planes for f in frames if f.planes is not None])
    mask = np.zeros((180, 320), bool)
    mask[60:90, 140:170] = True
    skin = _skin_on_its_line(TWELVE_RUNGS)
    for label, grade in (
        ("four rungs", some), ("eight rungs and two regions", eight), ("twelve and two regions", twelve),
    ):  # fmt: skip
        times = []
        for number in range(CHANGES):
            dragged = grade.with_step(Exposure(stops=number / CHANGES))
            started = time.perf_counter()
            shown(graded_still(frame, dragged), skin=mask)
            strain_of(strength, dragged, with_cure=False)
            watch_skin(skin, dragged)
            times.append(1000 * (time.perf_counter() - started))
        middle, high = np.percentile(times[10:], [50, 95])
        size = f"{frame.shape[1]}×{frame.shape[0]}"
        print(f"Preview at {size} with {label}: median {middle:.0f} ms, p95 {high:.0f} ms", flush=True)


def _skin_on_its_line(grade: Grade) -> np.ndarray:
    """Pixels (n, 3) as filmed that a grade leaves near the line of skin, so that no step has to be named."""
    blues = np.linspace(0.2, 0.5, 61, dtype=np.float32)
    found = [np.tile(np.array([0.52, 0.43, blue], np.float32), (150, 1)) for blue in blues]
    return min(found, key=lambda pixels: abs(watch_skin(pixels, grade).off_deg))


def _with_regions(grade: Grade) -> Grade:
    for layer in WITH_REGIONS.layers:
        grade = grade.with_layer(layer) if layer.region is not None else grade
    return grade


def _long_clip(cache: Path) -> Path:
    path = cache / "intake-60s.mp4"
    if not path.exists():
        generator = np.random.default_rng(3)
        stills = [render_scene("sluice-round", t, width=1920, height=1080) for t in np.linspace(0, 3.9, 10)]
        shots = [film(s, Filmed(profile="log-mild"), generator) for s in stills]
        frames = (shots[i * len(shots) // (LONG_S * FPS)] for i in range(LONG_S * FPS))
        record(frames, path, Filmed(bits_per_pixel=0.25))
    return path


def intake(cache: Path) -> None:
    """Print how long a clip of a minute takes from the file to the first proposals."""
    path = _long_clip(cache)
    read_clip(path)
    started = time.perf_counter()
    read_clip(path)
    seconds = time.perf_counter() - started
    print(f"Intake of {LONG_S} s 1080p ({path.stat().st_size / 1e6:.0f} MB): {seconds:.2f} s")


PAGES = """
import time, django
django.setup()
from datetime import date
from django.core.management import call_command
from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext
call_command("migrate", verbosity=0)
from morphe.core.grade.grade import Grade
from morphe.core.grade.recipe import to_json
from morphe.web.clips.models import Clip, GradeVersion, JudgingFrame
from morphe.web.outings.models import Outing
outing = Outing.objects.create(name="Many clips", date=date(2026, 5, 1))
def add(first, end):
    for n in range(first, end):
        clip = Clip.objects.create(outing=outing, title=f"clip-{n}.mp4", sha256=str(n), size_bytes=1,
            state="ready", file=f"clips/{n}.mp4",
            info={"codec": "h264", "container": "mp4", "width": 1920, "height": 1080, "rotation": 0,
                  "fps": 25, "variable_rate": False, "bit_depth": 8, "chroma": "4:2:0", "bitrate": 0,
                  "transfer": "bt709", "range": "narrow", "matrix": "bt709", "primaries": "bt709",
                  "duration_s": 4.0, "frames": 100},
            profile={"name": "std-709", "kind": "standard", "confidence": 0.9, "evidence": [],
                     "kinds": {"standard": 0.9, "flat": 0.06, "log": 0.04},
                     "likelihoods": {"std-709": 1.0, "flat-a": 0.06, "log-mild": 0.04}})
        clip.version = GradeVersion.objects.create(clip=clip, grade=to_json(Grade.of()), change="Brought in")
        clip.save()
        JudgingFrame.objects.create(clip=clip, number=0, role="first", time_s=0.3)
for count, first in ((100, 0), (1000, 100)):
    add(first, count)
    for address in ("/", "/clips/", "/hand-over/", "/logbook/"):
        Client().get(address)
        times = []
        for _ in range(5):
            started = time.perf_counter()
            with CaptureQueriesContext(connection) as queries:
                answer = Client().get(address)
            times.append(1000 * (time.perf_counter() - started))
        assert answer.status_code == 200
        print(f"  {address} with {count} clips: {sorted(times)[2]:.0f} ms, {len(queries)} queries")
"""


def pages() -> None:
    """Print the server time of every listing page with many clips."""
    print("Pages (median of five)", flush=True)
    with tempfile.TemporaryDirectory() as home:
        environment = {
            **os.environ,
            "MORPHE_HOME": home,
            "DJANGO_SETTINGS_MODULE": "morphe.web.settings.test",
        }
        subprocess.run([sys.executable, "-c", PAGES], env=environment, check=True)


def run(cache: Path) -> None:
    preview()
    intake(cache)
    pages()

"""Speed of planning: from three answers to a card, in core and as a page's piece over HTTP."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np

from morphe.core.plan.card import shoot_card
from morphe.core.plan.questions import Questions
from morphe.core.plan.shots import SHOTS
from morphe.core.standins.kits import KITS

TIMES = 20
PLACES = ("", "wrenfleet", "52.0 N, 1.0 E")

PAGE = """
import json, time, django
django.setup()
from datetime import date
from django.core.management import call_command
from django.test import Client
call_command("migrate", verbosity=0)
from morphe.core.standins.kits import KITS
from morphe.web.outings.models import Camera, Outing
from morphe.web.plan.services.current import add_camera, plan_of
outing = Outing.objects.create(name="A day", place="Wrenfleet estuary", date=date(2026, 9, 12))
for kit in KITS.values():
    camera = Camera.objects.create(name=kit.name, kit=json.loads(json.dumps(kit.as_json())))
    planned = add_camera(plan_of(outing), camera)
client, times = Client(), []
for number in range(40):
    posted = {"shot": ("talk", "night", "walk")[number % 3], "hour": "10:30", "delivery": "web-sdr"}
    started = time.perf_counter()
    answer = client.post(f"/plan/{planned.pk}/answers/", posted, headers={"HX-Request": "true"})
    times.append(1000 * (time.perf_counter() - started))
    assert answer.status_code == 200 and b"HX-Retarget" not in answer.content
times = sorted(times[5:])
print(f"Three answers to the whole piece of the page: median {times[17]:.0f} ms, slowest {times[-1]:.0f} ms")
"""


def run(cache: Path) -> None:
    """Print how long a shoot card takes from three answers: the shot, the place, the day."""
    times = []
    for kit in KITS.values():
        for shot in SHOTS:
            for place in PLACES:
                questions = Questions.from_json({"shot": shot, "place": place, "day": "2026-09-12"})
                for _ in range(TIMES):
                    started = time.perf_counter()
                    shoot_card(questions, kit)
                    times.append(1000 * (time.perf_counter() - started))
    middle, high = np.percentile(times, [50, 95])
    print(f"Card from three answers: median {middle:.1f} ms, p95 {high:.1f} ms", flush=True)
    with tempfile.TemporaryDirectory() as home:
        environment = {
            **os.environ,
            "MORPHE_HOME": home,
            "DJANGO_SETTINGS_MODULE": "morphe.web.settings.test",
        }
        subprocess.run([sys.executable, "-c", PAGE], env=environment, check=True)

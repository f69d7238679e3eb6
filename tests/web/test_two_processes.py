"""Two processes that keep grades of the same clips at the same time: every change is there, in one line."""

import json
import subprocess
import sys

import pytest

from tests.serving import environment_of

BEGIN = """
import django; django.setup()
import sys
from datetime import date
from django.core.management import call_command
from morphe.web.clips.models import Clip
from morphe.web.outings.models import Outing
call_command("migrate", verbosity=0)
outing = Outing.objects.create(name="Marsh", date=date(2026, 9, 12))
for n in range(int(sys.argv[1])):
    Clip.objects.create(outing=outing, title=f"{n}.mp4", sha256=str(n), size_bytes=1, state="ready")
"""
KEEPING = """
import django; django.setup()
import random, sys, time
from threading import Thread
from morphe.core.grade.steps import (
    Balance, BlackPoint, Contrast, Exposure, HoldLights, Saturation, Sharpen, Vignette)
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.grades.versions import keep, redo, undo
STEPS = [(Exposure, "stops"), (Balance, "warmth"), (Contrast, "amount"), (Saturation, "amount"),
         (BlackPoint, "lower"), (HoldLights, "stops"), (Sharpen, "amount"), (Vignette, "amount")]
seed, first, count, clips = (int(word) for word in sys.argv[1:])
def client(number):
    dice = random.Random(f"{seed}-{number}")
    kind, name = STEPS[number]
    for turn in range(count):
        clip = Clip.objects.with_grades().get(title=f"{dice.randrange(clips)}.mp4")
        value = (turn + 1) / (2 * count)
        time.sleep(dice.uniform(0, 0.004))  # what another keeps meanwhile is not to be lost
        keep(clip, grade_of(clip).with_step(kind(**{name: value})), f"{number} {turn}")
threads = [Thread(target=client, args=(first + n,)) for n in range(4)]
for one in threads: one.start()
for one in threads: one.join()
"""
TELLING = """
import django; django.setup()
import json
from morphe.core.grade import recipe
from morphe.web.clips.models import Clip, GradeVersion
from morphe.web.clips.services.grades.grade import grade_of
print(json.dumps([[
    [[v.pk, v.parent_id, v.change] for v in GradeVersion.objects.filter(clip=clip).order_by("pk")],
    clip.version_id, {s.key: [getattr(s, f) for f in ("stops", "warmth", "amount", "lower") if hasattr(s, f)]
                      for _, s in grade_of(clip).steps()},
] for clip in Clip.objects.with_grades().order_by("title")]))
"""


def kept_by_two(home, seed, clips, each):
    """Have eight clients in two processes keep so many grades each, and look at every one."""
    environment = environment_of(home, 0)

    def run(code, *words):
        return subprocess.Popen([sys.executable, "-c", code, *map(str, words)], env=environment, stdout=-1)

    assert run(BEGIN, clips).wait() == 0
    keeping = [run(KEEPING, seed, first, each, clips) for first in (0, 4)]
    assert [one.wait() for one in keeping] == [0, 0]
    told = json.loads(run(TELLING).communicate()[0])

    changes = sorted(change for versions, _, _ in told for _, _, change in versions)
    assert changes == sorted(f"{n} {turn}" for n in range(8) for turn in range(each))
    for versions, now, steps in told:
        assert [parent for _, parent, _ in versions] == [None, *(pk for pk, _, _ in versions[:-1])]
        assert now == versions[-1][0]
        lasts = {change.split()[0]: int(change.split()[1]) for _, _, change in versions}
        values = [value for found in steps.values() for value in found if value]
        assert sorted(values) == pytest.approx(sorted((t + 1) / (2 * each) for t in lasts.values()))


def test_given_two_processes_with_eight_clients_when_they_keep_then_no_change_is_lost_and_there_is_one_line(
    tmp_path, fresh_seed
):
    kept_by_two(tmp_path / "home", fresh_seed, clips=2, each=25)

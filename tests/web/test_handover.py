"""Hand over: the queue, the render in the worker, stopping, failing, and a worker that is killed."""

import os
import signal
import sqlite3
import subprocess
import sys
import time
from contextlib import closing
from pathlib import Path

import pytest

from morphe.core.footage.probe import probe
from morphe.core.grade import recipe
from morphe.core.handover.presets import PRESETS
from morphe.core.handover.render import Cancelled
from morphe.web.clips.models import Clip
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.grades.versions import accept_all
from morphe.web.handover.models import HandOver
from morphe.web.handover.services import run
from morphe.web.handover.services.estimate import pixel_rate
from morphe.web.handover.services.queue import queue_hand_over, stop_hand_over
from morphe.web.handover.services.wish import Wish
from morphe.web.jobs.models import Job
from morphe.web.jobs.services.run import run_job
from morphe.web.logbook.models import LogEntry
from tests.footage import ClipSpec, write_clip
from tests.web.working import work_all, work_off


@pytest.fixture
def job(clip):
    accept_all(clip)
    return queue_hand_over(clip, Wish())


def again(job):
    return HandOver.objects.get(pk=job.pk)


def test_given_a_corrected_clip_when_handed_over_then_whole_files_and_a_log_entry_are_there(
    client, clip, job
):
    work_off("hand-over", job.pk)

    done = again(job)
    info = probe(done.result.path)
    assert done.state == Job.State.DONE
    assert (info.frames, info.audio, done.percent) == (40, "aac", 100)
    assert recipe.from_text(Path(done.recipe.path).read_text()) == grade_of(clip)
    assert Path(done.cube.path).read_text().startswith("TITLE")
    assert "40 frames" in LogEntry.objects.first().sentence
    for what in ("clip", "cube", "recipe"):
        assert b"".join(client.get(f"/hand-over/{job.pk}/{what}/").streaming_content)
    assert "Done" in client.get("/hand-over/").content.decode()


def test_given_a_hand_over_when_the_grade_changes_later_then_the_one_of_then_is_rendered(clip, job):
    before = grade_of(clip)
    clip.version = clip.version.parent
    clip.save()

    work_off("hand-over", job.pk)

    assert recipe.from_text(Path(again(job).recipe.path).read_text()) == before


def test_given_the_task_twice_when_run_then_the_clip_is_rendered_once(job):
    work_off("hand-over", job.pk)
    first = again(job)

    run_job(first.job.pk)

    assert again(job).result.name == first.result.name
    assert LogEntry.objects.filter(kind="handed-over").count() == 1


def test_given_clips_ticked_when_posted_then_they_are_queued_with_the_preset(client, clip):
    client.post("/hand-over/start/", {"clip": [clip.pk], "preset": "fine"})

    assert HandOver.objects.get().preset == "fine"


def test_given_a_size_and_no_sound_when_handed_over_then_the_file_keeps_to_both(client, clip):
    wish = {"clip": [clip.pk], "preset": "small", "megabytes": "0,5", "sound": "left-out"}
    client.post("/hand-over/start/", wish)
    order = HandOver.objects.get()
    run_job(order.job.pk)

    order.refresh_from_db()
    assert order.result.size <= 500_000 and probe(order.result.path).audio is None
    assert "Small" in client.get("/hand-over/?preset=small").content.decode()


def test_given_what_this_machine_took_when_estimated_then_it_is_that_presets_own_or_scaled(clip):
    pixels = 192 * 108 * 40
    done = {"clip": clip, "grade": {}, "result": "results/x.mp4", "seconds": 2.0}
    HandOver.objects.create(preset="web", **done)
    web, archive = PRESETS.get("web"), PRESETS.get("archive")
    assert pixel_rate(web) == pytest.approx(pixels / 2)
    assert pixel_rate(archive) == pytest.approx(pixels / 2 / archive.effort)

    HandOver.objects.create(preset="archive", **{**done, "seconds": 20.0})
    assert pixel_rate(archive) == pytest.approx(pixels / 20)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        ({"preset": "web"}, "No clip is selected"),
        ({"preset": "best", "clip": "1"}, "no preset"),
        ({"preset": "small", "megabytes": "0", "clip": "1"}, "between 0.5 and 4000 MB"),
        ({"preset": "small", "megabytes": "many", "clip": "1"}, "between 0.5 and 4000 MB"),
        ({"preset": "web", "sound": "loud", "clip": "1"}, "left out or levelled"),
    ],
)
def test_given_a_wish_that_cannot_be_met_when_posted_then_it_is_said(client, clip, data, words):
    data = {**data, "clip": clip.pk} if "clip" in data else data

    assert words in client.post("/hand-over/start/", data, follow=True).content.decode()
    assert not HandOver.objects.exists()


def test_given_a_waiting_job_when_stopped_then_it_never_starts(client, job):
    client.post(f"/hand-over/{job.pk}/stop/")
    work_all()

    assert again(job).state == Job.State.STOPPED
    assert not again(job).result


def test_given_a_running_job_when_stopped_then_it_ends_and_nothing_is_offered(job, media, monkeypatch):
    def stopped(info, grade, out, wanted, *, progress, **more):
        stop_hand_over(again(job))
        time.sleep(0.6)  # progress is written twice a second
        assert progress(5, 40) is False
        raise Cancelled("The render was stopped.")

    monkeypatch.setattr(run, "render", stopped)
    work_off("hand-over", job.pk)

    assert again(job).state == Job.State.STOPPED
    assert again(job).job.done == 5
    assert not again(job).result


def test_given_a_source_that_vanished_when_rendered_then_the_job_says_so(client, clip, job):
    clip.path.unlink()

    work_off("hand-over", job.pk)

    failed = again(job)
    assert failed.state == Job.State.FAILED
    assert failed.problem in client.get("/hand-over/").content.decode().replace("&#x27;", "'")
    assert LogEntry.objects.first().kind == "failed"


def test_given_a_fault_of_ours_when_rendering_then_a_sentence_is_kept_and_no_traceback(
    client, job, monkeypatch
):
    def broken(*arguments, **more):
        raise ZeroDivisionError("float division")

    monkeypatch.setattr(run, "render", broken)
    work_off("hand-over", job.pk)

    page = client.get("/hand-over/").content.decode()
    assert "could not be rendered; nothing was changed" in page
    assert "ZeroDivision" not in page


def test_given_no_result_yet_when_downloaded_then_there_is_nothing(client, job):
    assert client.get(f"/hand-over/{job.pk}/clip/").status_code == 404


# --- work whose worker died ------------------------------------------------------------------------


class Machine:
    """A Morphe of its own: database, queue and worker processes."""

    def __init__(self, home: Path) -> None:
        self.home = home
        self.environment = {
            **os.environ,
            "MORPHE_HOME": str(home),
            "MORPHE_JOB_STALE_S": "2",
            "DJANGO_SETTINGS_MODULE": "morphe.web.settings.base",
        }
        self.processes: list[subprocess.Popen] = []

    def manage(self, *words):
        subprocess.run([sys.executable, "-m", "morphe.web.manage", *words], env=self.environment, check=True)

    def python(self, code):
        subprocess.run([sys.executable, "-c", f"import django; django.setup()\n{code}"], env=self.environment,
                       check=True)  # fmt: skip

    def start(self, *words):
        process = subprocess.Popen([sys.executable, "-m", "morphe.web.manage", *words], env=self.environment)
        self.processes.append(process)
        return process

    def row(self):
        asked = "select j.state, j.done, h.result from handover_handover h join jobs_job j on h.job_id = j.id"
        with closing(sqlite3.connect(self.home / "morphe.sqlite3", timeout=20)) as base:
            return base.execute(asked).fetchone()

    def wait(self, wanted, seconds=240):
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            row = self.row()
            if row and wanted(*row):
                return row
            time.sleep(0.1)
        raise AssertionError(f"The job stayed at {self.row()}.")


@pytest.fixture
def machine(tmp_path):
    made = Machine(tmp_path / "home")
    yield made
    for process in made.processes:
        process.kill()
        process.wait()


def test_given_a_worker_killed_in_the_middle_when_all_starts_again_then_the_clip_is_delivered_whole(
    machine, tmp_path
):
    long = write_clip(tmp_path / "long.mp4", ClipSpec(size=(640, 360), frames=100))
    machine.manage("migrate", "--verbosity", "0")
    machine.python(
        "from morphe.web.clips.services.intake.bring_in import bring_in_path\n"
        "from morphe.web.jobs.models import Job\n"
        "from morphe.web.jobs.services.run import run_job\n"
        "from morphe.web.outings.services.current import current_outing\n"
        "from morphe.core.handover.delivery import Delivery\n"
        "from morphe.web.handover.services.queue import queue_hand_over\n"
        "from morphe.web.handover.services.wish import Wish\n"
        "from morphe.web.clips.services.grades.versions import accept_all\n"
        "from morphe.web.clips.models import Clip\n"
        "from pathlib import Path\n"
        f"clip = bring_in_path(current_outing(), Path({str(long)!r}))\n"
        "run_job(Job.objects.get(kind='read').pk)\n"
        "clip = Clip.objects.get()\n"
        "accept_all(clip)\n"
        "queue_hand_over(clip, Wish(delivery=Delivery.of('fine')))\n"
    )
    worker = machine.start("run_huey", "--quiet")
    machine.wait(lambda state, done, result: state == "running" and done > 0)

    worker.send_signal(signal.SIGKILL)
    worker.wait()
    state, _, result = machine.row()
    names = [p.name for p in (machine.home / "media" / "results").rglob("*") if p.is_file()]
    machine.start("run_huey", "--quiet")
    machine.start("rescue", "--every", "0.5")
    _, frames, delivered = machine.wait(lambda state, done, result: state == "done")

    assert (state, result) == ("running", "")
    assert not [n for n in names if not n.startswith(".")]  # no half file under a name
    info = probe(machine.home / "media" / delivered)
    assert frames == info.frames == 100


def test_given_a_rung_far_outside_its_zone_when_handed_over_then_it_is_said(client, clip):
    accept_all(clip)
    Clip.objects.update(states={"balance": "open", "exposure": "good"})

    page = client.get("/hand-over/").content.decode()

    assert "White balance lies outside its zone." in page
    assert "Nothing speaks against it" not in page

"""Long work: claimed once, finished by its holder alone, given back when its worker died."""

import errno
import os
import sqlite3
import time
from datetime import timedelta

import av
import pytest
from django.db import OperationalError
from django.utils import timezone

from morphe.core.errors import MorpheError
from morphe.core.footage.probe import open_clip
from morphe.pool import piece
from morphe.web.clips.models import Clip, Decision
from morphe.web.clips.services.intake.uploads import begin_upload
from morphe.web.handover.services.queue import Wish, queue_hand_over
from morphe.web.jobs.kinds import KINDS, Kind
from morphe.web.jobs.models import Job
from morphe.web.jobs.services.ask import MOST_ATTEMPTS, ask, rescue, stop
from morphe.web.jobs.services.run import Lost, Run, run_job
from morphe.web.jobs.services.sweep import sweep
from tests.web.working import work_off

pytestmark = pytest.mark.django_db
LONG_AGO = timedelta(minutes=5)


@pytest.fixture
def kind():
    """A kind of work that a test fills in."""
    did, failures = [], []
    kept = Kind(
        key="try", work=lambda run: did.append(run), failed=lambda subject, said: failures.append(said),
        sentence="This could not be tried; try again.",
    )  # fmt: skip
    KINDS._entries["try"] = kept
    yield did, failures
    del KINDS._entries["try"]


def with_work(work):
    KINDS._entries["try"] = Kind(
        key="try", work=work, failed=KINDS.get("try").failed, sentence="It broke; wait."
    )


def test_given_work_asked_for_twice_when_it_waits_then_one_job_serves(kind):
    first, second = ask("try", 7), ask("try", 7)

    run_job(first.pk)
    run_job(first.pk)

    assert first == second and len(kind[0]) == 1
    assert ask("try", 7) != first  # what was done can be asked for anew


def test_given_a_job_that_was_given_to_another_when_the_first_ends_then_it_writes_nothing(kind, outing):
    def overtaken(run):
        Job.objects.update(claim="somebody else")
        with run.keeping():
            outing.name = "Written by the wrong one"
            outing.save()

    with_work(overtaken)
    job = work_off("try", 1)

    outing.refresh_from_db()
    assert outing.name == "Test day"
    assert (job.state, job.claim) == ("running", "somebody else")


def test_given_a_reader_that_was_given_up_when_it_ends_then_its_successor_stands(clip, monkeypatch):

    look, kept = piece.look_within, list(clip.frames.values_list("pk", flat=True))

    def slow(info):
        found = look(info)
        Job.objects.filter(kind="read").update(claim="a successor")
        return found

    monkeypatch.setattr(piece, "look_within", slow)
    Clip.objects.update(state="waiting")
    work_off("read", clip.pk)

    assert list(clip.frames.values_list("pk", flat=True)) == kept


@pytest.mark.parametrize(
    ("fault", "words"),
    [(MorpheError("The card is full; empty it."), "The card is full"), (ZeroDivisionError("x"), "It broke"),
     (OSError("disk"), "It broke")],
)  # fmt: skip
def test_given_work_that_fails_when_it_ends_then_one_sentence_is_kept(kind, fault, words):
    def fail(run):
        raise fault

    with_work(fail)
    job = work_off("try", 1)

    assert job.state == "failed" and job.problem.startswith(words)
    assert kind[1] == [job.problem]


def test_given_a_wish_to_stop_when_it_waits_or_runs_then_it_ends(kind):
    waiting = ask("try", 1)
    stop(waiting)
    run_job(waiting.pk)

    def stopped(run):
        stop(run.job)
        assert run.progress(5, 5) is False
        run.check()

    with_work(stopped)
    running = work_off("try", 2)

    waiting.refresh_from_db()
    assert kind[0] == [] and waiting.state == running.state == "stopped"
    assert running.done == 5


def test_given_a_heart_that_stopped_when_the_watch_comes_round_then_the_job_waits_for_one_worker(kind):
    dead, alive = ask("try", 1), ask("try", 2)
    Job.objects.filter(pk=dead.pk).update(state="running", claim="dead", heartbeat=timezone.now() - LONG_AGO)
    Job.objects.filter(pk=alive.pk).update(state="running", claim="alive", heartbeat=timezone.now())

    rescue()

    assert Job.objects.get(pk=dead.pk).state == "waiting"
    assert Job.objects.get(pk=alive.pk).claim == "alive"
    with pytest.raises(Lost), Run(dead, "dead").keeping():
        pass


def test_given_a_job_that_takes_its_worker_down_when_tried_often_enough_then_it_is_given_up(kind):
    job = ask("try", 1)
    Job.objects.update(
        state="running", claim="x", attempts=MOST_ATTEMPTS, heartbeat=timezone.now() - LONG_AGO
    )

    rescue()

    job.refresh_from_db()
    assert job.state == "failed" and "3 times" in job.problem
    assert kind[1] == [job.problem]


def test_given_rungs_of_an_older_version_when_the_watch_comes_round_then_they_are_judged_anew(clip):
    Clip.objects.update(advice_version=1, rungs=[])
    Job.objects.filter(kind="judge").delete()

    rescue()
    work_off("judge", clip.pk)

    assert [r["step"] for r in Clip.objects.get().rungs][:2] == ["denoise", "convert"]


def test_given_work_of_a_kind_that_is_gone_when_rescued_then_it_has_failed_and_the_rest_goes_on(kind):
    lost = Job.objects.create(kind="gone", subject=1, state="running", claim="x")
    left = Job.objects.create(kind="try", subject=2, state="running", claim="x")
    Job.objects.update(heartbeat=timezone.now() - LONG_AGO)

    rescue()

    lost.refresh_from_db()
    left.refresh_from_db()
    assert lost.state == Job.State.FAILED and "does not know" in lost.problem
    assert left.state == Job.State.WAITING


def test_given_half_files_of_killed_work_when_swept_then_those_that_are_gone_on_with_stay(outing, media):
    upload = begin_upload(outing, "marsh.mp4", 50, 0)
    clips = media / "clips"
    old, fresh = clips / ".abc.part", clips / ".new.part"
    table, whole = media / "tables" / "x.part.npz", clips / "marsh.mp4"
    table.parent.mkdir()
    for path in (old, fresh, table, whole):
        path.write_bytes(b"half")
    for path in (old, table, whole, clips / f".upload-{upload.token}.part"):
        os.utime(path, (1, 1))

    assert sweep(before=time.time() - 60) == 2

    assert not old.exists() and not table.exists()
    assert fresh.exists() and whole.exists() and (clips / f".upload-{upload.token}.part").exists()


def test_given_a_full_disk_when_a_job_begins_then_it_waits_and_goes_on_once_there_is_room(
    client, clip, settings
):
    job = ask("judge", clip.pk)
    settings.DISK_SPARE_BYTES = 10**18
    run_job(job.pk)
    Job.objects.update(heartbeat=timezone.now() - timedelta(hours=1))

    assert rescue() == 0
    job.refresh_from_db()
    assert (job.state, job.attempts) == (Job.State.WAITING, 0) and "disk is full" in job.problem
    assert "The disk is full: work waits" in client.get("/clips/").content.decode()

    settings.DISK_SPARE_BYTES = 0
    assert rescue() >= 1
    run_job(job.pk)
    job.refresh_from_db()
    assert (job.state, job.problem) == (Job.State.DONE, "")


def test_given_a_disk_that_fills_up_in_the_middle_when_working_then_the_source_is_not_blamed_and_it_waits(
    clip, monkeypatch
):
    def fills_up(*rest, **options):
        with open_clip(clip.path):
            raise av.error.OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(piece, "make_proxy", fills_up)
    job = ask("play", clip.pk)
    for _ in range(MOST_ATTEMPTS + 1):
        run_job(job.pk)

    job.refresh_from_db()
    assert (job.state, job.attempts) == (Job.State.WAITING, 0)
    assert "disk is full" in job.problem
    clip.refresh_from_db()
    assert not clip.drift.get("failed")


def test_given_a_disk_that_fills_up_during_a_render_when_it_tells_how_far_it_is_then_it_ends_and_waits(
    clip, settings, media
):
    order = queue_hand_over(clip, Wish())

    class Filling(int):
        """Room for the beginning, none by the time the first frames are told."""

        asked = 0

        def __le__(self, free):
            Filling.asked += 1
            return Filling.asked < 2

    settings.DISK_SPARE_BYTES = Filling()
    run_job(order.job.pk)

    order.job.refresh_from_db()
    assert (order.job.state, order.job.attempts) == (Job.State.WAITING, 0)
    assert "disk is full" in order.job.problem
    assert not [p for p in (media / "results").rglob("*") if p.is_file()]
    settings.DISK_SPARE_BYTES = 0
    run_job(order.job.pk)
    order.refresh_from_db()
    assert order.is_done


@pytest.mark.parametrize(
    ("name", "status", "words"),
    [("SQLITE_FULL", 507, "The disk is full"), ("SQLITE_BUSY", 503, "try again in a moment")],
)
def test_given_a_database_that_cannot_be_written_when_decided_then_it_is_a_sentence(
    client, clip, monkeypatch, name, status, words
):
    def refused(*rest, **options):
        cause = sqlite3.OperationalError("database is locked")
        cause.sqlite_errorname = name
        raise OperationalError("database is locked") from cause

    monkeypatch.setattr(Decision.objects, "create", refused)
    answer = client.post("/clips/decide/")

    assert answer.status_code == status
    assert words in answer.content.decode()

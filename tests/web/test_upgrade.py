"""A database of version 0.3.3: everything in it is there after the upgrade."""

import gzip
import os
import sqlite3
import subprocess
import sys
from contextlib import closing
from pathlib import Path

import pytest

from morphe.core.grade import recipe

OLD = Path(__file__).parents[1] / "fixtures" / "morphe-0.3.3.sqlite3.gz"


def rows(path, question):
    with closing(sqlite3.connect(path)) as base:
        return base.execute(question).fetchall()


@pytest.fixture(scope="module")
def upgraded(tmp_path_factory):
    """(home, what was in the database before): upgraded in a process of its own, as a start does it."""
    home = tmp_path_factory.mktemp("old")
    base = home / "morphe.sqlite3"
    base.write_bytes(gzip.decompress(OLD.read_bytes()))
    before = {
        "clips": rows(base, "select id, title, sha256, profile_choice, version_id, drift from clips_clip"),
        "versions": rows(base, "select id, clip_id, parent_id, change, grade from bench_gradeversion"),
        "orders": rows(base, "select id, state, frames_done, result, grade from handover_handover"),
        "log": rows(base, "select id, sentence, numbers from logbook_logentry"),
    }
    environment = {
        **os.environ,
        "MORPHE_HOME": str(home),
        "DJANGO_SETTINGS_MODULE": "morphe.web.settings.base",
    }
    environment.pop("PYTEST_XDIST_WORKER", None)
    subprocess.run(
        [sys.executable, "-m", "morphe.web.manage", "migrate", "--verbosity", "0"],
        env=environment,
        check=True,
    )
    return base, before


def test_given_an_old_database_when_upgraded_then_clips_history_and_logbook_are_whole(upgraded):
    base, before = upgraded

    assert (
        rows(base, "select id, title, sha256, profile_choice, version_id, drift from clips_clip")
        == before["clips"]
    )
    assert (
        rows(base, "select id, clip_id, parent_id, change, grade from bench_gradeversion")
        == before["versions"]
    )
    assert rows(base, "select id, sentence, numbers from logbook_logentry") == before["log"]


def test_given_an_old_database_when_upgraded_then_hand_overs_keep_how_they_ended(upgraded):
    base, before = upgraded

    found = rows(
        base,
        "select h.id, j.state, j.done, h.result, h.grade from handover_handover h "
        "join jobs_job j on j.id = h.job_id and j.kind = 'hand-over' and j.subject = h.id",
    )

    assert found == before["orders"] and found


def test_given_old_grades_when_read_then_every_step_at_work_is_still_there(upgraded):
    _, before = upgraded
    import json

    for *_, text in before["versions"]:
        old = json.loads(text)
        wanted = [s["step"] for layer in old["layers"] for s in layer["steps"]]

        found = [s.key for _, s in recipe.from_json(old).steps() if s != type(s)()]

        assert sorted(found) == sorted(wanted)

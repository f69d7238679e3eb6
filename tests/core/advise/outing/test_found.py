"""Findings that travel as bytes: what one machine saw, another judges alike."""

import numpy as np
import pytest

from morphe.core.advise.findings import look
from morphe.core.advise.judge import judge
from morphe.core.advise.outing.found import from_bytes, to_bytes
from tests.footage import ClipSpec, scene, write_clip


@pytest.fixture(scope="module")
def seen(tmp_path_factory):
    path = write_clip(
        tmp_path_factory.mktemp("found") / "a.mp4",
        ClipSpec(size=(192, 108), frames=12),
        lambda i: scene(192, 108, i),
    )
    return look(path)


def test_given_findings_when_they_travelled_then_numbers_are_the_same_and_pictures_nearly(seen, tmp_path):
    arrived = from_bytes(to_bytes(seen), tmp_path / "elsewhere.mp4")

    assert arrived.info.path == tmp_path / "elsewhere.mp4" and arrived.info.record() == seen.info.record()
    assert arrived.before.as_json() == seen.before.as_json() and arrived.as_json() == seen.as_json()
    assert (arrived.noise_codes, arrived.blockiness) == (seen.noise_codes, seen.blockiness)
    assert [(f.role, f.time_s) for f in arrived.frames] == [(f.role, f.time_s) for f in seen.frames]
    for one, other in zip(arrived.frames, seen.frames, strict=True):
        assert np.abs(one.encoded - other.encoded).max() < 1e-3
        assert np.abs(one.grain - other.grain).max() < 1e-3


def test_given_findings_when_sent_twice_then_nothing_more_is_lost(seen, tmp_path):
    once = from_bytes(to_bytes(seen), tmp_path / "a.mp4")
    twice = from_bytes(to_bytes(once), tmp_path / "a.mp4")

    for one, other in zip(once.frames, twice.frames, strict=True):
        assert np.array_equal(one.encoded, other.encoded) and np.array_equal(one.grain, other.grain)


def test_given_findings_when_they_travelled_then_they_are_judged_alike(seen, tmp_path):
    here, there = (judge(found.evidence) for found in (seen, from_bytes(to_bytes(seen), tmp_path / "a.mp4")))

    assert here.profile.kind == there.profile.kind
    assert [r.state for r in here.rungs] == [r.state for r in there.rungs]

"""Kernels are compiled ahead once for the code as it is."""

import os

import pytest

from morphe.core.handover import warm_up as warming


@pytest.fixture
def passes(monkeypatch, tmp_path):
    """A source, how often its kernels were compiled, and where that is noted."""
    source = tmp_path / "core" / "kernels.py"
    source.parent.mkdir()
    source.write_text("")
    made = []
    monkeypatch.setattr(warming, "CORE", source.parent)
    monkeypatch.setattr(warming, "DONE", tmp_path / "kept" / "kernels.done")
    monkeypatch.setattr(warming, "warm_up", lambda: made.append(1))
    return source, made, tmp_path / "kept"


def test_given_kernels_compiled_when_started_again_then_they_are_only_once_the_code_has_changed(passes):
    source, made, kept = passes
    kept.mkdir()
    for _ in range(3):
        warming.warm_up_once()
    assert len(made) == 1

    os.utime(source, ns=(2_000_000_000_000_000_000,) * 2)
    warming.warm_up_once()
    assert len(made) == 2


def test_given_nowhere_to_note_it_when_started_then_kernels_are_compiled_each_time(passes):
    _, made, _ = passes
    for _ in range(2):
        warming.warm_up_once()
    assert len(made) == 2

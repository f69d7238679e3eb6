"""Arrays from files: a stumble of the interpreter costs nothing."""

import io

import numpy as np
import pytest

from morphe.core.stored import read_array, read_arrays


def stumbling(monkeypatch, times):
    real, left = np.load, [times]

    def load(*words, **named):
        left[0] -= 1
        if left[0] >= 0:
            raise SystemError("AST constructor recursion depth mismatch")
        return real(*words, **named)

    monkeypatch.setattr(np, "load", load)


def test_given_a_stumble_when_read_then_the_next_try_gives_the_array(monkeypatch, tmp_path):
    np.save(tmp_path / "a.npy", np.arange(6))
    stumbling(monkeypatch, 2)

    assert (read_array(tmp_path / "a.npy") == np.arange(6)).all()


def test_given_several_arrays_when_read_after_a_stumble_then_all_are_there(monkeypatch):
    buffer = io.BytesIO()
    np.savez(buffer, one=np.ones(2), two=np.zeros(3))
    stumbling(monkeypatch, 1)

    assert {name: kept.shape for name, kept in read_arrays(buffer).items()} == {"one": (2,), "two": (3,)}


def test_given_it_stumbles_on_and_on_when_read_then_it_is_said(monkeypatch, tmp_path):
    np.save(tmp_path / "a.npy", np.arange(6))
    stumbling(monkeypatch, 9)

    with pytest.raises(SystemError):
        read_array(tmp_path / "a.npy")

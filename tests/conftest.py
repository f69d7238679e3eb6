"""Fixtures for all tests: small clips, a media root of their own, the command line in this process."""

from __future__ import annotations

import json
import os
import secrets
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pytest
from hypothesis import settings
from xdist.scheduler import LoadScopeScheduling

from morphe.cli import main
from tests.footage import ClipSpec, write_clip

# Journeys that start a Morphe of their own, or need none: they need not wait for those on the demo.
OWN_MORPHE = tuple(f"tests/browser/test_{name}.py" for name in ("devices", "finish_played"))


@dataclass(frozen=True)
class Said:
    """What one command gave back."""

    code: int
    out: str
    err: str

    @property
    def json(self) -> Any:
        return json.loads(self.out)


@pytest.fixture
def morphe(capfd: pytest.CaptureFixture[str]) -> Callable[..., Said]:
    """Run a command of the command line in this process."""

    def run(*words: object) -> Said:
        capfd.readouterr()
        try:
            code = main([str(w) for w in words])
        except SystemExit as end:
            code = int(end.code or 0)
        said = capfd.readouterr()
        return Said(code, said.out, said.err)

    return run


@pytest.fixture
def fresh_seed() -> int:
    """A new seed for what is drawn by chance, printed where a test fails; MORPHE_SEED has one again."""
    seed = int(os.environ.get("MORPHE_SEED") or secrets.randbelow(10**9))
    print(f"MORPHE_SEED={seed}")
    return seed


@pytest.fixture(scope="session")
def plain_clip(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A small ordinary clip with sound; shared, so not to be written to."""
    folder = tmp_path_factory.mktemp("plain")
    return write_clip(folder / "plain.mp4", ClipSpec(size=(160, 96), frames=20, sound="aac"))


# Kernels compile at their first call, so examples are not timed; others are tried every time, and one that
# fails is printed with what brings it back.
settings.register_profile("morphe", deadline=None, max_examples=60, derandomize=False, print_blob=True)
settings.load_profile("morphe")


class OneWorkerEach(LoadScopeScheduling):
    """A file's tests on one worker, so that what it shares is made once; so too all journeys on the demo."""

    def _split_scope(self, nodeid: str) -> str:
        file = nodeid.split("::")[0]
        on_demo = file.startswith("tests/browser/") and file not in OWN_MORPHE
        return "demo" if on_demo else file


@pytest.hookimpl(tryfirst=True)
def pytest_xdist_make_scheduler(config: pytest.Config, log: Any) -> OneWorkerEach:
    return OneWorkerEach(config, log)

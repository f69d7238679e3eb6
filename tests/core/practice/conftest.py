"""Scenes of few moments, so that little is drawn."""

import pytest

from morphe.core.practice import scenes


@pytest.fixture(scope="module", autouse=True)
def few_moments():
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(scenes, "LONGEST_S", 2 * scenes.STEP_S)
        yield

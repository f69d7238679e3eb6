"""Footage whose tags are missing or wrong: once its profile is named, it is read as if they were right."""

from dataclasses import replace

import numpy as np
import pytest

from morphe.core.advise.findings import look
from morphe.core.advise.judge import judge
from morphe.core.errors import ColourError
from morphe.core.footage.probe import probe
from morphe.core.grade.convert import Convert
from morphe.core.grade.grade import Grade
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.profiles import PROFILES
from morphe.core.signal.ycbcr import Matrix
from morphe.core.standins.cameras import Exposure, film, record
from tests.footage import scene


def converted(folder, profile, tags, *, as_read=False):
    """The clip's first judging frame through the conversion that naming its profile gives."""
    exposure = Exposure(profile=profile, tags=tags, codec="libx265", bit_depth=10)
    linear = PROFILES.get("std-709").decode(scene(320, 180)).astype(np.float32)
    picture = film(linear, exposure, np.random.default_rng(3))
    evidence = look(record([picture] * 4, folder / f"{profile}-{tags}.mp4", exposure)).evidence
    step = judge(evidence, profile=profile).profile.convert
    return evaluate(Grade.of(replace(step, read_by="") if as_read else step), evidence.frames[0])


@pytest.mark.parametrize(
    ("profile", "tags"), [("hlg", "none"), ("hlg", "std-709"), ("pq", "none"), ("std-709", "hlg")]
)
def test_given_wrong_tags_when_the_profile_is_named_then_the_picture_is_that_of_right_tags(
    tmp_path, profile, tags
):
    right = converted(tmp_path, profile, "own")

    mended = np.abs(converted(tmp_path, profile, tags) - right).mean()
    as_read = np.abs(converted(tmp_path, profile, tags, as_read=True) - right).mean()

    assert mended < 0.002
    assert as_read > 3 * mended and as_read > 0.004


@pytest.mark.parametrize("tags", ["none", "own"])
def test_given_hdr_tags_without_a_matrix_when_probed_then_it_is_that_of_hdr(tmp_path, tags):
    exposure = Exposure(profile="hlg", tags=tags, codec="libx265", bit_depth=10)
    info = probe(record([scene(320, 180).astype(np.float32)] * 2, tmp_path / "x.mp4", exposure))

    untold = replace(info, matrix=Matrix.UNSPECIFIED)

    assert untold.effective_matrix is (Matrix.BT2020 if tags == "own" else Matrix.BT601)


def test_given_a_matrix_that_there_is_not_when_converted_by_then_it_is_refused():
    with pytest.raises(ColourError, match="no matrix 'bt42'"):
        Convert(profile="hlg", read_by="bt42")

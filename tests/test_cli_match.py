"""The command line: a clip brought to the look of another clip or of a still."""

import shutil

import cv2
import numpy as np
import pytest

from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frame_at
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.cameras import Exposure, film, record
from morphe.core.standins.demo import render_scene
from tests.test_cli import refused


@pytest.fixture(scope="module")
def jetty_pair(tmp_path_factory):
    """The jetty by two cameras: one darker and cooler, the other as it should be; and a still of that."""
    folder = tmp_path_factory.mktemp("pair")
    linear, generator = render_scene("jetty-tan", 0.3, width=320, height=180), np.random.default_rng(3)
    files = []
    for name, camera in (("dark", Exposure(exposure_stops=-0.8, warm_mired=-25)), ("right", Exposure())):
        files.append(
            record((film(linear, camera, generator) for _ in range(10)), folder / f"{name}.mp4", camera)
        )
    still = np.clip(PROFILES.get("std-709").encode(linear), 0, 1)
    cv2.imwrite(str(folder / "right.png"), (still[..., ::-1] * 65535).astype(np.uint16))
    return *files, folder / "right.png"


@pytest.mark.parametrize("which", [1, 2], ids=["clip", "still"])
def test_given_a_reference_when_matched_then_clip_recipe_and_stages_agree(
    morphe, jetty_pair, tmp_path, which
):
    clip, to = jetty_pair[0], jetty_pair[which]

    said = morphe(
        "match", clip, "--to", to, "--out", tmp_path / "o.mp4", "--recipe", tmp_path / "r.json", "--json"
    )

    found = said.json
    assert said.code == 0 and found["distance"]["after"] < 0.5 < 2 < found["distance"]["before"]
    assert [s["stage"] for s in found["stages"]] == ["space", "levels", "balance", "colour", "families"]
    assert found["stages"][0]["before"] == found["distance"]["before"]
    again = morphe("render", clip, "--recipe", tmp_path / "r.json", "--out", tmp_path / "p.mp4", "--json")
    assert again.code == 0
    one, other = (frame_at(probe(tmp_path / n), 0.1).encoded() for n in ("o.mp4", "p.mp4"))
    assert np.abs(one - other).max() < 0.02
    wanted = frame_at(probe(jetty_pair[1]), 0.1).encoded()
    assert np.abs(one - wanted).mean() < 0.02 < np.abs(frame_at(probe(clip), 0.1).encoded() - wanted).mean()


@pytest.mark.parametrize(("content", "sentence"), [
    (None, "no"), (b"not a picture", "not a picture"), ("black", "black"), ("plain", "single colour"),
    ("tiny", "larger"),
])  # fmt: skip
def test_given_what_cannot_be_a_reference_when_matched_to_then_it_is_refused(
    morphe, plain_clip, tmp_path, content, sentence
):
    still = tmp_path / "still.png"
    pictures = {"black": (120, 160, 0), "plain": (120, 160, 90), "tiny": (20, 20, 90)}
    if isinstance(content, bytes):
        still.write_bytes(content)
    elif content:
        height, width, code = pictures[content]
        cv2.imwrite(str(still), np.full((height, width, 3), code, np.uint8))

    refused(morphe("match", plain_clip, "--to", still, "--out", tmp_path / "o.mp4"), sentence)
    assert not (tmp_path / "o.mp4").exists()


def test_given_the_reference_as_output_when_matched_then_it_stays(morphe, plain_clip, tmp_path):
    reference, still = tmp_path / "ref.mp4", tmp_path / "ref.png"
    shutil.copy(plain_clip, reference)
    cv2.imwrite(str(still), np.full((90, 160, 3), np.arange(160)[None, :, None], np.uint8))
    (tmp_path / "other.mp4").symlink_to(reference)
    before = reference.read_bytes(), still.read_bytes()

    for out, to in ((reference, reference), (still, still), (tmp_path / "other.mp4", reference)):
        refused(morphe("match", plain_clip, "--to", to, "--out", out), "read from")

    assert (reference.read_bytes(), still.read_bytes()) == before

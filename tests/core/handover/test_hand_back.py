"""A folder of clips handed back: whatever lies there, each with its files or a sentence."""

import json
from pathlib import Path

import numpy as np
import pytest

from morphe.core.footage.probe import probe
from morphe.core.grade.recipe import from_text
from morphe.core.signal.profiles import PROFILES
from tests.footage import ClipSpec, scene, write_clip


@pytest.fixture(scope="module")
def folder(tmp_path_factory):
    made = tmp_path_factory.mktemp("to-correct")
    log = (
        PROFILES.get("log-lifted").encode(PROFILES.get("std-709").decode(scene(192, 108))).astype(np.float32)
    )
    write_clip(made / "marsh.mp4", ClipSpec(size=(192, 108), frames=20, sound="aac"), lambda i: log)
    (made / "broken.mov").write_bytes(b"no clip at all")
    (made / "notes.txt").write_text("not looked at")
    return made


def test_given_a_folder_when_handed_back_then_each_clip_has_its_files_and_a_broken_one_a_sentence(
    morphe, folder
):
    before = {p.name: p.read_bytes() for p in folder.iterdir() if p.is_file()}

    said = morphe("batch", folder, "--json")

    assert said.code == 0
    broken, marsh = said.json["clips"]
    assert (said.json["done"], said.json["failed"]) == (1, 1)
    assert "broken.mov" in broken["problem"] and broken["out"] is None
    back = folder / "handed-back"
    assert probe(back / "marsh.corrected.mp4").frames == 20
    assert from_text((back / "marsh.mp4.recipe.json").read_text()).convert.at_work
    assert (back / "marsh.mp4.cube").read_text().startswith("TITLE")
    report = (back / "marsh.mp4.report.txt").read_text()
    assert "Profile:" in report and "All 20 frames were decoded again" in report
    assert {p.name: p.read_bytes() for p in folder.iterdir() if p.is_file()} == before
    assert json.dumps(marsh)


def test_given_no_film_when_handed_back_then_only_the_rest_is_there(morphe, folder, tmp_path):
    said = morphe("batch", folder, "--no-film", "--out", tmp_path / "back", "--json")

    assert said.code == 0
    assert sorted(p.suffix for p in (tmp_path / "back").iterdir()) == [".cube", ".json", ".txt"]


@pytest.mark.parametrize("empty", [True, False])
def test_given_no_clips_or_no_folder_when_handed_back_then_a_sentence_says_so(morphe, tmp_path, empty):
    said = morphe("batch", tmp_path if empty else tmp_path / "nowhere")

    assert said.code == 2 and len(said.err.strip().splitlines()) == 1
    assert ("no clip in" if empty else "no readable folder") in said.err


def test_given_names_that_would_meet_when_handed_back_then_no_file_takes_anothers_place(morphe, tmp_path):
    small = ClipSpec(size=(64, 48), frames=3)
    for name in ("A1.MP4", "a1.mov", "B.corrected.mp4"):
        write_clip(tmp_path / name, small)
    before = {p.name: p.read_bytes() for p in tmp_path.iterdir()}

    said = morphe("batch", tmp_path, "--json")

    made = [Path(clip["out"]).name.casefold() for clip in said.json["clips"]]
    assert said.json["done"] == 3 and len(set(made)) == 3
    again = morphe("batch", tmp_path, "--out", tmp_path, "--json")  # beside the clips themselves
    assert {n: (tmp_path / n).read_bytes() for n in before} == before
    assert again.code == 0


def test_given_a_clip_with_the_name_of_a_result_when_handed_back_beside_it_then_it_stays(morphe, tmp_path):
    small = ClipSpec(size=(64, 48), frames=3)
    for name in ("B.mp4", "B.corrected.mp4"):
        write_clip(tmp_path / name, small)
    before = (tmp_path / "B.corrected.mp4").read_bytes()

    said = morphe("batch", tmp_path, "--out", tmp_path, "--json")

    assert (tmp_path / "B.corrected.mp4").read_bytes() == before
    assert "read from" in next(c["problem"] for c in said.json["clips"] if c["clip"].endswith("/B.mp4"))

"""The command line, by its contract: keys, exit codes, one sentence, nothing left behind."""

import json
import os
import subprocess
import sys
from fractions import Fraction
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest

from morphe.core.advise.rungs import RUNGS
from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frame_at
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Exposure
from morphe.core.signal.perception import delta_e_2000, encoded_to_lab
from morphe.core.signal.profiles import PROFILES
from tests.core.interchange.test_cube import through_ocio
from tests.footage import (
    ClipSpec,
    blocks_apart,
    click_of,
    frame_times,
    scene,
    several_shots,
    write_clip,
    write_sound,
)

PROBE_KEYS = {
    "codec", "container", "width", "height", "rotation", "fps", "variable_rate", "frames", "duration_s",
    "bit_depth", "chroma", "bitrate", "range", "matrix", "primaries", "transfer", "assumed", "audio",
    "profile",
}  # fmt: skip
MEASURE_KEYS = {"frames", "luma", "channels", "cast", "saturation"}
CORRECT_KEYS = {"profile", "steps", "before", "after", "out", "cube", "recipe", "frames", "seconds"}
STEP_KEYS = {"step", "reading", "wanted", "value", "unit", "reason", "applied"}


@pytest.fixture
def log_clip(tmp_path):
    """A clip in a mild log profile, with sound."""
    linear = PROFILES.get("std-709").decode(scene(160, 96))
    log = PROFILES.get("log-mild").encode(linear).astype(np.float32)
    return write_clip(tmp_path / "log.mp4", ClipSpec(size=(160, 96), sound="aac"), lambda i: log)


def refused(said, *words):
    """Exit 2 and one line that says what and how."""
    assert said.code == 2
    assert said.out == ""
    assert said.err.count("\n") == 1
    assert "Traceback" not in said.err
    for word in words:
        assert word in said.err


# --- what is said ----------------------------------------------------------------------------------


def test_given_a_clip_when_probed_then_every_key_of_the_contract_is_there(morphe, plain_clip):
    said = morphe("probe", plain_clip, "--json")

    data = said.json
    assert said.code == 0
    assert said.err == ""
    assert set(data) == PROBE_KEYS
    assert (data["codec"], data["container"], data["width"], data["height"]) == ("h264", "mp4", 160, 96)
    assert (data["fps"], data["frames"], data["bit_depth"], data["chroma"]) == (25.0, 20, 8, "4:2:0")
    assert (data["range"], data["matrix"], data["audio"]) == ("narrow", "bt709", "aac")
    assert set(data["profile"]) == {"name", "kind", "confidence", "evidence"}
    assert 0 <= data["profile"]["confidence"] <= 1


def test_given_a_clip_when_measured_then_keys_and_frames_are_those_of_the_contract(morphe, plain_clip):
    data = morphe("measure", plain_clip, "--json").json

    assert set(data) == MEASURE_KEYS
    assert set(data["luma"]) == {"p01", "p50", "p99", "below_0_pct", "above_100_pct"}
    assert set(data["channels"]) == {"r", "g", "b"}
    assert set(data["cast"]) == {"cb", "cr", "neutral_share_pct"}
    assert set(data["saturation"]) == {"p50", "p95", "outside_pct"}
    assert 1 <= len(data["frames"]) <= 3


def test_given_a_known_frame_when_measured_then_its_levels_are_told(morphe, tmp_path):
    level = lambda i: np.full((64, 96, 3), 0.1 * i, np.float32)  # noqa: E731
    clip = write_clip(tmp_path / "steps.mp4", ClipSpec(frames=8), level)

    data = morphe("measure", clip, "--at", 0.2, "--json").json

    assert data["frames"] == [0.2]
    assert data["luma"]["p50"] == pytest.approx(50, abs=0.3)
    assert data["cast"] == {"cb": 0, "cr": 0, "neutral_share_pct": 100}


def test_given_super_white_when_measured_then_it_is_counted(morphe, tmp_path):
    def picture(index):
        out = np.full((64, 96, 3), 0.5, np.float32)
        out[:16] = 1.06
        return out

    data = morphe("measure", write_clip(tmp_path / "super.mp4", ClipSpec(), picture), "--json").json

    assert data["luma"]["above_100_pct"] == pytest.approx(25, abs=0.5)
    assert data["saturation"]["outside_pct"] == pytest.approx(25, abs=0.5)


def test_given_no_json_flag_when_asked_then_the_same_is_said_in_lines(morphe, plain_clip):
    said = morphe("probe", plain_clip)

    assert "codec: h264" in said.out
    assert "bit_depth: 8" in said.out


# --- correct and render ----------------------------------------------------------------------------


def test_given_a_log_clip_when_corrected_then_clip_cube_recipe_and_report_agree(morphe, log_clip, tmp_path):
    out, cube, written = (tmp_path / f"result.{e}" for e in ("mp4", "cube", "json"))
    source = log_clip.read_bytes()

    said = morphe(
        *("correct", log_clip, "--profile", "log-mild", "--json"),
        *("--out", out, "--cube", cube, "--recipe", written),
    )

    data = said.json
    assert said.code == 0
    assert set(data) >= CORRECT_KEYS
    assert [s["step"] for s in data["steps"]] == [key for key in RUNGS if key != "restore"]  # filmed in air
    assert all(set(s) == STEP_KEYS for s in data["steps"])
    assert set(data["before"]) == set(data["after"]) == MEASURE_KEYS
    assert (data["out"], data["cube"], data["recipe"]) == (str(out), str(cube), str(written))
    assert data["frames"] == probe(out).frames == 12
    grade = recipe.from_text(written.read_text())
    assert [s.key for _, s in grade.steps() if s.at_work] == [
        s["step"] for s in data["steps"] if s["applied"]
    ]
    original = frame_at(probe(log_clip), 0.2).encoded()
    through_file = through_ocio(cube, np.clip(original, 0, 1).reshape(-1, 3)).reshape(original.shape)
    shown = frame_at(probe(out), 0.2).encoded()
    assert delta_e_2000(encoded_to_lab(through_file), encoded_to_lab(shown)).mean() < 1.0
    assert log_clip.read_bytes() == source


def test_given_nothing_to_write_when_corrected_then_the_proposals_are_told(morphe, log_clip, tmp_path):
    before = sorted(tmp_path.iterdir())

    data = morphe("correct", log_clip, "--json").json

    assert (data["out"], data["cube"], data["recipe"]) == (None, None, None)
    assert sorted(tmp_path.iterdir()) == before


def test_given_a_recipe_when_rendered_then_the_file_and_figures_are_there(morphe, plain_clip, tmp_path):
    written, out, cube = tmp_path / "r.json", tmp_path / "out.mp4", tmp_path / "out.cube"
    written.write_text(recipe.to_text(Grade.of(Exposure(stops=0.5))))

    said = morphe("render", plain_clip, "--recipe", written, "--out", out, "--cube", cube, "--preset", "fine",
                  "--json")  # fmt: skip

    assert said.json.keys() >= {"out", "frames", "seconds", "fps"}
    assert probe(out).frames == said.json["frames"] == 20
    assert cube.read_text().startswith("TITLE")
    brighter = frame_at(probe(out), 0).encoded().mean() - frame_at(probe(plain_clip), 0).encoded().mean()
    assert brighter > 0.04


def test_given_the_same_clip_twice_when_corrected_then_the_same_is_proposed(morphe, plain_clip):
    first, second = (morphe("correct", plain_clip, "--json").json for _ in range(2))

    assert first["steps"] == second["steps"]
    assert first["after"] == second["after"]


def test_given_the_installed_command_when_run_then_only_json_is_on_standard_output(plain_clip):
    command = [str(Path(sys.executable).parent / "morphe"), "measure", str(plain_clip), "--json"]

    done = subprocess.run(command, capture_output=True, text=True, check=True)

    assert set(json.loads(done.stdout)) == MEASURE_KEYS
    assert done.stderr == ""


def test_given_a_reader_that_stops_listening_when_asked_then_there_is_no_traceback(plain_clip):
    command = [str(Path(sys.executable).parent / "morphe"), "probe", str(plain_clip), "--json"]

    asked = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    asked.stdout.close()

    assert asked.stderr.read() == ""
    assert asked.wait() == 0


# --- refusals --------------------------------------------------------------------------------------

COMMANDS = [("probe",), ("measure",), ("correct",), ("render", "--recipe", "r.json", "--out", "out.mp4")]


@pytest.fixture
def broken(tmp_path):
    """Files that are no usable clip, and a recipe beside them."""
    (tmp_path / "r.json").write_text(recipe.to_text(Grade()))
    (tmp_path / "empty.mp4").touch()
    (tmp_path / "letter.mp4").write_text("Dear all,\n" * 100)
    whole = write_clip(tmp_path / "whole.mp4", ClipSpec(frames=40))
    (tmp_path / "cut.mp4").write_bytes(whole.read_bytes()[: whole.stat().st_size // 2])
    write_sound(tmp_path / "song.mp4")
    return tmp_path


@pytest.mark.parametrize("command", COMMANDS, ids=lambda c: c[0])
@pytest.mark.parametrize("name", ["missing.mp4", "empty.mp4", "letter.mp4", "cut.mp4", "song.mp4", "."])
def test_given_no_usable_clip_when_anything_is_asked_then_one_line_says_so(
    morphe, broken, monkeypatch, command, name
):
    monkeypatch.chdir(broken)
    before = sorted(broken.iterdir())

    refused(morphe(command[0], name, *command[1:], "--json"))

    assert sorted(broken.iterdir()) == before


@pytest.mark.parametrize(
    ("text", "word"),
    [("no", "JSON"), ("{}", "not a Morphe recipe"), ("\udcff", "not a recipe"), (None, "no readable")],
)
def test_given_an_unusable_recipe_when_rendered_then_one_line_says_so(
    morphe, plain_clip, tmp_path, text, word
):
    written, out = tmp_path / "r.json", tmp_path / "out.mp4"
    if text is not None:
        written.write_bytes(text.encode("utf-8", "surrogateescape"))

    refused(morphe("render", plain_clip, "--recipe", written, "--out", out, "--json"), word)

    assert not out.exists()


@pytest.mark.parametrize("at", ["-1", "0.8", "1000", "nan"])
def test_given_a_time_outside_when_measured_then_it_is_refused(morphe, plain_clip, at):
    refused(morphe("measure", plain_clip, f"--at={at}", "--json"), "0.80 s")


@pytest.mark.parametrize(
    ("words", "expected"),
    [
        (("--water", "off", "--depth", "5"), "leave --water off away"),
        (("--depth", "90"), "0 to 60 m"),
        (("--profile", "secret"), "log-mild"),
        (("--nonsense",), "--nonsense"),
        (("--out", "no/such/folder/out.mp4"), "folder"),
    ],
)
def test_given_a_wish_that_cannot_be_met_when_corrected_then_it_is_refused(
    morphe, plain_clip, words, expected
):
    refused(morphe("correct", plain_clip, *words, "--json"), expected)


def test_given_outputs_that_would_hurt_when_corrected_then_they_are_refused_before_work(morphe, tmp_path):
    clip = write_clip(tmp_path / "clip.mp4")
    before = clip.read_bytes()

    refused(morphe("correct", clip, "--out", clip), "read from")
    refused(morphe("correct", clip, "--recipe", clip), "read from")
    refused(morphe("correct", clip, "--out", tmp_path / "a", "--cube", tmp_path / "a"), "same name")

    assert clip.read_bytes() == before
    assert len(list(tmp_path.iterdir())) == 1


@pytest.mark.skipif(os.geteuid() == 0, reason="the administrator may write everywhere")
def test_given_a_folder_without_leave_when_corrected_then_it_is_refused(morphe, plain_clip, tmp_path):
    tmp_path.chmod(0o500)

    refused(morphe("correct", plain_clip, "--out", tmp_path / "out.mp4"), "cannot be written")


def test_given_an_unknown_preset_or_no_command_when_asked_then_it_is_refused(morphe, plain_clip, tmp_path):
    written = tmp_path / "r.json"
    written.write_text(recipe.to_text(Grade()))

    refused(
        morphe("render", plain_clip, "--recipe", written, "--out", tmp_path / "o.mp4", "--preset", "x"), "web"
    )
    refused(morphe(), "required")


def test_given_a_disk_that_fills_up_when_rendered_then_one_line_says_so_and_nothing_is_left(tmp_path):
    noise = np.random.default_rng(1).uniform(0, 1, (180, 320, 3)).astype(np.float32)
    spec = ClipSpec(size=(320, 180), frames=60)
    clip = write_clip(tmp_path / "clip.mp4", spec, lambda i: np.roll(noise, i, axis=0))
    out = tmp_path / "out.mp4"
    limited = (  # a file-size limit makes the write fail as a full disk does
        "import resource, signal, sys; signal.signal(signal.SIGXFSZ, signal.SIG_IGN); "
        "resource.setrlimit(resource.RLIMIT_FSIZE, (60000, 60000)); "
        "from morphe.cli import main; sys.exit(main(sys.argv[1:]))"
    )

    done = subprocess.run(
        [sys.executable, "-c", limited, "correct", str(clip), "--out", str(out), "--json"],
        capture_output=True, text=True, env={**os.environ, "NUMBA_CACHE_DIR": str(tmp_path / "numba")},
    )  # fmt: skip

    assert done.returncode == 2
    assert done.stderr.count("\n") == 1
    assert "Traceback" not in done.stderr
    assert not out.exists()
    assert not list(tmp_path.glob(".*"))


# --- plan --------------------------------------------------------------------------------------------


def test_given_three_answers_when_planned_then_one_json_object_has_the_whole_card(morphe):
    said = morphe("plan", "--camera", "cuttle", "--shot", "dive", "--light", "sun", "--json")

    assert (said.code, said.err) == (0, "")
    keys = {
        "camera",
        "shot",
        "light",
        "settings",
        "answers",
        "stack",
        "latitude",
        "sun",
        "cautions",
        "checklist",
    }
    assert keys <= set(said.json)
    assert all(a["reason"] for a in said.json["answers"])


def test_given_a_place_and_day_when_planned_then_the_sun_comes_along_as_a_calendar(morphe, tmp_path):
    out = tmp_path / "sun.ics"

    said = morphe("plan", "--place", "wrenfleet", "--day", "2026-09-12", "--hour", "8:30", "--ics", out)

    assert said.code == 0
    assert "Golden hour" in said.out and "Second:" in said.out
    assert out.read_text(encoding="utf-8").startswith("BEGIN:VCALENDAR")


def test_given_a_camera_of_the_persons_own_when_planned_then_its_file_is_read(morphe, tmp_path):
    kit = tmp_path / "heron.json"
    mode = {"codec": "h264", "bit_depth": 8, "width": 1920, "height": 1080, "fps": 25, "mbit_s": 30}
    kit.write_text(json.dumps({"name": "Heron", "profiles": ["flat-a"], "recordings": [mode]}))

    said = morphe("plan", "--camera", kit, "--light", "13.5", "--pin-iso", "200", "--json")

    assert said.json["camera"] == "Heron"
    assert said.json["settings"]["profile"] == "flat-a"
    assert said.json["settings"]["iso"] == 200


@pytest.mark.parametrize(
    ("words", "sentence"),
    [(["--shot", "swim"], "Kind of shot"), (["--camera", "none.json"], "no readable camera"),
     (["--camera", "heron"], "There is no camera"), (["--hour", "noon"], "no time of day"),
     (["--pin-shutter", "1/0"], "wants a number"), (["--ics", "sun.ics"], "needs a place"),
     (["--place", "nowhere"], "is no place"), (["--light", "99"], "between -6 and 20")],
)  # fmt: skip
def test_given_a_wrong_option_when_planned_then_one_sentence_says_so(morphe, words, sentence):
    refused(morphe("plan", *words), sentence)


def test_given_a_file_with_cuts_when_corrected_then_each_shot_has_its_own_and_all_frames_are_there(
    morphe, tmp_path, fresh_seed
):
    lengths = [34, 26, 40]
    spec = ClipSpec(size=(192, 108), frames=100, fps=Fraction(24), sound="aac")
    clip = write_clip(tmp_path / "shots.mp4", spec, several_shots(lengths, fresh_seed, (1.0, 0.2, 0.9)))
    out, cube, recipe = (tmp_path / name for name in ("o.mp4", "lut.cube", "r.json"))

    said = morphe("correct", clip, "--out", out, "--cube", cube, "--recipe", recipe, "--json").json

    edges = [0, 34 / 24, 60 / 24, 100 / 24]
    assert [(s["from_s"], s["to_s"]) for s in said["shots"]] == [
        (pytest.approx(a, abs=1e-3), pytest.approx(b, abs=1e-3)) for a, b in pairwise(edges)
    ]
    assert said["cube"] == [str(tmp_path / f"lut-0{n}.cube") for n in (1, 2, 3)]
    assert all(Path(name).read_text().startswith("TITLE") for name in said["cube"])
    assert frame_times(out) == pytest.approx(frame_times(clip), abs=1e-3)
    assert click_of(out) == pytest.approx(click_of(clip), abs=0.003)
    again = morphe("render", clip, "--recipe", recipe, "--out", tmp_path / "p.mp4", "--json")
    assert again.code == 0
    assert blocks_apart(out, tmp_path / "p.mp4") < 0.5
    brighter = frame_at(probe(out), 1.8).encoded().mean() / frame_at(probe(clip), 1.8).encoded().mean()
    alike = frame_at(probe(out), 0.5).encoded().mean() / frame_at(probe(clip), 0.5).encoded().mean()
    assert brighter > 1.2 * alike
    single = morphe("correct", clip, "--shots", "off", "--json").json
    assert "shots" not in single and single["steps"]

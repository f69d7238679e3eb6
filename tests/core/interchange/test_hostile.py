"""Imports that mean harm, or nothing: each is refused in one sentence, whatever it holds."""

import contextlib
import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.errors import MorpheError
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Cdl, Exposure
from morphe.core.interchange.cdl import cdl_text, read_cdl
from morphe.core.interchange.clf import clf_text, read_clf
from morphe.core.interchange.cube_in import read_cube
from morphe.core.interchange.dive_log import read_dive_log
from morphe.core.interchange.reference import read_reference
from morphe.core.interchange.stop_csv import read_stop_csv, stop_csv
from morphe.core.signal.own_profile import OwnProfile
from morphe.core.signal.profiles import PROFILES
from tests.odd import mutated

READERS = {
    "cube": lambda text: read_cube(text, "x.cube"),
    "clf": lambda text: read_clf(text, "x.clf"),
    "csv": lambda text: read_stop_csv(text, "x.csv"),
    "recipe": recipe.from_text,
}
LOOSE = {
    "patches": lambda text: read_reference(text, "x.csv"),
    "dive": lambda text: read_dive_log(text, "x.csv", duration_s=60),
    "decisions": lambda text: read_cdl(text, "x.cdl"),
}
SOUND = {
    "cube": "LUT_3D_SIZE 2\n" + "0 0 0\n1 1 1\n" * 4, "clf": clf_text(PROFILES.get("log-wide"), curve=None),
    "csv": stop_csv(PROFILES.get("log-wide")), "recipe": recipe.to_text(Grade.of(Exposure(stops=1))),
    "patches": "name,L,a,b\n" + "".join(f"p{n},{4 * n},1,2\n" for n in range(24)),
    "dive": "time_s,depth_m,temperature\n" + "".join(f"{10 * n},{n / 3},21\n" for n in range(30)),
    "decisions": cdl_text(Cdl(), name="x"),
}  # fmt: skip
TEXTS = (
    "LUT_3D_SIZE ²\n", "LUT_3D_SIZE 1e999\n0 0 0", "LUT_3D_SIZE 2\n" + "0 0 nan\n" * 8,
    "LUT_3D_SIZE " + "9" * 5000,
    "LUT_1D_SIZE 2\n1e999 0 0\n0 0 0\n", "DOMAIN_MIN a b c\nLUT_3D_SIZE 2", "\ud800", "", "\0" * 50,
    "<ProcessList/>", "<a" * 1000, "<!DOCTYPE x [<!ENTITY a 'b'>]><ProcessList>&a;</ProcessList>",
    "stop,code10\n" + "x" * 200_000 + ",1\n", "stop,code10\n²,³\n", "stop,code10\n1e999,3\n",
    "[" * 100_000, '{"schema": 4, "source": 5}', '{"schema": 1e999}', "NaN", '{"schema": 4, "layers": [[]]}',
)  # fmt: skip
PIECES = st.sampled_from(
    ["LUT_3D_SIZE", "LUT_1D_SIZE", "2", "²", "nan", "-1e308", "0", "\n", " ", ",", "stop", "code10", "<",
     ">", "/", "ProcessList", "{", "}", "[", "]", '"', ":", "schema", "4", "layers", "\ud800", "\0", "é"]
)  # fmt: skip


@pytest.mark.parametrize("kind", READERS)
@pytest.mark.parametrize("text", TEXTS, ids=range(len(TEXTS)))
def test_given_a_hostile_file_when_read_then_it_is_refused_in_a_sentence(kind, text):
    with pytest.raises(MorpheError) as refused:
        READERS[kind](text)
    assert len(str(refused.value)) < 400 and str(refused.value).endswith(".")


@pytest.mark.parametrize("kind", [*READERS, *LOOSE])
@given(text=st.lists(PIECES, max_size=40).map("".join))
def test_given_any_pieces_when_read_then_nothing_but_a_refusal_comes_of_it(kind, text):
    with contextlib.suppress(MorpheError):
        {**READERS, **LOOSE}[kind](text)


@pytest.mark.parametrize("kind", [*READERS, *LOOSE])
def test_given_a_file_that_broke_on_its_way_when_read_then_nothing_but_a_refusal_comes_of_it(
    kind, fresh_seed
):
    dice, reader = random.Random(fresh_seed), {**READERS, **LOOSE}[kind]
    reader(SOUND[kind])
    for _ in range(120):
        with contextlib.suppress(MorpheError):
            reader(mutated(SOUND[kind].encode(), dice).decode("utf-8", "replace"))


@pytest.mark.parametrize(
    "change",
    [{"log": [float("nan")] * 4}, {"clip_stops": float("inf")}, {"matrix": [1e300] * 9}, {"matrix": 5},
     {"matrix": [float("nan")] * 9}, {"log": None, "points": [[0, 0]] * 3},
     {"log": None, "points": [[0, 0], [1, 1e300], [2, 1e301]]}],
)  # fmt: skip
def test_given_a_profile_with_absurd_numbers_when_read_then_it_is_refused(change):
    data = {"name": "x", "kind": "log", "log": [0.1258, 0.6825, 0.03, 0.012], "clip_stops": 5, **change}
    with pytest.raises(MorpheError):
        OwnProfile.from_json(data)

"""A person's conversions: files written and read back, other readers agreeing, and malformed ones refused."""

import numpy as np
import PyOpenColorIO as ocio
import pytest

from morphe.core.errors import ColourError, LutError
from morphe.core.grade.convert import Convert, convert_of
from morphe.core.grade.grade import Grade
from morphe.core.grade.table import SHELF
from morphe.core.interchange.clf import clf_text, read_clf
from morphe.core.interchange.cube import cube_text
from morphe.core.interchange.cube_in import read_cube
from morphe.core.interchange.stop_csv import read_stop_csv, stop_csv
from morphe.core.pipeline.cube import bake_grade
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.camera_log import CameraLog
from morphe.core.signal.own_profile import OwnProfile
from morphe.core.signal.profiles import PROFILES, Kind
from morphe.core.signal.transfer import encode_bt709

ROUND_TRIP = 1e-5
COLOURS = np.random.default_rng(8).uniform(0, 1, (40, 40, 3)).astype(np.float32)
CURVES_AND_CUBE = """TITLE "both"
# curves first
LUT_1D_SIZE 2
LUT_3D_SIZE 2
0 0 0
0.5 0.5 0.5
""" + "\n".join(f"{r} {g} {b}" for b in (0, 1) for g in (0, 1) for r in (0, 1))


@pytest.fixture
def shelf(tmp_path, monkeypatch):
    monkeypatch.setattr(SHELF, "folder", tmp_path / "tables")
    return SHELF


def test_given_a_baked_conversion_when_written_and_read_then_the_table_is_the_same():
    lut = bake_grade(Grade.of(Convert(profile="log-mild")), size=17, domain=(0.0, 1.0))

    table = read_cube(cube_text(lut, title="mild"), "mild.cube")

    assert np.abs(table.cube - np.clip(lut.table, -0.5, 2)).max() < ROUND_TRIP


def test_given_a_byte_order_mark_when_a_cube_is_read_then_it_is_the_same_table():
    one, other = read_cube(CURVES_AND_CUBE, "a.cube"), read_cube("\ufeff" + CURVES_AND_CUBE, "b.cube")

    assert np.array_equal(one.apply(COLOURS), other.apply(COLOURS))


def test_given_a_cube_when_applied_then_another_reader_finds_the_same_colours(tmp_path):
    lut = bake_grade(Grade.of(Convert(profile="flat-a")), size=9, domain=(-0.07, 1.09))
    path = tmp_path / "flat.cube"
    path.write_text(cube_text(lut, title="flat"))
    transform = ocio.FileTransform(str(path), interpolation=ocio.INTERP_TETRAHEDRAL)
    theirs = COLOURS.copy().reshape(-1, 3)
    ocio.Config.CreateRaw().getProcessor(transform).getDefaultCPUProcessor().applyRGB(theirs)

    ours = read_cube(path.read_text(), "flat.cube").apply(COLOURS).reshape(-1, 3)

    assert np.abs(ours - theirs).max() < ROUND_TRIP


def test_given_curves_before_a_cube_when_applied_then_both_work_in_that_order():
    table = read_cube(CURVES_AND_CUBE, "both.cube")

    assert np.allclose(table.apply(COLOURS), 0.5 * COLOURS, atol=1e-6)


def test_given_a_long_cube_with_remarks_when_read_then_every_row_has_its_place_and_it_tells_how_far_it_is():
    rows = np.random.default_rng(3).uniform(0, 1, (33**3, 3)).round(6)
    lines = ["LUT_3D_SIZE 33", *(" ".join(map(str, row)) for row in rows)]
    lines[30_000:30_000] = ["", "# a remark", "  "]
    said = []

    table = read_cube("\n".join(lines), "long.cube", lambda done, total: said.append(done / total))

    assert np.allclose(table.cube.transpose(2, 1, 0, 3).reshape(-1, 3), rows, atol=1e-6)
    assert said == sorted(said) and said[-1] == 1 and len(said) == 2
    with pytest.raises(LutError, match="row 30005: “1 1 x” are no numbers"):
        read_cube("\n".join([*lines[:30_004], "1 1 x", *lines[30_005:]]), "long.cube")


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("", "names no size"),
        ("LUT_3D_SIZE 300\n", "row 1: LUT_3D_SIZE must be a whole number"),
        ("LUT_3D_SIZE two\n", "row 1: LUT_3D_SIZE must be a whole number"),
        ("LUT_1D_SIZE 2\n0 0 0\n", "should have 2 rows of numbers and has 1"),
        ("LUT_1D_SIZE 2\n0 0 0\n1 1 1\n1 1 1\n", "row 4 is too many"),
        ("LUT_1D_SIZE 2\n0 0 0\n1 nan 1\n", "row 3: “1 nan 1” lies outside"),
        ("LUT_1D_SIZE 2\n0 0 0\nnan 1 1\n", "row 3: “nan 1 1” lies outside"),
        ("LUT_1D_SIZE 2\n0 0 0\n1 1\n", "row 3: 3 numbers are wanted, 2 are there"),
        ("LUT_1D_SIZE 2\n0 0 0\n1 1 x1\n", "row 3: “1 1 x1” are no numbers"),
        ("LUT_1D_SIZE 2\n0 0 0\n1 1 99\n", "row 3: “1 1 99” lies outside"),
        ("SIZE 2\n", "row 1: “SIZE” is no keyword"),
        ("DOMAIN_MIN 1 1 1\nLUT_1D_SIZE 2\n", "row 1: the domain must rise"),
        ("<html>\n", "row 1: 3 numbers are wanted, 1 are there"),
    ],
)
def test_given_a_malformed_cube_when_read_then_row_and_reason_are_named(text, sentence):
    with pytest.raises(LutError, match=sentence):
        read_cube(text, "bad.cube")


@pytest.mark.parametrize("numbers", [(0.0863, 0.5824, 0.01675, 0.010), (0.1258, 0.6825, 0.03086, 0.012, 4.0)])
def test_given_a_log_profile_when_written_as_clf_and_read_then_its_numbers_return(numbers):
    curve = CameraLog.of(numbers)
    own = OwnProfile(name="Mine", kind=Kind.LOG, curve=curve, clip_stops=4.5)

    found = read_clf(clf_text(own.profile, curve=curve), "mine.clf")

    assert found.curve.numbers == pytest.approx(numbers, abs=1e-7)
    assert found.matrix is None


@pytest.mark.parametrize("key", ["std-709", "vivid-a", "flat-a"])
def test_given_any_other_profile_when_written_as_clf_and_read_then_its_light_returns(key):
    profile = PROFILES.get(key)

    table = read_clf(clf_text(profile, curve=None), "x.clf", gives_light=True).table

    assert np.abs(table.apply(COLOURS) - encode_bt709(profile.decode(COLOURS))).max() < ROUND_TRIP


def test_given_a_wide_profile_as_clf_when_read_then_the_matrix_comes_along():
    profile = PROFILES.get("log-wide")
    curve = CameraLog.of((0.0863, 0.5824, 0.01675, 0.010))

    found = read_clf(clf_text(profile, curve=curve), "wide.clf")

    assert np.array(found.matrix).reshape(3, 3).sum(axis=1) == pytest.approx([1, 1, 1], abs=1e-6)
    assert found.matrix[0] == pytest.approx(1.6604910, abs=1e-6)  # BT.2020 to BT.709


@pytest.mark.parametrize(
    "text",
    ["", "LUT_3D_SIZE 2", "<ProcessList", '<!DOCTYPE x [<!ENTITY a "b">]><ProcessList/>',
     '<ProcessList compCLFversion="3" id="x"><LUT1D><Array dim="2 1">0 1 2</Array></LUT1D></ProcessList>'],
)  # fmt: skip
def test_given_no_clf_when_read_then_it_is_refused_in_words(text):
    with pytest.raises(LutError, match=r"bad\.clf"):
        read_clf(text, "bad.clf")


@pytest.mark.parametrize("key", ["log-wide", "flat-a", "log-mild"])
def test_given_a_curve_as_csv_when_read_then_codes_return(key):
    profile = PROFILES.get(key)

    curve = read_stop_csv(stop_csv(profile), "curve.csv")

    light = 0.18 * 2.0 ** np.arange(-8, 3.1, 0.5)
    assert np.abs(curve.encode(light) - profile.encode(light)).max() < ROUND_TRIP


def test_given_semicolons_and_decimal_commas_when_read_then_they_are_understood():
    curve = read_stop_csv("Stop;Code8\n0;100,5\n-1;80\n1;121\n", "curve.csv")

    assert curve.points[1] == pytest.approx(((100.5 - 16) / 219, 0.0))


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("", "is empty"),
        ("a,b\n1,2\n", "row 1: the header must name stop"),
        ("stop,code10\n0,400\n1,x\n", "row 3: “x” is no number"),
        ("stop,code10\n0,400\n1,390\n2,500\n", "row 3: with more light the code must rise"),
        ("stop,code10\n0,400\n1,450\n", "has 2 rows"),
        ("stop,code10\n0,400\n1\n", "row 3: “” is no number"),
    ],
)
def test_given_a_malformed_csv_when_read_then_row_and_reason_are_named(text, sentence):
    with pytest.raises(LutError, match=sentence):
        read_stop_csv(text, "curve.csv")


def test_given_a_table_on_the_shelf_when_converted_with_then_it_is_the_conversion_it_was_made_from(shelf):
    lut = bake_grade(Grade.of(Convert(profile="log-lifted")), size=65, domain=(0.0, 1.0))
    digest = shelf.keep(read_cube(cube_text(lut, title="x"), "x.cube"))
    grey = np.repeat(np.linspace(0.15, 0.8, 50, dtype=np.float32)[:, None], 3, axis=1)

    by_table = evaluate(Grade.of(Convert(profile="table", table=digest, name="x")), grey)

    assert np.abs(by_table - evaluate(Grade.of(Convert(profile="log-lifted")), grey)).max() < 2e-3


@pytest.mark.parametrize("digest", ["", "f" * 64, "../../secret", "F" * 64])
def test_given_a_table_that_is_not_here_when_asked_for_then_its_name_is_said(shelf, digest):
    with pytest.raises(ColourError, match="“Sea” is not here"):
        Convert(profile="table", table=digest, name="Sea")


def test_given_a_profile_of_ones_own_when_converted_with_then_it_equals_the_built_in_of_the_same_numbers():
    curve = CameraLog.of((0.1258, 0.6825, 0.03086, 0.012))
    own = convert_of(OwnProfile(name="Mine", kind=Kind.LOG, curve=curve, clip_stops=4.75))

    ours, theirs = (evaluate(Grade.of(c), COLOURS) for c in (own, Convert(profile="log-mild")))

    assert np.abs(ours - theirs).max() < 1e-6

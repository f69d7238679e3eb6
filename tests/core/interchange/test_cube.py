"""Our .cube files read by OpenColorIO: the same colours as the grade, and strict text."""

import numpy as np
import PyOpenColorIO as ocio
import pytest

from morphe.core.errors import ColourError
from morphe.core.grade.convert import Convert
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Balance, Contrast, Exposure, HoldLights
from morphe.core.interchange.cube import cube_of, cube_text
from morphe.core.pipeline.cube import CubeLut
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.perception import delta_e_2000, encoded_to_lab

GRADES = {
    "none": Grade(),
    "corrected": Grade.of(Exposure(stops=0.5), Balance(warmth=20, tint=-3), Contrast(amount=12)),
    "log": Grade.of(Convert(profile="log-wide"), HoldLights(stops=2.0)),
}


def through_ocio(path, colours):
    """Apply a .cube file tetrahedrally to (n, 3) float32."""
    ocio.ClearAllCaches()
    transform = ocio.FileTransform(str(path), interpolation=ocio.INTERP_TETRAHEDRAL)
    processor = ocio.Config.CreateRaw().getProcessor(transform).getDefaultCPUProcessor()
    out = np.ascontiguousarray(colours, np.float32).copy()
    processor.applyRGB(out)
    return out


@pytest.mark.parametrize("name", GRADES)
@pytest.mark.parametrize("outside", [False, True])
def test_given_a_grade_when_written_and_read_by_another_library_then_colours_agree(tmp_path, name, outside):
    grade = GRADES[name]
    path = tmp_path / f"{name}.cube"
    path.write_text(cube_text(cube_of(grade, outside_nominal=outside), title="test"))
    generator = np.random.default_rng(1)
    colours = np.clip(generator.uniform(0, 1, (4000, 1)) + generator.normal(0, 0.08, (4000, 3)), 0, 1)

    found = through_ocio(path, colours)

    expected = evaluate(grade, colours.astype(np.float32))
    assert delta_e_2000(encoded_to_lab(found), encoded_to_lab(expected)).mean() < 0.3


def test_given_a_table_when_written_then_red_runs_fastest_and_every_line_is_there(tmp_path):
    lines = cube_text(cube_of(Grade(), outside_nominal=False, size=5), title='a "quoted" café').splitlines()

    rows = [line.split() for line in lines if line[0] in "-0123456789"]

    assert lines[0] == 'TITLE "a quoted caf"'
    assert "LUT_3D_SIZE 5" in lines and not any(line.startswith("DOMAIN") for line in lines)
    assert len(rows) == 125
    assert rows[1] == ["0.250000", "0.000000", "0.000000"] and rows[5] == ["0.000000", "0.250000", "0.000000"]


def test_given_codes_outside_nominal_when_written_then_the_domain_says_so():
    text = cube_text(cube_of(Grade(), outside_nominal=True, size=5), title="wide")

    assert "DOMAIN_MIN -0.07 -0.07 -0.07" in text and "DOMAIN_MAX 1.09 1.09 1.09" in text


def test_given_a_value_that_is_no_number_when_written_then_it_is_refused():
    table = np.zeros((3, 3, 3, 3), np.float32)
    table[1, 1, 1, 0] = np.nan

    with pytest.raises(ColourError, match="no numbers"):
        cube_text(CubeLut(table=table), title="broken")

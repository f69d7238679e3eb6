"""Tables of a grade that moves, and the person's own tables on their shelf."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.errors import ColourError
from morphe.core.grade.convert import Convert
from morphe.core.grade.even_out import EvenOut
from morphe.core.grade.grade import Grade
from morphe.core.grade.table import ConversionTable, TableShelf
from morphe.core.pipeline.passes import compile_grade
from morphe.core.pipeline.planes import Grader
from morphe.core.pipeline.tables import CodesIn
from morphe.core.signal.tetrahedra import interpolate
from morphe.core.signal.ycbcr import Matrix, Range

CODES = CodesIn(bit_depth=8, range=Range.NARROW, matrix=Matrix.BT709)
SWING = tuple((t / 20, *(3 * (float(np.sin(t / 16)),))) for t in range(160))
ONE_CODE = 1.0


def planes():
    """Every luma with some chroma, as 4:2:0 planes."""
    luma = np.tile(np.arange(256, dtype=np.uint8), (8, 1))
    chroma = np.tile(np.linspace(90, 160, 128).astype(np.uint8), (4, 1))
    return luma, chroma, chroma[:, ::-1].copy()


def graded(grade, moment=0.0):
    source = planes()
    out = tuple(np.empty_like(p) for p in source)
    Grader(compile_grade(grade), CODES, 8).grade(source, moment, out)
    return np.concatenate([p.ravel().astype(float) for p in out])


def moving(track=SWING, amount=100):
    return Grade.of(Convert(profile="log-mild"), EvenOut(amount=amount, ceiling=4.8, track=track))


@pytest.mark.parametrize("moment", [0.0, 0.37, 1.9, 4.44, 7.8, 99.0])
def test_given_any_moment_when_a_table_is_blended_then_it_is_that_baked_for_the_moment(moment):
    grade = moving()

    blended = graded(grade, moment)

    exact = graded(grade.at(moment))
    assert np.abs(blended - exact).mean() < 0.25 * ONE_CODE
    assert np.percentile(np.abs(blended - exact), 99) <= 2 * ONE_CODE


def test_given_light_that_holds_when_knots_are_set_then_two_are_enough_and_a_swing_needs_more():
    still = tuple((t / 5, 0.2, 0.2, 0.2) for t in range(200))

    few, many = (len(compile_grade(moving(track)).passes[0].knots) for track in (still, SWING))

    assert few == 2
    assert 10 < many < len(SWING)


def test_given_a_moment_held_when_asked_again_then_the_same_grade_comes():
    grade = moving().at(1.0)

    assert grade.at(2.0) is grade
    assert not grade.moves
    assert moving(amount=0).moves is False


@given(values=st.lists(st.floats(-0.5, 1.5), min_size=3, max_size=3))
def test_given_a_cube_that_changes_nothing_when_looked_up_then_values_return_and_edges_are_held(values):
    axis = np.linspace(0, 1, 9, dtype=np.float32)
    cube = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1)
    picture = np.array([values], np.float32)

    assert np.allclose(interpolate(cube, picture, (0.0, 1.0)), np.clip(picture, 0, 1), atol=1e-6)


def test_given_numbers_that_are_none_when_looked_up_then_they_are_refused():
    with pytest.raises(ColourError, match="no numbers"):
        interpolate(np.zeros((2, 2, 2, 3), np.float32), np.full((1, 3), np.nan, np.float32), (0.0, 1.0))


def curves(power):
    ramp = np.linspace(0, 1, 33, dtype=np.float32) ** np.float32(power)
    return ConversionTable(
        low=np.zeros(3, np.float32), high=np.ones(3, np.float32), curves=np.stack([ramp, ramp, ramp])
    )


def test_given_tables_when_put_on_a_shelf_then_equal_ones_share_a_name_and_return_whole(tmp_path):
    shelf = TableShelf()
    shelf.folder = tmp_path / "shelf"

    one, same, other = (shelf.keep(curves(p)) for p in (0.5, 0.5, 0.6))

    assert one == same != other
    assert len(list((tmp_path / "shelf").iterdir())) == 2
    picture = np.random.default_rng(1).uniform(0, 1, (5, 3)).astype(np.float32)
    assert np.allclose(shelf.get(one).apply(picture), curves(0.5).apply(picture))
    assert curves(0.5).words == "curves of 33 entries"


def test_given_no_shelf_when_a_table_is_kept_then_it_is_said():
    with pytest.raises(ColourError, match="no place to keep"):
        TableShelf().keep(curves(0.5))


def test_given_a_domain_when_applied_then_values_beyond_it_hold_the_edge():
    wide = ConversionTable(
        low=np.full(3, -0.1, np.float32), high=np.full(3, 1.1, np.float32),
        curves=np.repeat(np.array([[0.0, 1.0]], np.float32), 3, axis=0),
    )  # fmt: skip

    out = wide.apply(np.array([[-5.0, 0.5, 9.0]], np.float32))

    assert out[0] == pytest.approx([0.0, 0.5, 1.0], abs=1e-6)

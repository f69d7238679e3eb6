"""Dive logs and typed depths: read for the clip's own seconds, refused with a sentence."""

import pytest

from morphe.core.errors import ColourError
from morphe.core.interchange.dive_log import read_depths, read_dive_log
from morphe.core.standins.dives import DIVE_LOG, depth_at

LOG = "time_s,depth_m\n0,2\n10,4\n20,8\n"


def test_given_a_log_when_read_then_the_clips_part_is_taken_with_its_ends():
    found = read_dive_log(LOG, "dive.csv", begins_s=5, duration_s=10)

    assert found == ((0.0, 3.0), (5.0, 4.0), (10.0, 6.0))


def test_given_other_names_a_semicolon_and_minutes_when_read_then_they_are_understood():
    assert read_dive_log("Time;Depth\n0:00;2,5\n1:00;3,5\n", "d.csv", duration_s=30) == (
        (0.0, 2.5),
        (30.0, 3.0),
    )


def test_given_the_demos_log_when_read_then_it_is_the_descent():
    found = read_dive_log(DIVE_LOG, "descent.csv", duration_s=4.0)

    assert [depth for _, depth in found] == pytest.approx([depth_at(t) for t, _ in found], abs=0.05)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "is no dive log"), ("a,b\n1,2\n", "must name time_s and depth_m"),
        ("time_s,depth_m\nx,2\n", "row 2: “x” is no number"), ("time_s,depth_m\n1\n", "is no number"),
        ("time_s,depth_m\n100,2\n", "no depth within the clip"), ("time_s,depth_m\n", "no depth within"),
        ("time_s,depth_m\n1:2:3:4,2\n", "is no time"), ("time_s,depth_m\nnan,2\n", "no usable number"),
        ("x" * 1_000_001, "far too long"), ("time_s,depth_m\n0," + "9" * 140_000, "too long"),
    ],
)  # fmt: skip
def test_given_a_log_that_cannot_be_used_when_read_then_it_says_why(text, words):
    with pytest.raises(ColourError, match=words):
        read_dive_log(text, "dive.csv", duration_s=4.0)


def test_given_a_long_log_when_read_then_no_more_points_are_kept_than_are_needed():
    rows = "".join(f"{n / 100},{2 + n / 1000}\n" for n in range(2000))

    found = read_dive_log("time_s,depth_m\n" + rows, "dive.csv", duration_s=19.0)

    assert len(found) <= 400 and found[0][0] == 0.0 and found[-1][0] == 19.0


def test_given_depths_typed_at_moments_when_read_then_they_reach_over_the_clip():
    assert read_depths("0 2; 4,0 9", 4.0) == ((0.0, 2.0), (4.0, 9.0))
    assert read_depths("  ", 4.0) == ()
    for text in ("2", "0 2 4", "a b"):
        with pytest.raises(ColourError):
            read_depths(text, 4.0)

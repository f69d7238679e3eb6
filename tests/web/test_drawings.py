"""What is drawn: the exposure stack to scale, latitude, sun, depth, room on the card, curves and fits."""

import json
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.plan.card import shoot_card
from morphe.core.plan.exposure import Pins
from morphe.core.plan.light import LIGHTS
from morphe.core.plan.questions import Questions
from morphe.core.plan.shots import SHOTS
from morphe.core.signal.camera_log import CameraLog
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.kits import KITS
from morphe.web.library.services.drawing import drawn, fit_drawn
from morphe.web.plan.services.drawings import (
    Scale,
    depth_drawing,
    latitude_drawing,
    stack_drawing,
    storage_drawing,
    sun_drawing,
)

SANDPIPER, CUTTLE, FERN = KITS.values()
CLOSE = 0.02  # percent of a drawing: places are rounded to hundredths


def card(kit=SANDPIPER, pins=None, **answers):
    return shoot_card(Questions.from_json(answers), kit, pins=Pins(**(pins or {})))


@given(
    kit=st.sampled_from(list(KITS.values())),
    light=st.sampled_from(list(LIGHTS)),
    shot=st.sampled_from(list(SHOTS)),
)
def test_given_any_card_when_its_stack_is_drawn_then_bars_join_and_all_lies_inside(kit, light, shot):
    drawing = stack_drawing(card(kit, light=light, shot=shot), {})
    rows = drawing["rows"]

    for above, below in pairwise(rows):
        assert above["end"] == pytest.approx(below["start"], abs=CLOSE)
    assert rows[-1]["end"] == pytest.approx(drawing["lands_at"], abs=CLOSE)
    assert all(0 <= place <= 100 for row in rows for place in (row["start"], row["end"]))


def test_given_a_stack_when_drawn_then_a_stop_is_as_long_everywhere():
    found = card(light="sun")
    drawing = stack_drawing(found, {})

    per_stop = 100 / (drawing["high"] - drawing["low"])
    for row in drawing["rows"]:
        assert row["bar"]["width"] == pytest.approx(abs(row["share"].stops) * per_stop, abs=2 * CLOSE)


def test_given_a_part_that_can_be_dragged_when_drawn_then_its_stops_are_what_the_camera_has():
    rows = {row["share"].key: row for row in stack_drawing(card(light="sun"), {"iso": 400})["rows"]}

    shutters = json.loads(rows["shutter"]["options"])
    assert rows["iso"]["pinned"] and not rows["shutter"]["pinned"]
    assert shutters[rows["shutter"]["index"]][2] == rows["shutter"]["share"].value
    assert rows["aperture"]["options"] == ""  # a drone's is fixed
    assert {name for _, _, name in json.loads(rows["filter"]["options"])} == {
        "no ND",
        *(f.name for f in SANDPIPER.densities),
    }


@pytest.mark.parametrize(("contrast", "fits"), [(5, True), (15, False)])
def test_given_a_scene_when_laid_over_the_profile_then_what_does_not_fit_is_marked(contrast, fits):
    drawing = latitude_drawing(card(light="sun", contrast_stops=contrast))

    assert drawing["fits"] is fits
    assert (drawing["clips"]["width"] + drawing["drowns"]["width"] == 0) is fits
    assert drawing["sentence"].endswith(".")


def test_given_a_place_and_a_day_when_the_sun_is_drawn_then_its_path_rises_and_falls():
    drawing = sun_drawing(card(place="wrenfleet", day="2026-06-21", light="sky"))

    height = points(drawing["points"])[:, 1]
    top = int(np.argmin(height))  # up is towards 0
    assert (np.diff(height[:top]) < 0.5).all() and (np.diff(height[top:]) > -0.5).all()
    assert 40 < 100 * top / len(height) < 65
    assert {w["key"] for w in drawing["windows"]} >= {"golden", "hard"}
    assert all(0 <= w["x"] <= 100 and w["width"] > 0 for w in drawing["windows"])
    assert sun_drawing(card()) is None


def test_given_a_dive_when_its_depth_is_drawn_then_it_is_and_a_flight_has_none():
    drawing = depth_drawing(card(CUTTLE, shot="dive", light="sun", depth_m=9))

    deeper = depth_drawing(card(CUTTLE, shot="dive", light="sun", depth_m=15))
    assert [b.name for b in drawing.bars] == ["Red", "Green", "Blue"]
    assert all(low.full <= high.full for low, high in zip(deeper.bars, drawing.bars, strict=True))
    assert 18 < drawing.subject[1] < 132 and "A subject at 9 m" in drawing.words
    assert depth_drawing(card()) is None


@pytest.mark.parametrize(("left", "enough"), [(100, True), (1, False)])
def test_given_room_on_the_card_when_drawn_then_too_little_is_seen(left, enough):
    drawing = storage_drawing(card(storage_left_gb=left, minutes=30))

    assert drawing["is_enough"] is enough
    assert 0 <= drawing["needed"] <= 100 and 0 <= drawing["usable"] <= 100


@given(low=st.floats(-20, 0), width=st.floats(1, 40), share=st.floats(0, 1))
def test_given_a_scale_when_a_value_is_placed_then_it_lies_at_its_share(low, width, share):
    assert Scale(low, low + width).at(low + share * width) == pytest.approx(100 * share, abs=CLOSE)


def points(line):
    return np.array([[float(v) for v in pair.split(",")] for pair in line.split()])


@pytest.mark.parametrize("key", list(PROFILES))
def test_given_any_profile_when_drawn_then_its_curve_rises_and_its_stops_lie_on_it(key):
    drawing = drawn(PROFILES.get(key))
    line = points(drawing.line)

    assert (np.diff(line[:, 0]) > 0).all()
    assert (np.diff(line[:, 1]) <= CLOSE).all()  # up is towards 0
    for stop in drawing.stops:
        assert stop.y == pytest.approx(np.interp(stop.x, line[:, 0], line[:, 1]), abs=0.6)
        assert abs(int(stop.codes10) - 4 * float(stop.codes8)) <= 3


def test_given_a_fit_when_drawn_then_its_points_and_its_usable_range_are_placed():
    curve = CameraLog.of((0.0863, 0.5824, 0.01675, 0.010))
    readings = [(s, float(curve.encode(np.array(0.18 * 2.0**s)))) for s in (-4, 0, 4)]

    drawing = fit_drawn(curve.encode, 5.0, readings, (-4.0, 5.0))

    line = points(drawing.line)
    for x, y in drawing.points:
        assert y == pytest.approx(np.interp(x, line[:, 0], line[:, 1]), abs=0.5)
    assert drawing.usable[0] == pytest.approx(drawing.points[0][0], abs=CLOSE)
    assert drawing.usable[1] > 0

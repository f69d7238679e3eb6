"""Changes of two pages to one grade: none is lost, and where both changed the same, the later stands."""

from dataclasses import replace

from hypothesis import given, settings

from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer, Scope
from morphe.core.grade.merge import merge
from morphe.core.grade.region import Ellipse, Region
from morphe.core.grade.steps import Balance, Contrast, Exposure, Saturation, Tint
from tests.strategies import stacked_grades

BASE = Grade.of(Exposure(stops=0.3), Contrast(amount=5)).with_layer(
    Layer(id="style", scope=Scope.STYLE, steps=(Tint(dark=20),), strength=0.6)
)


@settings(max_examples=30)
@given(base=stacked_grades(), changed=stacked_grades())
def test_given_one_side_that_changed_nothing_when_merged_then_the_other_is_the_result(base, changed):
    assert merge(base, base, changed) == changed
    assert merge(base, changed, base) == changed


def test_given_different_steps_changed_when_merged_then_both_changes_are_there():
    mine = BASE.with_step(Exposure(stops=1)).with_step(Balance(warmth=10))
    theirs = BASE.with_step(Saturation(amount=8)).without_step("contrast")

    found = merge(BASE, mine, theirs)

    assert [s.key for s in found.layer("clip").steps] == ["exposure", "balance", "saturation"]
    assert found.step("exposure").stops == 1


def test_given_the_same_step_changed_when_merged_then_mine_stands():
    found = merge(BASE, BASE.with_step(Exposure(stops=1)), BASE.with_step(Exposure(stops=-1)))

    assert found.step("exposure").stops == 1


def test_given_strength_and_a_step_of_one_layer_when_merged_then_the_layer_has_both():
    style = BASE.layer("style")
    mine = BASE.with_layer(replace(style, strength=0.3))
    theirs = BASE.with_layer(style.with_step(Saturation(amount=-20)))

    found = merge(BASE, mine, theirs).layer("style")

    assert found.strength == 0.3 and {s.key for s in found.steps} == {"saturation", "tint"}


def test_given_a_layer_taken_away_or_added_when_merged_then_it_is_so():
    part = Layer(id="part", steps=(Exposure(stops=1),))

    added = merge(BASE, BASE.with_step(Exposure(stops=1)), BASE.with_layer(part))
    gone = merge(BASE.with_layer(part), BASE.with_layer(part).with_step(Exposure(stops=1)), BASE)

    assert added.layer("part") == part and not gone.has_layer("part")


def test_given_parts_drawn_on_two_sides_when_merged_then_both_are_there_and_what_they_are_stays():
    one, other = (Layer(id="region-1", region=Region(shape=Ellipse(wide=w, tall=0.2))) for w in (0.1, 0.3))

    found = merge(BASE, BASE.with_layer(one), BASE.with_layer(other))
    left_out = merge(
        BASE.with_layer(one), BASE.with_layer(one).with_step(Exposure(stops=1)),
        BASE.with_layer(replace(one, left_out=True)),
    )  # fmt: skip

    assert found.layer("region-1") == other and found.layer("region-2") == replace(one, id="region-2")
    assert left_out.layer("region-1").left_out and left_out.step("exposure").stops == 1

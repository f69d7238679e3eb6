"""Families, skin, casts by tone and curves: they do what they say, and leave the rest alone."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.errors import ColourError
from morphe.core.grade.grade import Grade
from morphe.core.grade.recipe import from_json, to_json
from morphe.core.grade.steps import Casts, Contrast, Curves, Families, Saturation, SkinTurn
from morphe.core.grade.steps.curves import bent
from morphe.core.grade.steps.families import MOST_EDITS, Edit
from morphe.core.measure.readings import luma_of, oklab_of
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.hues import FAMILIES, family_of, within_reach
from morphe.core.signal.perception import delta_e_2000, encoded_to_lab, oklab_to_linear
from morphe.core.signal.transfer import encode_bt1886
from morphe.core.signal.ycbcr import rgb_to_ycbcr, ycbcr_to_rgb
from tests.strategies import edits


def of_hue(hues, lightness=0.6, chroma=0.1):
    """Encoded colours (n, 3) of hues in degrees."""
    angle = np.radians(np.asarray(hues, float))
    lab = np.stack([np.full(angle.shape, lightness), chroma * np.cos(angle), chroma * np.sin(angle)], -1)
    return encode_bt1886(oklab_to_linear(lab)).astype(np.float32)


def apart(one, other):
    return delta_e_2000(encoded_to_lab(one), encoded_to_lab(other))


def hue_of(picture):
    lab = oklab_of(picture)
    return np.degrees(np.arctan2(lab[..., 2], lab[..., 1])) % 360


def edit_of(key, **numbers):
    family = FAMILIES.get(key)
    return Edit(family.at, family.below, family.above, **numbers)


# --- families ----------------------------------------------------------------------------------------


@pytest.mark.parametrize("key", list(FAMILIES))
@pytest.mark.parametrize("numbers", [{"hue": 15}, {"strength": -60}, {"strength": 60}, {"depth": 20}])
def test_given_an_edit_of_a_family_when_applied_then_its_members_change_and_the_others_stay(key, numbers):
    own = of_hue([FAMILIES.get(key).at])
    others = of_hue([family.at for family in FAMILIES.values() if family.key != key])
    grade = Grade.of(Families(edits=(edit_of(key, **numbers),)))

    assert apart(evaluate(grade, own), own) > 1.0
    assert apart(evaluate(grade, others), others).max() < 0.5


def test_given_the_circle_when_shared_out_then_every_hue_is_shared_among_families_alone():
    hues = np.linspace(0, 360, 721)

    total = sum(within_reach(hues, f.at, f.below, f.above) for f in FAMILIES.values())

    assert total == pytest.approx(np.ones(721), abs=1e-9)
    assert [family_of(f.at).key for f in FAMILIES.values()] == list(FAMILIES)


@given(given_edits=st.lists(edits(), max_size=4))
def test_given_any_edits_when_hues_are_turned_then_they_keep_their_order_and_a_slope(given_edits):
    step = Families(edits=tuple(given_edits))
    hues = np.arange(0, 360, 0.5)
    angle = np.radians(hues)
    lab = np.stack([np.full(hues.shape, 0.6), 0.09 * np.cos(angle), 0.09 * np.sin(angle)], -1)

    after = step.changed(lab.astype(np.float32))
    kept = np.hypot(after[:, 1], after[:, 2]) > 1e-4  # a hue whose colour is all gone has none
    turned = np.unwrap(np.degrees(np.arctan2(after[:, 2], after[:, 1])), period=360)
    slopes = np.diff(turned)[kept[1:] & kept[:-1]] / 0.5

    assert (slopes > 0.15).all() and (slopes < 3.2).all()


@given(edit=edits(), hue=st.floats(0, 359))
def test_given_any_edit_when_chroma_rises_then_it_rises_after_too(edit, hue):
    chroma = np.linspace(0.06, 0.3, 60)
    angle = np.radians(hue)
    lab = np.stack([np.full(60, 0.6), chroma * np.cos(angle), chroma * np.sin(angle)], -1)

    after = Families(edits=(edit,)).changed(lab.astype(np.float32))

    assert (np.diff(np.hypot(after[:, 1], after[:, 2])) > -1e-6).all()


def test_given_strength_raised_when_applied_then_weak_members_gain_and_strong_ones_are_held():
    weak, strong = of_hue([128], chroma=0.05), of_hue([128], chroma=0.22)
    grade = Grade.of(Families(edits=(edit_of("greens", strength=80),)))

    gains = [
        float(np.hypot(*oklab_of(evaluate(grade, c))[0, 1:]) / np.hypot(*oklab_of(c)[0, 1:]))
        for c in (weak, strong)
    ]

    assert gains[0] > 1.4 and gains[1] < 1.1


def test_given_a_tone_when_strength_works_there_then_the_other_end_stays():
    dark, bright = of_hue([55], lightness=0.25, chroma=0.05), of_hue([55], lightness=0.8, chroma=0.05)
    grade = Grade.of(Families(edits=(edit_of("oranges", strength=-50, tone=-100),)))

    assert apart(evaluate(grade, dark), dark) > 1.5
    assert apart(evaluate(grade, bright), bright) < 0.1


def test_given_edits_when_kept_in_a_recipe_then_they_come_back_and_odd_ones_are_refused():
    grade = Grade.of(Families(edits=(edit_of("reds", strength=-30), Edit(200, 20, 30, hue=5))))

    assert from_json(to_json(grade)) == grade
    for wrong in (((1.0, 2.0),), (edit_of("reds", hue=99),), (edit_of("reds"),) * (MOST_EDITS + 1)):
        with pytest.raises(ColourError):
            Families(edits=wrong)


# --- skin --------------------------------------------------------------------------------------------


def of_angle(angle, radius=0.1, luma=0.55):
    at = np.radians(angle)
    return ycbcr_to_rgb(np.array([[luma, radius * np.cos(at), radius * np.sin(at)]])).astype(np.float32)


def angle_of(picture):
    _, blue, red = rgb_to_ycbcr(picture)[0]
    return float(np.degrees(np.arctan2(red, blue)))


@given(turn=st.floats(-15, 15), luma=st.floats(0.2, 0.85))
def test_given_skin_off_its_line_when_turned_then_it_lies_there_and_keeps_luma_and_strength(turn, luma):
    skin = of_angle(123 - turn, luma=luma)

    out = evaluate(Grade.of(SkinTurn(turn=turn, centre=123 - turn)), skin)

    assert angle_of(out) == pytest.approx(123, abs=0.1)
    assert luma_of(out) == pytest.approx(luma_of(skin), abs=1e-5)


@pytest.mark.parametrize("away", [-75, -60, 60, 90, 180])
def test_given_other_colours_when_skin_is_turned_then_they_stay(away):
    other = of_angle(123 + away)

    assert apart(evaluate(Grade.of(SkinTurn(turn=10, centre=113)), other), other).max() < 0.05


@given(turn=st.floats(-20, 20), reach=st.floats(8, 40))
def test_given_any_turn_when_hues_pass_through_then_they_keep_their_order(turn, reach):
    angles = np.arange(0, 360, 0.5)
    colours = np.concatenate([of_angle(a) for a in angles])

    out = evaluate(Grade.of(SkinTurn(turn=turn, reach=reach)), colours)
    ycc = rgb_to_ycbcr(out)
    turned = np.unwrap(np.degrees(np.arctan2(ycc[:, 2], ycc[:, 1])), period=360)

    assert (np.diff(turned) > 0).all()


# --- casts by tone -------------------------------------------------------------------------------------


@pytest.mark.parametrize(("name", "luma"), [("dark", 0.12), ("bright", 0.9)])
def test_given_a_cast_in_one_end_when_taken_out_then_the_other_end_and_the_middle_stay(name, luma):
    cast = ycbcr_to_rgb(np.array([[luma, 0.02, -0.01]])).astype(np.float32)
    others = np.repeat(np.array([[0.5], [1.0 - luma]], np.float32), 3, axis=1)
    # percent warmer and greener that undo (.02, -.01): the axes stand upright on each other
    warmth, green = 100 * 0.02 * 0.766 + 100 * 0.01 * 0.643, 100 * 0.02 * 0.643 - 100 * 0.01 * 0.766
    step = Casts(**{f"{name}_warmth": warmth, f"{name}_green": green})

    assert abs(rgb_to_ycbcr(evaluate(Grade.of(step), cast))[0, 1:]).max() < 0.002
    assert evaluate(Grade.of(step), others) == pytest.approx(others, abs=2e-3)


# --- curves, contrast, saturation ------------------------------------------------------------------------


@given(levels=st.lists(st.floats(0, 100), min_size=3, max_size=5).map(sorted))
def test_given_points_that_rise_when_bent_then_the_curve_goes_through_them_and_never_falls(levels):
    at = np.linspace(0, 100, len(levels))
    points = tuple(zip(at.tolist(), levels, strict=True))

    values = bent(points, np.linspace(-0.1, 1.1, 500, dtype=np.float32))

    assert (np.diff(values) > -1e-6).all()
    assert bent(points, at / 100) == pytest.approx(np.array(levels) / 100, abs=2e-3)


@pytest.mark.parametrize(
    "wrong",
    [((0.0, 0.0),), ((0.0, 10.0), (100.0, 5.0)), ((0.0, 0.0), (0.5, 50.0)), ((0.0, float("nan")), (9.0, 9.0)),
     ((0.0, -50.0), (100.0, 100.0)), "straight"],
)  # fmt: skip
def test_given_points_that_do_not_rise_or_are_none_when_made_then_curves_refuse_them(wrong):
    with pytest.raises(ColourError):
        Curves(red=wrong)


def test_given_contrast_with_colour_held_when_applied_then_tones_spread_and_colour_stays():
    picture = of_hue([30, 140, 250], chroma=0.06)
    free, held = (evaluate(Grade.of(Contrast(amount=60, hold=h)), picture) for h in (0, 100))

    chroma = [np.hypot(*rgb_to_ycbcr(p)[:, 1:].T) for p in (picture, free, held)]
    assert luma_of(held) == pytest.approx(luma_of(free), abs=1e-5)
    assert chroma[2] == pytest.approx(chroma[0], abs=1e-5) and (chroma[1] > chroma[0]).all()


@pytest.mark.parametrize(("name", "lightness"), [("dark", 0.12), ("bright", 0.983)])
def test_given_colour_in_an_end_when_taken_out_then_it_is_neutral_and_the_middle_keeps_its_own(
    name, lightness
):
    end, middle = of_hue([250], lightness=lightness, chroma=0.006), of_hue([250])
    grade = Grade.of(Saturation(**{name: 100}))

    assert np.ptp(evaluate(grade, end)) < 2e-3
    assert evaluate(grade, middle) == pytest.approx(middle, abs=1e-5)


def test_given_muted_colours_lifted_when_applied_then_it_is_by_the_formula_and_skin_is_spared():
    lab = [oklab_of(evaluate(Grade.of(Saturation(muted=50)), of_hue([h], chroma=0.06))) for h in (200, 48)]

    chroma = [float(np.hypot(*one[0, 1:])) for one in lab]
    assert chroma == pytest.approx([0.08336, 0.06701], abs=2e-4)

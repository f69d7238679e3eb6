"""The 24-patch target: corners, balance and matrix, references from files; and noise in a patch."""

import numpy as np
import pytest

from morphe.core.errors import ColourError, LutError
from morphe.core.interchange.reference import read_reference, reference_csv
from morphe.core.measure.card import read_card
from morphe.core.measure.noise import noise_of
from morphe.core.measure.target import MADE_UP, Reference, fit_target, read_patches
from morphe.core.signal.perception import delta_e_2000, linear_to_lab
from morphe.core.standins.lab import TARGET_CORNERS, UNKNOWN_MATRIX, target_scene


@pytest.fixture(scope="module")
def scene():
    return target_scene()


def test_given_a_target_held_askew_when_its_corners_are_placed_then_each_patch_is_read(scene):
    assert np.abs(read_patches(scene, TARGET_CORNERS) - MADE_UP.linear).max() < 2e-3


def test_given_an_unknown_camera_when_fitted_then_its_colours_and_its_balance_are_undone(scene):
    light = np.array([1.2, 1.0, 0.8])
    seen = read_patches(0.7 * (scene @ UNKNOWN_MATRIX.T) * light, TARGET_CORNERS)

    fit = fit_target(seen, MADE_UP)

    undone = np.array(fit.whole).reshape(3, 3) @ np.diag(light) @ UNKNOWN_MATRIX
    assert undone / undone[1, 1] == pytest.approx(np.eye(3), abs=0.02)
    assert np.array(fit.matrix).reshape(3, 3).sum(axis=1) == pytest.approx([1, 1, 1])
    assert np.mean(fit.after) < 0.3 * np.mean(fit.before)


def test_given_a_camera_that_sees_true_when_fitted_then_nothing_is_changed(scene):
    fit = fit_target(read_patches(scene, TARGET_CORNERS), MADE_UP)

    assert np.array(fit.whole).reshape(3, 3) == pytest.approx(np.eye(3), abs=0.02)
    assert max(fit.after) < 0.5


@pytest.mark.parametrize(
    ("corners", "sentence"),
    [
        (((0.1, 0.1), (0.1, 0.1), (0.1, 0.1), (0.1, 0.1)), "span no target"),
        (((0.1, 0.1), (0.9, 0.9), (0.9, 0.1), (0.1, 0.9)), "span no target"),
        (((-0.2, 0.1), (0.9, 0.1), (0.9, 0.9), (0.1, 0.9)), "outside the picture"),
        (((0.1, 0.1), (0.9, 0.1)), "span no target"),
    ],
)
def test_given_corners_that_cannot_be_when_read_then_they_are_refused_in_words(scene, corners, sentence):
    with pytest.raises(ColourError, match=sentence):
        read_patches(scene, corners)


def test_given_a_target_upside_down_when_fitted_then_it_is_noticed(scene):
    turned = (*TARGET_CORNERS[2:], *TARGET_CORNERS[:2])

    with pytest.raises(ColourError, match="which way up"):
        fit_target(read_patches(scene, turned), MADE_UP)


def test_given_a_reference_when_written_and_read_then_its_values_return():
    again = read_reference(reference_csv(MADE_UP), "x.csv")

    assert again.names == MADE_UP.names
    assert np.abs(np.array(again.lab) - np.array(MADE_UP.lab)).max() < 1e-4


def test_given_a_cgats_file_when_read_then_greys_under_d50_are_greys_under_d65():
    rows = "\n".join(f"{i} {lab[0]} {lab[1]} {lab[2]}" for i, lab in enumerate(MADE_UP.lab, 1))
    head = "CGATS.17\nBEGIN_DATA_FORMAT\nSAMPLE_ID LAB_L LAB_A LAB_B\nEND_DATA_FORMAT"
    text = f"{head}\nBEGIN_DATA\n{rows}\nEND_DATA\n"

    read = read_reference(text, "x.txt")

    greys = np.array(read.lab)[MADE_UP.neutrals]
    assert np.abs(greys[:, 1:]).max() < 0.05
    assert delta_e_2000(np.array(read.lab), np.array(MADE_UP.lab)).max() > 0.5  # colours do adapt


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("", "is empty"),
        ("name,r,g,b\n", "no columns of CIELAB"),
        ("name,L,a,b\nx,1,2,3\n", "has 1 patches"),
        ("name,L,a,b\n" + "x,1,2,3\n" * 23 + "x,1,two,3\n", "row 25: “two” is no number"),
        ("name,L,a,b\n" + "x,1,2,3\n" * 23 + "x,1,2000,3\n", "row 25: “2000” is no value"),
    ],
)
def test_given_a_malformed_reference_when_read_then_row_and_reason_are_named(text, sentence):
    with pytest.raises(LutError, match=sentence):
        read_reference(text, "bad.csv")


def test_given_a_reference_of_other_size_when_made_then_it_is_refused():
    with pytest.raises(ColourError, match="24 patches"):
        Reference(names=("a",), lab=((1.0, 2.0, 3.0),))


@pytest.mark.parametrize("sigma", [1.0, 3.0, 8.0])
def test_given_noise_of_known_strength_when_measured_then_it_is_found(sigma):
    # Immerkær 1996, with the median: 1.00, 3.00, 8.00
    plane = np.random.default_rng(1).normal(100, sigma, (360, 640)).astype(np.float32)

    assert noise_of(plane) == pytest.approx(sigma, rel=0.03)


def test_given_lab_values_when_sent_to_light_and_back_then_they_return():
    lab = np.array(MADE_UP.lab)

    assert linear_to_lab(MADE_UP.linear) == pytest.approx(lab, abs=1e-9)


@pytest.mark.parametrize(
    ("region", "sentence"),
    [((0.5, 0.5, 0.4, 0.6), "outside the picture"), ((0.5, 0.5, 0.501, 0.6), "smaller than"),
     ((0.0, 0.0, 1.0, 1.0), "more than a plain surface")],
)  # fmt: skip
def test_given_a_region_that_is_no_card_when_read_then_it_is_refused_in_words(region, sentence):
    picture = np.zeros((90, 160, 3), np.float32)
    picture[30:60, 50:110] = 0.4

    with pytest.raises(ColourError, match=sentence):
        read_card([picture], region, 0.0)

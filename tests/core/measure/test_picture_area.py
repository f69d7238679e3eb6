"""Bars, a blurred copy and writing about moving pictures drawn by chance: found, and nothing else taken."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.advise.counted import Counted, edges_about
from morphe.core.grade.grade import Grade
from morphe.core.grade.region import Ellipse, Region
from morphe.core.grade.steps import Exposure, Saturation
from morphe.core.measure.picture_area import PictureArea, area_of, filled
from morphe.core.measure.surround import Surround
from morphe.core.pipeline.reference import evaluate
from tests.footage import other_scene

SIZE = (320, 180)


def moving(seed: int, gain: float = 1.0, size: tuple[int, int] = SIZE) -> list[np.ndarray]:
    """Nine moments of a camera that moves over things."""
    at = np.linspace(-0.6, 0.6, 9)
    return [(other_scene(*size, seed, at=float(a)) * gain).astype(np.float32) for a in at]


def barred(pictures, share: float, *, upright: bool, seed: int, kind: str) -> list[np.ndarray]:
    """Bars of a share of the width or height at both sides."""
    draw = np.random.default_rng(seed)
    made = []
    for picture in pictures:
        height, width = picture.shape[:2]
        x, y = (round(share * width), 0) if upright else (0, round(share * height))
        inside = picture[y : height - y, x : width - x]
        about = np.zeros_like(picture)
        if kind == "noisy":
            about = (0.02 + draw.normal(0, 0.006, picture.shape)).astype(np.float32)
        if kind == "copy":
            grown = max(width / inside.shape[1], height / inside.shape[0])
            wide, tall = (
                max(n, round(m * grown)) for n, m in ((width, inside.shape[1]), (height, inside.shape[0]))
            )
            large = cv2.resize(inside, (wide, tall))[(tall - height) // 2 :, (wide - width) // 2 :]
            about = 0.7 * cv2.GaussianBlur(large[:height, :width], (0, 0), 0.04 * width)
        about[y : height - y, x : width - x] = inside
        made.append(about.astype(np.float32))
    return made


def written(pictures) -> list[np.ndarray]:
    ink = np.zeros(pictures[0].shape[:2], np.uint8)
    cv2.putText(ink, "H 31.2 m", (30, 160), cv2.FONT_HERSHEY_SIMPLEX, 0.7, 255, 2)
    share = ink.astype(np.float32)[..., None] / 255
    return [p + share * (1 - p) for p in pictures]


# --- found --------------------------------------------------------------------------------------------


@pytest.mark.parametrize("kind", ["black", "noisy", "copy"])
@pytest.mark.parametrize("upright", [True, False])
def test_given_bars_of_any_size_when_looked_for_then_what_is_picture_is_left(kind, upright, fresh_seed):
    draw = np.random.default_rng(fresh_seed)
    share = float(draw.uniform(0.05, 0.3))
    pictures = barred(
        moving(fresh_seed, gain=draw.choice([1.0, 0.4])), share, upright=upright, seed=fresh_seed, kind=kind
    )

    found = area_of(pictures).surround

    sides = (found.left, found.right) if upright else (found.top, found.bottom)
    assert found.kind == ("copy" if kind == "copy" else "black")
    assert sides == pytest.approx((share, share), abs=0.012)


@pytest.mark.parametrize("gain", [1.0, 0.5, 0.15])
def test_given_a_plain_clip_when_looked_at_then_all_of_it_is_picture(gain, fresh_seed):
    assert area_of(moving(fresh_seed, gain)).is_whole


def test_given_writing_over_a_moving_picture_when_looked_for_then_it_is_boxed(fresh_seed):
    plain = moving(fresh_seed)
    pictures = written(plain)
    strokes = np.any(np.abs(pictures[0] - plain[0]) > 0.1, axis=-1)

    mask = area_of(pictures).mask(*SIZE)

    assert mask is not None
    assert (~mask[strokes]).mean() > 0.9  # of the letters are left out
    assert (~mask).mean() < 0.15


def test_given_a_camera_that_stands_when_looked_at_then_nothing_is_taken_for_writing(fresh_seed):
    pictures = [other_scene(*SIZE, fresh_seed)] * 9

    assert not area_of(written(pictures)).laid_over


@pytest.mark.parametrize("size", [(1, 1), (2, 90), (90, 2), (17, 31), (64, 64), (65, 97)])
@pytest.mark.parametrize("moments", [1, 2, 9])
def test_given_pictures_of_any_size_when_looked_at_then_something_of_them_is_picture(
    size, moments, fresh_seed
):
    pictures = moving(fresh_seed, size=size)[:moments]

    for made in (pictures, [p * 0 for p in pictures], [p * 0 + 1 for p in pictures]):
        mask = area_of(made).mask(*size)
        assert mask is None or mask.any()


def test_given_an_area_when_kept_then_it_comes_back():
    area = PictureArea(
        surround=Surround(kind="black", top=0.1, bottom=0.1), laid_over=((0.1, 0.8, 0.3, 0.9),)
    )

    assert PictureArea.from_json(area.as_json()) == area
    assert PictureArea.from_json({}) == PictureArea()


# --- left out -----------------------------------------------------------------------------------------


def test_given_bars_when_filled_then_the_picture_reads_as_it_does_alone(fresh_seed):
    alone = moving(fresh_seed)
    surround = Surround(kind="black", left=0.25, right=0.25)
    inside = surround.window(*SIZE)
    about = [np.zeros_like(p) for p in alone]
    for made, picture in zip(about, alone, strict=True):
        made[:, inside[0] : inside[2]] = picture[:, inside[0] : inside[2]]
    counted = Counted(area=PictureArea(surround=surround))

    shares = np.linspace(0, 1, 200)
    read, wanted = (
        np.quantile(np.concatenate([p.reshape(-1, 3) for p in pictures]), shares, axis=0)
        for pictures in ([counted.picture(p) for p in about], [p[:, inside[0] : inside[2]] for p in alone])
    )

    assert np.abs(read - wanted).mean() < 0.01


@given(x=st.floats(0, 1), y=st.floats(0, 1), reach=st.floats(0.02, 0.6))
def test_given_a_part_left_out_when_filled_then_it_holds_nothing_of_what_was_there(x, y, reach):
    picture = np.full((90, 160, 3), 0.4, np.float32)
    region = Region(shape=Ellipse(wide=reach, tall=reach), feather=0.01, moments=((0.0, x, y, 1.0, 0.0),))
    counted = Counted(left_out=(region,))
    mask = counted.mask(160, 90)
    if mask is None:  # all of it, or nothing of it, would be left out
        return
    picture[~mask] = 1.0

    assert np.allclose(counted.picture(picture), 0.4, atol=0.01)
    assert np.allclose(counted.pixels(picture), 0.4)


def test_given_no_pixels_to_go_by_when_everything_is_left_out_then_all_counts():
    everything = Region(shape=Ellipse(wide=4, tall=4), feather=0.01)

    assert Counted(left_out=(everything,)).mask(160, 90) is None


def test_given_nothing_to_leave_out_when_filled_then_it_is_the_same_picture():
    picture = moving(3)[0]

    assert filled(picture, None) is picture and Counted().picture(picture) is picture


# --- kept black ---------------------------------------------------------------------------------------


def test_given_black_bars_when_graded_then_they_stay_black_and_the_picture_does_not(fresh_seed):
    surround = Surround(kind="black", top=0.12, bottom=0.12)
    (picture,) = barred([other_scene(*SIZE, fresh_seed)], 0.12, upright=False, seed=fresh_seed, kind="noisy")
    grade = Grade.of(edges_about(surround), Exposure(stops=2.0), Saturation(amount=40))

    out = evaluate(grade, picture)

    top = round(0.12 * SIZE[1])
    assert np.abs(out[: top - 2]).max() < 1e-3
    assert out[top + 2 : -top - 2].mean() > picture[top + 2 : -top - 2].mean() + 0.1


def test_given_bars_alone_when_nothing_is_graded_then_nothing_is_at_work():
    assert not Grade.of(edges_about(Surround(kind="black", left=0.2, right=0.2))).at_work
    assert not edges_about(Surround(kind="copy", left=0.2, right=0.2)).at_work

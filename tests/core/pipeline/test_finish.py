"""What lens, film and delivery add: the same in still and render, at any size, only where it should be."""

from dataclasses import replace

import numpy as np
import pytest

from morphe.core.errors import ColourError
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer, Scope
from morphe.core.grade.moments import Moments
from morphe.core.grade.steps import (
    Bars,
    Crop,
    EdgeBlur,
    Exposure,
    Fade,
    Flare,
    Fringe,
    Glow,
    Grain,
    Halation,
    HueTurn,
    Sharpen,
    Soften,
    Title,
    Vignette,
)
from morphe.core.measure.skin import skin_of_pixels
from morphe.core.pipeline.reference import evaluate
from morphe.core.pipeline.screen import graded_still
from tests.core.pipeline.test_executors import CODE, HEIGHT, WIDTH, picture, through_planes

EFFECTS = {
    "glow": Glow(amount=25), "halation": Halation(amount=20), "flare": Flare(amount=30, x=20, y=30),
    "vignette": Vignette(amount=30), "soften": Soften(amount=40), "edge-blur": EdgeBlur(amount=6),
    "fringe": Fringe(amount=1.5), "sharpen": Sharpen(amount=3), "bars": Bars(ratio=2.35),
    "crop": Crop(ratio=1.0), "title": Title(text="Marsh at dawn", size=120),
}  # fmt: skip


def finished(*steps, strength=1.0):
    return Grade.of(Exposure(stops=0.1)).with_layer(
        Layer(id="finish", scope=Scope.FINISH, steps=steps, strength=strength)
    )


def lit_picture():
    """A dim picture (H, W, 3) with a small lamp."""
    encoded = 0.4 * picture()
    encoded[30:42, 60:72] = 1.0
    return encoded


def grey(level, height=108, width=192):
    return np.full((height, width, 3), level, np.float32)


@pytest.mark.parametrize("step", EFFECTS.values(), ids=EFFECTS)
def test_given_an_effect_when_rendered_or_shown_then_both_are_the_reference(step):
    encoded, grade = lit_picture(), finished(step, strength=0.8)

    wanted = np.clip(evaluate(grade, encoded, time_s=1.0), 0, 1)

    for found in (graded_still(encoded, grade, 1.0), np.clip(through_planes(grade, encoded, 1.0), 0, 1)):
        assert np.abs(found - wanted).mean() < 1.5 * CODE


@pytest.mark.parametrize("step", EFFECTS.values(), ids=EFFECTS)
def test_given_two_sizes_when_an_effect_works_then_they_look_the_same(step):
    small = lit_picture()
    large = small.repeat(4, axis=0).repeat(4, axis=1)

    one, other = (evaluate(finished(step), p, time_s=1.0) for p in (small, large))

    reduced = other.reshape(HEIGHT, 4, WIDTH, 4, 3).mean(axis=(1, 3))
    assert np.abs(one - reduced).mean() < 3 * CODE


@pytest.mark.parametrize("step", EFFECTS.values(), ids=EFFECTS)
def test_given_an_effect_at_rest_when_evaluated_then_the_picture_is_handed_on(step):
    encoded = picture()
    rest = Title() if isinstance(step, Title) else type(step)()

    assert (
        evaluate(Grade().with_layer(Layer(id="finish", scope=Scope.FINISH, steps=(rest,))), encoded)
        is encoded
    )


def test_given_a_lamp_when_light_spreads_then_only_around_it_and_the_lamp_stays_white():
    encoded = lit_picture()

    glow, halo = (evaluate(finished(s), encoded) - evaluate(finished(), encoded) for s in (
        Glow(amount=40), Halation(amount=40)))  # fmt: skip

    near, far = (slice(26, 46), slice(56, 76)), (slice(80, 108), slice(130, 190))
    for spread in (glow, halo):
        assert spread[near].max() > 5 * CODE > 100 * np.abs(spread[far]).max()
        assert spread[33:39, 63:69].max() < CODE and spread.min() > -1e-4
    assert halo[near].reshape(-1, 3).mean(axis=0).argmax() == 0
    assert halo[near][..., 0].mean() > 2 * halo[near][..., 2].mean()


def test_given_a_flare_when_its_light_moves_then_the_shine_goes_along():
    moving = Flare(amount=50, x=Moments(((0.0, 20.0), (2.0, 80.0))), y=50)

    peaks = [evaluate(finished(moving), grey(0.1), time_s=t)[54, :, 0].argmax() / 192 for t in (0.0, 2.0)]

    assert peaks == pytest.approx([0.2, 0.8], abs=0.01)


@pytest.mark.parametrize("level", [0.05, 0.5, 0.95])
def test_given_grain_when_laid_on_grey_then_its_spread_is_that_of_the_formula_and_its_mean_nothing(level):
    frames = [through_planes(finished(Grain(amount=3)), grey(level, 216, 384), 0.0, frame=n) for n in (0, 1)]

    luma = [f.mean(axis=-1) for f in frames]
    here = float(np.mean(evaluate(finished(), grey(level))))
    wanted = 0.03 * np.sqrt(4 * here * (1 - here)) * (0.6 + 0.4 * (1 - here))
    assert luma[0].std() == pytest.approx(wanted, rel=0.08, abs=0.3 * CODE)
    assert abs(luma[0].mean() - here) < 0.4 * CODE
    assert abs(np.corrcoef(luma[0].ravel(), luma[1].ravel())[0, 1]) < 0.05  # each frame has its own


def test_given_coloured_grain_when_laid_then_neutrals_scatter_but_stay_neutral_on_average():
    found = evaluate(finished(Grain(amount=3, colour=30)), grey(0.5))

    spread = (found - found.mean(axis=-1, keepdims=True)).std()
    assert spread > CODE
    assert np.ptp(found.reshape(-1, 3).mean(axis=0)) < CODE


def test_given_a_subject_when_the_edges_blur_then_it_stays_as_it_is():
    encoded = np.random.default_rng(2).random((108, 192, 3)).astype(np.float32)
    before = evaluate(finished(), encoded)

    found = evaluate(finished(EdgeBlur(amount=8, x=25, y=50, reach=20)), encoded)

    assert np.abs(found - before)[44:64, 38:58].max() < 1e-4
    assert found[:, 150:].std() < 0.5 * before[:, 150:].std()


@pytest.mark.parametrize(
    ("size", "ratio", "kept"),
    [
        ((3840, 2160), 1.85, 2072),
        ((3840, 2160), 2.0, 1920),
        ((3840, 2160), 2.35, 1632),
        ((1920, 1080), 2.39, 800),
    ],
)
def test_given_bars_when_measured_then_they_are_even_and_of_one_height(size, ratio, kept):
    left, top, right, bottom = Bars(ratio=ratio).window(*size)

    assert (left, right, bottom - top) == (0, size[0], kept)
    assert top == size[1] - bottom and top % 2 == 0


@pytest.mark.parametrize(("ratio", "width"), [(9 / 16, 606), (1.0, 1080), (4 / 5, 864)])
def test_given_a_crop_when_placed_then_it_keeps_its_size_and_reaches_both_ends(ratio, width):
    windows = [Crop(ratio=ratio, place=p).window(1920, 1080) for p in (-100, 0, 100)]

    assert {right - left for left, _, right, _ in windows} == {width}
    assert windows[0][0] == 0 and windows[2][2] == 1920
    assert all(edge % 2 == 0 for w in windows for edge in w)


def test_given_a_title_when_time_goes_on_then_it_comes_stays_inside_its_margins_and_goes():
    title = Title(text="Marsh at dawn\nVolunteer day", size=100, margin=10, start=1, end=3)
    bare = evaluate(finished(), grey(0.2))

    shares = [np.abs(evaluate(finished(title), grey(0.2), time_s=t) - bare).mean() for t in (0, 1.2, 2, 3.2)]
    drawn = evaluate(finished(title), grey(0.2), time_s=2.0)[..., 0] > 0.5

    assert shares[0] == 0 == shares[3] and 0 < shares[1] < shares[2]
    rows, columns = np.flatnonzero(drawn.any(axis=1)), np.flatnonzero(drawn.any(axis=0))
    assert rows[0] >= 10 and rows[-1] < 108 - 10 and columns[0] >= 10 and columns[-1] < 192 - 10


def test_given_bars_when_a_title_stands_in_their_shape_then_it_keeps_off_them():
    bars = Bars(ratio=2.35)
    title = Title(text="Low tide", size=80, margin=8, ratio=bars.ratio)
    bare = evaluate(finished(bars), grey(0.2))

    rows = np.flatnonzero(
        (evaluate(finished(bars, title), grey(0.2), time_s=1.0) - bare > 0.2).any(axis=(1, 2))
    )

    _, top, _, bottom = bars.window(WIDTH, HEIGHT)
    assert top < rows[0] and rows[-1] < bottom


@pytest.mark.parametrize(
    "wrong", [{"text": "x" * 121}, {"text": "a\nb\nc"}, {"manner": "loud"}, {"spot": "there"}, {"size": 500}]
)
def test_given_a_title_that_cannot_be_drawn_when_made_then_it_is_refused(wrong):
    with pytest.raises(ColourError):
        Title(**{"text": "Marsh", **wrong})


def test_given_what_covers_the_picture_when_it_is_read_then_it_is_left_out():
    grade = finished(Glow(amount=10), Bars(ratio=2.35), Title(text="Marsh"))

    assert [s.key for s in grade.uncovered.layer("finish").steps] == ["glow"]
    bare = grade.uncovered
    assert bare.uncovered is bare
    assert finished(Crop(ratio=1.0)).crop == Crop(ratio=1.0)
    off = replace(finished(Crop(ratio=1.0)).layer("finish"), on=False)
    assert finished().with_layer(off).crop is None


def test_given_a_turn_of_the_whole_when_applied_then_greys_stay_and_skin_moves_far_less():
    skin = np.array([[0.78, 0.58, 0.48]], np.float32)
    sky = np.array([[0.45, 0.6, 0.8]], np.float32)
    turned = [evaluate(Grade.of(HueTurn(turn=20)), p) for p in (skin, sky)]

    assert np.abs(evaluate(Grade.of(HueTurn(turn=20)), grey(0.4)) - 0.4).max() < 1e-3
    moved = abs(skin_of_pixels(turned[0]).off_deg - skin_of_pixels(skin).off_deg)
    assert moved < 8 and np.abs(turned[1] - sky).max() > 0.03


def test_given_soft_ends_when_applied_then_the_ramp_still_rises_and_eases_at_both():
    ramp = np.linspace(0, 1, 101, dtype=np.float32)[:, None].repeat(3, 1)

    levels = evaluate(Grade.of(Fade(soft=60)), ramp)[:, 0]

    steps = np.diff(levels)
    assert (steps > 0).all() and steps[0] < 0.6 * steps[50] > steps[-1]
    assert levels[[0, 50, 100]] == pytest.approx([0, 0.5, 1], abs=1e-5)

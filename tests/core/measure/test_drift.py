"""Light that wanders: found with when and how much, undone in preview and render alike; flicker."""

import numpy as np
import pytest

from morphe.core.advise.findings import follow_light
from morphe.core.errors import ColourError
from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frames_at
from morphe.core.grade import recipe
from morphe.core.grade.convert import Convert
from morphe.core.grade.even_out import EvenOut
from morphe.core.grade.grade import Grade
from morphe.core.grade.steps import Contrast
from morphe.core.handover.delivery import Delivery
from morphe.core.handover.render import render
from morphe.core.measure.drift import STOPS_PER_MIRED, Drift, OverTime, drift_through, find_drift, flicker_of
from morphe.core.measure.readings import luma_of
from morphe.core.pipeline.reference import evaluate
from morphe.core.signal.light import light_rgb
from morphe.core.signal.profiles import PROFILES
from morphe.core.signal.transfer import decode_bt709
from morphe.core.standins.cameras import Exposure
from morphe.core.standins.drift import wandering_clip

STOPS, MIRED = 1.0, 60.0
LEFT_STOPS, LEFT_MIRED = 0.2, 6.0
MILD = ("log-mild", 8)


def drift_of(path, key):
    over_time = follow_light(probe(path))
    return over_time, drift_through(over_time, Convert(profile=key).apply, PROFILES.get(key).clip)


@pytest.fixture(scope="module", params=[MILD, ("log-wide", 10)], ids=["mild-8", "wide-10"])
def wandering(request, tmp_path_factory):
    key, bits = request.param
    codec = "libx264" if bits == 8 else "libx265"
    exposure = Exposure(profile=key, bit_depth=bits, codec=codec)
    path, truth = wandering_clip(
        tmp_path_factory.mktemp("drift") / "wander.mp4",
        exposure,
        stops=STOPS,
        mired=MIRED,
        seconds=6,
        width=320,
    )
    return key, path, truth, *drift_of(path, key)


def test_given_light_that_wanders_when_followed_then_it_is_found_and_hardly_any_is_left(wandering):
    _, _, truth, over_time, drift = wandering
    stops, mired = (np.interp(over_time.times_s, truth[:, 0], truth[:, c]) for c in (1, 2))

    assert drift.range_stops == pytest.approx(2 * STOPS, rel=0.12)
    assert np.ptp(stops - drift.stops) < LEFT_STOPS
    # What is left between red and blue, as mired of the light that wandered.
    red_blue = np.array([np.log2(light_rgb(m, 0.0)[0] / light_rgb(m, 0.0)[2]) for m in mired])
    left = (red_blue - (drift.mired * STOPS_PER_MIRED)) / STOPS_PER_MIRED
    assert np.ptp(left) < LEFT_MIRED


def test_given_light_that_wanders_when_told_then_when_and_how_much_are_named(wandering):
    drift = wandering[-1]

    said = " ".join(drift.sentences)
    assert "stops darker" in said and "mired warmer" in said
    darker = next(f for f in drift.findings if f.stops < 0)
    assert (darker.start_s, darker.end_s) == pytest.approx((1.5, 4.5), abs=0.5)


@pytest.mark.parametrize("wandering", [MILD], indirect=True, ids=["mild-8"])
def test_given_a_counter_correction_when_rendered_then_every_moment_equals_its_preview(wandering, tmp_path):
    key, path, _, _, drift = wandering
    even = EvenOut(amount=100, track=drift.track, ceiling=PROFILES.get(key).clip)
    grade = Grade.of(Convert(profile=key), even, Contrast(amount=10))
    info, times = probe(path), [0.4, 1.5, 3.0, 4.5, 5.6]

    render(info, grade, tmp_path / "out.mp4", Delivery.of("fine"))

    before = [p.encoded() for _, p in frames_at(info, times)]
    after = [np.clip(p.encoded(), 0, 1) for _, p in frames_at(probe(tmp_path / "out.mp4"), times)]
    shown = [np.clip(evaluate(grade.at(t), b), 0, 1) for t, b in zip(times, before, strict=True)]
    assert max(float(np.abs(a - s).mean()) for a, s in zip(after, shown, strict=True)) < 2 / 255
    plain = [evaluate(Grade.of(Convert(profile=key)), b) for b in before]
    wander, left = (np.ptp([float(np.median(luma_of(f))) for f in frames]) for frames in (plain, after))
    assert left < 0.4 * wander


def test_given_steady_light_and_a_moving_camera_when_followed_then_nothing_is_claimed(tmp_path):
    path, _ = wandering_clip(
        tmp_path / "pan.mp4", Exposure(profile="log-mild"), stops=0, mired=0, seconds=4, width=320
    )

    drift = drift_of(path, "log-mild")[1]

    assert not drift.wanders and drift.findings == ()


def test_given_half_the_amount_when_held_at_a_moment_then_half_of_it_is_undone():
    track = ((0.0, -0.5, -0.5, -0.5), (2.0, 0.5, 0.5, 0.5))
    grey = np.full((1, 3), 0.4, np.float32)

    out = [evaluate(Grade.of(EvenOut(amount=a, track=track)).at(2.0), grey) for a in (0, 50, 100)]

    light = [float(PROFILES.get("std-709").decode(o)[0, 0]) for o in out]
    assert np.log2(np.array(light) / light[0]) == pytest.approx([0, -0.25, -0.5], abs=1e-3)


def test_given_clipped_light_when_darkened_then_it_follows_half_of_it():
    track = ((0.0, 0.0, 0.0, 0.0), (1.0, 1.0, 1.0, 1.0))

    out = evaluate(
        Grade.of(EvenOut(amount=100, track=track)).at(1.0), np.array([[1, 1, 1], [0.3, 0.3, 0.3]], np.float32)
    )

    assert decode_bt709(out[0]) == pytest.approx([0.75, 0.75, 0.75], abs=1e-3)
    assert out[1, 0] < 0.25


def test_given_a_track_when_evaluated_then_each_moment_is_undone_and_its_recipe_returns():
    grade = Grade.of(EvenOut(amount=80, track=((0.0, 0.1, 0.0, 0.0), (1.0, 0.2, 0.1, 0.0))))
    picture = np.full((2, 2, 3), 0.5, np.float32)

    assert evaluate(grade, picture, time_s=1.0)[0, 0, 0] < evaluate(grade, picture)[0, 0, 0] < 0.5
    assert grade.moves and not grade.at(0.5).moves
    assert recipe.from_text(recipe.to_text(grade)) == grade


@pytest.mark.parametrize("track", [((0.0, 1.0),), ((1.0, 0.0, 0.0, 0.0), (0.5, 0.0, 0.0, 0.0)), (3.0,),
                                   ((0.0, float("nan"), 0.0, 0.0),)])  # fmt: skip
def test_given_a_track_that_cannot_be_when_made_then_it_is_refused_in_words(track):
    with pytest.raises(ColourError, match="track of light"):
        EvenOut(amount=50, track=track)


def test_given_mains_flicker_when_looked_for_then_its_strength_and_beat_are_found():
    times = np.arange(100) / 25
    luminance = 0.2 * 2 ** (0.1 * np.sin(2 * np.pi * 5 * times) + 0.3 * times / 4)

    stops, hertz = flicker_of(times, luminance)

    assert (stops, hertz) == pytest.approx((0.1, 5.0), rel=0.2)
    assert flicker_of(times, 0.2 * 2 ** (0.3 * times / 4)) == (0.0, 0.0)
    assert flicker_of(times[:5], luminance[:5]) == (0.0, 0.0)


def test_given_too_few_samples_when_followed_then_there_is_no_track():
    few = OverTime(
        times_s=np.zeros(1), pairs=np.zeros((0, 1, 2, 3)), frame_times_s=np.zeros(1), frame_luma=np.zeros(1)
    )
    assert find_drift(few, lambda codes: codes, 1.0) == Drift()
    assert Drift().range_stops == 0 and Drift().sentences == ()


@pytest.mark.parametrize("rate", [12, 15, 20, 24, 25, 240])
@pytest.mark.parametrize("kind", [np.float32, np.float64])
def test_given_any_rate_and_precision_when_flicker_is_looked_for_then_there_is_an_answer(rate, kind):
    times = np.arange(3 * rate) / rate
    luminance = (0.2 * 2 ** (0.1 * np.sin(2 * np.pi * 2 * times))).astype(kind)

    assert flicker_of(list(times), list(luminance)) == pytest.approx((0.1, 2.0), rel=0.35)

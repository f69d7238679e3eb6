"""Times of files: an even rate from any times, and timecode that goes on by the standard's rules."""

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphe.core.handover.delivery import Delivery
from morphe.core.handover.rhythm import Rhythm, rhythm_cost, usual_rate
from morphe.core.handover.timecode import later

RATES = [Fraction(24), Fraction(25), Fraction(30000, 1001), Fraction(60)]


def laid(times, fps, end):
    """(frame, tick) of frames at these times, shown until an end."""
    rhythm = Rhythm(fps)
    found = [pair for frame, time in enumerate(times) for pair in rhythm.push(frame, time)]
    return [*found, *rhythm.flush(end)]


@given(
    steps=st.lists(st.floats(0.005, 0.3), min_size=2, max_size=40), fps=st.sampled_from(RATES),
)  # fmt: skip
def test_given_frames_at_any_times_when_laid_then_every_tick_has_the_frame_that_is_shown_then(steps, fps):
    times = [0.0]
    for step in steps:
        times.append(round(times[-1] + step, 4))
    found = laid(times, fps, times[-1] + 0.2)

    assert [tick for _, tick in found] == list(range(len(found)))
    for frame, tick in found:
        shown = float(tick / fps)
        assert times[frame] <= shown + 2e-3
        assert frame + 1 == len(times) or shown < times[frame + 1] + 1e-3


@given(cut=st.integers(1, 39), fps=st.sampled_from(RATES))
def test_given_a_clip_when_cut_anywhere_then_both_pieces_are_laid_as_the_whole(cut, fps):
    times = [n / 29.97 for n in range(40)]
    whole = laid(times, fps, 40 / 29.97)

    first = laid(times[:cut], fps, times[cut])
    second = [(frame + cut, tick) for frame, tick in laid(times[cut:], fps, 40 / 29.97)]
    assert first + second == whole


@pytest.mark.parametrize(
    ("own", "wanted", "words"),
    [
        (25, 25, ""),
        (29.97, 29.97, ""),
        (50, 25, "every second one is kept"),
        (100, 25, "one of 4 is kept"),
        (25, 50, "each is shown 2 times"),
        (30, 25, "one in 6.0 is left out"),
        (25, 30, "one in 5.0 is shown twice"),
    ],
)
def test_given_another_rate_when_wanted_then_its_cost_is_said(own, wanted, words):
    said = rhythm_cost(own, wanted)

    assert words in said and bool(said) == bool(words)


@given(
    start=st.integers(0, 23 * 3600), one=st.integers(0, 5000), two=st.integers(0, 5000),
    rate=st.sampled_from([(24.0, ":"), (25.0, ":"), (29.97, ";"), (59.94, ";")]),
)  # fmt: skip
def test_given_a_timecode_when_it_goes_on_in_two_steps_then_it_is_as_in_one(start, one, two, rate):
    fps, mark = rate
    whole = later(f"{start // 3600:02}:10:00{mark}00", 0, fps)

    assert later(later(whole, one, fps), two, fps) == later(whole, one + two, fps)


@given(frames=st.integers(0, 60000), rate=st.sampled_from([(29.97, 2), (59.94, 4)]))
def test_given_dropped_numbers_when_a_minute_begins_then_they_are_never_used_but_each_tenth(frames, rate):
    fps, dropped = rate
    found = later("00:00:00;00", frames, fps)
    minute, second, frame = int(found[3:5]), int(found[6:8]), int(found[9:11])

    assert not (minute % 10 and second == 0 and frame < dropped)


def test_given_an_hour_of_dropped_numbers_when_passed_then_the_clock_shows_an_hour():
    assert later("00:00:00;00", 107892, 29.97) == "01:00:00;00"
    assert later("23:59:59:24", 1, 25) == "00:00:00:00"
    assert later("none at all", 10, 25) == "none at all"


@pytest.mark.parametrize(("measured", "meant"), [
    ("24036/100", "240"), ("1/2", "1"), ("2398/100", "24000/1001"), ("2997/100", "30000/1001"), ("18", "18"),
    ("900", "240"), ("25.1", "25"),
])  # fmt: skip
def test_given_a_measured_rate_when_a_usual_one_is_near_then_that_was_meant(measured, meant):
    rate = usual_rate(Fraction(measured))

    assert rate == Fraction(meant)
    assert Delivery(fps=rate).fps == rate

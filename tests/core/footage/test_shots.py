"""Where shots meet is found; what only looks like it is left whole; nothing is read across a cut."""

import random
from fractions import Fraction

import numpy as np
import pytest

from morphe.core.advise.findings import follow_light, look, look_within
from morphe.core.errors import MediaError
from morphe.core.footage.probe import probe
from morphe.core.footage.shots import Cut, Shot, Shots
from morphe.core.reading.clip import read_shots
from tests.footage import RATES, ClipSpec, other_scene, several_shots, write_clip

SIZE = (192, 108)


def written(path, pictures, frames, rate="25"):
    options = {"preset": "veryfast", "crf": "18"}
    spec = ClipSpec(size=SIZE, frames=frames, fps=Fraction(rate), options=options)
    return probe(write_clip(path / "clip.mp4", spec, pictures, lossless=False))


def shots_in(info):
    return follow_light(info).shots


def found_in(shots, rate):
    return [(cut.kind, round(cut.time_s * float(Fraction(rate)))) for cut in shots.cuts]


def test_given_shots_drawn_by_chance_when_followed_then_every_cut_is_found_on_its_frame(tmp_path, fresh_seed):
    draw = random.Random(fresh_seed)
    rate = draw.choice([r for r in RATES if float(Fraction(r)) <= 60])
    lengths = [
        draw.randint(max(6, round(0.4 * float(Fraction(rate)))), 70) for _ in range(draw.randint(2, 5))
    ]
    print(rate, lengths)

    info = written(tmp_path, several_shots(lengths, fresh_seed), sum(lengths), rate)

    edges = np.cumsum(lengths)[:-1]
    assert found_in(shots_in(info), rate) == [("cut", int(at)) for at in edges]


@pytest.mark.parametrize(
    "what", ["flash", "lightning", "inserted", "jump", "drift", "whip", "pan", "still", "mist"]
)
def test_given_one_shot_in_which_much_happens_when_followed_then_it_is_not_cut(tmp_path, fresh_seed, what):
    def picture(index):
        if what == "inserted" and index == 20:
            return other_scene(*SIZE, fresh_seed + 1)
        speed = {"whip": 0.0, "pan": 0.01, "still": 0.0}.get(what, 0.002)
        at = speed * index + (0.9 * min(max(index - 15, 0), 8) / 8 if what == "whip" else 0)
        blur = range(6) if what == "whip" and 15 <= index < 24 else (0,)
        shown = np.mean([other_scene(*SIZE, fresh_seed, at - 0.02 * b) for b in blur], axis=0)
        gain = {"flash": 3.0 if index in (20, 21) else 1.0, "jump": 1.0 if index < 20 else 0.5,
                "drift": 1 - 0.5 * index / 40}.get(what, 1.0)  # fmt: skip
        if what == "lightning":  # nothing but white, and at once another flash
            return np.clip(
                shown * 0.01 + 0.99 if index in (20, 21) else shown * (9 if 23 < index < 27 else 1), 0, 1
            )
        if what == "mist":  # that lifts, with light as bright as what it hid
            shown = 0.6 + (shown - shown.mean()) * np.clip(index / 30, 0.05, 1)
        return np.clip(shown * gain, 0, 1)

    shots = shots_in(written(tmp_path, picture, 42))

    assert shots.count == 1
    if what == "mist":
        assert not shots.blind
    if what == "inserted":
        assert len(shots.blind) == 1 and shots.blind[0] == pytest.approx((0.8, 0.84), abs=0.03)


def test_given_a_dissolve_and_a_fade_through_black_when_followed_then_what_lies_in_them_serves_nothing(
    tmp_path, fresh_seed
):
    def picture(index):
        one, two, three = (other_scene(*SIZE, fresh_seed + n, 0.001 * index) for n in range(3))
        if index < 60:
            share = np.clip((index - 20) / 15, 0, 1)
            return (1 - share) * one + share * two
        return two * np.clip((75 - index) / 12, 0, 1) + three * np.clip((index - 80) / 12, 0, 1)

    shots = shots_in(written(tmp_path, picture, 125))

    assert [cut.kind for cut in shots.cuts] == ["dissolve", "fade"]
    inside = np.array([22, 25, 28, 66, 70, 77, 84, 88]) / 25
    outside = np.array([3, 8, 50, 55, 100, 120]) / 25  # a window may reach a little beyond
    assert not shots.whole.serves(inside).any()
    assert shots.whole.serves(outside).all()


def test_given_a_fade_in_and_a_covered_lens_when_read_then_no_judging_frame_lies_there(tmp_path, fresh_seed):
    def picture(index):
        covered = 50 <= index < 70
        return other_scene(*SIZE, fresh_seed, 0.001 * index) * (0 if covered else min(index / 20, 1))

    info = written(tmp_path, picture, 110)

    found = look(info.path, over_time=True)

    assert found.over_time.shots.count == 1
    times = np.array([f.time_s for f in found.frames]) * 25
    assert ((times >= 19) & ((times < 50) | (times >= 70))).all()


def test_given_shots_in_different_light_when_corrected_then_each_is_judged_alone_and_nothing_is_evened_out(
    tmp_path, fresh_seed
):
    lengths, gains = [40, 40, 40], [1.0, 0.25, 0.9]
    info = written(tmp_path, several_shots(lengths, fresh_seed, gains), 120)

    reports = read_shots(info.path)
    whole = look(info.path, over_time=True)

    assert [r.info.worked_on.begin_s for r in reports] == pytest.approx([0, 1.6, 3.2])
    for report in reports:
        shot = report.info.worked_on
        assert all(shot.begin_s <= f.time_s < shot.end_s for f in report.findings.frames)
        assert not report.advice.drift.wanders
    alone = look_within(info, whole.over_time, whole.over_time.shots.each[1])
    assert alone.over_time.times_s.min() >= 1.6 - 1e-6 and alone.over_time.times_s.max() < 3.2


def test_given_cuts_set_by_hand_when_moved_added_and_taken_away_then_the_rest_stays():
    shots = Shots(duration_s=10.0, cuts=(Cut(time_s=3.0), Cut(time_s=6.0, kind="dissolve", span=(5.8, 6.2))))

    more = shots.with_cut(8.0)
    assert [c.time_s for c in more.cuts] == [3.0, 6.0, 8.0] and more.without_cut(2) == shots
    moved = shots.moved(1, 6.5)
    assert [c.time_s for c in moved.cuts] == [3.0, 6.5] and moved.whole.blind == ()
    assert Shots.from_json(shots.as_json()) == shots
    for wrong in (0.0, 3.05, 9.99, 20.0):
        with pytest.raises(MediaError, match="at least"):
            shots.with_cut(wrong)


def test_given_blind_parts_when_moments_are_spread_then_they_lie_evenly_in_what_is_left():
    shot = Shot(begin_s=2.0, end_s=12.0, blind=((2.0, 4.0), (6.0, 10.0)))

    times = shot.spread(9, 0.3, 0.04)

    assert shot.usable == ((4.0, 6.0), (10.0, 12.0))
    assert shot.serves(np.array(times)).all() and times == sorted(times)
    assert np.ptp(np.diff([t if t < 7 else t - 4 for t in times])) < 1e-9
    assert Shot(begin_s=0.0, end_s=1.0, blind=((0.0, 1.0),)).usable == ((0.0, 1.0),)
